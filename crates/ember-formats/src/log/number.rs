//! Numbers in the cells of a log, read fast: a log holds millions of them.

/// Powers of ten that a float holds exactly: with a mantissa below 2^53 one division is rounded correctly (Clinger,
/// *How to Read Floating Point Numbers Accurately*, 1990).
const TENS: [f64; 23] = [
    1e0, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15, 1e16, 1e17, 1e18, 1e19, 1e20,
    1e21, 1e22,
];

/// What a cell holds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Cell {
    Number(f64),
    /// Nothing was taken: an empty cell, or one of the usual words for it.
    Missing,
    Text,
}

/// Reads a cell. A comma counts as a decimal sign: where it separates columns it cannot stand in a cell unless quoted.
#[inline]
pub fn cell(bytes: &[u8]) -> Cell {
    let bytes = bytes.trim_ascii();
    let Some(&first) = bytes.first() else { return Cell::Missing };
    let negative = first == b'-';
    let digits = if negative || first == b'+' { &bytes[1..] } else { bytes };
    let (mut mantissa, mut count, mut places) = (0u64, 0usize, None::<usize>);
    for (index, &b) in digits.iter().enumerate() {
        match b {
            b'0'..=b'9' => {
                mantissa = mantissa.wrapping_mul(10).wrapping_add(u64::from(b - b'0'));
                count += 1;
            }
            b'.' | b',' if places.is_none() => places = Some(digits.len() - index - 1),
            _ => return slow(bytes),
        }
    }
    if count == 0 || count > 15 {
        return slow(bytes);
    }
    let value = mantissa as f64 / TENS[places.unwrap_or(0)];
    Cell::Number(if negative { -value } else { value })
}

/// Reads the cell that begins at `at` and gives where it ends: at the separator, or at the end of the line. One pass over
/// the bytes for what nearly every cell is, a plain decimal number.
#[inline]
pub(crate) fn cell_at(line: &[u8], at: usize, separator: u8) -> (Cell, usize) {
    let negative = line.get(at) == Some(&b'-');
    let begin = at + usize::from(negative);
    let (mut mantissa, mut places, mut point, mut end) = (0u64, 0usize, false, begin);
    while let Some(&b) = line.get(end) {
        let digit = b.wrapping_sub(b'0');
        if digit < 10 {
            mantissa = mantissa.wrapping_mul(10).wrapping_add(u64::from(digit));
            places += usize::from(point);
        } else if b == separator {
            break;
        } else if (b == b'.' || b == b',') && !point {
            point = true;
        } else {
            return unusual(line, at, separator);
        }
        end += 1;
    }
    let count = end - begin - usize::from(point);
    if count == 0 || count > 15 {
        return unusual(line, at, separator);
    }
    let value = mantissa as f64 / TENS[places];
    (Cell::Number(if negative { -value } else { value }), end)
}

/// A cell that is no plain decimal number.
fn unusual(line: &[u8], at: usize, separator: u8) -> (Cell, usize) {
    let end = memchr::memchr(separator, &line[at..]).map_or(line.len(), |offset| at + offset);
    (cell(&line[at..end]), end)
}

#[cold]
fn slow(bytes: &[u8]) -> Cell {
    let Ok(text) = std::str::from_utf8(bytes) else { return Cell::Text };
    let lower = text.to_ascii_lowercase();
    if matches!(lower.as_str(), "nan" | "na" | "n/a" | "null" | "none" | "-" | "--" | "---" | "?" | "nil") {
        return Cell::Missing;
    }
    if matches!(lower.as_str(), "true" | "on" | "yes" | "closed" | "cl") {
        return Cell::Number(1.0);
    }
    if matches!(lower.as_str(), "false" | "off" | "no" | "open" | "ol") {
        return Cell::Number(0.0);
    }
    // A thin space or an apostrophe between thousands.
    let mut plain: String = lower.chars().filter(|c| !matches!(c, ' ' | '\u{a0}' | '\u{202f}' | '\'')).collect();
    if plain.matches(',').count() == 1 && !plain.contains('.') {
        plain = plain.replace(',', ".");
    }
    if !plain.starts_with(|c: char| c.is_ascii_digit() || matches!(c, '-' | '+' | '.')) {
        return Cell::Text;
    }
    match plain.parse::<f64>() {
        Ok(value) if value.is_finite() => Cell::Number(value),
        _ => Cell::Text,
    }
}

/// Seconds of the day in a cell with a clock time, with or without a date before it: `05:42:07.125`,
/// `2026-11-02T05:42:07Z`.
pub fn clock(bytes: &[u8]) -> Option<f64> {
    let text = std::str::from_utf8(bytes).ok()?.trim();
    let text = text.rsplit(['T', ' ']).next()?;
    let text = text.trim_end_matches('Z');
    // A zone's offset stays the same over a log and so does not matter.
    let text = text.split_once('+').map_or(text, |(head, _)| head);
    let mut parts = text.split(':');
    let hour: u32 = parts.next()?.trim().parse().ok()?;
    let minute: u32 = parts.next()?.parse().ok()?;
    let second: f64 = match parts.next() {
        Some(second) => second.replace(',', ".").parse().ok()?,
        None => 0.0,
    };
    if parts.next().is_some() || hour > 23 || minute > 59 || !(0.0..61.0).contains(&second) {
        return None;
    }
    Some(f64::from(hour * 3600 + minute * 60) + second)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("12.5", Cell::Number(12.5))]
    #[case(" -0,43 ", Cell::Number(-0.43))]
    #[case("1e3", Cell::Number(1000.0))]
    #[case("0.1", Cell::Number(0.1))]
    #[case("123456789012345.5", Cell::Number(123456789012345.5))]
    #[case("1 234,5", Cell::Number(1234.5))]
    #[case(".5", Cell::Number(0.5))]
    #[case("on", Cell::Number(1.0))]
    #[case("", Cell::Missing)]
    #[case("NaN", Cell::Missing)]
    #[case("--", Cell::Missing)]
    #[case("warm", Cell::Text)]
    #[case("1.2.3", Cell::Text)]
    #[case("1,234,567", Cell::Text)]
    #[case("inf", Cell::Text)]
    #[case("1e999", Cell::Text)]
    #[case(".", Cell::Text)]
    fn is_read(#[case] text: &str, #[case] expected: Cell) {
        assert_eq!(cell(text.as_bytes()), expected);
    }

    #[rstest]
    #[case("12.5,7", 0, Cell::Number(12.5), 4)]
    #[case("12.5,7", 5, Cell::Number(7.0), 6)]
    #[case("-0.25,", 0, Cell::Number(-0.25), 5)]
    #[case("-0.25,", 6, Cell::Missing, 6)]
    #[case(",,", 1, Cell::Missing, 1)]
    #[case("-,1", 0, Cell::Missing, 1)]
    #[case(".,1", 0, Cell::Text, 1)]
    #[case(" 8 ,1", 0, Cell::Number(8.0), 3)]
    #[case("1e2,1", 0, Cell::Number(100.0), 3)]
    #[case("1234567890123456789,1", 0, Cell::Number(1.234_567_890_123_456_8e18), 19)]
    fn a_cell_in_a_line_is_read(#[case] line: &str, #[case] at: usize, #[case] expected: Cell, #[case] end: usize) {
        assert_eq!(cell_at(line.as_bytes(), at, b','), (expected, end));
    }

    #[rstest]
    #[case("05:42:07.125", Some(20527.125))]
    #[case("2026-11-02T05:42:07Z", Some(20527.0))]
    #[case("02.11.2026 05:42:07,5", Some(20527.5))]
    #[case("5:42", Some(20520.0))]
    #[case("25:00:00", None)]
    #[case("1:2:3:4", None)]
    #[case("noon", None)]
    fn a_clock_is_read(#[case] text: &str, #[case] expected: Option<f64>) {
        assert_eq!(clock(text.as_bytes()), expected);
    }
}

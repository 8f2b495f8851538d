//! One frame as one line of text: `(1700000000.123456) can0 7E8#0641000C1AF80000`.

use super::Frame;

/// Why a line holds no frame.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LineFault {
    /// It does not begin with `(seconds)`.
    Time,
    /// No interface name, or no `#` after the identifier.
    Shape,
    /// The identifier is not 3 or 8 hexadecimal digits.
    Identifier,
    /// The data are not pairs of hexadecimal digits, or more than eight bytes.
    Data,
    /// A frame without data that asks for one, or one of the longer kind: neither carries diagnostics here.
    NotPlain,
}

impl LineFault {
    pub fn text(self) -> &'static str {
        match self {
            LineFault::Time => "does not begin with a time in brackets",
            LineFault::Shape => "has no identifier with # behind it",
            LineFault::Identifier => "has an identifier that is not 3 or 8 hexadecimal digits",
            LineFault::Data => "has data that are not up to eight pairs of hexadecimal digits",
            LineFault::NotPlain => "is a remote or a long frame, which carry no diagnostics here",
        }
    }
}

const NONE: u8 = 0xFF;

/// The value of every byte as a hexadecimal digit.
const DIGITS: [u8; 256] = {
    let mut table = [NONE; 256];
    let mut c = 0;
    while c < 256 {
        table[c] = match c as u8 {
            b'0'..=b'9' => c as u8 - b'0',
            b'a'..=b'f' => c as u8 - b'a' + 10,
            b'A'..=b'F' => c as u8 - b'A' + 10,
            _ => NONE,
        };
        c += 1;
    }
    table
};

/// Reads one line without its end. An empty line gives `Ok(None)`. What follows the data after a space (a direction
/// that some writers add) is passed over.
///
/// # Errors
/// What part of the line does not fit.
#[inline]
pub fn parse_line(line: &[u8]) -> Result<Option<Frame>, LineFault> {
    let line = line.trim_ascii();
    if line.is_empty() {
        return Ok(None);
    }
    let rest = line.strip_prefix(b"(").ok_or(LineFault::Time)?;
    let (time_s, rest) = time(rest)?;
    let rest = rest.trim_ascii_start();
    let gap = rest.iter().position(|&b| b == b' ' || b == b'\t').ok_or(LineFault::Shape)?;
    let rest = rest[gap..].trim_ascii_start();
    let (mut id, mut at) = (0u32, 0usize);
    while at < rest.len() && at < 9 {
        let digit = DIGITS[usize::from(rest[at])];
        if digit == NONE {
            break;
        }
        id = id << 4 | u32::from(digit);
        at += 1;
    }
    if rest.get(at) != Some(&b'#') {
        return Err(if at == 0 { LineFault::Identifier } else { LineFault::Shape });
    }
    let extended = match at {
        3 if id <= 0x7FF => false,
        8 if id <= 0x1FFF_FFFF => true,
        _ => return Err(LineFault::Identifier),
    };
    let body = &rest[at + 1..];
    if matches!(body.first(), Some(b'R' | b'r' | b'#')) {
        return Err(LineFault::NotPlain);
    }
    let mut data = [0u8; 8];
    let (mut length, mut at) = (0usize, 0usize);
    while at < body.len() {
        if matches!(body[at], b' ' | b'\t') {
            break;
        }
        if length == 8 || at + 1 >= body.len() {
            return Err(LineFault::Data);
        }
        let (high, low) = (DIGITS[usize::from(body[at])], DIGITS[usize::from(body[at + 1])]);
        if high == NONE || low == NONE {
            return Err(LineFault::Data);
        }
        data[length] = high << 4 | low;
        length += 1;
        at += 2;
        // Some writers put a point between the bytes.
        if body.get(at) == Some(&b'.') && at + 1 < body.len() {
            at += 1;
        }
    }
    Ok(Some(Frame { time_s, id, extended, length: length as u8, data }))
}

/// `1700000000.123456)`: the seconds, and what follows the bracket.
#[inline]
fn time(text: &[u8]) -> Result<(f64, &[u8]), LineFault> {
    let (mut whole, mut micro, mut scale) = (0u64, 0u64, 1u64);
    let (mut at, mut digits, mut point) = (0usize, 0usize, false);
    while let Some(&b) = text.get(at) {
        match b {
            b'0'..=b'9' if !point && digits < 15 => whole = whole * 10 + u64::from(b - b'0'),
            // Beyond nine places nothing is left to tell apart in a float of this size.
            b'0'..=b'9' if point => {
                if scale < 1_000_000_000 {
                    micro = micro * 10 + u64::from(b - b'0');
                    scale *= 10;
                }
            }
            b'.' if !point => {
                point = true;
                at += 1;
                continue;
            }
            b')' if digits > 0 => return Ok((whole as f64 + micro as f64 / scale as f64, &text[at + 1..])),
            _ => return Err(LineFault::Time),
        }
        digits += 1;
        at += 1;
    }
    Err(LineFault::Time)
}

/// A frame as a line, without its end.
pub fn write_line(frame: &Frame, interface: &str) -> String {
    use std::fmt::Write;
    let mut line = format!("({:.6}) {interface} ", frame.time_s);
    let _ = if frame.extended { write!(line, "{:08X}#", frame.id) } else { write!(line, "{:03X}#", frame.id) };
    for byte in frame.bytes() {
        let _ = write!(line, "{byte:02X}");
    }
    line
}

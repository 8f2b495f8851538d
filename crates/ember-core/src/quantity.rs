//! Quantities as people write them: `1.2k`, `0,43`, `47 lb in`, `OL`, `430 mmHg`, `52 310 mi`.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::refusal::Refusal;

/// What is asked for; it decides the unit of the answer and how a lone separator is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Dimension {
    /// A whole number of events or revolutions.
    Count,
    /// In kilometres.
    Distance,
    /// In minutes.
    Duration,
    /// In ohm; `OL` is an open circuit.
    Resistance,
    /// In kilopascal.
    Pressure,
    /// In newton metres.
    Torque,
    /// In volt; may be negative.
    Voltage,
    /// In ampere; may be negative.
    Current,
    /// In degrees Celsius.
    Temperature,
    /// In seconds.
    Time,
    /// In millimetres.
    Length,
    /// In percent.
    Percent,
    /// A plain number, of either sign: turns of a rod, teeth of a wheel.
    Number,
    /// An amount of money in the workshop's own currency.
    Money,
}

/// What was understood.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Quantity {
    /// In the dimension's unit; null for a meter's overload.
    pub value: Option<f64>,
    pub overload: bool,
    pub unit: String,
    /// As it should be shown beside the field: `84 186 km`.
    pub shown: String,
}

impl Dimension {
    fn unit(self) -> &'static str {
        match self {
            Dimension::Count | Dimension::Money => "",
            Dimension::Distance => "km",
            Dimension::Duration => "min",
            Dimension::Resistance => "ohm",
            Dimension::Pressure => "kPa",
            Dimension::Torque => "N·m",
            Dimension::Voltage => "V",
            Dimension::Current => "A",
            Dimension::Temperature => "°C",
            Dimension::Time => "s",
            Dimension::Length => "mm",
            Dimension::Percent => "%",
            Dimension::Number => "",
        }
    }

    /// Unit spellings, without spaces and points and in lower case, with their size in the dimension's unit. These
    /// are definitions of units, exact or rounded where the standards round them.
    fn units(self) -> &'static [(&'static str, f64)] {
        match self {
            Dimension::Count => &[("", 1.0), ("rev", 1.0), ("revs", 1.0), ("revolutions", 1.0)],
            Dimension::Money => &[("", 1.0)],
            Dimension::Distance => {
                &[("", 1.0), ("km", 1.0), ("m", 0.001), ("mi", 1.609344), ("mile", 1.609344), ("miles", 1.609344)]
            }
            Dimension::Duration => {
                &[("", 1.0), ("min", 1.0), ("minutes", 1.0), ("h", 60.0), ("hours", 60.0), ("s", 1.0 / 60.0)]
            }
            Dimension::Resistance => &[("", 1.0), ("ohm", 1.0), ("ohms", 1.0), ("ω", 1.0), ("r", 1.0)],
            Dimension::Pressure => &[
                ("", 1.0),
                ("kpa", 1.0),
                ("pa", 0.001),
                ("bar", 100.0),
                ("mbar", 0.1),
                ("hpa", 0.1),
                ("mmhg", 0.133322387415),
                ("inhg", 3.386388640341),
                ("psi", 6.894757293168),
            ],
            Dimension::Voltage => &[("", 1.0), ("v", 1.0), ("volt", 1.0), ("volts", 1.0), ("mv", 0.001)],
            Dimension::Current => &[("", 1.0), ("a", 1.0), ("amp", 1.0), ("amps", 1.0), ("ampere", 1.0), ("ma", 0.001)],
            // Fahrenheit has a zero of its own and is read before this table.
            Dimension::Temperature => &[("", 1.0), ("c", 1.0), ("°c", 1.0), ("deg", 1.0), ("°", 1.0)],
            Dimension::Time => &[("", 1.0), ("s", 1.0), ("sec", 1.0), ("ms", 0.001), ("min", 60.0), ("minutes", 60.0)],
            Dimension::Length => {
                &[("", 1.0), ("mm", 1.0), ("cm", 10.0), ("in", 25.4), ("inch", 25.4), ("thou", 0.0254)]
            }
            Dimension::Number => &[("", 1.0), ("turn", 1.0), ("turns", 1.0), ("tooth", 1.0), ("teeth", 1.0)],
            Dimension::Percent => &[("", 1.0), ("%", 1.0), ("pct", 1.0), ("percent", 1.0)],
            // Without a unit a torque is off by a third or by a factor of nine: it has to be said.
            Dimension::Torque => &[
                ("nm", 1.0),
                ("lbft", 1.355818),
                ("ftlb", 1.355818),
                ("lbin", 0.1129848),
                ("inlb", 0.1129848),
                ("kgfm", 9.80665),
                ("kgm", 9.80665),
            ],
        }
    }
}

/// Reads a quantity.
///
/// # Errors
/// Under the field `text`: nothing written, no number, an unknown unit, a negative or fractional count, a negative
/// distance or duration.
pub fn understand(text: &str, dimension: Dimension) -> Result<Quantity, Refusal> {
    let refuse = |reason: String| Refusal::new("text", reason);
    let trimmed = text.trim();
    if trimmed.is_empty() {
        return Err(refuse("nothing is written".into()));
    }
    let squeezed: String =
        trimmed.to_lowercase().chars().filter(|c| !c.is_whitespace() && *c != '_' && *c != '\'').collect();
    if dimension == Dimension::Resistance && matches!(squeezed.as_str(), "ol" | "o.l" | "o.l." | "inf" | "∞") {
        let shown = "over the range: open circuit".into();
        return Ok(Quantity { value: None, overload: true, unit: "ohm".into(), shown });
    }
    let end = squeezed.find(|c: char| !(c.is_ascii_digit() || ".,+-".contains(c))).unwrap_or(squeezed.len());
    let (digits, rest) = squeezed.split_at(end);
    let number =
        number(digits, dimension).ok_or_else(|| refuse(format!("{trimmed} is no number that can be read here")))?;
    let unit_text: String = rest.chars().filter(|c| !".-·".contains(*c)).collect();
    if dimension == Dimension::Temperature && matches!(unit_text.as_str(), "f" | "°f") {
        let value = (number - 32.0) / 1.8;
        let shown = format!("{} °C", grouped(value));
        return Ok(Quantity { value: Some(value), overload: false, unit: "°C".into(), shown });
    }
    let sizes = dimension.units();
    let exact = |unit: &str| sizes.iter().find(|(name, _)| *name == unit).map(|(_, size)| *size);
    let size = exact(&unit_text)
        .or_else(|| unit_text.strip_prefix('k').and_then(exact).map(|size| size * 1e3))
        .or_else(|| {
            (dimension == Dimension::Resistance).then(|| unit_text.strip_prefix('m').and_then(exact)).flatten().map(
                // A capital M is mega; a small one could be milli. Ask the text as it was written.
                |size| size * if trimmed.contains('M') { 1e6 } else { 1e-3 },
            )
        })
        .ok_or_else(|| {
            let known: Vec<&str> = sizes.iter().map(|(name, _)| *name).filter(|name| !name.is_empty()).collect();
            refuse(match known.as_slice() {
                known if rest.is_empty() => format!("has no unit: say which, of {}", known.join(", ")),
                [] => format!("{rest} is not understood: a plain number is wanted"),
                known => format!("{rest} is not a unit known here; known are {}", known.join(", ")),
            })
        })?;
    let value = number * size;
    match dimension {
        Dimension::Count if value < 0.0 => {
            return Err(refuse(format!("a count cannot be negative, and this is {value}")));
        }
        Dimension::Count if (value - value.round()).abs() > 1e-6 => {
            return Err(refuse(format!("a count is a whole number, and this is {value}")));
        }
        Dimension::Distance | Dimension::Duration | Dimension::Money | Dimension::Time | Dimension::Length
            if value < 0.0 =>
        {
            return Err(refuse(format!("cannot be negative, and this is {value}")));
        }
        _ => {}
    }
    let value = if dimension == Dimension::Count { value.round() } else { value };
    let unit = dimension.unit();
    let shown = format!("{} {unit}", grouped(value)).trim().to_owned();
    Ok(Quantity { value: Some(value), overload: false, unit: unit.into(), shown })
}

/// A number with points or commas. The last of two kinds is the decimal sign; one kind repeated groups thousands; one
/// alone before exactly three digits groups thousands in counts and distances (`84,186`) and is decimal elsewhere.
fn number(digits: &str, dimension: Dimension) -> Option<f64> {
    let separators: Vec<(usize, char)> = digits.char_indices().filter(|(_, c)| ".,".contains(*c)).collect();
    let decimal = match separators.as_slice() {
        [] => None,
        [(at, _)] => {
            let (before, after) = (&digits[..*at], &digits[at + 1..]);
            let groups = matches!(dimension, Dimension::Count | Dimension::Distance)
                && after.len() == 3
                && (1..=3).contains(&before.len())
                && before != "0";
            (!groups).then_some(*at)
        }
        list => {
            let (last_at, last) = list[list.len() - 1];
            if list.iter().all(|(_, c)| *c == last) { None } else { Some(last_at) }
        }
    };
    let plain: String = digits
        .char_indices()
        .filter_map(|(at, c)| match c {
            '.' | ',' => (Some(at) == decimal).then_some('.'),
            other => Some(other),
        })
        .collect();
    plain.parse::<f64>().ok().filter(|value| value.is_finite())
}

/// `84186.25` as `84 186.25`: at most two decimals above ten and four below, thousands apart by a thin gap.
pub(crate) fn grouped(value: f64) -> String {
    let decimals = if value.abs() >= 10.0 { 2 } else { 4 };
    let text = format!("{:.*}", decimals, value.abs());
    let (whole, fraction) = text.split_once('.').unwrap_or((&text, ""));
    let mut out = String::new();
    for (index, digit) in whole.chars().enumerate() {
        if index > 0 && (whole.len() - index).is_multiple_of(3) {
            out.push('\u{202f}');
        }
        out.push(digit);
    }
    let fraction = fraction.trim_end_matches('0');
    let sign = if value < 0.0 { "-" } else { "" };
    if fraction.is_empty() { format!("{sign}{out}") } else { format!("{sign}{out}.{fraction}") }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::kilo("1.2k", Dimension::Resistance, 1200.0)]
    #[case::decimal_comma("0,43", Dimension::Resistance, 0.43)]
    #[case::mega("2.2 Mohm", Dimension::Resistance, 2.2e6)]
    #[case::pound_inches("47 lb in", Dimension::Torque, 5.3102856)]
    #[case::pound_feet("35 lb·ft", Dimension::Torque, 47.45363)]
    #[case::mercury("430 mmHg", Dimension::Pressure, 57.32862658845)]
    #[case::miles("52 310 mi", Dimension::Distance, 84184.78464)]
    #[case::grouped_by_comma("84,186", Dimension::Distance, 84186.0)]
    #[case::grouped_by_point("84.186 km", Dimension::Distance, 84186.0)]
    #[case::tenths("84186,5", Dimension::Distance, 84186.5)]
    #[case::both_signs("1.234,5", Dimension::Money, 1234.5)]
    #[case::kilo_count("12k", Dimension::Count, 12_000.0)]
    #[case::millivolt("430 mV", Dimension::Voltage, 0.43)]
    #[case::below_ground("-0,2 V", Dimension::Voltage, -0.2)]
    #[case::fahrenheit("212 °F", Dimension::Temperature, 100.0)]
    #[case::milliseconds("2.6 ms", Dimension::Time, 0.0026)]
    #[case::thou("35 thou", Dimension::Length, 0.889)]
    #[case::share("12 %", Dimension::Percent, 12.0)]
    #[case::turns_back("-0,75 turns", Dimension::Number, -0.75)]
    #[case::teeth("+1", Dimension::Number, 1.0)]
    #[case::mercury("30 mmHg", Dimension::Pressure, 30.0 * 0.133322387415)]
    #[case::milliamperes("850 mA", Dimension::Current, 0.85)]
    #[case::minutes_as_seconds("2 min", Dimension::Time, 120.0)]
    #[case::hours("1.5 h", Dimension::Duration, 90.0)]
    fn is_understood(#[case] text: &str, #[case] dimension: Dimension, #[case] expected: f64) {
        let value = understand(text, dimension).unwrap().value.unwrap();
        assert!((value - expected).abs() <= 1e-9 * expected.abs(), "{text}: {value}");
    }

    #[rstest]
    #[case::letters("about ten", Dimension::Count)]
    #[case::nothing("  ", Dimension::Distance)]
    #[case::half_a_misfire("2.5", Dimension::Count)]
    #[case::negative("-3", Dimension::Count)]
    #[case::ohm_for_volt("3 ohm", Dimension::Voltage)]
    #[case::volt_for_ohm("12V", Dimension::Resistance)]
    #[case::a_dash("-", Dimension::Current)]
    #[case::a_gap_below_nought("-0.8 mm", Dimension::Length)]
    #[case::a_time_below_nought("-3 s", Dimension::Time)]
    #[case::torque_without_a_unit("47", Dimension::Torque)]
    #[case::volts_for_turns("3 V", Dimension::Number)]
    #[case::unknown_unit("12 furlongs", Dimension::Distance)]
    #[case::overload_of_a_distance("OL", Dimension::Distance)]
    fn is_refused(#[case] text: &str, #[case] dimension: Dimension) {
        assert_eq!(understand(text, dimension).unwrap_err().field, "text");
    }

    #[test]
    fn a_meters_overload_is_no_number() {
        let read = understand("OL", Dimension::Resistance).unwrap();
        assert!(read.overload && read.value.is_none());
    }

    #[test]
    fn what_was_understood_is_shown_with_its_unit() {
        assert_eq!(understand("52310mi", Dimension::Distance).unwrap().shown, "84\u{202f}184.78 km");
    }
}

//! Units of measured values, and how they change into each other.

/// A straight line: value × `scale` + `offset`, in the wanted unit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Conversion {
    pub scale: f64,
    pub offset: f64,
}

impl Conversion {
    pub const NONE: Conversion = Conversion { scale: 1.0, offset: 0.0 };

    #[inline]
    pub fn of(&self, value: f64) -> f64 {
        value * self.scale + self.offset
    }
}

/// What a unit measures, its size in the base unit of that kind, and its zero in it. Definitions, exact or as the
/// standards round them.
const UNITS: &[(&str, &str, f64, f64)] = &[
    ("°c", "temperature", 1.0, 0.0),
    ("c", "temperature", 1.0, 0.0),
    ("degc", "temperature", 1.0, 0.0),
    ("celsius", "temperature", 1.0, 0.0),
    ("°f", "temperature", 5.0 / 9.0, -160.0 / 9.0),
    ("f", "temperature", 5.0 / 9.0, -160.0 / 9.0),
    ("degf", "temperature", 5.0 / 9.0, -160.0 / 9.0),
    ("fahrenheit", "temperature", 5.0 / 9.0, -160.0 / 9.0),
    ("k", "temperature", 1.0, -273.15),
    ("km/h", "speed", 1.0, 0.0),
    ("kmh", "speed", 1.0, 0.0),
    ("kph", "speed", 1.0, 0.0),
    ("mph", "speed", 1.609344, 0.0),
    ("m/s", "speed", 3.6, 0.0),
    ("kpa", "pressure", 1.0, 0.0),
    ("pa", "pressure", 0.001, 0.0),
    ("hpa", "pressure", 0.1, 0.0),
    ("mbar", "pressure", 0.1, 0.0),
    ("bar", "pressure", 100.0, 0.0),
    ("mpa", "pressure", 1000.0, 0.0),
    ("psi", "pressure", 6.894757293168, 0.0),
    ("inhg", "pressure", 3.386388640341, 0.0),
    ("mmhg", "pressure", 0.133322387415, 0.0),
    ("g/s", "flow", 1.0, 0.0),
    ("gps", "flow", 1.0, 0.0),
    ("kg/h", "flow", 1.0 / 3.6, 0.0),
    ("lb/min", "flow", 453.59237 / 60.0, 0.0),
    ("lbs/min", "flow", 453.59237 / 60.0, 0.0),
    ("%", "share", 1.0, 0.0),
    ("pct", "share", 1.0, 0.0),
    ("percent", "share", 1.0, 0.0),
    ("rpm", "turning", 1.0, 0.0),
    ("1/min", "turning", 1.0, 0.0),
    ("min-1", "turning", 1.0, 0.0),
    ("rev/min", "turning", 1.0, 0.0),
    ("1/s", "turning", 60.0, 0.0),
    ("v", "voltage", 1.0, 0.0),
    ("volt", "voltage", 1.0, 0.0),
    ("volts", "voltage", 1.0, 0.0),
    ("mv", "voltage", 0.001, 0.0),
    ("°", "angle", 1.0, 0.0),
    ("deg", "angle", 1.0, 0.0),
    ("km", "distance", 1.0, 0.0),
    ("mi", "distance", 1.609344, 0.0),
    ("miles", "distance", 1.609344, 0.0),
    ("m", "distance", 0.001, 0.0),
    ("s", "time", 1.0, 0.0),
    ("sec", "time", 1.0, 0.0),
    ("seconds", "time", 1.0, 0.0),
    ("ms", "time", 0.001, 0.0),
    ("us", "time", 1e-6, 0.0),
    ("min", "time", 60.0, 0.0),
    ("minutes", "time", 60.0, 0.0),
];

/// A unit as somebody wrote it: its plain spelling, and whether a pressure is above ambient (`psig`, `kPa gauge`).
fn plain(written: &str) -> (String, bool) {
    let mut text: String = written
        .to_lowercase()
        .chars()
        .filter(|c| !c.is_whitespace() && !"()[]._".contains(*c))
        .map(|c| if c == 'º' || c == '˚' { '°' } else { c })
        .collect();
    let mut gauge = false;
    for (ending, is_gauge) in [("gauge", true), ("rel", true), ("relative", true), ("absolute", false), ("abs", false)]
    {
        if let Some(head) = text.strip_suffix(ending)
            && !head.is_empty()
        {
            (text, gauge) = (head.trim_end_matches('-').to_owned(), is_gauge);
            break;
        }
    }
    if known(&text).is_none() {
        if let Some(head) = text.strip_suffix('g').filter(|head| known(head).is_some_and(|u| u.1 == "pressure")) {
            (text, gauge) = (head.to_owned(), true);
        } else if let Some(head) = text.strip_suffix('a').filter(|head| known(head).is_some_and(|u| u.1 == "pressure"))
        {
            text = head.to_owned();
        }
    }
    (text, gauge)
}

fn known(text: &str) -> Option<&'static (&'static str, &'static str, f64, f64)> {
    UNITS.iter().find(|unit| unit.0 == text)
}

/// Whether this is a unit that is known here.
pub fn is_unit(written: &str) -> bool {
    known(&plain(written).0).is_some()
}

/// How to change values from one unit into another. A pressure above ambient becomes absolute by adding
/// `ambient_kpa`.
///
/// # Errors
/// A unit that is not known, or one that measures something else, in words.
pub fn conversion(from: &str, to: &str, ambient_kpa: f64) -> Result<Conversion, String> {
    let (from_text, gauge) = plain(from);
    let (to_text, _) = plain(to);
    if from_text == to_text && !gauge {
        return Ok(Conversion::NONE);
    }
    let a = known(&from_text).ok_or_else(|| format!("the unit {from} is not known here"))?;
    let b = known(&to_text).ok_or_else(|| format!("the unit {to} is not known here"))?;
    if a.1 != b.1 {
        return Err(format!("{from} is a unit of {}, and {to} one of {}", a.1, b.1));
    }
    let zero = if gauge { ambient_kpa } else { 0.0 };
    Ok(Conversion { scale: a.2 / b.2, offset: (a.3 + zero - b.3) / b.2 })
}

//! A meter: how far its display can be off, and what was read from it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::quantity::{Dimension, understand};
use crate::refusal::Refusal;

/// A meter's accuracy as its data sheet gives it: so many percent of the reading and so many digits.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MeterAccuracy {
    pub percent: f64,
    pub digits: f64,
    /// One digit, in the display's unit.
    pub resolution: f64,
}

impl MeterAccuracy {
    /// How far a reading can be off, in the unit of the quantity: percent/100 × |reading| + digits × resolution ×
    /// multiplier.
    pub fn uncertainty(&self, reading: f64, multiplier: f64) -> f64 {
        self.percent / 100.0 * reading.abs() + self.digits * self.resolution * multiplier
    }

    /// # Errors
    /// A figure that is no number, below nought, or far beyond what any meter has.
    pub fn check(&self) -> Result<(), Refusal> {
        for (field, value, most) in
            [("percent", self.percent, 50.0), ("digits", self.digits, 1000.0), ("resolution", self.resolution, 1e6)]
        {
            if !value.is_finite() || !(0.0..=most).contains(&value) {
                return Err(Refusal::new(format!("meter.{field}"), format!("must lie between 0 and {most}")));
            }
        }
        Ok(())
    }
}

/// One reading of a display: a number, or as somebody writes it: `0,43`, `1.2k`, `OL`.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(untagged, expecting = "a number or what the display shows, as text")]
pub enum Shown {
    Number(f64),
    Text(String),
}

/// What the display showed; several readings when it wandered.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(untagged, expecting = "a number, what the display shows as text, or a list of them")]
pub enum Display {
    One(Shown),
    Several(Vec<Shown>),
}

/// Readings of a display, in its own unit.
#[derive(Debug, Clone, PartialEq)]
pub struct Readings {
    /// Those that are numbers.
    pub values: Vec<f64>,
    /// How many lay over the range.
    pub overloads: usize,
    /// A multiplier that was written with the number (`1.2k`).
    pub multiplier: Option<f64>,
}

impl Readings {
    pub fn mean(&self) -> f64 {
        self.values.iter().sum::<f64>() / self.values.len() as f64
    }

    /// Sample standard deviation; nought for one reading.
    pub fn spread(&self) -> f64 {
        if self.values.len() < 2 {
            return 0.0;
        }
        let mean = self.mean();
        let squares: f64 = self.values.iter().map(|value| (value - mean).powi(2)).sum();
        (squares / (self.values.len() - 1) as f64).sqrt()
    }
}

impl Display {
    /// # Errors
    /// Under `display`: nothing, no number, another unit than ohm, below nought, or two different multipliers.
    pub fn readings(&self) -> Result<Readings, Refusal> {
        let list = match self {
            Display::One(one) => std::slice::from_ref(one),
            Display::Several(list) => list.as_slice(),
        };
        if list.is_empty() {
            return Err(Refusal::new("display", "what does the meter show?"));
        }
        let mut readings = Readings { values: Vec::new(), overloads: 0, multiplier: None };
        for (index, shown) in list.iter().enumerate() {
            let field = match self {
                Display::One(_) => "display".to_owned(),
                Display::Several(_) => format!("display[{index}]"),
            };
            let (value, multiplier) = match shown {
                Shown::Number(value) => (Some(*value), None),
                Shown::Text(text) => one(text).map_err(|reason| Refusal::new(field.clone(), reason))?,
            };
            let Some(value) = value else {
                readings.overloads += 1;
                continue;
            };
            if !value.is_finite() {
                return Err(Refusal::new(field, "must be a finite number, or OL"));
            }
            if value < 0.0 {
                return Err(Refusal::new(
                    field,
                    "a resistance below nought: the circuit is live, or the leads were zeroed on another range",
                ));
            }
            if multiplier.is_some() && readings.multiplier.is_some() && multiplier != readings.multiplier {
                return Err(Refusal::new(field, "is written in another unit than the readings before it"));
            }
            readings.multiplier = readings.multiplier.or(multiplier);
            readings.values.push(value);
        }
        Ok(readings)
    }
}

/// A display as it was written: the number in the display's unit, and the multiplier where the text names one.
fn one(text: &str) -> Result<(Option<f64>, Option<f64>), String> {
    let quantity = understand(text, Dimension::Resistance).map_err(|refusal| {
        if text.trim().ends_with(['V', 'v', 'A', 'a']) {
            format!("{} is no resistance: the dial stands on another quantity", text.trim())
        } else {
            refusal.reason
        }
    })?;
    let Some(value) = quantity.value else { return Ok((None, None)) };
    let unit: String = text.chars().filter(|c| c.is_alphabetic() || *c == 'Ω').collect();
    let multiplier = match unit.chars().next() {
        Some('k' | 'K') => Some(1e3),
        Some('M') => Some(1e6),
        Some('m') => Some(1e-3),
        _ => None,
    };
    Ok((Some(value / multiplier.unwrap_or(1.0)), multiplier))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn text(text: &str) -> Display {
        Display::One(Shown::Text(text.into()))
    }

    #[rstest]
    #[case::comma("0,43", 0.43, None)]
    #[case::kilo("1.2k", 1.2, Some(1e3))]
    #[case::kilo_ohm("12.4 kohm", 12.4, Some(1e3))]
    #[case::mega("2.2 M", 2.2, Some(1e6))]
    #[case::plain("870 ohm", 870.0, None)]
    fn a_display_is_read_as_people_write_it(
        #[case] written: &str,
        #[case] value: f64,
        #[case] multiplier: Option<f64>,
    ) {
        let read = text(written).readings().unwrap();
        assert!((read.values[0] - value).abs() < 1e-12, "{written}: {read:?}");
        assert_eq!(read.multiplier, multiplier);
    }

    #[rstest]
    #[case::volt("12V", "another quantity")]
    #[case::dash("-", "no number")]
    #[case::nothing("  ", "nothing is written")]
    #[case::below_nought("-0.3", "below nought")]
    fn what_is_no_resistance_is_refused_with_its_reason(#[case] written: &str, #[case] reason: &str) {
        let refusal = text(written).readings().unwrap_err();
        assert_eq!(refusal.field, "display");
        assert!(refusal.reason.contains(reason), "{refusal}");
    }

    #[test]
    fn a_wandering_display_has_a_mean_and_a_spread() {
        let shown = [1.0, 2.0, 3.0].map(Shown::Number).to_vec();
        let read = Display::Several(shown).readings().unwrap();
        assert_eq!((read.mean(), read.spread()), (2.0, 1.0));
    }

    #[test]
    fn readings_in_two_units_are_refused_by_their_place() {
        let display = Display::Several(vec![Shown::Text("1.2k".into()), Shown::Text("1.2M".into())]);
        assert_eq!(display.readings().unwrap_err().field, "display[1]");
    }
}

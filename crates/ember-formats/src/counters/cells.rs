//! Numbers in the cells of a file.

use ember_core::refusal::Refusal;

/// Reads the numbers of one file, and remembers whether its decimal sign is a comma.
pub(super) struct Numbers {
    comma_is_decimal: bool,
    pub saw_comma: bool,
}

impl Numbers {
    pub fn new(separator: u8) -> Self {
        Numbers { comma_is_decimal: separator != b',', saw_comma: false }
    }

    pub fn decimal_name(&self) -> String {
        if self.saw_comma { "comma" } else { "point" }.into()
    }

    /// A finite number, or `None` for an empty cell.
    pub fn read(&mut self, text: &str, line: u64, heading: &str) -> Result<Option<f64>, Refusal> {
        if text.is_empty() {
            return Ok(None);
        }
        let parsed = match text.parse::<f64>() {
            Ok(value) => Some(value),
            Err(_) if self.comma_is_decimal && text.matches(',').count() == 1 => {
                self.saw_comma = true;
                text.replace(',', ".").parse().ok()
            }
            Err(_) => None,
        };
        match parsed {
            Some(value) if value.is_finite() => Ok(Some(value)),
            _ => Err(Refusal::new(
                format!("row {line}"),
                format!("{} in the column {heading} is no number", quoted(text)),
            )),
        }
    }
}

/// A cell's text for a message: short, whatever stood in it.
pub(super) fn quoted(text: &str) -> String {
    let short: String = text.chars().take(24).collect();
    if short.len() < text.len() { format!("\"{short}…\"") } else { format!("\"{short}\"") }
}

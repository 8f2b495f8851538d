//! A table: `cylinder,misfires`, a line for each cylinder, perhaps with the revolutions.

use std::collections::BTreeMap;

use ember_core::refusal::{Refusal, whole_count};

use super::cells::{Numbers, quoted};
use super::{ColumnUse, CounterFileKind, CounterReading, Sheet, all_there};

fn is_cylinder_column(heading: &str) -> bool {
    matches!(heading.trim().to_lowercase().as_str(), "cylinder" | "cyl" | "cyl." | "cylinder no" | "cylinder number")
}

fn is_count_column(heading: &str) -> bool {
    let lower = heading.to_lowercase();
    (lower.contains("misfire") || lower.contains("count")) && !lower.chars().any(|c| c.is_ascii_digit())
}

fn is_revolution_column(heading: &str) -> bool {
    heading.to_lowercase().starts_with("rev")
}

pub(super) fn is_table(headings: &[String]) -> bool {
    headings.iter().any(|h| is_cylinder_column(h))
}

pub(super) fn read(mut sheet: Sheet<'_>) -> Result<CounterReading, Refusal> {
    let find = |test: fn(&str) -> bool| sheet.headings.iter().position(|h| test(h));
    let cylinder_at = find(is_cylinder_column).unwrap_or_default();
    let count_at =
        find(is_count_column).ok_or_else(|| Refusal::new("file", "has a cylinder column and none for misfires"))?;
    let revolutions_at = find(is_revolution_column);
    let mut numbers = Numbers::new(sheet.separator);
    let mut found: BTreeMap<u16, f64> = BTreeMap::new();
    let mut revolutions: Option<f64> = None;
    let mut record = csv::StringRecord::new();
    let mut rows = 0;
    while let Some(line) = sheet.next_row(&mut record)? {
        rows += 1;
        let row = format!("row {line}");
        let digits: String = record[cylinder_at].chars().filter(char::is_ascii_digit).collect();
        let cylinder = digits
            .parse::<u16>()
            .map_err(|_| Refusal::new(&row, format!("{} is no cylinder", quoted(&record[cylinder_at]))))?;
        let count = numbers
            .read(&record[count_at], line, &sheet.headings[count_at])?
            .ok_or_else(|| Refusal::new(&row, "has no count; write 0 if there was none"))?;
        let count = whole_count(&row, count)?;
        if found.insert(cylinder, count).is_some() {
            return Err(Refusal::new(&row, format!("names cylinder {cylinder} a second time")));
        }
        if let Some(at) = revolutions_at
            && let Some(value) = numbers.read(&record[at], line, &sheet.headings[at])?
        {
            if revolutions.is_some_and(|before| before != value) {
                return Err(Refusal::new(&row, "gives other revolutions than the rows before"));
            }
            revolutions = Some(value);
        }
    }
    all_there(&found, sheet.cylinders, "file")?;
    let used_as = |index: usize| {
        let name = match index {
            i if i == cylinder_at => "cylinder",
            i if i == count_at => "misfires",
            i if Some(i) == revolutions_at => "revolutions",
            _ => "not used",
        };
        name.to_owned()
    };
    Ok(CounterReading {
        kind: CounterFileKind::Table,
        separator: sheet.separator_name(),
        decimal: numbers.decimal_name(),
        rows,
        columns: sheet
            .headings
            .iter()
            .enumerate()
            .map(|(index, heading)| ColumnUse { heading: heading.clone(), used_as: used_as(index) })
            .collect(),
        revolutions,
        misfires: found.into_iter().map(|(c, k)| (c.to_string(), k)).collect(),
        windows: Vec::new(),
        duration_s: None,
        notes: Vec::new(),
    })
}

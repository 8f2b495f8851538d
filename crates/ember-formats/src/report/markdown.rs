//! A report as Markdown (CommonMark with tables).

use ember_core::report::{Block, Report};

/// Sets the report as Markdown. Plots become tables of their figures.
pub fn markdown(report: &Report) -> String {
    let mut out = format!("# {}\n\n{}\n", escaped(&report.title), report.heads.join(" · "));
    for section in &report.sections {
        out.push_str(&format!("\n## {}\n", escaped(&section.title)));
        for block in &section.blocks {
            out.push('\n');
            out.push_str(&set(block));
        }
    }
    out.push_str(&format!("\n---\n\n{}\n", escaped(&report.foot)));
    out
}

fn set(block: &Block) -> String {
    match block {
        Block::Text { text, strong: true } => format!("**{}**\n", escaped(text)),
        Block::Text { text, strong: false } => format!("{}\n", escaped(text)),
        Block::List { items } => items.iter().map(|item| format!("- {}\n", escaped(item))).collect(),
        Block::Table { head, rows } => table(head, rows),
        Block::Curve { title, across, up, points, marks, level } => {
            let step = (points.len() / 10).max(1);
            let rows: Vec<Vec<String>> = points
                .iter()
                .step_by(step)
                .map(|point| vec![format!("{:.1}", point.across), format!("{:.1}", point.up)])
                .collect();
            let marks: Vec<String> = marks.iter().map(|mark| mark.words.clone()).collect();
            let level = level.map_or_else(String::new, |level| format!(" {level:.0} counts as enough."));
            format!(
                "{}: {}.{level}\n\n{}",
                escaped(title),
                marks.join(", "),
                table(&[across.clone(), up.clone()], &rows)
            )
        }
        Block::Bars { title, unit, bars } => {
            let rows: Vec<Vec<String>> = bars
                .iter()
                .map(|bar| {
                    vec![bar.name.clone(), format!("{:.4}", bar.value), format!("{:.4} to {:.4}", bar.low, bar.high)]
                })
                .collect();
            format!("{}\n\n{}", escaped(title), table(&[String::new(), unit.clone(), "between".into()], &rows))
        }
        Block::Photos { photos } => format!("{} photographs are kept with the job.\n", photos.len()),
    }
}

fn table(head: &[String], rows: &[Vec<String>]) -> String {
    let line = |cells: &[String]| {
        let cells: Vec<String> =
            cells.iter().map(|cell| escaped(cell).replace('|', "\\|").replace('\n', " ")).collect();
        format!("| {} |\n", cells.join(" | "))
    };
    let rule = format!("|{}\n", " --- |".repeat(head.len()));
    format!("{}{rule}{}", line(head), rows.iter().map(|row| line(row)).collect::<String>())
}

/// What somebody typed must not turn into headings, links or markup.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for (index, c) in text.chars().enumerate() {
        if matches!(c, '\\' | '`' | '*' | '_' | '[' | ']' | '<' | '>') || (index == 0 && matches!(c, '#' | '-' | '+')) {
            out.push('\\');
        }
        out.push(c);
    }
    out
}

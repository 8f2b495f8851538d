//! The report's plots, drawn with lines: a curve with its marks, bars with their intervals.

use ember_core::report::{Bar, PlotMark, PlotPoint};

use super::paper::{COLUMN, MARGIN, Mark, Paper};

const SIZE: f32 = 8.0;

/// A round step that divides a span into some four to eight parts.
fn step(span: f64) -> f64 {
    let rough = (span / 6.0).max(1e-12);
    let decade = 10f64.powf(rough.log10().floor());
    [1.0, 2.0, 5.0, 10.0].map(|factor| factor * decade).into_iter().find(|one| *one >= rough).unwrap_or(rough)
}

fn figure(value: f64) -> String {
    let text = format!("{value:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

/// A line over an axis from its first point to its last.
pub fn curve(
    paper: &mut Paper<'_>,
    (across, up): (&str, &str),
    points: &[PlotPoint],
    marks: &[PlotMark],
    level: Option<f64>,
) {
    let (Some(first), Some(last)) = (points.first(), points.last()) else { return };
    let (height, left) = (150.0_f32, 34.0_f32);
    paper.need(height + 44.0);
    let low = points.iter().map(|p| p.up).chain(level).fold(f64::INFINITY, f64::min);
    let high = points.iter().map(|p| p.up).chain(level).fold(f64::NEG_INFINITY, f64::max);
    let rise = step((high - low).max(1e-9));
    let (low, high) = ((low / rise).floor() * rise, (high / rise).ceil() * rise);
    let width = COLUMN - left;
    let (top, x0) = (paper.y + 14.0, MARGIN + left);
    let span = (last.across - first.across).max(1e-9);
    let x = |value: f64| x0 + width * ((value - first.across) / span) as f32;
    let y = |value: f64| top + height * (1.0 - ((value - low) / (high - low)) as f32);
    paper.put(Mark::Text { x: MARGIN, y: top - 5.0, size: SIZE, bold: false, shade: 0.25, text: up.to_owned() });
    let mut at = low;
    while at <= high + 1e-9 {
        paper.put(Mark::Line { points: vec![(x0, y(at)), (x0 + width, y(at))], width: 0.3, shade: 0.75 });
        paper.put(Mark::Text { x: MARGIN, y: y(at) + 3.0, size: SIZE, bold: false, shade: 0.25, text: figure(at) });
        at += rise;
    }
    let run = step(span);
    let mut at = (first.across / run).ceil() * run;
    while at <= last.across + 1e-9 {
        paper.put(Mark::Line {
            points: vec![(x(at), top + height), (x(at), top + height + 3.0)],
            width: 0.5,
            shade: 0.2,
        });
        paper.put(Mark::Text {
            x: x(at) - 6.0,
            y: top + height + 12.0,
            size: SIZE,
            bold: false,
            shade: 0.25,
            text: figure(at),
        });
        at += run;
    }
    if let Some(level) = level {
        paper.put(Mark::Line { points: vec![(x0, y(level)), (x0 + width, y(level))], width: 1.0, shade: 0.5 });
        let text = format!("{} counts as enough", figure(level));
        paper.put(Mark::Text { x: x0 + width - 92.0, y: y(level) + 9.0, size: SIZE, bold: false, shade: 0.25, text });
    }
    for PlotMark { across: value, words } in marks {
        let at = x(value.clamp(first.across, last.across));
        paper.put(Mark::Line { points: vec![(at, top), (at, top + height)], width: 1.0, shade: 0.1 });
        paper.put(Mark::Text {
            x: at + 3.0,
            y: top + height - 6.0,
            size: SIZE,
            bold: true,
            shade: 0.0,
            text: words.clone(),
        });
    }
    paper.put(Mark::Line { points: points.iter().map(|p| (x(p.across), y(p.up))).collect(), width: 1.6, shade: 0.0 });
    let label = paper.width(across, SIZE, false);
    let text = across.to_owned();
    paper.put(Mark::Text { x: x0 + width - label, y: top + height + 22.0, size: SIZE, bold: false, shade: 0.25, text });
    paper.y = top + height + 30.0;
}

/// Bars with the interval that holds the true value.
pub fn bars(paper: &mut Paper<'_>, unit: &str, bars: &[Bar]) {
    const ROW: f32 = 15.0;
    let most = bars.iter().map(|bar| bar.high.max(bar.value)).fold(0.0, f64::max).max(1e-9);
    let (name, figures) = (70.0_f32, 130.0_f32);
    let room = COLUMN - name - figures;
    for bar in bars {
        paper.need(ROW);
        let (x0, y) = (MARGIN + name, paper.y + 3.0);
        let x = |value: f64| x0 + room * (value / most) as f32;
        let base = paper.y + 11.0;
        paper.put(Mark::Text { x: MARGIN, y: base, size: SIZE, bold: false, shade: 0.0, text: bar.name.clone() });
        paper.put(Mark::Bar { x: x0, y, width: (x(bar.value) - x0).max(0.5), height: 9.0, shade: 0.35 });
        let middle = y + 4.5;
        paper.put(Mark::Line { points: vec![(x(bar.low), middle), (x(bar.high), middle)], width: 1.4, shade: 0.0 });
        for end in [bar.low, bar.high] {
            paper.put(Mark::Line { points: vec![(x(end), y + 1.0), (x(end), y + 8.0)], width: 1.0, shade: 0.0 });
        }
        let text = format!("{} {unit} ({} to {})", short(bar.value), short(bar.low), short(bar.high));
        paper.put(Mark::Text { x: x0 + room + 8.0, y: base, size: SIZE, bold: false, shade: 0.0, text });
        paper.y += ROW;
    }
    paper.y += 4.0;
}

fn short(value: f64) -> String {
    if value == 0.0 || value >= 0.1 { format!("{value:.2}") } else { format!("{value:.4}") }
}

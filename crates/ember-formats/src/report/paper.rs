//! Paper to set a report on: text measured and broken into lines, pages begun when one is full.

use ttf_parser::Face;

/// A4 in points.
pub const WIDTH: f32 = 595.3;
pub const HEIGHT: f32 = 841.9;
pub const MARGIN: f32 = 42.0;
/// What lies between the margins.
pub const COLUMN: f32 = WIDTH - 2.0 * MARGIN;
/// Where the last line of a page may stand; the foot lies below.
const BOTTOM: f32 = HEIGHT - MARGIN - 18.0;

/// The lines of a table, in sizes of its letters.
const LEADING: f32 = 1.25;

/// How many lines the tallest cell of a row has.
fn lines_of(cells: &[Vec<String>]) -> usize {
    cells.iter().map(Vec::len).max().unwrap_or(0)
}

/// A shade between black (0) and white (1).
pub type Shade = f32;

/// One thing on a page. Coordinates in points from the upper left.
#[derive(Debug, Clone, PartialEq)]
pub enum Mark {
    /// `y` is the base line.
    Text {
        x: f32,
        y: f32,
        size: f32,
        bold: bool,
        shade: Shade,
        text: String,
    },
    Line {
        points: Vec<(f32, f32)>,
        width: f32,
        shade: Shade,
    },
    Bar {
        x: f32,
        y: f32,
        width: f32,
        height: f32,
        shade: Shade,
    },
    Photo {
        x: f32,
        y: f32,
        width: f32,
        height: f32,
        photo: usize,
    },
}

pub struct Paper<'f> {
    pub pages: Vec<Vec<Mark>>,
    /// Where the next thing goes, from the top of the page.
    pub y: f32,
    regular: &'f Face<'f>,
    bold: &'f Face<'f>,
}

impl<'f> Paper<'f> {
    pub fn new(regular: &'f Face<'f>, bold: &'f Face<'f>) -> Paper<'f> {
        Paper { pages: vec![Vec::new()], y: MARGIN, regular, bold }
    }

    pub fn put(&mut self, mark: Mark) {
        if let Some(page) = self.pages.last_mut() {
            page.push(mark);
        }
    }

    /// Begins a page where less than this is left of the one at hand. Whether it did.
    pub fn need(&mut self, height: f32) -> bool {
        let full = self.y + height > BOTTOM && self.y > MARGIN;
        if full {
            self.pages.push(Vec::new());
            self.y = MARGIN;
        }
        full
    }

    fn face(&self, bold: bool) -> &Face<'f> {
        if bold { self.bold } else { self.regular }
    }

    /// The text as the font can show it.
    pub fn shown(&self, text: &str) -> String {
        let can = |c: char| c == '\n' || self.regular.glyph_index(c).is_some();
        text.chars()
            .map(|c| {
                if can(c) {
                    c
                } else if c.is_whitespace() {
                    ' '
                } else {
                    '?'
                }
            })
            .collect()
    }

    pub fn width(&self, text: &str, size: f32, bold: bool) -> f32 {
        let face = self.face(bold);
        let units: u32 = text
            .chars()
            .filter_map(|c| face.glyph_index(c))
            .map(|glyph| u32::from(face.glyph_hor_advance(glyph).unwrap_or(0)))
            .sum();
        units as f32 * size / f32::from(face.units_per_em())
    }

    /// Breaks a text at its gaps; a word that is longer than the line is broken where it must be.
    pub fn lines(&self, text: &str, size: f32, bold: bool, width: f32) -> Vec<String> {
        let mut list = Vec::new();
        for paragraph in self.shown(text).split('\n') {
            let mut line = String::new();
            for word in paragraph.split(' ').filter(|word| !word.is_empty()) {
                let joined = if line.is_empty() { word.to_owned() } else { format!("{line} {word}") };
                if self.width(&joined, size, bold) <= width {
                    line = joined;
                    continue;
                }
                if !line.is_empty() {
                    list.push(std::mem::take(&mut line));
                }
                let mut rest = String::new();
                for c in word.chars() {
                    rest.push(c);
                    if self.width(&rest, size, bold) > width && rest.chars().count() > 1 {
                        rest.pop();
                        list.push(std::mem::replace(&mut rest, c.to_string()));
                    }
                }
                line = rest;
            }
            list.push(line);
        }
        list
    }

    /// Sets a text over the width at hand, breaking pages between its lines.
    pub fn paragraph(&mut self, text: &str, size: f32, bold: bool, indent: f32) {
        let leading = size * 1.32;
        for line in self.lines(text, size, bold, COLUMN - indent) {
            self.need(leading);
            self.put(Mark::Text { x: MARGIN + indent, y: self.y + size, size, bold, shade: 0.0, text: line });
            self.y += leading;
        }
    }

    /// Sets a table: columns as wide as their contents ask for, the head repeated on every page.
    pub fn table(&mut self, head: &[String], rows: &[Vec<String>]) {
        const SIZE: f32 = 8.0;
        const GAP: f32 = 7.0;
        let widths = self.columns(head, rows, SIZE, COLUMN - GAP * (head.len() as f32 - 1.0));
        let broken = |paper: &Self, row: &[String], bold: bool| -> Vec<Vec<String>> {
            row.iter().zip(&widths).map(|(cell, width)| paper.lines(cell, SIZE, bold, *width)).collect()
        };
        let head = broken(self, head, true);
        self.row(&head, &widths, SIZE, true, GAP);
        for row in rows {
            let cells = broken(self, row, false);
            let height = lines_of(&cells) as f32 * SIZE * LEADING + 4.0;
            if self.need(height.min(BOTTOM - MARGIN - 30.0)) {
                self.row(&head, &widths, SIZE, true, GAP);
            }
            self.row(&cells, &widths, SIZE, false, GAP);
        }
        self.y += 4.0;
    }

    fn columns(&self, head: &[String], rows: &[Vec<String>], size: f32, room: f32) -> Vec<f32> {
        let natural: Vec<f32> = (0..head.len())
            .map(|at| {
                let cells =
                    rows.iter().filter_map(|row| row.get(at)).map(|cell| self.width(&self.shown(cell), size, false));
                cells.fold(self.width(&self.shown(&head[at]), size, true), f32::max) + 1.0
            })
            .collect();
        if natural.iter().sum::<f32>() <= room {
            return natural;
        }
        // Narrow columns keep what they ask for; the wide ones share the rest by their contents.
        let fair = room / head.len() as f32;
        let narrow: f32 = natural.iter().filter(|w| **w <= fair).sum();
        let wide: f32 = natural.iter().filter(|w| **w > fair).map(|w| w.sqrt()).sum();
        natural.iter().map(|w| if *w <= fair { *w } else { (room - narrow) * w.sqrt() / wide }).collect()
    }

    fn row(&mut self, cells: &[Vec<String>], widths: &[f32], size: f32, bold: bool, gap: f32) {
        let leading = size * LEADING;
        for at in 0..lines_of(cells) {
            self.need(leading);
            let mut x = MARGIN;
            for (lines, width) in cells.iter().zip(widths) {
                if let Some(text) = lines.get(at).filter(|text| !text.is_empty()) {
                    self.put(Mark::Text { x, y: self.y + size, size, bold, shade: 0.0, text: text.clone() });
                }
                x += width + gap;
            }
            self.y += leading;
        }
        let (y, shade) = (self.y + 1.5, if bold { 0.2 } else { 0.8 });
        self.put(Mark::Line { points: vec![(MARGIN, y), (MARGIN + COLUMN, y)], width: 0.5, shade });
        self.y += 4.0;
    }
}

//! A report as PDF, made without a browser. The fonts lie in the program and their used part in the file.

use std::sync::Arc;

use ember_core::report::{Block, Report};
use krilla::Document;
use krilla::color::luma;
use krilla::geom::{PathBuilder, Point, Rect, Size, Transform};
use krilla::image::Image;
use krilla::metadata::Metadata;
use krilla::num::NormalizedF32;
use krilla::page::PageSettings;
use krilla::paint::{Fill, Stroke};
use krilla::surface::Surface;
use krilla::text::{Font, TextDirection};
use ttf_parser::Face;

use super::paper::{COLUMN, HEIGHT, MARGIN, Mark, Paper, WIDTH};
use super::plots;

const REGULAR: &[u8] = include_bytes!("../../fonts/DejaVuSansCondensed.ttf");
const BOLD: &[u8] = include_bytes!("../../fonts/DejaVuSansCondensed-Bold.ttf");

#[derive(Debug, thiserror::Error)]
pub enum PdfError {
    #[error("the font in the program cannot be used")]
    Font,
    #[error("photograph {0} is no JPEG")]
    Photo(i64),
    #[error("the file could not be made: {0}")]
    Document(String),
}

/// Sets the report as a PDF on A4. `photo` gives a photograph's JPEG by its number; one that is not there is left out.
///
/// # Errors
/// A photograph that is no JPEG; fonts or a document that the library refuses.
pub fn pdf(report: &Report, photo: impl Fn(i64) -> Option<Vec<u8>>) -> Result<Vec<u8>, PdfError> {
    let regular = Face::parse(REGULAR, 0).map_err(|_| PdfError::Font)?;
    let bold = Face::parse(BOLD, 0).map_err(|_| PdfError::Font)?;
    let mut paper = Paper::new(&regular, &bold);
    let mut images = Vec::new();
    paper.paragraph(&report.title, 19.0, true, 0.0);
    paper.paragraph(&report.heads.join("  ·  "), 9.5, false, 0.0);
    rule(&mut paper);
    for section in &report.sections {
        paper.y += 7.0;
        // A heading does not stand alone at the foot of a page.
        paper.need(42.0);
        paper.paragraph(&section.title, 12.0, true, 0.0);
        paper.y += 1.5;
        for block in &section.blocks {
            set(&mut paper, block, &photo, &mut images)?;
        }
    }
    paper.y += 8.0;
    paper.need(26.0);
    rule(&mut paper);
    paper.paragraph(&report.foot, 8.5, false, 0.0);
    drawn(&paper, report, &images)
}

fn rule(paper: &mut Paper<'_>) {
    paper.y += 3.0;
    let y = paper.y;
    paper.put(Mark::Line { points: vec![(MARGIN, y), (MARGIN + COLUMN, y)], width: 1.6, shade: 0.0 });
    paper.y += 5.0;
}

fn set(
    paper: &mut Paper<'_>,
    block: &Block,
    photo: &impl Fn(i64) -> Option<Vec<u8>>,
    images: &mut Vec<Image>,
) -> Result<(), PdfError> {
    match block {
        Block::Text { text, strong } => paper.paragraph(text, 10.0, *strong, 0.0),
        Block::List { items } => {
            for item in items {
                paper.need(13.0);
                let y = paper.y + 10.0;
                paper.put(Mark::Text { x: MARGIN + 2.0, y, size: 10.0, bold: false, shade: 0.0, text: "–".into() });
                paper.paragraph(item, 10.0, false, 13.0);
            }
        }
        Block::Table { head, rows } => paper.table(head, rows),
        Block::Curve { title, across, up, points, marks, level } => {
            paper.need(214.0);
            paper.paragraph(title, 9.0, true, 0.0);
            plots::curve(paper, (across, up), points, marks, *level);
        }
        Block::Bars { title, unit, bars } => {
            paper.paragraph(title, 9.0, true, 0.0);
            plots::bars(paper, unit, bars);
        }
        Block::Photos { photos } => {
            for &id in photos {
                let Some(bytes) = photo(id) else { continue };
                let image = Image::from_jpeg(bytes.into(), true).map_err(|_| PdfError::Photo(id))?;
                let (wide, high) = image.size();
                let width = COLUMN.min(360.0).min(360.0 * wide as f32 / high as f32);
                let height = width * high as f32 / wide as f32;
                paper.need(height + 6.0);
                let (x, y) = (MARGIN, paper.y);
                paper.put(Mark::Photo { x, y, width, height, photo: images.len() });
                images.push(image);
                paper.y += height + 6.0;
            }
        }
    }
    paper.y += 2.5;
    Ok(())
}

fn drawn(paper: &Paper<'_>, report: &Report, images: &[Image]) -> Result<Vec<u8>, PdfError> {
    let font = |bytes: &'static [u8]| {
        let data: Arc<dyn AsRef<[u8]> + Send + Sync> = Arc::new(bytes);
        Font::new(data.into(), 0).ok_or(PdfError::Font)
    };
    let (regular, bold) = (font(REGULAR)?, font(BOLD)?);
    let mut document = Document::new();
    let language = Metadata::new().title(report.title.clone()).language("en".into());
    document.set_metadata(language);
    let count = paper.pages.len();
    for (index, marks) in paper.pages.iter().enumerate() {
        let size = PageSettings::from_wh(WIDTH, HEIGHT).ok_or_else(|| PdfError::Document("the page".into()))?;
        let mut page = document.start_page_with(size);
        let mut surface = page.surface();
        let text = |surface: &mut Surface<'_>, x: f32, y: f32, size: f32, heavy: bool, shade: f32, words: &str| {
            surface.set_stroke(None);
            surface.set_fill(Some(fill(shade)));
            let font = if heavy { bold.clone() } else { regular.clone() };
            surface.draw_text(Point::from_xy(x, y), font, size, words, false, TextDirection::Auto);
        };
        for mark in marks {
            match mark {
                Mark::Text { x, y, size, bold, shade, text: words } => {
                    text(&mut surface, *x, *y, *size, *bold, *shade, words);
                }
                Mark::Line { points, width, shade } => line(&mut surface, points, *width, *shade),
                Mark::Bar { x, y, width, height, shade } => {
                    let Some(area) = Rect::from_xywh(*x, *y, *width, *height) else { continue };
                    let mut path = PathBuilder::new();
                    path.push_rect(area);
                    let Some(path) = path.finish() else { continue };
                    surface.set_stroke(None);
                    surface.set_fill(Some(fill(*shade)));
                    surface.draw_path(&path);
                }
                Mark::Photo { x, y, width, height, photo } => {
                    let (Some(image), Some(size)) = (images.get(*photo), Size::from_wh(*width, *height)) else {
                        continue;
                    };
                    surface.push_transform(&Transform::from_translate(*x, *y));
                    surface.draw_image(image.clone(), size);
                    surface.pop();
                }
            }
        }
        let foot = format!(
            "{}  ·  {}  ·  page {} of {count}",
            report.title,
            report.heads[..2.min(report.heads.len())].join("  ·  "),
            index + 1
        );
        text(&mut surface, MARGIN, HEIGHT - MARGIN + 10.0, 8.0, false, 0.35, &paper.shown(&foot));
        surface.finish();
        page.finish();
    }
    document.finish().map_err(|error| PdfError::Document(format!("{error:?}")))
}

fn fill(shade: f32) -> Fill {
    let level = (shade.clamp(0.0, 1.0) * 255.0) as u8;
    Fill { paint: luma::Color::new(level).into(), opacity: NormalizedF32::ONE, rule: Default::default() }
}

fn line(surface: &mut Surface<'_>, points: &[(f32, f32)], width: f32, shade: f32) {
    let mut path = PathBuilder::new();
    for (index, (x, y)) in points.iter().enumerate() {
        if index == 0 { path.move_to(*x, *y) } else { path.line_to(*x, *y) }
    }
    let Some(path) = path.finish() else { return };
    let level = (shade.clamp(0.0, 1.0) * 255.0) as u8;
    surface.set_fill(None);
    surface.set_stroke(Some(Stroke { paint: luma::Color::new(level).into(), width, ..Stroke::default() }));
    surface.draw_path(&path);
}

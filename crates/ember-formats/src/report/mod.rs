//! A report set as Markdown and as PDF.

mod markdown;
mod paper;
mod pdf;
mod plots;

pub use markdown::markdown;
pub use pdf::{PdfError, pdf};

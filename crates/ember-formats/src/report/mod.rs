//! A report set as Markdown and as PDF.

mod markdown;
#[cfg(feature = "paper")]
mod paper;
#[cfg(feature = "paper")]
mod pdf;
#[cfg(feature = "paper")]
mod plots;

pub use markdown::markdown;
#[cfg(feature = "paper")]
pub use pdf::{PdfError, pdf};

//! Reports as Markdown and as PDF: what was written can be read again.

use ember_core::report::{Bar, Block, PlotMark, PlotPoint, Reader, Report, Section};
use ember_formats::report::{PdfError, markdown, pdf};
use rstest::rstest;

fn report(blocks: Vec<Block>) -> Report {
    Report {
        reader: Reader::Technician,
        title: "Skarn Heft double-cab".into(),
        heads: vec!["No. W-12".into(), "job 3".into(), "61\u{202f}234 km".into()],
        sections: vec![Section { title: "What was found".into(), blocks }],
        foot: "Written by Ines.".into(),
    }
}

fn text(words: &str) -> Block {
    Block::Text { text: words.into(), strong: false }
}

fn read_again(report: &Report) -> String {
    let bytes = pdf(report, |_| None).unwrap();
    assert!(bytes.starts_with(b"%PDF-"));
    pdf_extract::extract_text_from_mem(&bytes).unwrap().split_whitespace().collect::<Vec<_>>().join(" ")
}

#[test]
fn the_text_of_a_pdf_can_be_read_again() {
    let text = read_again(&report(vec![text("Unmetered air on bank 1: 2.2 mm, coil 3 ↔ 1, 0.43 Ω at 20 °C.")]));
    for part in [
        "Skarn Heft double-cab",
        "No. W-12",
        "What was found",
        "coil 3 ↔ 1, 0.43 Ω at 20 °C",
        "Written by Ines.",
        "page 1 of 1",
    ] {
        assert!(text.contains(part), "{part} is not in {text}");
    }
}

#[test]
fn a_long_table_goes_over_pages_with_its_head_on_each() {
    let rows = (0..200)
        .map(|n| vec![n.to_string(), format!("entry number {n} with some words that wrap in its column")])
        .collect();
    let table = Block::Table { head: vec!["Entry".into(), "Wording".into()], rows };
    let text = read_again(&report(vec![table]));
    let pages = text.matches(" of 4").count().max(text.matches(" of 5").count()).max(text.matches(" of 6").count());
    assert!(pages >= 4, "{pages} pages");
    assert_eq!(text.matches("Wording").count(), pages);
    assert!((0..200).all(|n| text.contains(&format!("entry number {n} with"))));
}

#[test]
fn plots_and_lists_are_set_with_their_words() {
    let curve = Block::Curve {
        title: "How sure".into(),
        across: "km since".into(),
        up: "sure, %".into(),
        points: (0..50).map(|n| PlotPoint { across: f64::from(n) * 10.0, up: 90.0 + f64::from(n) * 0.19 }).collect(),
        marks: vec![PlotMark { across: 300.0, words: "now: 300 km".into() }],
        level: Some(95.0),
    };
    let bars = Block::Bars {
        title: "Misfires".into(),
        unit: "%".into(),
        bars: vec![Bar { name: "cylinder 2".into(), value: 1.5, low: 1.33, high: 1.69 }],
    };
    let list = Block::List { items: vec!["New plug".into()] };
    let text = read_again(&report(vec![curve, bars, list]));
    for part in [
        "How sure",
        "km since",
        "now: 300 km",
        "95 counts as enough",
        "cylinder 2",
        "1.50 % (1.33 to 1.69)",
        "New plug",
    ] {
        assert!(text.contains(part), "{part} is not in {text}");
    }
}

#[rstest]
#[case::a_word_longer_than_the_line(&"x".repeat(600))]
#[case::signs_the_font_does_not_have("battery 🔋 and 漢字 are dead")]
#[case::nothing("")]
#[case::many_lines(&"line\n".repeat(300))]
#[case::control_signs("a\u{7}b\u{0}c\td")]
fn whatever_was_typed_can_be_set(#[case] words: &str) {
    assert!(!pdf(&report(vec![text(words)]), |_| None).unwrap().is_empty());
}

#[test]
fn a_curve_of_one_point_and_a_photograph_that_is_gone_are_left_out() {
    let curve = Block::Curve {
        title: "One".into(),
        across: String::new(),
        up: String::new(),
        points: vec![PlotPoint { across: 0.0, up: 50.0 }],
        marks: Vec::new(),
        level: None,
    };
    let made = pdf(&report(vec![curve, Block::Photos { photos: vec![3] }]), |_| None);
    assert!(made.is_ok());
    let broken = pdf(&report(vec![Block::Photos { photos: vec![3] }]), |_| Some(b"no picture".to_vec()));
    assert!(matches!(broken, Err(PdfError::Photo(3))));
}

#[test]
fn markdown_holds_everything_and_takes_nothing_for_markup() {
    let table = Block::Table { head: vec!["What".into()], rows: vec![vec!["a | b\nc".into()]] };
    let written = markdown(&report(vec![text("# no heading, *no* [link](x)"), table]));
    assert!(written.starts_with("# Skarn Heft double-cab\n"));
    assert!(written.contains("\\# no heading, \\*no\\* \\[link\\](x)"), "{written}");
    assert!(written.contains("| a \\| b c |"), "{written}");
}

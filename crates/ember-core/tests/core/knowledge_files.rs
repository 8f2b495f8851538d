//! Knowledge files that cannot be used are refused with file, line and reason.

use ember_core::codes::Code;
use ember_core::knowledge::{BUILT_IN, Knowledge, KnowledgeFault, KnowledgeTexts};
use rstest::rstest;

/// The shipped texts with one replacement in one of them.
fn with(file: &str, old: &str, new: &str) -> Result<Knowledge, KnowledgeFault> {
    let changed = |name: &str, text: &'static str| {
        if name != file {
            return text.to_owned();
        }
        assert!(text.contains(old), "{file} has no {old}");
        text.replacen(old, new, 1)
    };
    let texts = [
        changed("misfire", BUILT_IN.misfire),
        changed("swap", BUILT_IN.swap),
        changed("proof", BUILT_IN.proof),
        changed("codes", BUILT_IN.codes),
        changed("trims", BUILT_IN.trims),
        changed("boost", BUILT_IN.boost),
        changed("evidence", BUILT_IN.evidence),
        changed("channels", BUILT_IN.channels),
        changed("parameters", BUILT_IN.parameters),
        changed("units", BUILT_IN.units),
        changed("moves", BUILT_IN.moves),
        changed("cautions", BUILT_IN.cautions),
        changed("bench", BUILT_IN.bench),
        changed("torque", BUILT_IN.torque),
        changed("repair", BUILT_IN.repair),
        changed("coding", BUILT_IN.coding),
    ];
    let [
        misfire,
        swap,
        proof,
        codes,
        trims,
        boost,
        evidence,
        channels,
        parameters,
        units,
        moves,
        cautions,
        bench,
        torque,
        repair,
        coding,
    ] = &texts;
    Knowledge::from_texts(&KnowledgeTexts {
        misfire,
        swap,
        proof,
        codes,
        trims,
        boost,
        evidence,
        channels,
        parameters,
        units,
        moves,
        cautions,
        bench,
        torque,
        repair,
        coding,
        book: BUILT_IN.book,
        code_tests: BUILT_IN.code_tests,
    })
}

#[rstest]
#[case::no_weight_for_a_pattern("misfire", "bank = {", "banks = {", "no weight for bank")]
#[case::no_weight_for_an_outcome("swap", "gone = {", "went = {", "no weight for gone")]
#[case::no_prior_for_a_repair("proof", "handled = {", "touched = {", "no prior for handled")]
#[case::a_step_without_text("moves", "[prove]", "[proved]", "the step prove has no text")]
#[case::no_reason("cautions", "because = \"Aluminium", "why = \"Aluminium", "unknown field `why`")]
#[case::an_unknown_test("bench", "lead-resistance", "lead-weight", "lead-weight")]
#[case::an_unknown_outcome("bench", "\"sound\", \"high\"", "\"sound\", \"heavy\"", "heavy")]
#[case::a_figure_of_the_bench_left_out("bench", "odd = 3.5\n", "", "missing field `odd`")]
#[case::a_meter_without_a_reason("bench", "because = \"Cheap meters", "why = \"Cheap meters", "unknown field `why`")]
#[case::an_unknown_conductor("bench", "conductor = \"copper\"", "conductor = \"string\"", "unknown variant `string`")]
#[case::a_hose_map_without_its_test("bench", "test = \"smoke-intake\"\n", "", "missing field `test`")]
#[case::an_unknown_caution("bench", "ohm = [\"battery\"]", "ohm = [\"flattery\"]", "the caution flattery is not in")]
#[case::no_figure("swap", "cylinder_minutes = 5", "", "missing field `cylinder_minutes`")]
#[case::unknown_figure("misfire", "[decision]", "[decision]\nluck = 7", "unknown field `luck`")]
#[case::unclosed("proof", "[trend]", "[trend", "")]
#[case::unknown_family(
    "codes",
    "family = \"misfire\"",
    "family = \"hiccup\"",
    "the run from P0300 names the unknown family hiccup"
)]
#[case::unknown_direction(
    "codes",
    "directions = [\"detected\"]",
    "directions = [\"sideways\"]",
    "names the unknown direction sideways"
)]
#[case::texts_and_directions(
    "codes",
    "texts = [\"Knock control\"]",
    "texts = [\"Knock control\", \"More\"]",
    "has 2 texts and 1 directions"
)]
#[case::no_code("codes", "from = \"P0300\"", "from = \"P03\"", "P03 is no trouble code")]
#[case::a_signature_missing("trims", "[signatures.exhaust-leak]", "[signatures.one-injector2]", "")]
#[case::edges_that_fall(
    "evidence",
    "load_edges_pct = [0, 20",
    "load_edges_pct = [30, 20",
    "the edges of the map must rise"
)]
#[case::a_value_outside_its_bytes(
    "parameters",
    "at = 0, bytes = 1, scale = 0.39",
    "at = 1, bytes = 1, scale = 0.39",
    "lies outside its bytes"
)]
#[case::an_unknown_channel("parameters", "channel = \"load\"", "channel = \"loaf\"", "names the unknown channel loaf")]
#[case::a_number_twice("parameters", "number = 0x05", "number = 0x04", "has the number of")]
#[case::a_channel_without_a_reason(
    "channels",
    "because = \"Absolute. A charged",
    "why = \"Absolute. A charged",
    "unknown field `why`"
)]
#[case::no_limit("boost", "dead_gain = 0.35", "", "missing field `dead_gain`")]
#[case::a_role_that_is_none("units", "role = \"cause\"", "role = \"culprit\"", "culprit")]
#[case::overlap("codes", "from = \"P0313\"", "from = \"P0312\"", "overlaps another at P0312")]
fn is_refused(#[case] file: &str, #[case] old: &str, #[case] new: &str, #[case] reason: &str) {
    let fault = with(file, old, new).map(|_| ()).unwrap_err();
    assert_eq!(fault.file, format!("knowledge/{file}.toml"));
    assert!(fault.line >= 1 && fault.reason.contains(reason), "{fault}");
}

#[test]
fn a_fault_in_a_run_of_codes_names_its_line() {
    let line = BUILT_IN.codes.lines().position(|line| line.contains("from = \"P0313\"")).unwrap() + 1;
    let fault = with("codes", "from = \"P0313\"", "from = \"P0312\"").map(|_| ()).unwrap_err();
    // The run begins with its heading, a line above its first code.
    assert!((line - 1..=line).contains(&fault.line), "{fault}, and the run is at {line}");
}

#[rstest]
#[case::fault_rate("misfire", "mean = 0.02", "mean = 0.04", |k: &Knowledge| k.misfire.fault_rate.mean)]
#[case::access("swap", "cylinder_minutes = 5", "cylinder_minutes = 0.04", |k: &Knowledge| k.swap.access.cylinder_minutes)]
#[case::enough("proof", "confidence = 0.95", "confidence = 0.04", |k: &Knowledge| k.proof.enough.confidence)]
fn a_workshop_may_change_a_figure(
    #[case] file: &str,
    #[case] old: &str,
    #[case] new: &str,
    #[case] read: fn(&Knowledge) -> f64,
) {
    assert_eq!(read(&with(file, old, new).unwrap()), 0.04);
}

#[test]
fn what_is_not_listed_counts_as_other() {
    let swap = &Knowledge::built_in().swap;
    assert_eq!(swap.part_weight("left-handed widget"), swap.part_weight("other"));
    assert_eq!(swap.part_round("left-handed widget"), 2);
    assert!(swap.part_weight("coil") > swap.part_weight("injector"));
}

#[test]
fn every_caution_and_every_step_reads_as_a_sentence() {
    let knowledge = Knowledge::built_in();
    for (name, caution) in &knowledge.cautions {
        assert!(caution.text.ends_with('.') && caution.text.len() < 140, "{name}: short, and a sentence");
    }
    for (name, step) in &knowledge.moves {
        assert!(!step.because.is_empty() && step.title.len() < 80, "{name}");
    }
}

#[test]
fn no_two_codes_of_a_family_say_the_same() {
    let book = &Knowledge::built_in().codes;
    let mut seen = std::collections::BTreeMap::new();
    for number in 0..0x1000u16 {
        let meaning = book.meaning(Code::from_bytes(number.to_be_bytes()));
        if meaning.direction.is_some() {
            let other = seen.insert((meaning.family.clone(), meaning.text.clone()), meaning.code.clone());
            assert_eq!(other, None, "{} says the same as {other:?}: {}", meaning.code, meaning.text);
        }
    }
    assert!(seen.len() > 400, "the book holds {} codes of P0", seen.len());
}

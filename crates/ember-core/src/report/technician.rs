//! The technician's report: everything, with plots.

use super::{Bar, Block, PlotMark, PlotPoint, ReportGround, Section, km, owner, section, strong, sure, text};
use crate::trail::Finding;
use crate::trail_words::{describe, kind, whole};

pub(super) fn sections(ground: &ReportGround<'_>) -> Vec<Section> {
    let mut list = vec![section("What was found", owner::found(ground))];
    let mut add = |title: &str, blocks: Vec<Block>| {
        if !blocks.is_empty() {
            list.push(section(title, blocks));
        }
    };
    add("Suspects", suspects(ground));
    add("Misfires by cylinder", misfires(ground));
    add("Recordings", recordings(ground));
    add("Measured", measured(ground));
    add("Parts", parts(ground));
    add("Off the car", off(ground));
    add("Numbers and learning", coded(ground));
    add("Proof", proof(ground));
    add("Photographs", photos(ground));
    add("The trail", trail(ground));
    add("Also seen and left alone", vec![text(owner::left_alone(ground))]);
    list
}

fn suspects(ground: &ReportGround<'_>) -> Vec<Block> {
    let Some(shown) = &ground.state.suspects else { return Vec::new() };
    let rows: Vec<Vec<String>> = shown
        .result
        .suspects
        .iter()
        .take(6)
        .map(|one| {
            let speaks: Vec<String> = one
                .speaks
                .iter()
                .take(3)
                .map(|s| format!("{} ({:+.0} decibans)", s.says.trim_end_matches('.'), s.decibans))
                .collect();
            vec![crate::suspects::named(&one.name, &one.target), sure(one.present), speaks.join("; ")]
        })
        .collect();
    if rows.is_empty() {
        return Vec::new();
    }
    vec![Block::Table { head: vec!["What".into(), "How likely".into(), "What speaks".into()], rows }]
}

fn misfires(ground: &ReportGround<'_>) -> Vec<Block> {
    let Some(shown) = &ground.state.misfire else { return Vec::new() };
    let bars = shown
        .result
        .cylinders
        .iter()
        .map(|rate| Bar {
            name: format!("cylinder {}", rate.cylinder),
            value: rate.rate_pct,
            low: rate.low_pct,
            high: rate.high_pct,
        })
        .collect();
    vec![
        text(format!("{}: {} revolutions. {}", shown.when, whole(shown.revolutions), shown.result.says)),
        Block::Bars {
            title: "Misfires, with the interval that holds the true rate in 95 of 100 cases".into(),
            unit: "%".into(),
            bars,
        },
    ]
}

fn recordings(ground: &ReportGround<'_>) -> Vec<Block> {
    let rows: Vec<Vec<String>> = ground
        .state
        .recordings
        .iter()
        .map(|one| {
            let says: Vec<&str> = one.results.iter().map(|result| result.says.as_str()).collect();
            vec![one.name.clone(), one.when.clone(), format!("{:.1} min", one.span_s / 60.0), says.join(" ")]
        })
        .collect();
    if rows.is_empty() {
        return Vec::new();
    }
    vec![Block::Table { head: vec!["Recording".into(), "When".into(), "Length".into(), "What it says".into()], rows }]
}

fn measured(ground: &ReportGround<'_>) -> Vec<Block> {
    let rows: Vec<Vec<String>> = ground
        .state
        .measured
        .iter()
        .map(|one| {
            let entry = ground.entries.iter().find(|entry| entry.number == one.entry);
            let how = entry.map_or_else(String::new, |entry| describe(&entry.finding, ground.knowledge));
            vec![one.entry.to_string(), one.result.title.clone(), one.result.word.clone(), one.result.says.clone(), how]
        })
        .collect();
    if rows.is_empty() {
        return Vec::new();
    }
    let head = ["Entry", "What", "Verdict", "Why", "With what"].map(String::from).to_vec();
    vec![Block::Table { head, rows }]
}

fn parts(ground: &ReportGround<'_>) -> Vec<Block> {
    let mut rows = Vec::new();
    let mut blocks = Vec::new();
    for entry in ground.standing() {
        match &entry.finding {
            Finding::Fitted { part, cylinder, part_number, cost, minutes, supplier, .. } => rows.push(vec![
                entry.number.to_string(),
                part.clone(),
                cylinder.map_or_else(String::new, |c| c.to_string()),
                part_number.clone(),
                supplier.clone(),
                cost.map_or_else(String::new, |cost| format!("{cost:.2}")),
                minutes.map_or_else(String::new, whole),
            ]),
            Finding::OldPart { .. } | Finding::Decided { .. } | Finding::Tightened { .. } => {
                blocks.push(text(format!("{}: {}", kind(&entry.finding), describe(&entry.finding, ground.knowledge))));
            }
            _ => {}
        }
    }
    if !rows.is_empty() {
        let head = ["Entry", "Part", "Cylinder", "Number", "From", "Cost", "Minutes"].map(String::from).to_vec();
        blocks.insert(0, Block::Table { head, rows });
        let spent = ground.state.spent;
        blocks.push(strong(format!(
            "In all {:.2} in parts and {} minutes.",
            spent.parts_cost,
            whole(spent.fitting_minutes)
        )));
    }
    blocks
}

fn off(ground: &ReportGround<'_>) -> Vec<Block> {
    let list = &ground.state.bench_out;
    let mut blocks = Vec::new();
    let was_off = ground.standing().any(|entry| matches!(entry.finding, Finding::Off { .. }));
    if was_off {
        blocks.push(text(list.says.clone()));
    }
    for entry in ground.standing() {
        if let Finding::Started { anyway, .. } = &entry.finding
            && !anyway.is_empty()
        {
            blocks
                .push(strong(format!("Started although not everything was back (entry {}): {anyway}.", entry.number)));
        }
    }
    if !list.off.is_empty() {
        let items = list.off.iter().map(|shown| format!("{}: {}", crate::bench_out::called(&shown.item), shown.wants));
        blocks.push(Block::List { items: items.collect() });
    }
    blocks
}

fn coded(ground: &ReportGround<'_>) -> Vec<Block> {
    let mut blocks = Vec::new();
    for entry in ground.standing() {
        match &entry.finding {
            Finding::Coded { input } => {
                let Ok(result) = crate::coding::coding(input, ground.knowledge) else { continue };
                let rows = input
                    .numbers
                    .iter()
                    .zip(&result.numbers)
                    .map(|(number, shown)| {
                        vec![
                            number.cylinder.map_or_else(String::new, |c| c.to_string()),
                            number.printed_old.clone(),
                            number.stored_before.clone(),
                            number.printed_new.clone(),
                            number.read_back.clone(),
                            shown.says.clone(),
                        ]
                    })
                    .collect();
                let head = ["Cylinder", "Old, printed", "Old, stored", "New, printed", "Read back", "What it says"];
                blocks.push(Block::Table { head: head.map(String::from).to_vec(), rows });
            }
            Finding::Relearned { .. } | Finding::Readiness { .. } => {
                blocks.push(text(format!("{}: {}", kind(&entry.finding), describe(&entry.finding, ground.knowledge))));
            }
            _ => {}
        }
    }
    blocks
}

fn proof(ground: &ReportGround<'_>) -> Vec<Block> {
    let (Some(proof), Some(repair)) = (&ground.state.proof, &ground.state.repair) else { return Vec::new() };
    let mut blocks = Vec::new();
    if let Some(entry) = repair.came_back {
        return vec![strong(format!("It came back: entry {entry}."))];
    }
    if let Some(confidence) = proof.confidence {
        blocks.push(strong(format!("{} sure that it is gone, by {}.", sure(confidence), proof.rests_on)));
    }
    blocks.push(text(format!(
        "Before any running the repair counts as {} sure: {}",
        sure(repair.prior_fixed),
        repair.prior_because
    )));
    if let Some(result) = &proof.result {
        let noticed: Vec<String> = proof.occurrences_km.iter().map(|at| whole(*at)).collect();
        blocks.push(text(format!(
            "Noticed at {} km, watched since {}; repaired at {}, clean until {}. {} Such a silence by chance: {}.",
            noticed.join(", "),
            km(proof.observed_from_km),
            km(proof.repaired_km),
            km(proof.clean_until_km),
            result.says,
            sure(result.silence_by_chance)
        )));
        blocks.push(Block::Curve {
            title: "How sure it is that the fault is gone".into(),
            across: "km without it since the repair".into(),
            up: "sure, %".into(),
            points: result
                .curve
                .iter()
                .map(|point| PlotPoint { across: point.after, up: 100.0 * point.confidence })
                .collect(),
            marks: vec![PlotMark { across: repair.clean_km, words: format!("now: {}", km(repair.clean_km)) }],
            level: Some(100.0 * proof.enough_at),
        });
    }
    for one in &proof.scales {
        if let Some(result) = &one.result {
            blocks.push(text(format!(
                "{} {} without it after {} in {}: {} sure.",
                whole(one.clean),
                one.unit,
                one.occurrences,
                whole(one.watched),
                sure(result.confidence)
            )));
        }
    }
    blocks.extend(proof.provoked.iter().map(|shown| text(shown.says.clone())));
    blocks.extend(proof.readings.iter().map(|pair| text(pair.says.clone())));
    blocks.extend(proof.drive.iter().map(|plan| text(plan.says.clone())));
    blocks
}

fn photos(ground: &ReportGround<'_>) -> Vec<Block> {
    if ground.photos.is_empty() { Vec::new() } else { vec![Block::Photos { photos: ground.photos.to_vec() }] }
}

fn trail(ground: &ReportGround<'_>) -> Vec<Block> {
    let rows = ground
        .entries
        .iter()
        .map(|entry| {
            let counts = ground.state.standing.contains(&entry.number);
            let what =
                if counts { kind(&entry.finding).to_owned() } else { format!("{} (corrected)", kind(&entry.finding)) };
            let effect = ground
                .effects
                .iter()
                .find(|effect| effect.entry == entry.number)
                .map_or_else(String::new, |effect| format!("{}: {}", effect.sure_of, sure(effect.sure)));
            vec![
                entry.number.to_string(),
                entry.at.get(..16).unwrap_or(&entry.at).replace('T', " "),
                km(entry.odometer_km),
                entry.author.clone(),
                what,
                describe(&entry.finding, ground.knowledge),
                effect,
            ]
        })
        .collect();
    let head = ["Entry", "When (UTC)", "Odometer", "By", "Kind", "What", "What it did"].map(String::from).to_vec();
    vec![Block::Table { head, rows }]
}

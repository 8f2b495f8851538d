//! The report of a job: for the owner on one page without jargon, for the technician in full. What it holds is computed
//! here; screens, PDF and Markdown only set it.

mod owner;
mod technician;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::job::{Effect, JobState};
use crate::knowledge::Knowledge;
use crate::trail::Entry;
use crate::trail_words::whole;
use crate::vehicle::Vehicle;

/// For whom it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Reader {
    Owner,
    Technician,
}

/// One piece of a section.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[serde(tag = "block", rename_all = "kebab-case")]
pub enum Block {
    Text {
        text: String,
        strong: bool,
    },
    List {
        items: Vec<String>,
    },
    Table {
        head: Vec<String>,
        rows: Vec<Vec<String>>,
    },
    /// A line over an axis, with marks on it and a level to reach.
    Curve {
        title: String,
        across: String,
        up: String,
        points: Vec<PlotPoint>,
        /// Places on the axis across, with their words.
        marks: Vec<PlotMark>,
        level: Option<f64>,
    },
    /// Values with their intervals, by name.
    Bars {
        title: String,
        unit: String,
        bars: Vec<Bar>,
    },
    /// Photographs of the job.
    Photos {
        photos: Vec<i64>,
    },
}

#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct PlotPoint {
    pub across: f64,
    pub up: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PlotMark {
    pub across: f64,
    pub words: String,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Bar {
    pub name: String,
    pub value: f64,
    pub low: f64,
    pub high: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Section {
    pub title: String,
    pub blocks: Vec<Block>,
}

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Report {
    pub reader: Reader,
    pub title: String,
    /// Fleet number, job, odometer, day, state: in this order.
    pub heads: Vec<String>,
    pub sections: Vec<Section>,
    pub foot: String,
}

/// What a report is made from.
pub struct ReportGround<'a> {
    pub vehicle: &'a Vehicle,
    pub job: i64,
    /// RFC 3339 in UTC.
    pub opened_at: &'a str,
    pub entries: &'a [Entry],
    pub state: &'a JobState,
    pub effects: &'a [Effect],
    /// The job's photographs.
    pub photos: &'a [i64],
    pub knowledge: &'a Knowledge,
}

impl ReportGround<'_> {
    fn standing(&self) -> impl Iterator<Item = &Entry> {
        self.entries.iter().filter(|entry| self.state.standing.contains(&entry.number))
    }
}

/// Makes the report.
pub fn report(ground: &ReportGround<'_>, reader: Reader) -> Report {
    let day = ground.opened_at.split('T').next().unwrap_or_default();
    let heads = vec![
        format!("No. {}", ground.vehicle.fleet_no),
        format!("job {}", ground.job),
        km(ground.state.odometer_km),
        format!("opened {day}"),
        if ground.state.closed { "closed".into() } else { "still open".into() },
    ];
    let sections = match reader {
        Reader::Owner => owner::sections(ground),
        Reader::Technician => technician::sections(ground),
    };
    let mut authors: Vec<&str> = Vec::new();
    for entry in ground.standing() {
        if !authors.contains(&entry.author.as_str()) {
            authors.push(&entry.author);
        }
    }
    let foot = format!(
        "Written by {} with Gritty Ember. Local law and the maker's instructions come first.",
        authors.join(" and ")
    );
    Report { reader, title: ground.vehicle.name.clone(), heads, sections, foot }
}

fn text(text: impl Into<String>) -> Block {
    Block::Text { text: text.into(), strong: false }
}

fn strong(text: impl Into<String>) -> Block {
    Block::Text { text: text.into(), strong: true }
}

fn section(title: &str, blocks: Vec<Block>) -> Section {
    Section { title: title.into(), blocks }
}

pub(crate) fn km(value: f64) -> String {
    format!("{} km", whole(value))
}

/// A probability as a percentage that is never rounded to certainty.
pub(crate) fn sure(probability: f64) -> String {
    let value = 100.0 * probability;
    if value > 99.9 {
        return "more than 99.9 %".into();
    }
    if value < 0.1 {
        return "less than 0.1 %".into();
    }
    if !(1.0..99.0).contains(&value) { format!("{value:.1} %") } else { format!("{value:.0} %") }
}

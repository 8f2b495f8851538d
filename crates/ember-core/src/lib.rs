//! The rules and the computation of Gritty Ember.
//!
//! This crate reads no files, knows no clock, no network, no SQL and no web: the same input gives the same figure,
//! whoever asks. The figures that are matters of judgement stand in `knowledge/` with their reasons.

pub mod bench;
pub mod bench_out;
pub mod boost;
pub mod circuit;
pub mod codes;
pub mod coding;
pub mod decide;
pub mod depot;
pub mod engine;
pub mod frames;
pub mod job;
pub mod knowledge;
pub mod misfire;
pub mod next_move;
pub mod proof;
mod proportion;
pub mod quantity;
mod rates;
pub mod reckon;
pub mod recording;
pub mod refusal;
pub mod report;
pub mod suspects;
pub mod swap;
pub mod torque;
pub mod trail;
pub mod trail_words;
pub mod trims;
pub mod unit;
pub mod units;
pub mod vehicle;
pub mod waveform;
pub mod whereabouts;

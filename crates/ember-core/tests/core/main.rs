//! The tests of the core as one program: each a file about one noun. One program, because linking one for every file took
//! longer than all of the tests together.

mod suspects {
    pub mod cases;
    pub mod policies;
}

mod bench;
mod bench_evidence;
mod bench_out_laws;
mod bench_readings;
mod bench_stories;
mod boost;
mod carried_on;
mod circuits;
mod code_book;
mod conversation;
mod deciding;
mod depot_figures;
mod engines;
mod entry_words;
mod frames;
mod full_request;
mod job;
mod job_measured;
mod job_recordings;
mod job_repair;
mod job_suspects;
mod knowledge_files;
mod proof_drive;
mod proof_laws;
mod proof_population;
mod reckoning;
mod recordings;
mod reports;
mod resistance;
mod signatures;
mod suspect_book;
mod suspect_calibration;
mod suspect_cases;
mod suspect_laws;
mod suspect_policies;
mod suspect_vehicles;
mod suspect_weights;
mod swap_laws;
mod sweeps;
mod torque;
mod traces;
mod trail_checks;
mod trims;
mod units_and_channels;
mod waveforms;
mod whereabouts;

//! The tests of this crate as one program: each a file about one noun. One program, because linking one for every file takes
//! longer than all of the tests together.

mod bundles;
mod captures;
mod counter_files;
mod layouts;
mod logs;
mod reports;
mod waveforms;

//! The tests of this crate as one program: each a file about one noun. One program, because linking one for every file takes
//! longer than all of the tests together.

mod car;
mod drive;
mod evidence;
mod instruments;
mod scope_laws;
mod waveforms;

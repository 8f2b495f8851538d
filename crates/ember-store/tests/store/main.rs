//! The tests of this crate as one program: each a file about one noun. One program, because linking one for every file takes
//! longer than all of the tests together.

mod backups;
mod bench_in_the_store;
mod finding_again;
mod recordings;
mod trail_in_the_store;

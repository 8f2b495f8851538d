//! The tests of this crate as one program: each a file about one noun. One program, because linking one for every file takes
//! longer than all of the tests together.

mod api;
mod bench_api;
mod files_command;
mod reckon_command;
mod repair_api;
mod scanning;
mod served;
mod serving;

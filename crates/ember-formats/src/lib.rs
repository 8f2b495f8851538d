//! Open formats in and out: logs and counter tables as CSV.

pub mod counters;

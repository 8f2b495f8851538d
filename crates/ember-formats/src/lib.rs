//! Open formats in and out: counter tables and logs as CSV, CAN captures as text, jobs as JSON.

pub mod bundle;
pub mod capture;
pub mod channels_out;
pub mod counters;
pub mod log;
pub mod report;
pub mod waveform;

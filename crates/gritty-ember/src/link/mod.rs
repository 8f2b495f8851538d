//! The link to a car: a connection to an adapter, the scan, live data, recording, and driven outputs.

mod live;
mod scan;
mod session;
mod status;
mod wire;

pub use session::{Command, Session};
use status::ScanShown;
pub use status::{Activity, LinkStatus};

//! Simulated cars: an engine model with faults that answers the diagnostic services, as a stand-in for what hangs on
//! the adapter.
//!
//! Nothing here is random beyond its seed: the same car, faults and seed give the same drive.

mod car;
mod drive;
mod fault;
pub mod instruments;
mod model;
mod outputs;
mod profile;
pub mod scope;
mod server;

pub use car::Car;
pub use fault::Fault;
pub use model::{Model, State};
pub use outputs::{Output, outputs};
pub use profile::{Burns, Profile, UnitProfile, fleet, profile};
pub use server::{Adapter, Trouble, serve};

/// A simulated car that cannot be made.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum SimError {
    #[error("vehicle: there is no simulated {0}; there are {all}", all = fleet().join(", "))]
    UnknownVehicle(String),
    #[error("fault: {0}")]
    UnknownFault(String),
    #[error("fault: {0}")]
    DoesNotFit(String),
    #[error("listen: {0}")]
    Address(String),
}

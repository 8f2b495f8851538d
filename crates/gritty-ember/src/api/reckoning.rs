//! The computations, each under its name.

use actix_web::{HttpResponse, get, post, web};
use ember_core::bench::resistance::{ResistanceInput, ResistanceResult};
use ember_core::boost::{ActuatorInput, ActuatorResult, BoostInput, BoostResult};
use ember_core::circuit::{CircuitInput, CircuitResult};
use ember_core::coding::{CodingInput, CodingResult};
use ember_core::decide::{DecideInput, DecideResult};
use ember_core::engine::{Engine, EngineDescription};
use ember_core::frames::{FramesInput, FramesResult};
use ember_core::misfire::{MisfireInput, MisfireResult};
use ember_core::reckon::{NAMES, reckon};
use ember_core::suspects::{SuspectsInput, SuspectsResult};
use ember_core::swap::plan::{SwapPlanInput, SwapPlanResult};
use ember_core::swap::{SwapInput, SwapResult};
use ember_core::torque::{TorqueInput, TorqueResult};
use ember_core::trims::{TrimsInput, TrimsResult};
use ember_core::waveform::{WaveformInput, WaveformResult};
use serde_json::Value;

use super::{Problem, Workshop, body};

/// The names of all computations.
#[utoipa::path(get, path = "/api/reckon", responses((status = 200, body = Vec<String>)))]
#[get("/api/reckon")]
pub async fn names() -> HttpResponse {
    HttpResponse::Ok().json(NAMES)
}

/// One handler and one description for each computation with types of its own.
macro_rules! computation {
    ($handler:ident, $name:literal, $path:literal, $input:ty, $output:ty, $says:literal) => {
        #[doc = $says]
        #[utoipa::path(post, path = $path, request_body = $input,
                                            responses((status = 200, body = $output), (status = 422, body = Problem)))]
        #[post($path)]
        pub async fn $handler(workshop: web::Data<Workshop>, bytes: web::Bytes) -> Result<HttpResponse, Problem> {
            run($name, &workshop, &bytes)
        }
    };
}

computation!(
    engine,
    "engine",
    "/api/reckon/engine",
    EngineDescription,
    Engine,
    "Checks an engine and derives its relations."
);
computation!(
    misfire,
    "misfire",
    "/api/reckon/misfire",
    MisfireInput,
    MisfireResult,
    "Misfire rates and their pattern."
);
computation!(swap, "swap", "/api/reckon/swap", SwapInput, SwapResult, "Judges a swap test.");
computation!(swap_plan, "swap-plan", "/api/reckon/swap-plan", SwapPlanInput, SwapPlanResult, "Plans a swap test.");
computation!(
    proof,
    "proof",
    "/api/reckon/proof",
    Value,
    Value,
    "How sure it is that a fault is gone. The unit is in the field names."
);
computation!(
    suspects,
    "suspects",
    "/api/reckon/suspects",
    SuspectsInput,
    SuspectsResult,
    "What it may be, and what to test next."
);
computation!(
    trims,
    "trims",
    "/api/reckon/trims",
    TrimsInput,
    TrimsResult,
    "What fuel trims say, and how large a hole."
);
computation!(
    boost,
    "boost",
    "/api/reckon/boost",
    BoostInput,
    BoostResult,
    "Judges charge pressure against its request."
);
computation!(
    actuator,
    "actuator",
    "/api/reckon/actuator",
    ActuatorInput,
    ActuatorResult,
    "Judges the settings of an actuator's rod."
);
computation!(
    resistance,
    "resistance",
    "/api/reckon/resistance",
    ResistanceInput,
    ResistanceResult,
    "Judges a resistance with its leads, its temperature and its meter."
);
computation!(
    circuit,
    "circuit",
    "/api/reckon/circuit",
    CircuitInput,
    CircuitResult,
    "Judges the pins, the path, the voltages and the travel of a circuit."
);
computation!(
    waveform,
    "waveform",
    "/api/reckon/waveform",
    WaveformInput,
    WaveformResult,
    "Reads a capture of a scope."
);
computation!(
    torque,
    "torque",
    "/api/reckon/torque",
    TorqueInput,
    TorqueResult,
    "Stages, order and steps of tightening."
);
computation!(decide, "decide", "/api/reckon/decide", DecideInput, DecideResult, "Weighs what can be bought.");
computation!(
    coding,
    "coding",
    "/api/reckon/coding",
    CodingInput,
    CodingResult,
    "Compares numbers that were written into a control unit."
);
computation!(frames, "frames", "/api/reckon/frames", FramesInput, FramesResult, "Decodes diagnostic frames.");
computation!(codes, "codes", "/api/reckon/codes", Value, Value, "Explains trouble codes.");

/// Any other name.
pub async fn unknown(
    name: web::Path<String>,
    workshop: web::Data<Workshop>,
    bytes: web::Bytes,
) -> Result<HttpResponse, Problem> {
    run(&name, &workshop, &bytes)
}

fn run(name: &str, workshop: &Workshop, bytes: &[u8]) -> Result<HttpResponse, Problem> {
    let input: Value = body(bytes)?;
    Ok(HttpResponse::Ok().json(reckon(name, &input, workshop.knowledge)?))
}

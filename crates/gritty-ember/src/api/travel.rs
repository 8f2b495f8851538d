//! A travel taken out of what was recorded: the values of one channel, with a position and a second track beside it.

use actix_web::{get, web};
use ember_core::circuit::sweep::{SweepPoint, thinned_travel};
use ember_core::refusal::Refusal;
use serde::Deserialize;
use utoipa::IntoParams;

use super::{Problem, Workshop, in_store};

/// More points than this carry no more of a movement by hand, and would stand on the trail for ever.
const MOST_POINTS: usize = 4_000;

#[derive(Debug, Clone, Deserialize, IntoParams)]
#[serde(deny_unknown_fields)]
pub struct Stretch {
    /// The channel that should follow the movement.
    pub channel: String,
    /// The channel that says where the mechanism stood.
    pub position: Option<String>,
    /// The second track of a sensor that has two.
    pub second: Option<String>,
    pub from_s: Option<f64>,
    pub to_s: Option<f64>,
}

/// What was asked for, sample by sample.
struct Taken {
    time_s: Vec<f64>,
    value: Vec<f32>,
    position: Option<Vec<f32>>,
    second: Option<Vec<f32>>,
}

impl Stretch {
    fn names(&self) -> Vec<String> {
        [Some(&self.channel), self.position.as_ref(), self.second.as_ref()].into_iter().flatten().cloned().collect()
    }

    /// The points of the stretch, out of columns that are found by their names.
    fn points(
        &self,
        column: impl Fn(&str) -> Option<Vec<f32>>,
        time_s: impl Fn(usize) -> Vec<f64>,
    ) -> Result<Vec<SweepPoint>, Refusal> {
        let found = |name: &str, field: &str| {
            column(name).ok_or_else(|| Refusal::new(field, format!("there is no channel {name}")))
        };
        let value = found(&self.channel, "channel")?;
        let taken = Taken {
            time_s: time_s(value.len()),
            position: self.position.as_deref().map(|name| found(name, "position")).transpose()?,
            second: self.second.as_deref().map(|name| found(name, "second")).transpose()?,
            value,
        };
        let (from, to) = (self.from_s.unwrap_or(f64::NEG_INFINITY), self.to_s.unwrap_or(f64::INFINITY));
        if from.is_nan() || to.is_nan() || from >= to {
            return Err(Refusal::new("from_s", "must lie before to_s"));
        }
        let begin = taken.time_s.first().copied().unwrap_or(0.0);
        let points: Vec<SweepPoint> = (0..taken.time_s.len())
            .filter(|&at| (from..=to).contains(&(taken.time_s[at] - begin)))
            .filter_map(|at| {
                let of = |list: &Option<Vec<f32>>| list.as_ref().map(|values| f64::from(values[at]));
                let point = SweepPoint {
                    value: f64::from(taken.value[at]),
                    position: of(&taken.position),
                    second: of(&taken.second),
                };
                let whole = [Some(point.value), point.position, point.second].into_iter().flatten().all(f64::is_finite);
                whole.then_some(point)
            })
            .collect();
        if points.is_empty() {
            return Err(Refusal::new("channel", "nothing was recorded in this stretch"));
        }
        Ok(thinned_travel(points, MOST_POINTS))
    }
}

/// A travel out of a recording.
#[utoipa::path(get, operation_id = "recordings_travel", path = "/api/recordings/{id}/travel", params(("id" = i64, Path), Stretch),
    responses((status = 200, body = Vec<SweepPoint>), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/api/recordings/{id}/travel")]
pub async fn of_recording(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    stretch: web::Query<Stretch>,
) -> Result<web::Json<Vec<SweepPoint>>, Problem> {
    let (id, stretch) = (*id, stretch.into_inner());
    let names = stretch.names();
    let recording = in_store(&workshop, move |store| store.load_recording(id, Some(&names))).await?;
    let time_s = recording.time_s;
    Ok(web::Json(stretch.points(|name| recording.channels.get(name).cloned(), |_| time_s.clone())?))
}

/// A travel out of a capture of the scope.
#[utoipa::path(get, operation_id = "captures_travel", path = "/api/captures/{id}/travel", params(("id" = i64, Path), Stretch),
    responses((status = 200, body = Vec<SweepPoint>), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/api/captures/{id}/travel")]
pub async fn of_capture(
    workshop: web::Data<Workshop>,
    id: web::Path<i64>,
    stretch: web::Query<Stretch>,
) -> Result<web::Json<Vec<SweepPoint>>, Problem> {
    let (id, stretch) = (*id, stretch.into_inner());
    let names = stretch.names();
    let capture = in_store(&workshop, move |store| store.load_capture(id, Some(&names))).await?;
    let column = |name: &str| capture.channels.iter().find(|one| one.name == name).map(|one| one.samples.clone());
    let time_s = |samples: usize| (0..samples).map(|at| at as f64 * capture.step_s).collect();
    Ok(web::Json(stretch.points(column, time_s)?))
}

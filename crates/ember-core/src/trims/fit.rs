//! The fit of one bank: needed fuel factor against air flow.

use nalgebra::{DMatrix, DVector};
use serde::Serialize;
use statrs::distribution::{ContinuousCDF, StudentsT};
use utoipa::ToSchema;

use super::{Hole, TrimPoint, TrimsKnowledge, at_limit, factor};

/// How often the weights are made anew: Huber's weights settle in a few rounds.
const ROUNDS: usize = 40;

/// A point of the drawn curve, with its 95 % band.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct TrimCurvePoint {
    pub airflow_gps: f64,
    pub trim_pct: f64,
    pub low_pct: f64,
    pub high_pct: f64,
}

/// F = A + B ψ/ṁ + C ṁ with its covariance.
pub struct BankFit {
    /// Which of A, B, C were fitted.
    terms: Vec<Term>,
    beta: DVector<f64>,
    covariance: DMatrix<f64>,
    t: f64,
    flows: (f64, f64),
    /// Mean ψ over ln ṁ, as a straight line, to draw the curve by.
    psi_line: (f64, f64),
}

#[derive(Clone, Copy, PartialEq)]
enum Term {
    Offset,
    Air,
    Delivery,
}

impl BankFit {
    /// Fits the closed-loop points of one bank; `None` with fewer than two flows.
    pub fn of(points: &[&TrimPoint], metered: bool, hole: &Hole, rules: &TrimsKnowledge) -> Option<BankFit> {
        let mut flows: Vec<f64> = points.iter().map(|p| p.airflow_gps).collect();
        flows.sort_by(f64::total_cmp);
        let mut distinct = 0;
        let mut last = f64::NEG_INFINITY;
        for &flow in &flows {
            if flow > last * (1.0 + rules.fit.distinct_share) {
                distinct += 1;
                last = flow;
            }
        }
        let (least, most) = (*flows.first()?, *flows.last()?);
        if distinct < 2 {
            return None;
        }
        let mut terms = vec![Term::Offset];
        if metered {
            terms.push(Term::Air);
        }
        if distinct >= 3 && most >= rules.fit.span_for_delivery * least {
            terms.push(Term::Delivery);
        }
        let psi: Vec<f64> = points.iter().map(|p| p.map_kpa.map_or(1.0, |map| hole.psi(map))).collect();
        let rows = points.len();
        let x = DMatrix::from_fn(rows, terms.len(), |r, c| term(terms[c], points[r].airflow_gps, psi[r]));
        let y = DVector::from_iterator(rows, points.iter().map(|p| factor(p)));
        let bound: Vec<f64> =
            points.iter().map(|p| if at_limit(p, rules) { (p.short_pct + p.long_pct).signum() } else { 0.0 }).collect();
        let noise = rules.fit.noise_pct / 100.0;
        let (beta, weights, scale) = huber(&x, &y, &bound, rules.fit.huber, noise)?;
        let freedom = (weights.iter().filter(|&&w| w > 0.0).count() as f64 - terms.len() as f64).max(0.0);
        let residuals = &y - &x * &beta;
        let squares: f64 = residuals
            .iter()
            .zip(weights.iter())
            .map(|(r, w)| w * r.clamp(-rules.fit.huber * 3.0 * scale, rules.fit.huber * 3.0 * scale).powi(2))
            .sum();
        let known = rules.fit.noise_weight;
        let variance = (squares + known * noise * noise) / (freedom + known);
        let information = weighted_gram(&x, &weights);
        let covariance = information.try_inverse()? * variance;
        Some(BankFit {
            t: t_quantile(freedom + known),
            terms,
            beta,
            covariance,
            flows: (least, most),
            psi_line: line(points.iter().map(|p| p.airflow_gps.ln()).zip(psi.iter().copied())),
        })
    }

    fn at(&self, wanted: Term) -> Option<usize> {
        self.terms.iter().position(|&t| t == wanted)
    }

    pub fn a(&self) -> f64 {
        self.beta[0]
    }

    pub fn a_interval(&self) -> (f64, f64) {
        let half = self.t * self.covariance[(0, 0)].max(0.0).sqrt();
        (self.a() - half, self.a() + half)
    }

    pub fn c(&self) -> f64 {
        self.at(Term::Delivery).map_or(0.0, |i| self.beta[i])
    }

    /// B with an interval that covers both meanings of A: an error of the meter (the leak is B) and a fuel pressure
    /// that is off (the leak is B/A). `None` where air is not metered by flow.
    pub fn leak(&self) -> Option<(f64, f64, f64)> {
        let i = self.at(Term::Air)?;
        let b = self.beta[i];
        let half = self.t * self.covariance[(i, i)].max(0.0).sqrt();
        let (low, high) = (b - half, b + half);
        let a = self.a();
        if a <= 0.2 {
            return Some((b, low, high));
        }
        Some((b, low.min(low / a), high.max(high / a)))
    }

    pub fn curve(&self) -> Vec<TrimCurvePoint> {
        const STEPS: usize = 48;
        let (least, most) = self.flows;
        (0..=STEPS)
            .map(|step| {
                let flow = least * (most / least).powf(step as f64 / STEPS as f64);
                let psi = (self.psi_line.0 + self.psi_line.1 * flow.ln()).clamp(-1.5, 1.0);
                let row = DVector::from_iterator(self.terms.len(), self.terms.iter().map(|&t| term(t, flow, psi)));
                let value = row.dot(&self.beta);
                let half = self.t * (row.dot(&(&self.covariance * &row))).max(0.0).sqrt();
                let pct = |f: f64| 100.0 * (f - 1.0);
                TrimCurvePoint {
                    airflow_gps: flow,
                    trim_pct: pct(value),
                    low_pct: pct(value - half),
                    high_pct: pct(value + half),
                }
            })
            .collect()
    }
}

fn term(term: Term, flow: f64, psi: f64) -> f64 {
    match term {
        Term::Offset => 1.0,
        Term::Air => psi / flow,
        Term::Delivery => flow,
    }
}

fn weighted_gram(x: &DMatrix<f64>, weights: &[f64]) -> DMatrix<f64> {
    let n = x.ncols();
    let mut gram = DMatrix::zeros(n, n);
    for (r, w) in weights.iter().enumerate() {
        for i in 0..n {
            for j in 0..n {
                gram[(i, j)] += w * x[(r, i)] * x[(r, j)];
            }
        }
    }
    gram
}

/// Iteratively reweighted least squares with Huber's weights. A bound (`+1`: at least, `-1`: at most) that the fit
/// already satisfies has no weight.
fn huber(
    x: &DMatrix<f64>,
    y: &DVector<f64>,
    bound: &[f64],
    tuning: f64,
    noise: f64,
) -> Option<(DVector<f64>, Vec<f64>, f64)> {
    let mut weights = vec![1.0; y.len()];
    let mut beta = DVector::zeros(x.ncols());
    let mut scale = noise;
    for round in 0..ROUNDS {
        let gram = weighted_gram(x, &weights);
        let mut right = DVector::zeros(x.ncols());
        for (r, w) in weights.iter().enumerate() {
            for c in 0..x.ncols() {
                right[c] += w * x[(r, c)] * y[r];
            }
        }
        let next: DVector<f64> = gram.lu().solve(&right)?;
        let moved = (&next - &beta).amax();
        beta = next;
        let residuals = y - x * &beta;
        // The median of the residuals' sizes over 0.6745 is the spread of a normal distribution with outliers.
        let mut sizes: Vec<f64> = residuals.iter().map(|r| r.abs()).collect();
        let middle = sizes.len() / 2;
        let median = *sizes.select_nth_unstable_by(middle, f64::total_cmp).1;
        scale = (median / 0.6745).max(noise / 4.0);
        for (r, residual) in residuals.iter().enumerate() {
            let size = residual.abs() / scale;
            let satisfied = bound[r] * residual < 0.0;
            weights[r] = if satisfied {
                0.0
            } else if size <= tuning {
                1.0
            } else {
                tuning / size
            };
        }
        if weights.iter().filter(|&&w| w > 0.0).count() < x.ncols() {
            // Nothing but satisfied bounds is left: they say no more than what the last round had.
            weights = vec![1.0; y.len()];
            break;
        }
        if round > 0 && moved < 1e-12 {
            break;
        }
    }
    Some((beta, weights, scale))
}

/// A straight line through points by least squares: (offset, slope).
fn line(points: impl Iterator<Item = (f64, f64)> + Clone) -> (f64, f64) {
    let n = points.clone().count() as f64;
    let (mx, my) = points.clone().fold((0.0, 0.0), |(a, b), (x, y)| (a + x / n, b + y / n));
    let (sxx, sxy) = points.fold((0.0, 0.0), |(a, b), (x, y)| (a + (x - mx).powi(2), b + (x - mx) * (y - my)));
    let slope = if sxx > 0.0 { sxy / sxx } else { 0.0 };
    (my - slope * mx, slope)
}

/// The 97.5 % point of Student's t.
pub(crate) fn t_quantile(freedom: f64) -> f64 {
    StudentsT::new(0.0, 1.0, freedom.max(1.0)).map_or(1.96, |t| t.inverse_cdf(0.975))
}

//! Following the next move against a fixed order of tests, on a part of the cases; all of them stand in
//! `docs/next-move.md`.

use crate::suspects::cases;
use crate::suspects::policies;
use policies::{Car, Way, fixed_orders};

#[test]
fn the_next_move_reaches_the_cause_in_fewer_minutes_than_fixed_orders_do() {
    let vehicles = cases::vehicles();
    let all = cases::all();
    let cars: Vec<Car<'_>> = all.iter().step_by(9).map(|case| Car::new(case, &vehicles)).collect();
    let mean = |ways: &[Way]| ways.iter().map(|way| way.minutes).sum::<f64>() / ways.len() as f64;
    let followed: Vec<Way> = cars.iter().map(Car::by_next_move).collect();
    assert!(followed.iter().all(|way| way.reached), "{followed:?}");
    for (name, order) in fixed_orders().into_iter().take(2) {
        let fixed: Vec<Way> = cars.iter().map(|car| car.by_fixed_order(&order)).collect();
        assert!(mean(&followed) < 0.6 * mean(&fixed), "{name}: {} and {}", mean(&followed), mean(&fixed));
    }
    let in_vain: usize = followed.iter().map(|way| way.in_vain).sum();
    assert!(in_vain <= cars.len() / 3, "{in_vain} parts fitted in vain on {} cars", cars.len());
    assert!(followed.iter().map(|way| way.tests).sum::<usize>() > 0);
}

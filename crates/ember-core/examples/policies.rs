//! Writes `docs/next-move.md`: what the next move takes on the written cases, and what fixed orders of tests take.
//!
//! `cargo run --release -p ember-core --example policies > docs/next-move.md`

#[path = "../tests/core/suspects/cases.rs"]
#[allow(dead_code, reason = "each test uses its part of the cases")]
mod cases;
#[path = "../tests/core/suspects/policies.rs"]
mod policies;

use policies::{Car, Way, fixed_orders};

fn main() {
    let vehicles = cases::vehicles();
    let all = cases::all();
    let cars: Vec<Car<'_>> = all.iter().map(|case| Car::new(case, &vehicles)).collect();
    let mut rows: Vec<(String, Vec<Way>)> =
        vec![("following the next move".to_owned(), cars.iter().map(Car::by_next_move).collect())];
    for (name, order) in fixed_orders() {
        rows.push((name.to_owned(), cars.iter().map(|car| car.by_fixed_order(&order)).collect()));
    }
    println!("# The next move against fixed orders of tests\n");
    println!(
        "Made by `cargo run --release -p ember-core --example policies` from the {} cases of `knowledge/cases`. Each starts \
         with the complaint alone. A test is answered as the case says, else with the likeliest outcome on a car with that \
         cause. The cause is reached when it leads with 80 % or is the part that is fitted; parts fitted in vain count with \
         their minutes and a check, and a search that does not reach it with the 360 minutes of handing the car over. A \
         fixed order makes its tests only at the cylinder or bank where the cause sits, which it could not know, and passes \
         over tests that the vehicle does not have.\n",
        all.len()
    );
    println!("| way | mean minutes | median minutes | tests | fitted in vain | reached |");
    println!("| --- | ---: | ---: | ---: | ---: | ---: |");
    for (name, ways) in &rows {
        let n = ways.len() as f64;
        let mut minutes: Vec<f64> = ways.iter().map(|way| way.minutes).collect();
        minutes.sort_by(f64::total_cmp);
        println!(
            "| {name} | {:.0} | {:.0} | {:.1} | {:.2} | {} of {} |",
            minutes.iter().sum::<f64>() / n,
            minutes[minutes.len() / 2],
            ways.iter().map(|way| way.tests as f64).sum::<f64>() / n,
            ways.iter().map(|way| way.in_vain as f64).sum::<f64>() / n,
            ways.iter().filter(|way| way.reached).count(),
            ways.len()
        );
    }
    println!("\n## Case by case\n");
    println!("| case | next move: minutes | tests | in vain | best fixed order: minutes |");
    println!("| --- | ---: | ---: | ---: | ---: |");
    for (index, case) in all.iter().enumerate() {
        let way = rows[0].1[index];
        let best = rows[1..].iter().map(|(_, ways)| ways[index].minutes).fold(f64::INFINITY, f64::min);
        println!(
            "| {} | {:.0}{} | {} | {} | {best:.0} |",
            case.name,
            way.minutes,
            if way.reached { "" } else { " (not reached)" },
            way.tests,
            way.in_vain
        );
    }
}

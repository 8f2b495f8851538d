//! `gritty-ember sim`: a simulated car on a port, or a drive of it into a file.

use std::io::Write;
use std::net::SocketAddr;
use std::path::Path;

use ember_core::frames::{Frame, segments, write_line};
use ember_sim::instruments::{SimProbe, capture};
use ember_sim::{Adapter, Car, Fault, Model, Profile, Trouble, profile, serve};

/// The least step of the simulated scope's converter, a power of two so that its text is short.
const RESOLUTION: f32 = 1.0 / 128.0;

/// What is simulated.
pub struct Wanted {
    pub vehicle: String,
    pub faults: Vec<String>,
    pub seed: u64,
    pub rate: f64,
    pub trouble: Trouble,
}

/// # Errors
/// No such car; a fault that is none or that the car cannot have.
pub fn make(wanted: &Wanted) -> Result<(Profile, Vec<Fault>), ember_sim::SimError> {
    let car = profile(&wanted.vehicle)?;
    let faults = wanted.faults.iter().map(|text| Fault::parse(text, &car)).collect::<Result<Vec<_>, _>>()?;
    Ok((car, faults))
}

/// Puts the car on its port.
///
/// # Errors
/// As [`make`]; the address cannot be listened on.
pub fn adapter(wanted: &Wanted, listen: SocketAddr) -> Result<Adapter, Box<dyn std::error::Error>> {
    let (car, faults) = make(wanted)?;
    Ok(serve(car, faults, wanted.seed, wanted.rate, wanted.trouble, listen)?)
}

/// Drives for so many seconds and writes the channels as CSV, so many rows a second.
///
/// # Errors
/// As [`make`]; the file cannot be written.
pub fn drive_to_csv(
    wanted: &Wanted,
    seconds: f64,
    per_second: f64,
    out: &Path,
) -> Result<(), Box<dyn std::error::Error>> {
    let (car, faults) = make(wanted)?;
    let mut file = std::io::BufWriter::new(std::fs::File::create(out)?);
    let mut model = Model::new(car.clone(), faults, wanted.seed);
    let petrol = car.fuel == ember_sim::Burns::Petrol;
    let mut headings: Vec<String> = vec!["time (s)".into(), "rpm".into(), "load (%)".into()];
    headings.extend(["vehicle speed (km/h)", "coolant (°C)", "intake air temp (°C)", "baro (kPa)"].map(str::to_owned));
    if !car.speed_density {
        headings.push("air flow (g/s)".into());
    }
    headings.push("manifold pressure (kPa)".into());
    if petrol {
        headings.push("closed loop".into());
        for bank in 1..=car.banks.len() {
            headings.extend([format!("STFT{bank} (%)"), format!("LTFT{bank} (%)")]);
        }
    } else if car.charged {
        headings.extend(
            ["requested boost (kPa)", "actual boost (kPa)", "requested vane (%)", "actual vane (%)"].map(str::to_owned),
        );
    }
    if !petrol {
        headings.extend(["requested rail pressure (kPa)", "fuel rail pressure (kPa)"].map(str::to_owned));
    }
    headings.extend((1..=car.cylinders).map(|c| format!("misfires cyl {c}")));
    writeln!(file, "{}", headings.join(","))?;
    let rows = (seconds * per_second).round() as u64;
    for row in 0..=rows {
        let t = row as f64 / per_second;
        model.run_to(t + 1e-9);
        let s = &model.state;
        let mut cells = vec![
            format!("{t:.2}"),
            format!("{:.0}", s.shown_rpm),
            format!("{:.1}", 100.0 * (s.map_kpa / if car.charged { 225.0 } else { s.ambient_kpa }).min(1.0)),
            format!("{:.0}", s.km_h),
            format!("{:.0}", s.coolant_c),
            format!("{:.0}", s.intake_c),
            format!("{:.0}", s.ambient_kpa),
        ];
        if !car.speed_density {
            cells.push(format!("{:.2}", s.airflow_gps));
        }
        cells.push(format!("{:.1}", s.map_kpa));
        if petrol {
            cells.push(u8::from(s.closed_loop).to_string());
            for (short, long) in s.short_pct.iter().zip(&s.long_pct) {
                cells.extend([format!("{short:.1}"), format!("{long:.1}")]);
            }
        } else if car.charged {
            for value in [s.requested_kpa, s.actual_kpa, s.vane_request_pct, s.vane_pct] {
                cells.push(format!("{value:.1}"));
            }
        }
        if !petrol {
            cells.extend([s.rail_request_kpa, s.rail_kpa].map(|value| format!("{value:.0}")));
        }
        cells.extend(s.misfires.iter().map(u16::to_string));
        writeln!(file, "{}", cells.join(","))?;
    }
    file.flush()?;
    Ok(())
}

/// Scans the car and drives for so many seconds, and writes every frame as a capture.
///
/// # Errors
/// As [`make`]; the file cannot be written.
pub fn drive_to_capture(wanted: &Wanted, seconds: f64, out: &Path) -> Result<(), Box<dyn std::error::Error>> {
    let (car, faults) = make(wanted)?;
    let extended = car.long_identifiers;
    let cylinders = car.cylinders;
    let petrol = car.fuel == ember_sim::Burns::Petrol;
    let mut file = std::io::BufWriter::new(std::fs::File::create(out)?);
    let mut simulated = Car::new(car, faults, wanted.seed);
    let all = if extended { 0x18DB_33F1 } else { 0x7DF };
    let mut now = 0.0;
    let mut ask = |simulated: &mut Car, now: &mut f64, request: &[u8]| -> std::io::Result<()> {
        *now += 0.004;
        simulated.run_to(*now);
        let Some(data) = segments(request).first().copied() else { return Ok(()) };
        let frame = Frame { extended, ..Frame::new(*now, all, &data) };
        writeln!(file, "{}", write_line(&frame, "can0"))?;
        let first = simulated.answer(&frame);
        for mut part in first {
            *now += 0.001;
            part.time_s = *now;
            writeln!(file, "{}", write_line(&part, "can0"))?;
            let Some(to) = ember_core::frames::answer_id(part.id, extended) else { continue };
            if part.bytes().first().is_none_or(|b| b >> 4 != 1) {
                continue;
            }
            let leave = Frame { extended, ..Frame::new(*now, to, &[0x30, 0, 0, 0, 0, 0, 0, 0]) };
            writeln!(file, "{}", write_line(&leave, "can0"))?;
            for mut rest in simulated.answer(&leave) {
                *now += 0.001;
                rest.time_s = *now;
                writeln!(file, "{}", write_line(&rest, "can0"))?;
            }
        }
        Ok(())
    };
    for request in [&[0x09, 0x0A][..], &[0x03], &[0x07], &[0x0A], &[0x02, 0x02, 0], &[0x02, 0x0C, 0], &[0x02, 0x05, 0]]
    {
        ask(&mut simulated, &mut now, request)?;
    }
    while now < seconds {
        let round = now;
        let groups: &[&[u8]] = if petrol {
            &[&[0x01, 0x03, 0x04, 0x05, 0x06, 0x07, 0x08], &[0x01, 0x09, 0x0B, 0x0C, 0x0D, 0x10, 0x33]]
        } else {
            &[&[0x01, 0x04, 0x05, 0x0B, 0x0C, 0x0D, 0x10], &[0x01, 0x33], &[0x01, 0x70], &[0x01, 0x71]]
        };
        for &group in groups {
            ask(&mut simulated, &mut now, group)?;
        }
        for cylinder in 0..cylinders {
            ask(&mut simulated, &mut now, &[0x06, 0xA2 + cylinder])?;
        }
        now = now.max(round + 0.5);
    }
    file.flush()?;
    Ok(())
}

/// Holds the simulated scope to a car for so many seconds, and writes its capture as CSV in the steps of its converter.
///
/// # Errors
/// No such car; the file cannot be written.
pub fn scope_to_csv(
    wanted: &Wanted,
    probe: SimProbe,
    seconds: f64,
    out: &Path,
) -> Result<(), Box<dyn std::error::Error>> {
    let engine = crate::demo::engine_of(&wanted.vehicle)?;
    let mut captured = capture(&wanted.vehicle, &engine, probe, wanted.seed)?;
    let rows = ((seconds / captured.step_s).round() as usize).min(captured.samples());
    for channel in &mut captured.channels {
        channel.samples.truncate(rows);
        channel.samples.iter_mut().for_each(|sample| *sample = (*sample / RESOLUTION).round() * RESOLUTION);
    }
    let mut file = std::io::BufWriter::new(std::fs::File::create(out)?);
    ember_formats::waveform::write(&captured, &mut file)?;
    file.flush()?;
    Ok(())
}

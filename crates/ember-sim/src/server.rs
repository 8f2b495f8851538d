//! The adapter's end of the line: a TCP port on which frames go to and fro as text, one a line.

use std::io::{self, BufRead, BufReader, Write};
use std::net::{SocketAddr, TcpListener, TcpStream};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;
use std::time::{Duration, Instant};

use ember_core::frames::{parse_line, write_line};

use crate::car::Car;
use crate::fault::Fault;
use crate::profile::Profile;

/// A link that is not as it should be.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Trouble {
    /// Every so many answers, a line of rubbish instead.
    pub rubbish_every: Option<u32>,
    /// After so many answers the connection drops.
    pub drop_after: Option<u32>,
}

/// Nobody drives on for longer than this while no tester is listening.
const PARKED_S: f64 = 600.0;

/// A simulated car on its port. It stops when it is dropped.
pub struct Adapter {
    pub address: SocketAddr,
    stop: Arc<AtomicBool>,
}

impl Drop for Adapter {
    fn drop(&mut self) {
        self.stop.store(true, Ordering::Relaxed);
        // Wakes the thread that waits for a connection.
        let _ = TcpStream::connect_timeout(&self.address, Duration::from_millis(200));
    }
}

struct Line {
    car: Mutex<Car>,
    began: Instant,
    /// Seconds of driving for each second of the clock.
    rate: f64,
    /// The last time anybody asked, in seconds of driving, and what was left out while nobody did.
    asked: Mutex<(f64, f64)>,
    trouble: Trouble,
    stop: Arc<AtomicBool>,
}

/// Serves a car on a port of this machine until the adapter is dropped.
///
/// # Errors
/// The address cannot be listened on, or is not of this machine.
pub fn serve(
    profile: Profile,
    faults: Vec<Fault>,
    seed: u64,
    rate: f64,
    trouble: Trouble,
    listen: SocketAddr,
) -> io::Result<Adapter> {
    if !listen.ip().is_loopback() {
        return Err(io::Error::new(io::ErrorKind::InvalidInput, "a simulated car listens on this machine only"));
    }
    let listener = TcpListener::bind(listen)?;
    let address = listener.local_addr()?;
    let stop = Arc::new(AtomicBool::new(false));
    let line = Arc::new(Line {
        car: Mutex::new(parked(Car::new(profile, faults, seed))),
        began: Instant::now(),
        rate,
        asked: Mutex::new((0.0, 0.0)),
        trouble,
        stop: Arc::clone(&stop),
    });
    thread::spawn(move || {
        for stream in listener.incoming() {
            if line.stop.load(Ordering::Relaxed) {
                return;
            }
            let Ok(stream) = stream else { continue };
            let line = Arc::clone(&line);
            thread::spawn(move || {
                // A tester that goes away ends its own line only.
                let _ = line.speak(stream);
            });
        }
    });
    Ok(Adapter { address, stop })
}

/// A car that a tester comes to stands with its engine idling.
fn parked(mut car: Car) -> Car {
    car.model.driving = false;
    car
}

impl Line {
    /// Seconds of driving until now; while nobody listened for long, the car was parked.
    fn now(&self) -> f64 {
        let driven = self.began.elapsed().as_secs_f64() * self.rate;
        let mut asked = self.asked.lock().unwrap_or_else(PoisonError::into_inner);
        let idle = driven - asked.0;
        if idle > PARKED_S {
            asked.1 += idle - PARKED_S;
        }
        asked.0 = driven;
        driven - asked.1
    }

    fn speak(&self, stream: TcpStream) -> io::Result<()> {
        stream.set_nodelay(true)?;
        let mut writer = stream.try_clone()?;
        let mut reader = BufReader::new(stream);
        let mut text = Vec::new();
        let mut answers = 0u32;
        loop {
            text.clear();
            if reader.read_until(b'\n', &mut text)? == 0 || self.stop.load(Ordering::Relaxed) {
                return Ok(());
            }
            // The simulated driver hears two words; they are no part of the diagnostics.
            if let Some(word) = text.trim_ascii().strip_prefix(b"!") {
                let mut car = self.car.lock().unwrap_or_else(PoisonError::into_inner);
                car.run_to(self.now());
                car.model.driving = word == b"drive";
                continue;
            }
            let Ok(Some(frame)) = parse_line(&text) else {
                writer.write_all(b"? not a frame\n")?;
                continue;
            };
            let frames = {
                let mut car = self.car.lock().unwrap_or_else(PoisonError::into_inner);
                car.run_to(self.now());
                car.answer(&frame)
            };
            let mut out = String::new();
            for frame in frames {
                answers += 1;
                if self.trouble.drop_after.is_some_and(|most| answers > most) {
                    return Ok(());
                }
                if self.trouble.rubbish_every.is_some_and(|every| answers.is_multiple_of(every)) {
                    out.push_str("(!!) 7E8#0Z\n");
                    continue;
                }
                out.push_str(&write_line(&frame, "sim0"));
                out.push('\n');
            }
            writer.write_all(out.as_bytes())?;
        }
    }
}

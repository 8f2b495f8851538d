//! A session: one thread that holds the link to one job's car and does one thing at a time.

use std::collections::BTreeMap;
use std::net::SocketAddr;
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::thread;
use std::time::Duration;

use ember_core::knowledge::Knowledge;
use ember_sim::Output;
use ember_store::{RecordingAbout, Store, TimeMark};
use jiff::Timestamp;

use super::live::{Live, Round};
use super::scan::scan;
use super::status::{Activity, LinkStatus, LiveValue, OutputState, RecordingProgress};
use super::wire::{LinkError, Wire, refused};

/// Rounds of live data are this far apart, in seconds of the adapter.
const ROUND_S: f64 = 0.1;
/// How often a dropped link is tried again, and how long apart.
const ATTEMPTS: u32 = 8;
const BETWEEN_ATTEMPTS: Duration = Duration::from_millis(400);
/// Rows that are kept back before they are written.
const ROWS: usize = 512;

/// What a screen may ask of a session.
#[derive(Debug)]
pub enum Command {
    Scan {
        expected: Vec<String>,
    },
    StopScan,
    Clear,
    Watch(bool),
    Record {
        name: String,
    },
    Pause(bool),
    EndRecording,
    /// Recordings that were put on the trail or thrown away.
    LetGo,
    Drive {
        identifier: u16,
        to: Option<f64>,
    },
    TellDriver(bool),
    Close,
}

/// The link of one job.
pub struct Session {
    status: Arc<Mutex<LinkStatus>>,
    commands: Sender<Command>,
}

fn locked(status: &Mutex<LinkStatus>) -> MutexGuard<'_, LinkStatus> {
    status.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Session {
    /// Begins a session; the connection is made on its own thread.
    pub fn begin(
        job_id: i64,
        address: SocketAddr,
        simulated: bool,
        outputs: &[Output],
        store: Arc<Store>,
        knowledge: &'static Knowledge,
    ) -> Session {
        let status = Arc::new(Mutex::new(LinkStatus {
            address: address.to_string(),
            activity: Activity::Connecting,
            simulated,
            outputs: outputs
                .iter()
                .map(|o| OutputState {
                    identifier: o.identifier,
                    name: o.name.clone(),
                    position: o.position,
                    driven: None,
                    reported: None,
                    refused: None,
                })
                .collect(),
            ..LinkStatus::default()
        }));
        let (commands, inbox) = channel();
        let shared = Arc::clone(&status);
        thread::spawn(move || {
            let mut worker = Worker {
                job_id,
                address,
                status: shared,
                inbox,
                store,
                knowledge,
                live: None,
                watching: false,
                taking: None,
                scans: 0,
                known_codes: Vec::new(),
            };
            worker.run();
        });
        Session { status, commands }
    }

    pub fn status(&self) -> LinkStatus {
        locked(&self.status).clone()
    }

    /// Changes what the status says of the scan: it was written on the trail.
    pub fn scan_saved(&self, number: u32, entry: u32) {
        if let Some(scan) = locked(&self.status).scan.as_mut().filter(|scan| scan.number == number) {
            scan.saved_as = Some(entry);
        }
    }

    /// Hands a command over. A session that has ended takes none, and says so in its status.
    pub fn ask(&self, command: Command) {
        if self.commands.send(command).is_err() {
            locked(&self.status).connected = false;
        }
    }
}

/// A recording being made.
struct Taking {
    id: i64,
    name: String,
    part: u32,
    time_s: Vec<f64>,
    columns: BTreeMap<String, Vec<f32>>,
    counts: BTreeMap<String, u64>,
    samples: u64,
    first_s: Option<f64>,
    last_s: f64,
    distance_km: f64,
    paused: bool,
    marks: Vec<TimeMark>,
    notes: Vec<String>,
    codes_read: bool,
}

struct Worker {
    job_id: i64,
    address: SocketAddr,
    status: Arc<Mutex<LinkStatus>>,
    inbox: Receiver<Command>,
    store: Arc<Store>,
    knowledge: &'static Knowledge,
    live: Option<Live>,
    watching: bool,
    taking: Option<Taking>,
    scans: u32,
    known_codes: Vec<String>,
}

impl Worker {
    fn run(&mut self) {
        let mut wire = match self.connect() {
            Ok(wire) => wire,
            Err(error) => return self.end(&error.to_string()),
        };
        loop {
            let busy = self.watching || self.taking.as_ref().is_some_and(|t| !t.paused);
            let wait = if busy { Duration::ZERO } else { Duration::from_millis(200) };
            let command = match self.inbox.recv_timeout(wait) {
                Ok(command) => Some(command),
                Err(RecvTimeoutError::Timeout) => None,
                Err(RecvTimeoutError::Disconnected) => return self.close(),
            };
            let done = match command {
                Some(Command::Close) => return self.close(),
                Some(command) => self.obey(command, &mut wire),
                None if busy => self.live_round(&mut wire),
                None => wire.still_there(),
            };
            let faults = wire.take_faults();
            {
                let mut status = locked(&self.status);
                status.note(faults);
                status.rubbish = wire.rubbish;
                status.adapter_s = wire.now_s;
            }
            if let Err(error) = done {
                let rubbish = wire.rubbish;
                wire = match self.reconnect(&error, rubbish) {
                    Some(wire) => wire,
                    None => return self.end(&format!("{error}; it was tried {ATTEMPTS} times again")),
                };
            }
        }
    }

    fn connect(&self) -> Result<Wire, LinkError> {
        let mut wire = Wire::connect(self.address)?;
        wire.find_out()?;
        let mut status = locked(&self.status);
        status.connected = true;
        status.long_identifiers = wire.extended;
        status.activity = Activity::Nothing;
        Ok(wire)
    }

    fn reconnect(&mut self, error: &LinkError, rubbish: u32) -> Option<Wire> {
        {
            let mut status = locked(&self.status);
            status.connected = false;
            status.drops += 1;
            status.note([format!("{error}; what was recorded is kept")]);
        }
        if let Some(taking) = &mut self.taking {
            taking.notes.push(format!("the link dropped after {:.1} s: there is a gap", taking.last_s));
        }
        for attempt in 1..=ATTEMPTS {
            locked(&self.status).activity = Activity::TryingAgain { attempt };
            thread::sleep(BETWEEN_ATTEMPTS);
            if let Ok(mut wire) = self.connect() {
                wire.rubbish = rubbish;
                self.live = None;
                self.show_activity();
                return Some(wire);
            }
        }
        None
    }

    fn show_activity(&self) {
        let recording = self.taking.as_ref().is_some_and(|t| !t.paused);
        locked(&self.status).activity = match (recording, self.watching) {
            (true, _) => Activity::Recording,
            (false, true) => Activity::Watching,
            _ => Activity::Nothing,
        };
    }

    /// The session ends with a reason; a recording that was being made is kept as far as it came.
    fn end(&mut self, why: &str) {
        self.finish_recording();
        let mut status = locked(&self.status);
        status.connected = false;
        status.activity = Activity::Nothing;
        status.problem = Some(why.to_owned());
    }

    fn close(&mut self) {
        self.finish_recording();
        let mut status = locked(&self.status);
        status.connected = false;
        status.activity = Activity::Nothing;
    }

    fn obey(&mut self, command: Command, wire: &mut Wire) -> Result<(), LinkError> {
        locked(&self.status).problem = None;
        match command {
            Command::Scan { expected } => self.scan(wire, &expected)?,
            Command::StopScan | Command::Close => {}
            Command::Clear => self.clear(wire)?,
            Command::Watch(on) => self.watching = on,
            Command::Record { name } => self.record(&name),
            Command::Pause(paused) => {
                if let Some(taking) = &mut self.taking {
                    taking.paused = paused;
                }
                self.show_recording(false);
            }
            Command::EndRecording => self.finish_recording(),
            Command::LetGo => locked(&self.status).recording = None,
            Command::Drive { identifier, to } => self.drive(wire, identifier, to)?,
            Command::TellDriver(drive) => {
                wire.tell_driver(drive)?;
                locked(&self.status).driving = drive;
            }
        }
        self.show_activity();
        Ok(())
    }

    fn scan(&mut self, wire: &mut Wire, expected: &[String]) -> Result<(), LinkError> {
        self.scans += 1;
        let number = self.scans;
        let mut stopped = false;
        let (status, inbox) = (&self.status, &self.inbox);
        let mut progress = |so_far: &super::ScanShown, unit: &str, done: usize, of: usize| {
            let mut status = locked(status);
            status.activity = Activity::Scanning { unit: unit.to_owned(), done, of };
            status.scan = Some(super::ScanShown { number, ..so_far.clone() });
            // Whatever else is asked meanwhile has to wait; a stop does not.
            stopped |= inbox.try_iter().any(|c| matches!(c, Command::StopScan | Command::Close));
            !stopped
        };
        let shown = scan(wire, expected, self.knowledge, &mut progress)?;
        let mut status = locked(&self.status);
        if stopped {
            status.problem = Some("The scan was stopped: the other units are not read, and not clean.".into());
        }
        status.scan = Some(super::ScanShown { number, ..shown });
        Ok(())
    }

    fn clear(&mut self, wire: &mut Wire) -> Result<(), LinkError> {
        locked(&self.status).activity = Activity::Clearing;
        let answers = wire.ask_all(&[0x04])?;
        let cleared = answers.iter().filter(|a| a.bytes == [0x44]).count();
        self.known_codes.clear();
        let mut status = locked(&self.status);
        let units = status.scan.as_ref().map_or(0, |s| s.units.iter().filter(|u| u.read).count());
        if cleared < units {
            status.problem = Some(format!("{cleared} of {units} units say that they cleared their codes."));
        }
        if let Some(scan) = &mut status.scan {
            scan.cleared = cleared > 0;
        }
        Ok(())
    }

    fn drive(&mut self, wire: &mut Wire, identifier: u16, to: Option<f64>) -> Result<(), LinkError> {
        let unit = match &self.live {
            Some(live) => live.unit(),
            None => self.live(wire)?.unit(),
        };
        let [high, low] = identifier.to_be_bytes();
        let position = locked(&self.status).outputs.iter().any(|o| o.identifier == identifier && o.position);
        let mut request = vec![0x2F, high, low];
        match to {
            Some(pct) => {
                request.extend([0x03, if position { (pct * 2.55).round().clamp(0.0, 255.0) as u8 } else { 1 }])
            }
            None => request.push(0x00),
        }
        let answer = wire.ask(unit, &request)?;
        let mut status = locked(&self.status);
        let Some(output) = status.outputs.iter_mut().find(|o| o.identifier == identifier) else { return Ok(()) };
        match answer {
            None => output.refused = Some("no answer".into()),
            Some(answer) => match refused(&answer, self.knowledge) {
                Some(why) => output.refused = Some(why),
                None => {
                    output.refused = None;
                    output.driven = to;
                    output.reported = answer
                        .bytes
                        .last()
                        .map(|&b| if position { f64::from(b) / 2.55 } else { 100.0 * f64::from(b.min(1)) });
                }
            },
        }
        Ok(())
    }

    fn live(&mut self, wire: &mut Wire) -> Result<&mut Live, LinkError> {
        if self.live.is_none() {
            self.live = Some(Live::new(wire, self.knowledge)?);
        }
        self.live.as_mut().ok_or(LinkError::NobodyAnswers)
    }

    fn live_round(&mut self, wire: &mut Wire) -> Result<(), LinkError> {
        let began = wire.now_s;
        let knowledge = self.knowledge;
        let round = self.live(wire)?.round(wire, knowledge)?;
        self.show_live(&round);
        self.take(&round);
        // The adapter's clock paces the rounds; it may run faster than ours.
        if wire.now_s - began < ROUND_S {
            thread::sleep(Duration::from_millis(2));
        }
        Ok(())
    }

    fn show_live(&mut self, round: &Round) {
        let mut status = locked(&self.status);
        for (channel, &value) in &round.values {
            match status.live.iter_mut().find(|v| v.channel == *channel) {
                Some(shown) => {
                    (shown.value, shown.time_s) = (value, round.time_s);
                    (shown.least, shown.most) = (shown.least.min(value), shown.most.max(value));
                }
                None => {
                    let Some(known) = self.knowledge.channels.get(channel) else { continue };
                    status.live.push(LiveValue {
                        channel: channel.clone(),
                        label: known.label.clone(),
                        unit: known.unit.clone(),
                        value,
                        time_s: round.time_s,
                        least: value,
                        most: value,
                    });
                }
            }
        }
    }

    fn record(&mut self, name: &str) {
        if self.taking.is_some() {
            locked(&self.status).problem = Some("A recording runs already: end it first.".into());
            return;
        }
        match self.store.begin_recording(self.job_id, name, Timestamp::now()) {
            Ok(id) => {
                self.taking = Some(Taking {
                    id,
                    name: name.to_owned(),
                    part: 0,
                    time_s: Vec::new(),
                    columns: BTreeMap::new(),
                    counts: BTreeMap::new(),
                    samples: 0,
                    first_s: None,
                    last_s: f64::NEG_INFINITY,
                    distance_km: 0.0,
                    paused: false,
                    marks: Vec::new(),
                    notes: Vec::new(),
                    codes_read: false,
                });
                self.show_recording(false);
            }
            Err(error) => locked(&self.status).problem = Some(format!("The recording cannot begin: {error}")),
        }
    }

    fn take(&mut self, round: &Round) {
        let Some(taking) = self.taking.as_mut().filter(|t| !t.paused) else { return };
        if let Some(codes) = &round.codes {
            let first = taking.first_s.unwrap_or(round.time_s);
            // What stood there when the recording began did not come during it.
            let begins = !std::mem::replace(&mut taking.codes_read, true);
            for code in codes {
                if self.known_codes.contains(code) {
                    continue;
                }
                self.known_codes.push(code.clone());
                if !begins {
                    taking.marks.push(TimeMark { time_s: (round.time_s - first).max(0.0), label: code.clone() });
                }
            }
        }
        if round.values.is_empty() || round.time_s <= taking.last_s {
            return;
        }
        let first = *taking.first_s.get_or_insert(round.time_s);
        if let Some(km_h) = round.values.get("vehicle_speed") {
            // A gap is no distance.
            let step = round.time_s - taking.last_s;
            if step.is_finite() && step < 5.0 {
                taking.distance_km += km_h * step / 3600.0;
            }
        }
        taking.last_s = round.time_s;
        let row = taking.time_s.len();
        taking.time_s.push(round.time_s - first);
        for (channel, &value) in &round.values {
            let column = taking.columns.entry(channel.clone()).or_default();
            column.resize(row, f32::NAN);
            column.push(value as f32);
            *taking.counts.entry(channel.clone()).or_default() += 1;
        }
        taking.samples += 1;
        if taking.time_s.len() >= ROWS {
            self.write_rows();
        }
        self.show_recording(false);
    }

    fn write_rows(&mut self) {
        let Some(taking) = &mut self.taking else { return };
        if taking.time_s.is_empty() {
            return;
        }
        let rows = taking.time_s.len();
        taking.columns.values_mut().for_each(|column| column.resize(rows, f32::NAN));
        let columns = taking.columns.iter().map(|(name, values)| (name.as_str(), values.as_slice()));
        if let Err(error) = self.store.add_part(taking.id, taking.part, &taking.time_s, columns) {
            taking.notes.push(format!("{rows} samples could not be written: {error}"));
        }
        taking.part += 1;
        taking.time_s.clear();
        taking.columns.clear();
    }

    fn finish_recording(&mut self) {
        self.write_rows();
        let Some(taking) = self.taking.take() else { return };
        let done = if taking.samples == 0 {
            self.store.discard_recording(taking.id)
        } else {
            self.store.complete_recording(
                taking.id,
                &RecordingAbout {
                    from_s: 0.0,
                    to_s: taking.last_s - taking.first_s.unwrap_or(taking.last_s),
                    samples: taking.samples,
                    channels: taking.counts.clone().into_iter().map(Into::into).collect(),
                    marks: taking.marks.clone(),
                    notes: taking.notes.clone(),
                },
            )
        };
        let empty = taking.samples == 0;
        self.taking = Some(taking);
        self.show_recording(true);
        self.taking = None;
        let mut status = locked(&self.status);
        if let Err(error) = done {
            status.problem = Some(format!("The recording could not be completed: {error}"));
        } else if empty {
            status.recording = None;
            status.problem = Some("Nothing was recorded: not one value came.".into());
        }
    }

    fn show_recording(&self, ended: bool) {
        let Some(taking) = &self.taking else { return };
        locked(&self.status).recording = Some(RecordingProgress {
            recording: taking.id,
            name: taking.name.clone(),
            seconds: taking.first_s.map_or(0.0, |first| taking.last_s - first),
            samples: taking.samples,
            distance_km: taking.distance_km,
            paused: taking.paused,
            ended,
        });
    }
}

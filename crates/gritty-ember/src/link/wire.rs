//! The wire: requests to an adapter and the answers of the units, frame by frame, one a line.

use std::io::{self, BufRead, BufReader, Write};
use std::net::{SocketAddr, TcpStream};
use std::time::{Duration, Instant};

use ember_core::frames::{
    Address, Conversation, Direction, Frame, FrameFault, address, answer_id, parse_line, refusal_text, segments,
    write_line,
};
use ember_core::knowledge::Knowledge;

/// How long an adapter may take to take the connection.
const CONNECT_WITHIN: Duration = Duration::from_secs(3);
/// How long one unit may take to answer.
const ANSWER_WITHIN: Duration = Duration::from_millis(400);
/// How long after the last frame the answers to a request to all are taken as complete.
const QUIET: Duration = Duration::from_millis(200);
/// A unit that asks for patience gets this much.
const PATIENCE: Duration = Duration::from_secs(5);

#[derive(Debug, thiserror::Error)]
pub enum LinkError {
    #[error("{0} cannot be reached: {1}. Is the adapter on, and is this its address?")]
    OutOfReach(SocketAddr, io::Error),
    #[error("the link dropped: {0}")]
    Dropped(String),
    #[error("no unit answers: is the ignition on?")]
    NobodyAnswers,
}

/// An answer of a unit.
#[derive(Debug, Clone, PartialEq)]
pub struct Answer {
    pub unit: u8,
    pub time_s: f64,
    pub bytes: Vec<u8>,
}

pub struct Wire {
    reader: BufReader<TcpStream>,
    writer: TcpStream,
    partial: Vec<u8>,
    conversation: Conversation,
    /// 29-bit identifiers, once it is known.
    pub extended: bool,
    /// The adapter's time of the last frame.
    pub now_s: f64,
    /// What was not a frame, and what went wrong in framing.
    pub faults: Vec<String>,
    pub rubbish: u32,
}

impl Wire {
    /// # Errors
    /// Nobody listens at the address.
    pub fn connect(to: SocketAddr) -> Result<Wire, LinkError> {
        let stream =
            TcpStream::connect_timeout(&to, CONNECT_WITHIN).map_err(|error| LinkError::OutOfReach(to, error))?;
        let dropped = |error: io::Error| LinkError::Dropped(error.to_string());
        stream.set_nodelay(true).map_err(dropped)?;
        stream.set_write_timeout(Some(CONNECT_WITHIN)).map_err(dropped)?;
        let writer = stream.try_clone().map_err(dropped)?;
        Ok(Wire {
            reader: BufReader::new(stream),
            writer,
            partial: Vec::new(),
            conversation: Conversation::default(),
            extended: false,
            now_s: 0.0,
            faults: Vec::new(),
            rubbish: 0,
        })
    }

    /// A word to the simulated driver.
    ///
    /// # Errors
    /// The link dropped.
    pub fn tell_driver(&mut self, drive: bool) -> Result<(), LinkError> {
        let word: &[u8] = if drive { b"!drive\n" } else { b"!park\n" };
        self.writer.write_all(word).map_err(|error| LinkError::Dropped(error.to_string()))
    }

    /// Finds out whether the car speaks with 11 or with 29 bits.
    ///
    /// # Errors
    /// Nobody answers either; the link dropped.
    pub fn find_out(&mut self) -> Result<(), LinkError> {
        for extended in [false, true] {
            self.extended = extended;
            if !self.ask_all(&[0x01, 0x00])?.is_empty() {
                return Ok(());
            }
        }
        Err(LinkError::NobodyAnswers)
    }

    /// Asks one unit. `None` when it does not answer in time.
    ///
    /// # Errors
    /// The link dropped.
    pub fn ask(&mut self, unit: u8, request: &[u8]) -> Result<Option<Answer>, LinkError> {
        let id = if self.extended { 0x18DA_00F1 | u32::from(unit) << 8 } else { 0x7E0 + u32::from(unit & 7) };
        self.send(id, request)?;
        let service = request.first().copied().unwrap_or_default();
        let mut until = Instant::now() + ANSWER_WITHIN;
        while let Some(answers) = self.hear(until)? {
            for answer in answers {
                if answer.unit != unit {
                    continue;
                }
                match answer.bytes.as_slice() {
                    [0x7F, asked, 0x78] if *asked == service => until = Instant::now() + PATIENCE,
                    [0x7F, asked, ..] if *asked == service => return Ok(Some(answer)),
                    [head, ..] if *head == service.wrapping_add(0x40) => return Ok(Some(answer)),
                    // A late answer to an earlier request.
                    _ => {}
                }
            }
        }
        self.faults.push(format!("unit {unit:02X} did not answer service {service:02X}"));
        Ok(None)
    }

    /// Asks all units and gathers what comes until it is quiet.
    ///
    /// # Errors
    /// The link dropped.
    pub fn ask_all(&mut self, request: &[u8]) -> Result<Vec<Answer>, LinkError> {
        let id = if self.extended { 0x18DB_33F1 } else { 0x7DF };
        self.send(id, request)?;
        let mut list = Vec::new();
        let mut until = Instant::now() + ANSWER_WITHIN;
        while let Some(answers) = self.hear(until)? {
            // Also a part of a long answer: whoever has begun to speak is heard out.
            until = Instant::now() + QUIET;
            list.extend(answers.into_iter().filter(|a| a.bytes.first() != Some(&0x7F)));
        }
        Ok(list)
    }

    fn send(&mut self, id: u32, request: &[u8]) -> Result<(), LinkError> {
        // What is asked here fits a single frame; the transport cuts it all the same.
        for data in segments(request).iter().take(1) {
            let frame = Frame { extended: self.extended, ..Frame::new(self.now_s, id, data) };
            self.write(&frame)?;
        }
        Ok(())
    }

    fn write(&mut self, frame: &Frame) -> Result<(), LinkError> {
        let mut line = write_line(frame, "tester");
        line.push('\n');
        self.writer.write_all(line.as_bytes()).map_err(|error| LinkError::Dropped(error.to_string()))
    }

    /// Hears the next line; `None` when nothing came until then. Most lines complete no message.
    fn hear(&mut self, until: Instant) -> Result<Option<Vec<Answer>>, LinkError> {
        let left = until.saturating_duration_since(Instant::now());
        if left.is_zero() {
            return Ok(None);
        }
        let dropped = |what: &str| LinkError::Dropped(what.to_owned());
        self.reader.get_ref().set_read_timeout(Some(left)).map_err(|e| dropped(&e.to_string()))?;
        match self.reader.read_until(b'\n', &mut self.partial) {
            Ok(0) => return Err(dropped("the adapter closed it")),
            Ok(_) if !self.partial.ends_with(b"\n") => {
                return Err(dropped("the adapter closed it in the middle of a line"));
            }
            Ok(_) => {}
            Err(error) if matches!(error.kind(), io::ErrorKind::WouldBlock | io::ErrorKind::TimedOut) => {
                return Ok(None);
            }
            Err(error) => return Err(dropped(&error.to_string())),
        }
        let line = std::mem::take(&mut self.partial);
        let frame = match parse_line(&line) {
            Ok(Some(frame)) => frame,
            Ok(None) => return Ok(Some(Vec::new())),
            Err(fault) => {
                self.rubbish += 1;
                self.faults.push(format!("a line from the adapter {}", fault.text()));
                return Ok(Some(Vec::new()));
            }
        };
        self.now_s = self.now_s.max(frame.time_s);
        // The beginning of a long answer: the rest waits for leave to come.
        if frame.bytes().first().is_some_and(|b| b >> 4 == 1)
            && let (Some(Address::FromUnit(_)), Some(to)) =
                (address(frame.id, frame.extended), answer_id(frame.id, frame.extended))
        {
            let leave =
                Frame { extended: frame.extended, ..Frame::new(frame.time_s, to, &[0x30, 0, 0, 0, 0, 0, 0, 0]) };
            self.write(&leave)?;
        }
        let mut answers = Vec::new();
        self.conversation.push(&frame, |heard| {
            if let (Direction::Answers, Some(unit)) = (heard.direction, heard.unit) {
                answers.push(Answer { unit, time_s: heard.ends_s, bytes: heard.bytes.to_vec() });
            }
        });
        let faults = std::mem::take(&mut self.conversation.faults);
        self.faults
            .extend(faults.into_iter().map(|FrameFault { time_s, what, .. }| format!("at {time_s:.2} s: {what}")));
        Ok(Some(answers))
    }

    /// Notices that the adapter has gone while nothing is asked of it.
    ///
    /// # Errors
    /// The link dropped.
    pub fn still_there(&self) -> Result<(), LinkError> {
        let dropped = |error: io::Error| LinkError::Dropped(error.to_string());
        self.writer.set_nonblocking(true).map_err(dropped)?;
        let peeked = self.writer.peek(&mut [0]);
        self.writer.set_nonblocking(false).map_err(dropped)?;
        match peeked {
            Ok(0) => Err(LinkError::Dropped("the adapter closed it".into())),
            Ok(_) => Ok(()),
            Err(error) if error.kind() == io::ErrorKind::WouldBlock => Ok(()),
            Err(error) => Err(dropped(error)),
        }
    }

    /// What went wrong since the last call.
    pub fn take_faults(&mut self) -> Vec<String> {
        std::mem::take(&mut self.faults)
    }
}

/// Why a unit refused, in words; `None` for an answer that is none.
pub fn refused(answer: &Answer, knowledge: &Knowledge) -> Option<String> {
    match answer.bytes.as_slice() {
        [0x7F, _, reason] => Some(refusal_text(*reason, &knowledge.parameters)),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use std::net::TcpListener;
    use std::thread;

    use rstest::rstest;

    use super::*;

    /// An adapter that answers each line it hears with the lines that the script has for it, then goes away.
    fn adapter(script: Vec<(&'static str, Vec<&'static str>)>) -> Wire {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap();
        thread::spawn(move || {
            let (stream, _) = listener.accept().unwrap();
            let mut writer = stream.try_clone().unwrap();
            let mut lines = BufReader::new(stream).lines();
            for (expected, answers) in script {
                let heard = lines.next().unwrap().unwrap();
                let asked = heard.rsplit(' ').next().unwrap_or_default().to_owned();
                assert_eq!(asked, expected, "the tester asked something else");
                for answer in answers {
                    match answer.strip_prefix("wait ") {
                        Some(ms) => thread::sleep(Duration::from_millis(ms.parse().unwrap())),
                        None => writer.write_all(format!("(1.0) can0 {answer}\n").as_bytes()).unwrap(),
                    }
                }
            }
            // Kept open until the tester goes.
            let _ = lines.next();
        });
        Wire::connect(address).unwrap()
    }

    const ENGINE_SPEED: &str = "7E0#02010C0000000000";

    #[test]
    fn a_unit_is_asked_and_answers() {
        let mut wire = adapter(vec![(ENGINE_SPEED, vec!["7E8#04410C1AF8000000"])]);
        let answer = wire.ask(0, &[0x01, 0x0C]).unwrap().unwrap();
        assert_eq!((answer.unit, answer.bytes.as_slice()), (0, &[0x41, 0x0C, 0x1A, 0xF8][..]));
        assert_eq!((answer.time_s, wire.now_s), (1.0, 1.0));
        assert!(wire.take_faults().is_empty());
    }

    #[test]
    fn a_long_answer_is_given_leave_to_go_on() {
        let mut wire = adapter(vec![
            ("7E0#0209020000000000", vec!["7E8#1014490201434448"]),
            ("7E0#3000000000000000", vec!["7E8#2144455030303030", "7E8#2230303030303031"]),
        ]);
        let answer = wire.ask(0, &[0x09, 0x02]).unwrap().unwrap();
        assert_eq!(answer.bytes.len(), 20);
    }

    #[rstest]
    #[case::silent(vec![], "unit 00 did not answer service 01")]
    #[case::another_unit_answers(vec!["7E9#04410C1AF8000000"], "unit 00 did not answer")]
    #[case::a_late_answer_to_something_else(vec!["7E8#0343010171000000"], "unit 00 did not answer")]
    #[case::the_rest_never_comes(vec!["7E8#1014410C01434448"], "unit 00 did not answer")]
    #[case::rubbish(vec!["7E8#0Z"], "a line from the adapter has data that are not")]
    #[case::a_length_that_does_not_fit(vec!["7E8#07410C"], "a single frame says 7 bytes and holds 2")]
    fn what_is_no_answer_is_reported_and_never_a_value(#[case] answers: Vec<&'static str>, #[case] fault: &str) {
        let mut script = vec![(ENGINE_SPEED, answers.clone())];
        if answers.first().is_some_and(|a| a.starts_with("7E8#10")) {
            script.push(("7E0#3000000000000000", vec![]));
        }
        let mut wire = adapter(script);
        assert_eq!(wire.ask(0, &[0x01, 0x0C]).unwrap(), None);
        let faults = wire.take_faults();
        assert!(faults.iter().any(|f| f.contains(fault)), "{faults:?}");
    }

    #[test]
    fn a_refusal_is_an_answer_with_its_reason() {
        let mut wire = adapter(vec![(ENGINE_SPEED, vec!["7E8#037F011200000000"])]);
        let answer = wire.ask(0, &[0x01, 0x0C]).unwrap().unwrap();
        let why = refused(&answer, Knowledge::built_in()).unwrap();
        assert_eq!(why, "it does not have this part of the service");
    }

    #[test]
    fn a_unit_that_asks_for_patience_is_given_it() {
        let mut wire = adapter(vec![(ENGINE_SPEED, vec!["7E8#037F017800000000", "wait 700", "7E8#04410C0FA0000000"])]);
        let answer = wire.ask(0, &[0x01, 0x0C]).unwrap().unwrap();
        assert_eq!(answer.bytes[2..], [0x0F, 0xA0]);
    }

    #[test]
    fn all_units_are_heard_until_it_is_quiet() {
        let mut wire = adapter(vec![(
            "7DF#0103000000000000",
            vec!["7E8#0443010171000000", "wait 40", "7E9#0243000000000000", "7EA#037F031100000000"],
        )]);
        let answers = wire.ask_all(&[0x03]).unwrap();
        let units: Vec<u8> = answers.iter().map(|a| a.unit).collect();
        assert_eq!(units, [0, 1], "a refusal to all is no answer");
    }

    #[test]
    fn units_that_answer_slowly_and_in_parts_are_all_heard() {
        let mut wire = adapter(vec![
            (
                "7DF#02090A0000000000",
                vec!["7E8#1017490A01656E67", "wait 120", "7E9#1017490A01676561", "wait 120", "7EA#037F091100000000"],
            ),
            (
                "7E0#3000000000000000",
                vec!["7E8#21696E6500000000", "wait 120", "7E8#2200000000000000", "wait 120", "7E8#2300000000000000"],
            ),
            (
                "7E1#3000000000000000",
                vec!["7E9#2172626F78000000", "wait 120", "7E9#2200000000000000", "wait 120", "7E9#2300000000000000"],
            ),
        ]);
        let mut units: Vec<u8> = wire.ask_all(&[0x09, 0x0A]).unwrap().iter().map(|a| a.unit).collect();
        units.sort();
        assert_eq!(units, [0, 1], "{:?}", wire.take_faults());
    }

    #[test]
    fn the_driver_hears_a_word_that_is_no_frame() {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let mut wire = Wire::connect(listener.local_addr().unwrap()).unwrap();
        let (stream, _) = listener.accept().unwrap();
        wire.tell_driver(true).unwrap();
        wire.tell_driver(false).unwrap();
        let said: Vec<String> = BufReader::new(stream).lines().take(2).map(Result::unwrap).collect();
        assert_eq!(said, ["!drive", "!park"]);
    }

    #[test]
    fn long_identifiers_are_found_out() {
        let mut wire = adapter(vec![
            ("7DF#0201000000000000", vec![]),
            ("18DB33F1#0201000000000000", vec!["18DAF110#06410018000001"]),
            ("18DA10F1#02010C0000000000", vec!["18DAF110#04410C0FA0000000"]),
        ]);
        wire.find_out().unwrap();
        assert!(wire.extended);
        assert_eq!(wire.ask(0x10, &[0x01, 0x0C]).unwrap().unwrap().unit, 0x10);
    }

    #[test]
    fn nobody_answering_is_said() {
        let mut wire = adapter(vec![("7DF#0201000000000000", vec![]), ("18DB33F1#0201000000000000", vec![])]);
        assert!(wire.find_out().unwrap_err().to_string().contains("is the ignition on?"));
    }

    #[test]
    fn an_adapter_that_goes_away_is_noticed_while_asking_and_while_idle() {
        let gone = || {
            let listener = TcpListener::bind("127.0.0.1:0").unwrap();
            let address = listener.local_addr().unwrap();
            thread::spawn(move || drop(listener.accept()));
            let wire = Wire::connect(address).unwrap();
            thread::sleep(Duration::from_millis(50));
            wire
        };
        assert!(matches!(gone().ask(0, &[0x01, 0x0C]), Err(LinkError::Dropped(_))));
        assert!(matches!(gone().still_there(), Err(LinkError::Dropped(_))));
    }

    #[test]
    fn an_address_where_nobody_listens_is_out_of_reach() {
        let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap();
        let error = Wire::connect(port).map(|_| ()).unwrap_err();
        assert!(error.to_string().contains("cannot be reached"), "{error}");
    }
}

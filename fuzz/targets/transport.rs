//! Any frames in any order: messages are whole or not there, and a value comes only from bytes that hold it.
#![no_main]

use ember_core::frames::{Frame, frames_of};
use ember_core::knowledge::Knowledge;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    // Each frame from eleven bytes: who speaks, how long, when, and eight bytes of data.
    let frames: Vec<Frame> = bytes
        .chunks_exact(11)
        .scan(0.0, |now, part| {
            let (id, extended) = match part[0] % 6 {
                0 => (0x7DF, false),
                1 => (0x7E0, false),
                2 => (0x7E8, false),
                3 => (0x7E9, false),
                4 => (0x18DA_F110, true),
                _ => (0x18DA_10F1, true),
            };
            *now += f64::from(part[2]) / 64.0;
            let frame = Frame::new(*now, id, &part[3..]);
            Some(Frame { extended, length: part[1] % 9, ..frame })
        })
        .collect();
    let result = frames_of(frames.iter(), Knowledge::built_in());
    assert_eq!(result.frames, frames.len() as u64);
    for message in &result.messages {
        assert!(message.ends_s >= message.time_s && message.bytes.len() % 2 == 0 && message.bytes.len() <= 2 * 4095);
    }
});

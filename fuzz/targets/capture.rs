//! Any bytes as a capture: what is a frame is read, the rest is named.
#![no_main]

use ember_core::knowledge::Knowledge;
use ember_formats::capture::{is_capture, read};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    let _ = is_capture(bytes);
    if let Ok((recording, summary)) = read(bytes, Knowledge::built_in()) {
        assert!(recording.channels.values().all(|values| values.len() == recording.len()));
        assert!(recording.time_s.windows(2).all(|pair| pair[0] < pair[1]));
        assert!(summary.frames + summary.notes.len() as u64 + summary.more_notes <= summary.lines);
    }
});

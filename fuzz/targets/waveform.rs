//! Any bytes as a capture of a scope: read or refused, in one piece or in many, with the same outcome, and what was read
//! can be asked for anything without a fall.
#![no_main]

use std::sync::LazyLock;

use ember_core::engine::{Engine, EngineDescription};
use ember_core::knowledge::Knowledge;
use ember_core::waveform::{Signal, WaveformAsk, WaveformKind as Kind, waveform};
use ember_formats::waveform::{CsvWaveReader, WaveOptions, is_wav, read};
use libfuzzer_sys::fuzz_target;

static ENGINE: LazyLock<Engine> = LazyLock::new(|| {
    let text = r#"{"cylinders": 3, "firing_order": [1, 3, 2], "banks": [[1, 2, 3]]}"#;
    let description: EngineDescription = serde_json::from_str(text).unwrap();
    Engine::new(&description).unwrap()
});

fuzz_target!(|bytes: &[u8]| {
    let options = WaveOptions { rate_hz: Some(1000.0), ..WaveOptions::default() };
    let whole = read(bytes, &options);
    if !is_wav(bytes) {
        let mut reader = CsvWaveReader::new(&options);
        let pieces = bytes.chunks(7).try_for_each(|piece| reader.push(piece)).and_then(|()| reader.finish());
        assert_eq!(whole.as_ref().ok(), pieces.as_ref().ok());
    }
    let Ok(got) = whole else { return };
    let names: Vec<String> = got.capture.channels.iter().map(|channel| channel.name.clone()).collect();
    for of in [
        Kind::CoilCurrent,
        Kind::IgnitionVoltage,
        Kind::InjectorCurrent,
        Kind::InjectorVoltage,
        Kind::MotorDrive,
        Kind::CrankingCurrent,
        Kind::CrankAndCam,
    ] {
        let asked = WaveformAsk {
            of,
            signals: vec![Signal { channel: names[0].clone(), cylinder: None }],
            sync: names.last().cloned(),
            sync_cylinder: None,
            second: names.last().cloned(),
            supply_v: Some(13.8),
            reference_deg: vec![40.0, 110.0],
        };
        let _ = waveform(&got.capture, &asked, &ENGINE, &Knowledge::built_in().bench);
    }
});

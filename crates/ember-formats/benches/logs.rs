//! How fast logs and captures are read, against a general reader in the same run.

use std::fmt::Write;
use std::sync::LazyLock;

use divan::Bencher;
use divan::counter::{BytesCount, ItemsCount};
use ember_core::frames::parse_line;
use ember_core::knowledge::Knowledge;
use ember_formats::capture;
use ember_formats::log::{Block, Layout, LogReader};

fn main() {
    Knowledge::built_in();
    divan::main();
}

const ROWS: u32 = 1_000_000;

/// A million rows of a time and twenty channels.
static LOG: LazyLock<String> = LazyLock::new(|| {
    let mut text = String::from(
        "time s,rpm,load %,coolant °C,air flow g/s,manifold pressure kPa,STFT1 %,LTFT1 %,STFT2 %,LTFT2 %,vehicle speed km/h,throttle %,intake air temp °C,supply voltage V,timing advance °,mf1,mf2,mf3,mf4,mf5,mf6\n",
    );
    for i in 0..ROWS {
        let f = f64::from(i);
        let _ = writeln!(
            text,
            "{:.2},{:.1},{:.2},{:.1},{:.2},{:.1},{:.2},{:.2},{:.2},{:.2},{:.1},{:.2},{:.1},{:.2},{:.1},{},{},{},{},{},{}",
            f / 20.0,
            800.0 + f % 3000.0,
            f % 100.0,
            80.0 + f % 15.0,
            4.0 + f % 70.0,
            30.0 + f % 68.0,
            f % 9.0 - 4.5,
            6.25,
            f % 7.0 - 3.5,
            -1.56,
            f % 130.0,
            f % 90.0,
            18.0,
            14.08,
            12.5,
            i / 900,
            i / 70_000,
            i / 90_000,
            i / 50_000,
            i / 80_000,
            i / 60_000,
        );
    }
    text
});

#[divan::bench(sample_count = 5, sample_size = 1)]
fn a_log_of_a_million_rows_and_twenty_channels(bencher: Bencher) {
    let book = &Knowledge::built_in().channels;
    let layout = Layout::guess(&LOG.as_bytes()[..200_000], book).unwrap();
    bencher.counter(BytesCount::of_str(&*LOG)).bench(|| {
        let mut reader = LogReader::new(&layout, book, 101.325).unwrap();
        let mut sum = 0.0;
        let mut keep = |block: &Block<'_>| {
            sum += block.columns().map(|(_, values)| f64::from(values[0])).sum::<f64>();
            Ok(())
        };
        for piece in LOG.as_bytes().chunks(4 << 20) {
            reader.push(piece, &mut keep).unwrap();
        }
        let summary = reader.finish(&mut keep).unwrap();
        assert_eq!((summary.rows, summary.channels.len()), (u64::from(ROWS), 20));
        sum
    });
}

/// The same cells by a general reader and the standard library's numbers, for comparison.
#[divan::bench(sample_count = 3, sample_size = 1)]
fn the_same_log_by_a_general_reader(bencher: Bencher) {
    bencher.counter(BytesCount::of_str(&*LOG)).bench(|| {
        let mut reader = csv::Reader::from_reader(LOG.as_bytes());
        let mut columns: Vec<Vec<f32>> = vec![Vec::new(); 21];
        let mut record = csv::ByteRecord::new();
        while reader.read_byte_record(&mut record).unwrap() {
            for (column, cell) in columns.iter_mut().zip(record.iter()) {
                let text = std::str::from_utf8(cell).unwrap();
                column.push(text.parse().unwrap());
            }
        }
        columns
    });
}

const FRAMES: u32 = 1_000_000;

static CAPTURE: LazyLock<String> = LazyLock::new(|| {
    let mut text = String::new();
    for i in 0..FRAMES / 2 {
        let t = 1_700_000_000.0 + f64::from(i) * 0.01;
        let rpm = 3200 + i % 9000;
        let _ = writeln!(text, "({t:.6}) can0 7DF#02010C0000000000");
        let _ = writeln!(text, "({:.6}) can0 7E8#04410C{rpm:04X}000000", t + 0.002);
    }
    text
});

#[divan::bench(sample_count = 5, sample_size = 1)]
fn a_capture_of_a_million_frames_to_channels(bencher: Bencher) {
    bencher.counter(ItemsCount::new(FRAMES)).bench(|| {
        let (recording, summary) = capture::read(CAPTURE.as_bytes(), Knowledge::built_in()).unwrap();
        assert_eq!(summary.frames, u64::from(FRAMES));
        recording
    });
}

#[divan::bench(sample_count = 5, sample_size = 1)]
fn the_lines_of_the_capture_alone(bencher: Bencher) {
    bencher.counter(ItemsCount::new(FRAMES)).bench(|| {
        CAPTURE
            .as_bytes()
            .split(|&b| b == b'\n')
            .filter_map(|line| parse_line(line).ok().flatten())
            .map(|f| u64::from(f.id))
            .sum::<u64>()
    });
}

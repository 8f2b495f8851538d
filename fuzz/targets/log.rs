//! Any bytes as a log: it is read or refused, in one piece or in many, with the same outcome.
#![no_main]

use ember_core::knowledge::Knowledge;
use ember_formats::log::{Block, HEAD, Layout, LogReader, read_with};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    let book = &Knowledge::built_in().channels;
    let Ok(layout) = Layout::guess(&bytes[..bytes.len().min(HEAD)], book) else { return };
    let whole = read_with(bytes, &layout, book, 101.325);
    let Ok(mut reader) = LogReader::new(&layout, book, 101.325) else {
        assert!(whole.is_err());
        return;
    };
    let mut rows = 0;
    let mut keep = |block: &Block<'_>| {
        rows += block.time_s.len();
        assert!(block.columns().all(|(_, values)| values.len() == block.time_s.len()));
        Ok(())
    };
    let pieces = bytes.chunks(7).try_for_each(|piece| reader.push(piece, &mut keep)).and_then(|()| reader.finish(&mut keep));
    match (whole, pieces) {
        (Ok((recording, first)), Ok(second)) => {
            assert_eq!((recording.len(), &first), (rows, &second));
            assert!(recording.time_s.windows(2).all(|pair| pair[0] < pair[1]));
        }
        (Err(_), Err(_)) => {}
        (a, b) => panic!("whole {:?}, in pieces {:?}", a.map(|_| ()), b.map(|_| ())),
    }
});

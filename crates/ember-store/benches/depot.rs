//! A depot of twenty thousand jobs: the search over them, and the cards that the yard is read from.

use divan::{Bencher, black_box};
use ember_store::{SearchIn, Store};

#[path = "../examples/depot/mod.rs"]
mod depot;

fn main() {
    divan::main();
}

/// Filled once: the benchmarks only read it.
fn store() -> &'static Store {
    static FILLED: std::sync::OnceLock<Store> = std::sync::OnceLock::new();
    FILLED.get_or_init(|| {
        let store = Store::in_memory().unwrap();
        depot::fill(&store, 20_000, true);
        store
    })
}

#[divan::bench(args = ["coil", "P0303", "cracked insulator", "W-0193", "rain mis"])]
fn search_over_twenty_thousand_jobs(bencher: Bencher<'_, '_>, words: &str) {
    let store = store();
    bencher.bench_local(|| black_box(store.search(words, SearchIn::Everything).unwrap()));
}

#[divan::bench]
fn cards_of_a_yard_of_twenty_thousand_jobs(bencher: Bencher<'_, '_>) {
    let store = store();
    bencher.bench_local(|| {
        black_box((
            store.cards(false, 0, 100).unwrap(),
            store.cards(true, 0, 20).unwrap(),
            store.card_counts().unwrap(),
        ))
    });
}

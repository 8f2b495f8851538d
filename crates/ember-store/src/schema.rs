//! The tables, as a row of migrations. A migration that has shipped is never changed; the next one is added.

use rusqlite_migration::{M, Migrations};

const FIRST: &str = "
CREATE TABLE vehicle (
    id          INTEGER PRIMARY KEY,
    fleet_no    TEXT NOT NULL UNIQUE,
    body        TEXT NOT NULL CHECK (json_valid(body))
) STRICT;

CREATE TABLE job (
    id          INTEGER PRIMARY KEY,
    vehicle_id  INTEGER NOT NULL REFERENCES vehicle (id),
    opened_at   TEXT NOT NULL,
    -- Made by whoever opens the job, so that a request sent twice opens one job.
    request_key TEXT NOT NULL UNIQUE
) STRICT;

CREATE TABLE entry (
    job_id      INTEGER NOT NULL REFERENCES job (id),
    number      INTEGER NOT NULL CHECK (number > 0),
    at          TEXT NOT NULL,
    odometer_km REAL NOT NULL CHECK (odometer_km >= 0),
    author      TEXT NOT NULL,
    replaces    INTEGER,
    kind        TEXT NOT NULL,
    finding     TEXT NOT NULL CHECK (json_valid(finding)),
    request_key TEXT NOT NULL UNIQUE,
    PRIMARY KEY (job_id, number),
    FOREIGN KEY (job_id, replaces) REFERENCES entry (job_id, number)
) STRICT;

CREATE UNIQUE INDEX entry_replaced_once ON entry (job_id, replaces) WHERE replaces IS NOT NULL;

CREATE TRIGGER entry_is_never_changed BEFORE UPDATE ON entry
BEGIN SELECT RAISE (ABORT, 'an entry on a trail is never changed'); END;

CREATE TRIGGER entry_is_never_removed BEFORE DELETE ON entry
BEGIN SELECT RAISE (ABORT, 'an entry on a trail is never removed'); END;
";

const RECORDINGS: &str = "
CREATE TABLE recording (
    id       INTEGER PRIMARY KEY,
    job_id   INTEGER NOT NULL REFERENCES job (id),
    name     TEXT NOT NULL,
    made_at  TEXT NOT NULL,
    -- What is known of it besides its channels; null until it is complete.
    about    TEXT CHECK (about IS NULL OR json_valid(about))
) STRICT;

-- Columns in parts, so that a long log is written as it comes and read by the channel. Little-endian, 8 bytes for a
-- time and 4 for a value.
CREATE TABLE recording_part (
    recording_id INTEGER NOT NULL REFERENCES recording (id),
    part         INTEGER NOT NULL,
    channel      TEXT NOT NULL,
    bytes        BLOB NOT NULL,
    PRIMARY KEY (recording_id, channel, part)
) STRICT, WITHOUT ROWID;

CREATE TRIGGER a_complete_recording_is_never_changed BEFORE UPDATE ON recording
WHEN OLD.about IS NOT NULL
BEGIN SELECT RAISE (ABORT, 'a complete recording is never changed'); END;

CREATE TRIGGER a_complete_recording_is_never_removed BEFORE DELETE ON recording
WHEN OLD.about IS NOT NULL
BEGIN SELECT RAISE (ABORT, 'a complete recording is never removed'); END;

-- How the columns of files with certain headings were understood the last time.
CREATE TABLE column_map (
    headings TEXT PRIMARY KEY,
    layout   TEXT NOT NULL CHECK (json_valid(layout))
) STRICT, WITHOUT ROWID;
";

const BENCH: &str = "
CREATE TABLE capture (
    id      INTEGER PRIMARY KEY,
    job_id  INTEGER NOT NULL REFERENCES job (id),
    name    TEXT NOT NULL,
    made_at TEXT NOT NULL,
    about   TEXT NOT NULL CHECK (json_valid(about))
) STRICT;

-- Samples as little-endian floats of 4 bytes, and beside them least and most of every 256, so that a long capture is
-- drawn without being read.
CREATE TABLE capture_channel (
    id         INTEGER PRIMARY KEY,
    capture_id INTEGER NOT NULL REFERENCES capture (id),
    channel    INTEGER NOT NULL,
    coarse     BLOB NOT NULL,
    samples    BLOB NOT NULL,
    UNIQUE (capture_id, channel)
) STRICT;

CREATE TRIGGER a_capture_is_never_changed BEFORE UPDATE ON capture
BEGIN SELECT RAISE (ABORT, 'a capture is never changed'); END;

CREATE TRIGGER a_captures_samples_are_never_changed BEFORE UPDATE ON capture_channel
BEGIN SELECT RAISE (ABORT, 'a capture is never changed'); END;

CREATE TRIGGER a_capture_is_never_removed BEFORE DELETE ON capture
BEGIN SELECT RAISE (ABORT, 'a capture is never removed'); END;

CREATE TABLE photo (
    id        INTEGER PRIMARY KEY,
    job_id    INTEGER NOT NULL REFERENCES job (id),
    name      TEXT NOT NULL,
    made_at   TEXT NOT NULL,
    width     INTEGER NOT NULL,
    height    INTEGER NOT NULL,
    -- Both JPEG, written anew from the picture's points: nothing that stood beside them in the file is kept.
    picture   BLOB NOT NULL,
    thumbnail BLOB NOT NULL
) STRICT;

CREATE TRIGGER a_photo_is_never_changed BEFORE UPDATE ON photo
BEGIN SELECT RAISE (ABORT, 'a photograph is never changed'); END;

-- What a vehicle is like where it is measured: its connectors and its circuits.
CREATE TABLE vehicle_bench (
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    kind       TEXT NOT NULL,
    name       TEXT NOT NULL,
    body       TEXT NOT NULL CHECK (json_valid(body)),
    PRIMARY KEY (vehicle_id, kind, name)
) STRICT, WITHOUT ROWID;
";

const FINDING_AGAIN: &str = "
-- Of a job that was brought from elsewhere: the vehicle as it was described there, so that it goes out as it came in.
CREATE TABLE job_origin (
    job_id  INTEGER PRIMARY KEY REFERENCES job (id),
    vehicle TEXT NOT NULL CHECK (json_valid(vehicle))
) STRICT;

-- Jobs boiled down. All of it follows from the trail; a card is dropped with every new entry and made anew.
CREATE TABLE job_card (
    job_id    INTEGER PRIMARY KEY REFERENCES job (id),
    closed    INTEGER NOT NULL,
    fault     TEXT,
    made_with TEXT NOT NULL,
    body      TEXT NOT NULL CHECK (json_valid(body))
) STRICT;

CREATE INDEX job_card_by_state ON job_card (closed, job_id);
CREATE INDEX job_card_by_fault ON job_card (fault) WHERE fault IS NOT NULL;
CREATE INDEX job_by_vehicle ON job (vehicle_id);
CREATE INDEX photo_by_job ON photo (job_id);
CREATE INDEX capture_by_job ON capture (job_id);
CREATE INDEX recording_by_job ON recording (job_id);

CREATE TRIGGER a_card_goes_with_a_new_entry AFTER INSERT ON entry
BEGIN DELETE FROM job_card WHERE job_id = NEW.job_id; END;

-- The words of every job, its number as rowid.
CREATE VIRTUAL TABLE job_text USING fts5 (
    vehicle, codes, parts, cause, words,
    tokenize = \"unicode61 remove_diacritics 2\", prefix = '2 3'
);
";

/// The version of the tables, as the database keeps it.
pub(crate) const VERSION: i64 = 4;

pub(crate) fn migrations() -> Migrations<'static> {
    Migrations::new(vec![M::up(FIRST), M::up(RECORDINGS), M::up(BENCH), M::up(FINDING_AGAIN)])
}

#[cfg(test)]
mod tests {
    use rusqlite::Connection;

    use super::*;

    /// A data folder from before there were recordings, with one job in it.
    fn first_version() -> Connection {
        let mut connection = Connection::open_in_memory().unwrap();
        migrations().to_version(&mut connection, 1).unwrap();
        connection
            .execute_batch(
                "INSERT INTO vehicle (fleet_no, body) VALUES ('W-07', '{}');
                 INSERT INTO job (vehicle_id, opened_at, request_key) VALUES (1, '2026-11-02T05:42:00Z', 'one');
                 INSERT INTO entry (job_id, number, at, odometer_km, author, kind, finding, request_key)
                 VALUES (1, 1, '2026-11-02T05:42:00Z', 84186, 'Ines', 'note', '{}', 'one/first');",
            )
            .unwrap();
        connection
    }

    #[test]
    fn the_migrations_are_sound() {
        migrations().validate().unwrap();
        let mut connection = Connection::open_in_memory().unwrap();
        migrations().to_latest(&mut connection).unwrap();
        let version: i64 = connection.query_row("PRAGMA user_version", [], |row| row.get(0)).unwrap();
        assert_eq!(version, VERSION);
    }

    #[test]
    fn an_older_data_folder_keeps_its_jobs_and_gains_recordings() {
        let mut connection = first_version();
        assert!(
            connection.execute("INSERT INTO recording (job_id, name, made_at) VALUES (1, 'x', 'now')", []).is_err()
        );
        migrations().to_latest(&mut connection).unwrap();
        let entries: i64 = connection.query_row("SELECT count(*) FROM entry", [], |row| row.get(0)).unwrap();
        assert_eq!(entries, 1);
        connection.execute("INSERT INTO recording (job_id, name, made_at) VALUES (1, 'x', 'now')", []).unwrap();
    }

    #[test]
    fn the_old_promises_hold_after_the_upgrade() {
        let mut connection = first_version();
        migrations().to_latest(&mut connection).unwrap();
        for forbidden in ["UPDATE entry SET author = 'Mallory'", "DELETE FROM entry"] {
            let error = connection.execute(forbidden, []).unwrap_err().to_string();
            assert!(error.contains("an entry on a trail is never"), "{error}");
        }
    }

    #[test]
    fn what_is_no_json_is_not_kept() {
        let mut connection = first_version();
        migrations().to_latest(&mut connection).unwrap();
        connection.execute("INSERT INTO recording (job_id, name, made_at) VALUES (1, 'x', 'now')", []).unwrap();
        assert!(connection.execute("UPDATE recording SET about = 'nonsense' WHERE id = 1", []).is_err());
        assert!(connection.execute("INSERT INTO column_map (headings, layout) VALUES ('a', 'nonsense')", []).is_err());
    }
}

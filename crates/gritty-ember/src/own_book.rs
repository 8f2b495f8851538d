//! The workshop's own file: rates, prices, minutes and usual suspects that it keeps beside the book.
//!
//! It is a TOML file in the data folder that a person can read and correct. A broken one is left as it is: the built-in
//! book counts meanwhile, and every screen that shows knowledge says so.

use std::path::{Path, PathBuf};
use std::sync::{PoisonError, RwLock};

use ember_core::knowledge::Knowledge;
use ember_core::refusal::Refusal;
use ember_core::suspects::check_own;
use ember_core::suspects::memory::WorkshopOwn;

pub const FILE: &str = "workshop.toml";

pub struct OwnBook {
    path: PathBuf,
    state: RwLock<OwnState>,
}

#[derive(Debug, Clone, Default)]
pub struct OwnState {
    pub own: WorkshopOwn,
    /// Why the file is not used, with its line where the parser knows it.
    pub broken: Option<String>,
    /// Grows with every change.
    pub version: u64,
}

impl OwnBook {
    /// Reads the file of a data folder; none is as good as an empty one.
    pub fn open(folder: &Path, knowledge: &Knowledge) -> OwnBook {
        let path = folder.join(FILE);
        let read = match std::fs::read_to_string(&path) {
            Ok(text) => read(&text, knowledge),
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(WorkshopOwn::default()),
            Err(error) => Err(error.to_string()),
        };
        let state = match read {
            Ok(own) => OwnState { own, ..OwnState::default() },
            Err(reason) => OwnState { broken: Some(format!("{}: {reason}", path.display())), ..OwnState::default() },
        };
        OwnBook { path, state: RwLock::new(state) }
    }

    pub fn now(&self) -> OwnState {
        self.state.read().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Puts another in its place, on the disk first.
    ///
    /// # Errors
    /// Something that the book does not know; a file that is broken and would be lost; a disk that does not take it.
    pub fn put(&self, own: WorkshopOwn, knowledge: &Knowledge) -> Result<OwnState, OwnError> {
        check_own(&own, &knowledge.book).map_err(OwnError::Refused)?;
        let mut state = self.state.write().unwrap_or_else(PoisonError::into_inner);
        if let Some(broken) = &state.broken {
            return Err(OwnError::Broken(broken.clone()));
        }
        let text = toml::to_string_pretty(&own).map_err(|error| OwnError::Disk(error.to_string()))?;
        let head = "# What this workshop knows beside the book. Written by Gritty Ember, and open to be corrected by hand.\n\n";
        // Written beside and renamed, so that a crash leaves the old file or the new one.
        let beside = self.path.with_extension("toml.new");
        std::fs::write(&beside, format!("{head}{text}"))
            .and_then(|()| std::fs::rename(&beside, &self.path))
            .map_err(|error| OwnError::Disk(error.to_string()))?;
        *state = OwnState { own, broken: None, version: state.version + 1 };
        Ok(state.clone())
    }
}

#[derive(Debug, thiserror::Error)]
pub enum OwnError {
    #[error(transparent)]
    Refused(Refusal),
    #[error("{0}. Mend it or move it away, then start again; nothing of it was changed")]
    Broken(String),
    #[error("it could not be written: {0}")]
    Disk(String),
}

fn read(text: &str, knowledge: &Knowledge) -> Result<WorkshopOwn, String> {
    let own: WorkshopOwn = toml::from_str(text).map_err(|error| {
        let start = error.span().map_or(0, |span| span.start).min(text.len());
        format!("line {}: {}", text[..start].matches('\n').count() + 1, error.message())
    })?;
    check_own(&own, &knowledge.book).map_err(|refusal| refusal.to_string())?;
    Ok(own)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn folder_with(text: &str) -> tempfile::TempDir {
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join(FILE), text).unwrap();
        folder
    }

    #[test]
    fn what_is_put_is_there_after_a_restart() {
        let folder = tempfile::tempdir().unwrap();
        let knowledge = Knowledge::built_in();
        let book = OwnBook::open(folder.path(), knowledge);
        let mut own = WorkshopOwn { labour_per_hour: Some(80.0), ..WorkshopOwn::default() };
        own.prices.insert("coil-dead".into(), 55.0);
        own.rates.insert("lead-tracks".into(), 40.0);
        assert_eq!(book.put(own.clone(), knowledge).unwrap().version, 1);
        assert_eq!(OwnBook::open(folder.path(), knowledge).now().own, own);
    }

    #[test]
    fn a_broken_file_is_named_with_its_line_left_alone_and_not_written_over() {
        let text = "labour_per_hour = 70\nprices = { coil-dead = \"much\" }\n";
        let folder = folder_with(text);
        let book = OwnBook::open(folder.path(), Knowledge::built_in());
        let now = book.now();
        assert_eq!(now.own, WorkshopOwn::default());
        assert!(now.broken.as_ref().unwrap().contains("line 2"), "{now:?}");
        assert!(matches!(book.put(WorkshopOwn::default(), Knowledge::built_in()), Err(OwnError::Broken(_))));
        assert_eq!(std::fs::read_to_string(folder.path().join(FILE)).unwrap(), text);
    }

    #[test]
    fn a_file_that_speaks_of_unknown_faults_is_broken_too() {
        let folder = folder_with("[rates]\ngremlin = 3\n");
        let broken = OwnBook::open(folder.path(), Knowledge::built_in()).now().broken.unwrap();
        assert!(broken.contains("there is no fault gremlin"), "{broken}");
    }

    #[test]
    fn what_the_book_does_not_know_is_refused_by_field() {
        let folder = tempfile::tempdir().unwrap();
        let book = OwnBook::open(folder.path(), Knowledge::built_in());
        let mut own = WorkshopOwn::default();
        own.minutes.insert("staring".into(), 3.0);
        let Err(OwnError::Refused(refusal)) = book.put(own, Knowledge::built_in()) else { panic!() };
        assert_eq!(refusal.field, "workshop.minutes");
    }
}

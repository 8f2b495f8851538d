//! Photographs of a job.

use jiff::Timestamp;
use rusqlite::{OptionalExtension, params};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::StoreError;
use crate::store::{Store, job};

/// A photograph without its points.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct StoredPhoto {
    pub id: i64,
    pub job_id: i64,
    pub name: String,
    pub made_at: String,
    pub width: u32,
    pub height: u32,
}

impl Store {
    /// Keeps a photograph and its thumbnail, both JPEG.
    ///
    /// # Errors
    /// There is no such job; the database fails.
    pub fn add_photo(
        &self,
        job_id: i64,
        name: &str,
        (width, height): (u32, u32),
        picture: &[u8],
        thumbnail: &[u8],
        at: Timestamp,
    ) -> Result<StoredPhoto, StoreError> {
        let connection = self.lock();
        job(&connection, job_id)?;
        connection.execute(
            "INSERT INTO photo (job_id, name, made_at, width, height, picture, thumbnail) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
            params![job_id, name, at.to_string(), width, height, picture, thumbnail],
        )?;
        let id = connection.last_insert_rowid();
        Ok(StoredPhoto { id, job_id, name: name.into(), made_at: at.to_string(), width, height })
    }

    /// The photographs of a job, the oldest first.
    ///
    /// # Errors
    /// The database fails.
    pub fn photos(&self, job_id: i64) -> Result<Vec<StoredPhoto>, StoreError> {
        let connection = self.lock();
        job(&connection, job_id)?;
        let mut statement = connection.prepare_cached(
            "SELECT id, job_id, name, made_at, width, height FROM photo WHERE job_id = ?1 ORDER BY id",
        )?;
        let rows = statement.query_map([job_id], |row| {
            Ok(StoredPhoto {
                id: row.get(0)?,
                job_id: row.get(1)?,
                name: row.get(2)?,
                made_at: row.get(3)?,
                width: row.get(4)?,
                height: row.get(5)?,
            })
        })?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// The points of a photograph, or of its thumbnail, as JPEG.
    ///
    /// # Errors
    /// There is no such photograph; the database fails.
    pub fn photo_bytes(&self, id: i64, thumbnail: bool) -> Result<Vec<u8>, StoreError> {
        let what = if thumbnail {
            "SELECT thumbnail FROM photo WHERE id = ?1"
        } else {
            "SELECT picture FROM photo WHERE id = ?1"
        };
        self.lock()
            .prepare_cached(what)?
            .query_row([id], |row| row.get(0))
            .optional()?
            .ok_or(StoreError::NotFound { what: "photograph", id })
    }
}

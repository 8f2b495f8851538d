//! A copy of everything, taken from the running server.

use std::sync::atomic::{AtomicU64, Ordering};

use actix_web::{HttpResponse, get, web};
use jiff::Timestamp;

use super::{Problem, Workshop};
use crate::own_book;

/// How many copies went out of this server.
static GONE_OUT: AtomicU64 = AtomicU64::new(0);

/// The data folder as one file: a SQLite database. It is of one moment, and holds up nobody who writes.
#[utoipa::path(get, operation_id = "backups_make", path = "/api/backup",
    responses((status = 200, content_type = "application/vnd.sqlite3"), (status = 507, body = Problem)))]
#[get("/api/backup")]
pub async fn make(workshop: web::Data<Workshop>) -> Result<HttpResponse, Problem> {
    let folder = workshop.folder.clone();
    let day = Timestamp::now().strftime("%Y-%m-%d-%H%M").to_string();
    let name = format!("gritty-ember-{day}.backup");
    let file = web::block(move || {
        // Beside the data: it is taken away again as soon as it is open, so that it lives as long as the answer.
        // Two that are asked for at once do not share a name.
        let number = GONE_OUT.fetch_add(1, Ordering::Relaxed);
        let path = folder.join(format!("going-out-{}-{number}", std::process::id()));
        let report = ember_store::back_up(&folder, &path, &[own_book::FILE]);
        let opened = report.and_then(|report| Ok((std::fs::File::open(&path)?, report.bytes)));
        let _ = std::fs::remove_file(&path);
        opened
    })
    .await
    .map_err(|_| Problem::internal("the backup was interrupted".into()))?;
    let (file, bytes) = file.map_err(|error| Problem::no_room(format!("no backup was made: {error}")))?;
    Ok(HttpResponse::Ok()
        .content_type("application/vnd.sqlite3")
        .insert_header(("content-disposition", format!("attachment; filename=\"{name}\"")))
        .body(actix_web::body::SizedStream::new(bytes, pieces(file))))
}

/// The file piece by piece, so that a large one does not lie in memory.
fn pieces(file: std::fs::File) -> impl futures_core::Stream<Item = Result<web::Bytes, std::io::Error>> {
    Pieces { file }
}

struct Pieces {
    file: std::fs::File,
}

const PIECE: usize = 256 * 1024;

impl futures_core::Stream for Pieces {
    type Item = Result<web::Bytes, std::io::Error>;

    fn poll_next(
        self: std::pin::Pin<&mut Self>,
        _: &mut std::task::Context<'_>,
    ) -> std::task::Poll<Option<Self::Item>> {
        let mut piece = vec![0; PIECE];
        std::task::Poll::Ready(match std::io::Read::read(&mut self.get_mut().file, &mut piece) {
            Ok(0) => None,
            Ok(read) => {
                piece.truncate(read);
                Some(Ok(web::Bytes::from(piece)))
            }
            Err(error) => Some(Err(error)),
        })
    }
}

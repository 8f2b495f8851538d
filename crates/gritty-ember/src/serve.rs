//! `gritty-ember serve`: the server, its headers, and who may talk to it.

use std::io::{self, Write};
use std::net::SocketAddr;
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use actix_web::body::{BoxBody, EitherBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::{self, HeaderValue};
use actix_web::middleware::{Compress, Next, from_fn};
use actix_web::{App, HttpServer, ResponseError, web};
use ember_core::knowledge::Knowledge;
use ember_store::{FolderLock, Store};

use crate::api::jobs::Reckoned;
use crate::api::links::Links;
use crate::api::logs::Imports;
use crate::api::recordings::Lately;
use crate::api::{self, Problem, Workshop};
use crate::own_book::OwnBook;
use crate::{demo, web_app};

/// Opens the store, serves until the process is told to stop.
///
/// # Errors
/// The data folder or the address cannot be used; the demonstration cannot be written.
pub fn serve(data: &Path, listen: SocketAddr, with_demo: bool, rate: f64) -> Result<(), Box<dyn std::error::Error>> {
    // Held until the process ends.
    let _lock = FolderLock::take(data)?;
    let store = Store::open(data).map_err(|error| format!("{}: {error}", data.display()))?;
    if with_demo && store.vehicles()?.is_empty() {
        demo::fill(&store)?;
    }
    store.discard_unfinished()?;
    // The simulated cars live as long as the server.
    let (_cars, known) = if with_demo { demo::cars(rate)? } else { (Vec::new(), Vec::new()) };
    let own = OwnBook::open(data, Knowledge::built_in());
    if let Some(broken) = own.now().broken {
        eprintln!("The workshop's own file is not used: {broken}");
    }
    let workshop = web::Data::new(Workshop {
        store: Arc::new(store),
        knowledge: Knowledge::built_in(),
        links: Links::with(known),
        imports: Imports::default(),
        lately: Lately::default(),
        simulated: with_demo,
        own,
        refreshing: AtomicBool::default(),
        folder: data.to_path_buf(),
        reckoned: Reckoned::default(),
    });
    actix_web::rt::System::new().block_on(async move {
        // What closed jobs have taught is known before the first job is shown.
        api::cards::freshen(&workshop).await.map_err(|problem| problem.to_string())?;
        let server = HttpServer::new(move || {
            App::new()
                .app_data(workshop.clone())
                .wrap(Compress::default())
                .wrap(from_fn(guard))
                .configure(api::routes)
                .configure(web_app::routes)
        })
        .workers(2)
        .shutdown_timeout(2)
        .bind(listen)
        .map_err(|error| format!("{listen}: {error}"))?;
        let address = server.addrs().first().copied().unwrap_or(listen);
        println!("Gritty Ember is ready at http://{address}");
        io::stdout().flush()?;
        server.run().await?;
        Ok(())
    })
}

/// Turns away requests that a page from elsewhere sent, and puts the security headers on every answer.
///
/// A server on loopback can be reached by any page in any browser on the machine. A foreign page gives itself away
/// by its origin, and a foreign name that was pointed at this machine by its host.
async fn guard<B: MessageBody + 'static>(
    request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<EitherBody<B, BoxBody>>, actix_web::Error> {
    let mut response = match foreign(&request) {
        Some(problem) => request.into_response(problem.error_response()).map_into_right_body(),
        None => next.call(request).await?.map_into_left_body(),
    };
    let headers = response.headers_mut();
    let fixed: [(header::HeaderName, &'static str); 6] = [
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::X_FRAME_OPTIONS, "DENY"),
        (header::REFERRER_POLICY, "no-referrer"),
        (header::HeaderName::from_static("cross-origin-opener-policy"), "same-origin"),
        (header::HeaderName::from_static("cross-origin-resource-policy"), "same-origin"),
        (header::HeaderName::from_static("permissions-policy"), "camera=(), geolocation=(), microphone=()"),
    ];
    for (name, value) in fixed {
        headers.insert(name, HeaderValue::from_static(value));
    }
    if !headers.contains_key(header::CONTENT_SECURITY_POLICY) {
        headers.insert(
            header::CONTENT_SECURITY_POLICY,
            HeaderValue::from_static("default-src 'none'; frame-ancestors 'none'"),
        );
    }
    Ok(response)
}

fn foreign(request: &ServiceRequest) -> Option<Problem> {
    let host = request.headers().get(header::HOST).and_then(|h| h.to_str().ok()).unwrap_or_default().to_owned();
    let name = host.rsplit_once(':').map_or(host.as_str(), |(name, _)| name).trim_matches(['[', ']']).to_owned();
    // Names can be pointed anywhere; addresses cannot.
    let known = name == "localhost" || name.parse::<std::net::IpAddr>().is_ok();
    if !known {
        return Some(Problem::forbidden(format!("{name} is not a name of this server: use its address")));
    }
    let origin = request.headers().get(header::ORIGIN)?.to_str().ok()?.to_owned();
    let same = origin.split_once("://").is_some_and(|(_, rest)| rest == host);
    (!same).then(|| Problem::forbidden(format!("a page from {origin} may not use this server")))
}

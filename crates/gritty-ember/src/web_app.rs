//! The built web application, served out of the binary.

use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, web};
use rand::distr::{Alphanumeric, SampleString};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
struct Assets;

/// Stands in the page where the nonce of this answer goes.
const NONCE_PLACE: &str = "__STYLE_NONCE__";

pub fn routes(config: &mut web::ServiceConfig) {
    config.default_service(web::get().to(serve));
}

/// An asset by its path; any other path is a place within the application, which finds its own way from the page.
async fn serve(request: HttpRequest) -> HttpResponse {
    let path = request.path().trim_start_matches('/');
    if path.starts_with("api/") {
        return crate::api::Problem::not_found(format!("there is nothing at /{path}")).answer();
    }
    match Assets::get(path).filter(|_| path != "index.html") {
        Some(file) => HttpResponse::Ok()
            .content_type(mime_guess::from_path(path).first_or_octet_stream().as_ref())
            // Built assets carry the hash of their content in their name.
            .insert_header((header::CACHE_CONTROL, "public, max-age=31536000, immutable"))
            .body(file.data.into_owned()),
        None if path.contains('.') => crate::api::Problem::not_found(format!("there is no file /{path}")).answer(),
        None => page(),
    }
}

fn page() -> HttpResponse {
    let Some(page) = Assets::get("index.html") else {
        return HttpResponse::ServiceUnavailable()
            .content_type("text/plain; charset=utf-8")
            .body("The web application was not built into this binary. Build web/ first, then the binary.");
    };
    // Styles are made in the browser by the component library; the nonce lets those in and no others.
    let nonce = Alphanumeric.sample_string(&mut rand::rng(), 24);
    let policy = format!(
        "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; font-src 'self'; img-src 'self' data: blob:; \
         connect-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    );
    HttpResponse::Ok()
        .content_type("text/html; charset=utf-8")
        .insert_header((header::CONTENT_SECURITY_POLICY, policy))
        .insert_header((header::CACHE_CONTROL, "no-store"))
        .body(String::from_utf8_lossy(&page.data).replace(NONCE_PLACE, &nonce))
}

//! The interface: pages, the commands and frames behind them, and live progress.
//!
//! Handlers parse, call core or store, and answer; rules live in core. Work on pixels never runs on the
//! threads that answer requests.

mod app;
mod assets;
mod bakes;
mod beside;
mod bin;
mod controls;
mod cpu;
mod demo;
mod error;
mod event;
mod events;
mod fit;
mod folders;
mod frames;
mod fresh;
mod guard;
mod imports;
mod incoming;
mod json;
mod looks;
mod media;
mod outside;
mod pages;
mod queue;
mod results;
mod setups;
mod shipped;
mod shots;
mod shows;
mod stills;
mod tools;
mod tracks;

use std::net::SocketAddr;
use std::time::Duration;

use axum::extract::DefaultBodyLimit;
use axum::http::{HeaderName, HeaderValue};
use axum::routing::{delete, get, post, put};
use axum::{Extension, Router};
use hyper_util::rt::{TokioExecutor, TokioIo, TokioTimer};
use hyper_util::server::conn::auto::Builder;
use hyper_util::server::graceful::GracefulShutdown;
use hyper_util::service::TowerToHyperService;
use tokio::net::TcpListener;
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::timeout::RequestBodyTimeoutLayer;

pub use app::App;
pub use demo::demo_setups;
pub use error::ServeError;
pub use guard::Hosts;

/// How long a request may keep the server waiting for its next byte.
const LONGEST_PAUSE: Duration = Duration::from_secs(30);
/// How long answers that are under way may take once the server is asked to end.
const LAST_ANSWERS: Duration = Duration::from_secs(3);
/// How long it is waited where nobody can be let in.
const ACCEPT_AGAIN: Duration = Duration::from_millis(200);
/// Largest JSON text.
const LARGEST_TEXT: usize = 16 << 20;

/// Where the server is reached, and what it takes in.
#[derive(Clone, Debug)]
pub struct Door {
    /// Address and port; port 0 takes a free one.
    pub listen: SocketAddr,
    /// Other names that it is reached by.
    pub names: Vec<String>,
    /// Most bytes of one file that comes in.
    pub largest_file: u64,
}

/// Every route, answering to `hosts`, taking in files of at most so many bytes each.
pub fn router(app: App, hosts: Hosts, largest_file: u64) -> Router {
    let shot = Router::new()
        .route("/state", get(setups::state))
        .route("/edit", post(setups::edit))
        .route("/undo", post(setups::undo))
        .route("/redo", post(setups::redo))
        .route("/values", get(setups::values))
        .route("/curve", post(setups::curve))
        .route("/formula", get(setups::formula))
        .route("/rows", get(setups::rows))
        .route("/versions", get(setups::versions).post(setups::keep_version))
        .route("/versions/difference", get(setups::difference))
        .route("/versions/{number}", delete(bin::version))
        .route("/versions/{number}/go-on", post(setups::go_on_from))
        .route("/frame", get(frames::frame))
        .route("/thumb", get(frames::thumb))
        .route("/still", get(frames::still))
        .route("/effect", get(frames::effect))
        .route("/probe", get(frames::probe))
        .route("/region", get(frames::region))
        .route("/held", get(frames::held))
        .route("/scopes", get(looks::counted))
        .route("/folds", get(looks::folds))
        .route("/motion", get(looks::motion))
        .route("/carry", get(looks::carry))
        .route("/moments", get(looks::moments))
        .route("/arrows", get(looks::arrows))
        .route("/findings", get(looks::found))
        .route("/stills", get(stills::list).post(stills::keep))
        .route("/stills/{number}", delete(stills::leave))
        .route("/stills/{number}/return", post(stills::return_to))
        .route("/pick", get(media::pick))
        .route("/things", get(media::things))
        .route("/tool-inputs", post(tools::inputs))
        .route("/keep-tool", post(tools::keep))
        .route("/take-tool", post(tools::take))
        .route("/bake", post(bakes::start))
        .route("/bake/stop", post(bakes::stop))
        .route("/bakes", get(bakes::states))
        .route("/tracks/follow", post(tracks::follow))
        .route("/tracks/stop", post(tracks::stop))
        .route("/tracks/find", get(tracks::find))
        .route("/tracks/placed", post(tracks::placed))
        .route("/tracks/solve", post(tracks::solve::solve))
        .route("/tracks/solved", get(tracks::solve::solved).post(tracks::solve::set_down))
        .route("/tracks/table", get(tracks::table).post(tracks::read_table))
        .route("/fit", get(fit::command))
        .route("/costs", get(bakes::costs))
        .route("/passes", get(frames::passes))
        .route("/renders", get(results::of_shot))
        .route("/render", post(queue::add));
    Router::new()
        .route("/", get(pages::wall))
        .route("/shots/{show}/{code}", get(pages::workbench))
        .route("/plates", get(pages::plates))
        .route("/rack", get(pages::rack))
        .route("/renders", get(pages::renders))
        .route("/assets/{*path}", get(assets::asset))
        .route("/api/stages", get(controls::stages))
        .route("/api/stages/common", get(controls::common))
        .route("/api/events", get(events::stream))
        .route("/bin", get(pages::bin))
        .route("/api/demo", post(shows::add_demo))
        .route("/api/shows", post(shows::make))
        .route("/api/shows/{show}", delete(bin::show))
        .route("/api/shows/{show}/rename", post(shows::rename))
        .route("/api/bin/empty", post(bin::empty))
        .route("/api/bin/{id}/back", post(bin::put_back))
        .route("/api/shows/{show}/shots", post(shots::new_shot))
        .route("/api/shows/{show}/shots/from-files", post(shots::from_files))
        .route("/api/folders", get(folders::list))
        .route("/api/shows/{show}/folders", post(folders::take))
        .route("/api/shows/{show}/import", put(imports::piece))
        .route("/api/shows/{show}/import/plan", post(imports::plan))
        .route("/api/shows/{show}/media", get(setups::show_media))
        .route("/api/shows/{show}/scan", post(media::scan))
        .route("/api/shows/{show}/working", post(media::set_working))
        .route("/api/shows/{show}/alias", post(media::teach))
        .route("/api/shows/{show}/media/{id}", delete(bin::plate))
        .route("/api/shows/{show}/media/{id}/colour", post(media::set_colour))
        .route("/api/shows/{show}/media/{id}/reference", post(media::set_reference))
        .route("/api/shows/{show}/media/{id}/picture", get(media::picture))
        .route("/api/tools", get(tools::list).post(tools::import))
        .route("/api/tools/{id}", delete(bin::tool))
        .route("/api/tools/{id}/file", get(tools::file))
        .route("/api/tools/{id}/picture", get(tools::picture))
        .route("/api/renders/{id}", delete(bin::render))
        .route("/api/renders/{id}/cancel", post(queue::cancel))
        .route("/api/renders/{id}/retry", post(queue::retry))
        .route("/api/renders/{id}/archive", get(results::archive))
        .route("/api/renders/{id}/clip", get(results::clip))
        .route("/api/renders/{id}/file/{frame}", get(results::frame))
        .route("/api/renders/{id}/frame/{frame}", get(queue::result_frame))
        .route("/api/shots/{show}/{code}", delete(bin::shot))
        .nest("/api/shots/{show}/{code}", shot)
        .layer(DefaultBodyLimit::max(LARGEST_TEXT))
        .layer(Extension(imports::LargestFile(largest_file)))
        .layer(axum::middleware::from_fn_with_state(hosts, guard::check))
        .layer(header("x-content-type-options", "nosniff"))
        .layer(header("referrer-policy", "no-referrer"))
        .layer(header(
            "content-security-policy",
            "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
        ))
        .layer(header("cross-origin-resource-policy", "same-origin"))
        .layer(header("cross-origin-opener-policy", "same-origin"))
        .layer(RequestBodyTimeoutLayer::new(LONGEST_PAUSE))
        .with_state(app)
}

fn header(name: &'static str, value: &'static str) -> SetResponseHeaderLayer<HeaderValue> {
    SetResponseHeaderLayer::if_not_present(HeaderName::from_static(name), HeaderValue::from_static(value))
}

/// Listens until `stop` is done. `ready` is called with the address once requests are answered.
pub async fn serve(
    app: App,
    door: &Door,
    ready: impl FnOnce(SocketAddr),
    stop: impl Future<Output = ()> + Send + 'static,
) -> Result<(), ServeError> {
    let listen = door.listen;
    let listener = TcpListener::bind(listen).await.map_err(|source| ServeError::Bind { listen, source })?;
    let address = listener.local_addr().map_err(|source| ServeError::Bind { listen, source })?;
    queue::start(&app);
    ready(address);
    let service = router(app.clone(), Hosts::new(address, &door.names), door.largest_file);
    answer_until(stop, &listener, service, || app.stop()).await;
    Ok(())
}

/// Answers whoever connects, until `stop` is done; then tells `stopping`, and lets answers under way end for a moment.
async fn answer_until(
    stop: impl Future<Output = ()>,
    listener: &TcpListener,
    service: Router,
    stopping: impl FnOnce(),
) {
    let mut http = Builder::new(TokioExecutor::new());
    http.http1().timer(TokioTimer::new()).header_read_timeout(LONGEST_PAUSE);
    let connections = GracefulShutdown::new();
    let mut stop = std::pin::pin!(stop);
    loop {
        let stream = tokio::select! {
            accepted = listener.accept() => match accepted {
                Ok((stream, _)) => stream,
                // Such as too many open files: it passes.
                Err(_) => {
                    tokio::time::sleep(ACCEPT_AGAIN).await;
                    continue;
                }
            },
            () = &mut stop => break,
        };
        let service = TowerToHyperService::new(service.clone());
        let connection = http.serve_connection_with_upgrades(TokioIo::new(stream), service).into_owned();
        let watched = connections.watch(connection);
        tokio::spawn(async move {
            // A client that breaks off is none of ours.
            let _ = watched.await;
        });
    }
    stopping();
    // Whoever reads slowly does not hold the program.
    let _ = tokio::time::timeout(LAST_ANSWERS, connections.shutdown()).await;
}

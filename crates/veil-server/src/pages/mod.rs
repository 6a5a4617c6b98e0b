//! The pages. Each is a template filled with what the store holds.

mod bin;
mod head;
mod plates;
mod rack;
mod renders;
mod wall;

use askama::Template;
use axum::extract::State;
use axum::response::Html;

pub(crate) use bin::bin;
pub(crate) use plates::plates;
pub(crate) use rack::rack;
pub(crate) use renders::renders;
pub(crate) use wall::wall;

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::setups::{ShotPath, load};
use head::html;

#[derive(Template)]
#[template(path = "workbench.html")]
struct Workbench {
    /// Every show there is.
    shows: Vec<String>,
    show: String,
    code: String,
    title: String,
}

pub(crate) async fn workbench(State(app): State<App>, path: ShotPath) -> Result<Html<String>, WebError> {
    let shot = load(&app, path).await?;
    let shows = blocking(move || Ok(app.store.shows()?.into_iter().map(|show| show.name).collect())).await?;
    html(&Workbench { shows, show: shot.show, code: shot.code, title: shot.title })
}

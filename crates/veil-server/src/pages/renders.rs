//! The renders page: the queue, and what came of it.

use askama::Template;
use axum::extract::{Query, State};
use axum::response::Html;
use veil_store::{RenderRecord, RenderState};

use super::head::{Head, ShowQuery, html};
use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;

struct RenderLine {
    id: i32,
    shot: String,
    address: String,
    row: String,
    frames: String,
    first: i32,
    output: String,
    state: RenderState,
    done: i32,
    total: usize,
    percent: usize,
    /// How many of those that are there were there already.
    kept: i32,
    last: i32,
    fps: f64,
    /// Whether all of it is in one file.
    is_clip: bool,
    /// How many values were beyond what the files hold.
    beyond: i64,
    failed: Vec<String>,
}

impl RenderLine {
    fn word(&self) -> &'static str {
        match self.state {
            RenderState::Queued => "queued",
            RenderState::Running => "running",
            RenderState::Done => "done",
            RenderState::Failed => "failed",
            RenderState::Cancelled => "cancelled",
        }
    }
}

#[derive(Template)]
#[template(path = "renders.html")]
struct Renders {
    head: Head,
    renders: Vec<RenderLine>,
}

pub(crate) async fn renders(
    State(app): State<App>,
    Query(asked): Query<ShowQuery>,
) -> Result<Html<String>, WebError> {
    blocking(move || {
        let head = Head::of(&app.store, &asked)?;
        let line = |render: RenderRecord| RenderLine {
            id: render.id,
            shot: format!("{} / {}", render.show, render.code),
            address: format!("/shots/{}/{}", render.show, render.code),
            row: render.setup.stage(render.stage).map_or_else(String::new, |row| row.name.clone()),
            frames: format!("{}–{}", render.frames.first, render.frames.last),
            first: render.frames.first,
            output: format!("renders/{}", render.output),
            state: render.state,
            done: render.done,
            total: render.frames.count(),
            percent: render.done.max(0) as usize * 100 / render.frames.count().max(1),
            kept: render.kept,
            last: render.frames.last,
            fps: render.setup.picture.fps,
            is_clip: !render.output.contains('#'),
            beyond: render.beyond,
            failed: render
                .failed
                .iter()
                .map(|failed| format!("{}: {}", failed.frame, failed.message))
                .collect(),
        };
        let of_show = |render: &RenderRecord| head.shows(&render.show);
        let renders = app.store.renders()?.into_iter().filter(of_show).map(line).collect();
        html(&Renders { head, renders })
    })
    .await
}

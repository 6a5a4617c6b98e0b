//! The shot wall.

use askama::Template;
use axum::extract::{Query, State};
use axum::response::Html;
use veil_store::{RenderState, ShotRecord};

use super::head::{Head, ShowQuery, ago, html};
use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;

struct WallShow {
    name: String,
    /// Frames a second, width and height of a new shot.
    fps: f64,
    size: [u32; 2],
    shots: Vec<WallShot>,
}

struct WallShot {
    code: String,
    title: String,
    address: String,
    picture: String,
    frames: String,
    size: String,
    version: String,
    changed: String,
    render: Option<&'static str>,
    drawn: usize,
    total: usize,
    opens: bool,
}

#[derive(Template)]
#[template(path = "wall.html")]
struct Wall {
    head: Head,
    shows: Vec<WallShow>,
}

pub(crate) async fn wall(
    State(app): State<App>,
    Query(asked): Query<ShowQuery>,
) -> Result<Html<String>, WebError> {
    blocking(move || {
        let head = Head::of(&app.store, &asked)?;
        let renders = app.store.newest_renders()?;
        let mut shows = Vec::new();
        for show in head.chosen(app.store.shows()?) {
            let root = app.store.folder().show(&show.folder);
            let shots = app.store.shots(&show.name)?.into_iter().map(|line| {
                let shot = line.shot;
                let is_demo = show.name == veil_demo::SHOW;
                let demo = veil_demo::Shot::ALL.iter().find(|demo| is_demo && demo.plan().code == shot.code);
                let total = shot.setup.picture.frames.count();
                let drawn =
                    demo.map_or(total, |demo| demo.plan().at_most(Some(total)).done_from_start(&root));
                wall_shot(&shot, line.version, renders.get(&shot.id).copied(), drawn, total)
            });
            let shots = shots.collect();
            shows.push(WallShow { name: show.name, fps: show.fps, size: show.size, shots });
        }
        html(&Wall { head, shows })
    })
    .await
}

fn wall_shot(
    shot: &ShotRecord,
    version: i32,
    render: Option<RenderState>,
    drawn: usize,
    total: usize,
) -> WallShot {
    let picture = shot.setup.picture;
    let last = shot.setup.final_id().map_or(0, |id| id.0);
    let middle =
        picture.frames.first + (drawn.saturating_sub(1) as i32).min(picture.frames.count() as i32 / 2);
    WallShot {
        code: shot.code.clone(),
        title: shot.title.clone(),
        address: format!("/shots/{}/{}", shot.show, shot.code),
        picture: format!(
            "/api/shots/{}/{}/still?stage={last}&frame={middle}&revision={}",
            shot.show, shot.code, shot.revision
        ),
        frames: format!("{}–{}", picture.frames.first, picture.frames.last),
        size: format!("{}x{}", picture.width, picture.height),
        version: if version > 0 { format!("v{version:03}") } else { String::new() },
        changed: ago(shot.changed_at),
        render: render.and_then(|state| match state {
            RenderState::Queued | RenderState::Running => Some("rendering"),
            RenderState::Failed => Some("render failed"),
            RenderState::Done | RenderState::Cancelled => None,
        }),
        drawn,
        total,
        opens: drawn > 0,
    }
}

//! The rack: tools, and where they are used.

use askama::Template;
use axum::extract::{Query, State};
use axum::response::Html;
use veil_store::Store;

use super::head::{Head, ShowQuery, html};
use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;

struct RackLine {
    id: i32,
    name: String,
    number: u32,
    numbers: String,
    shipped: bool,
    takes: String,
    gives: &'static str,
    faceplate: Vec<String>,
    rows: usize,
    used: Vec<UseLine>,
}

/// A row that a tool is used in.
#[derive(Clone)]
struct UseLine {
    tool: String,
    /// `SG010: Haze`.
    place: String,
    number: u32,
    /// Its shot's address.
    shot: String,
    stage: u32,
    /// Its frame before and after it takes the newest number.
    frame: i32,
    last: u32,
    own: bool,
    older: bool,
}

#[derive(Template)]
#[template(path = "rack.html")]
struct Rack {
    head: Head,
    tools: Vec<RackLine>,
}

pub(crate) async fn rack(
    State(app): State<App>,
    Query(asked): Query<ShowQuery>,
) -> Result<Html<String>, WebError> {
    blocking(move || {
        let head = Head::of(&app.store, &asked)?;
        let used = uses(&app.store, &head)?;
        let tools = app.store.tools()?.into_iter().map(|known| {
            let about = &known.newest.tool.about;
            let numbers: Vec<String> = known.numbers.iter().map(ToString::to_string).collect();
            let inputs: Vec<String> =
                about.inputs.iter().map(|input| format!("{} ({})", input.name, input.kind.word())).collect();
            RackLine {
                id: known.newest.id,
                name: about.name.clone(),
                number: about.number,
                numbers: numbers.join(", "),
                shipped: known.shipped,
                takes: inputs.join(", "),
                gives: about.gives.word(),
                faceplate: about.faceplate.iter().map(|entry| entry.label.clone()).collect(),
                rows: known.newest.tool.stages.len(),
                used: used
                    .iter()
                    .filter(|line| line.tool == about.name)
                    .map(|line| UseLine { older: line.number < about.number, ..line.clone() })
                    .collect(),
            }
        });
        html(&Rack { head, tools: tools.collect() })
    })
    .await
}

/// Every row that is a tool's, in every shot of the chosen shows.
fn uses(store: &Store, head: &Head) -> Result<Vec<UseLine>, WebError> {
    let mut found = Vec::new();
    for show in head.chosen(store.shows()?) {
        for line in store.shots(&show.name)? {
            let setup = &line.shot.setup;
            for row in &setup.stages {
                let Some(tool) = &row.tool else { continue };
                let frames = setup.picture.frames;
                found.push(UseLine {
                    tool: tool.name.clone(),
                    place: format!("{}: {}", line.shot.code, row.name),
                    number: tool.number,
                    shot: format!("{}/{}", line.shot.show, line.shot.code),
                    stage: row.id.0,
                    frame: frames.first + (frames.count() / 3) as i32,
                    last: setup.final_id().map_or(row.id.0, |id| id.0),
                    own: tool.own,
                    older: false,
                });
            }
        }
    }
    Ok(found)
}

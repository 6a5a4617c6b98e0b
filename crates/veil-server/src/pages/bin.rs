//! The bin.

use askama::Template;
use axum::extract::{Query, State};
use axum::response::Html;
use veil_store::BinRecord;

use super::head::{Head, ShowQuery, ago, html};
use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;

struct BinLine {
    id: i32,
    kind: &'static str,
    name: String,
    place: String,
    since: String,
}

#[derive(Template)]
#[template(path = "bin.html")]
struct Bin {
    head: Head,
    things: Vec<BinLine>,
}

pub(crate) async fn bin(
    State(app): State<App>,
    Query(asked): Query<ShowQuery>,
) -> Result<Html<String>, WebError> {
    blocking(move || {
        let head = Head::of(&app.store, &asked)?;
        let line = |BinRecord { id, kind, name, place, at, .. }: BinRecord| BinLine {
            id,
            kind: kind.word(),
            name,
            place,
            since: ago(at),
        };
        html(&Bin { head, things: app.store.bin()?.into_iter().map(line).collect() })
    })
    .await
}

//! What a row takes, laid on the frame or where a matte is.

use axum::extract::{Query, State};
use serde::Deserialize;
use veil_core::engine::{OnFault, Request};
use veil_core::fit::{FitWay, box_of, fit};
use veil_core::setup::{Command, Source, StageId};
use veil_core::signal::{Domain, Pixels};
use veil_core::spec::MAIN;
use veil_pixels::Window;

use crate::App;
use crate::error::WebError;
use crate::json::Json;
use crate::setups::{ShotPath, load_live};

#[derive(Deserialize)]
pub(crate) struct FitQuery {
    stage: StageId,
    frame: i32,
    /// The row whose matte it is laid on; none for the frame.
    matte: Option<StageId>,
    way: FitWay,
}

/// The edit that lays it there.
pub(crate) async fn command(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FitQuery>,
) -> Result<Json<Command>, WebError> {
    let shot = load_live(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .now(move |cancel| {
            let plates = worker.plates(&shot.folder)?;
            let seen = |stage: StageId| -> Result<(Domain, Pixels), WebError> {
                let whole = Request::whole(stage, f64::from(query.frame));
                let request = Request { on_fault: OnFault::Bypass, ..whole };
                let answer = worker.engine.answer(&shot.setup, &*plates, request, cancel)?;
                Ok((answer.signal.domain, answer.signal.over(answer.window)))
            };
            let row = shot.setup.stage(query.stage).ok_or_else(|| WebError::Missing("such row".into()))?;
            let from = match row.links.get(MAIN).map(|link| link.from) {
                Some(Source::Stage(main)) => seen(main)?.0.data,
                _ => Window::EMPTY,
            };
            let to = match query.matte {
                None => Window::sized(shot.setup.picture.width, shot.setup.picture.height),
                Some(matte) => match seen(matte)?.1 {
                    Pixels::Field(field) => box_of(&field),
                    _ => return Err(WebError::Bad("the row that it is to fit gives no matte".into())),
                },
            };
            fit(&shot.setup, query.stage, from, to, query.way)
                .map(Json)
                .map_err(|error| WebError::Bad(format!("`{}`: {error}", row.name)))
        })
        .await
}

//! Eight rows that work on single pixels, in one chain and each alone. The same as `bench/chain.py`.

use std::hint::black_box;

use veil_core::engine::{Engine, Request};
use veil_core::setup::{Setting, Setup, StageEntry, StageId};
use veil_pixels::Cancel;

use crate::bench::{OnePicture, picture, plate_setup};

/// A row by its kind, with what is set on it.
type Row = (&'static str, fn(StageEntry) -> StageEntry);

const ROWS: [Row; 8] = [
    ("grade", |row| row.with("exposure", Setting::number(0.3)).with("saturation", Setting::number(1.2))),
    ("tone_curve", |row| {
        row.with("all", Setting::Curve { curve: vec![[0.0, 0.0], [0.3, 0.36], [1.0, 1.0]] })
    }),
    ("levels", |row| row.with("in_low", Setting::number(0.02)).with("in_high", Setting::number(0.9))),
    ("tint", |row| row.with("bright", Setting::numbers(&[1.1, 0.95, 0.8]))),
    ("clamp", |row| row.with("high", Setting::number(0.95))),
    ("hue_shift", |row| row.with("angle", Setting::number(20.0))),
    ("invert", |row| row),
    ("grade", |row| row.with("gamma", Setting::numbers(&[1.2; 3]))),
];

/// What is measured: the names, and which of the rows each is of.
pub(crate) fn chains() -> Vec<(String, Vec<usize>)> {
    let alone = (0..ROWS.len()).map(|at| (format!("row_{}_{}", at + 1, ROWS[at].0), vec![at]));
    let whole = ("chain_8_rows".to_owned(), (0..ROWS.len()).collect());
    std::iter::once(whole).chain(alone).collect()
}

/// Rows that are planned, over and over: some of each way that rows are worked out.
const PLANNED: [&str; 8] = ["grade", "blur", "transform", "levels", "glow", "displace", "tint", "lens"];

/// Plans so many rows in one chain with each call, at another frame, and draws nothing.
pub(crate) fn planned(count: usize) -> impl FnMut() {
    let mut setup: Setup = plate_setup("planned");
    let mut above = StageId(2);
    for (number, kind) in PLANNED.iter().cycle().take(count).enumerate() {
        let id = StageId(10 + number as u32);
        let last = setup.stages.len() - 1;
        setup.stages.insert(last, StageEntry::new(id, kind, format!("Row {number}")).taking("main", above));
        above = id;
    }
    let (engine, plates) = (Engine::new(1 << 20), OnePicture(picture()));
    let mut frame = 0.0;
    move || {
        frame += 1.0;
        black_box(engine.content(&setup, &plates, Request::whole(above, frame)).is_ok());
    }
}

/// The rows worked out anew with each call: on pixels of another shape, which changes nothing but what they are found by.
pub(crate) fn chain(rows: &[usize]) -> impl FnMut() + use<> {
    let mut setup: Setup = plate_setup("chain");
    let mut above = StageId(2);
    for (number, at) in rows.iter().enumerate() {
        let (kind, with) = ROWS[*at];
        let id = StageId(10 + number as u32);
        let row = with(StageEntry::new(id, kind, format!("Row {number}")).taking("main", above));
        let last = setup.stages.len() - 1;
        setup.stages.insert(last, row);
        above = id;
    }
    let engine = Engine::new(256 << 20);
    let plates = OnePicture(picture());
    move || {
        setup.picture.aspect += 1e-6;
        let request = Request::whole(above, 1.0);
        black_box(engine.answer(&setup, &plates, request, &Cancel::new()).is_ok());
    }
}

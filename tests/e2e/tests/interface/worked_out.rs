//! What the page works out again to show it at once, beside what core makes of the same.

use serde_json::{Value, json};
use veil_core::controls::{Drawn, ShapePoint};
use veil_core::feed::Keys;
use veil_core::view::places_on_grid;
use veil_pixels::colour::tone::Tone;
use veil_pixels::shape::gradient::{Gradient, Spread, Stop};
use veil_pixels::{Cancel, Raster, Window};

use crate::support::Desk;

/// An expression on the page, and what core says of it.
struct Case {
    asked: String,
    wanted: Vec<f64>,
    near: f64,
}

fn case(asked: String, wanted: impl IntoIterator<Item = f64>, near: f64) -> Case {
    Case { asked, wanted: wanted.into_iter().collect(), near }
}

fn key_curves() -> Vec<Case> {
    let curve = |x1: f64, y1: f64, x2: f64, y2: f64| json!({ "curve": [x1, y1, x2, y2] });
    let written = json!({ "offset": -2.5, "keys": [
        { "frame": 1001.0, "value": 4.0, "ease": "through" },
        { "frame": 1004.0, "value": 9.0, "ease": "through" },
        { "frame": 1011.5, "value": 30.0, "ease": "through", "slopes": { "arrive": 6.0, "leave": -3.0 } },
        { "frame": 1020.0, "value": 31.0, "ease": "smooth" },
        { "frame": 1030.0, "value": -8.0, "ease": curve(0.9, 0.0, 1.0, 0.4) },
        { "frame": 1031.0, "value": 2.0, "ease": "step" },
        { "frame": 1040.0, "value": 2.5, "ease": curve(0.6, -0.5, 0.7, 1.0) },
        { "frame": 1060.0, "value": 100.0, "ease": "straight" },
        { "frame": 1070.0, "value": 0.0 },
    ] });
    let keys: Keys = serde_json::from_value(written.clone()).unwrap();
    let frames: Vec<f64> = (0..330).map(|step| 995.0 + f64::from(step) * 0.25).collect();
    let asked = format!("{}.map((frame) => keys.keyValue({written}, frame))", json!(frames));
    let slopes = (0..9).map(|at| keys.slopes(at)).flat_map(|slopes| [slopes.arrive, slopes.leave]);
    let sides = format!("{}.keys.flatMap((_key, at, all) => Object.values(keys.slopesOf(all, at)))", written);
    vec![case(asked, frames.iter().map(|frame| keys.at(*frame)), 1e-6), case(sides, slopes, 1e-9)]
}

const POINTS: &str =
    "(points) => points.flatMap(({ at, before, after, soft }) => [...at, ...before, ...after, soft])";

fn numbers(points: &[ShapePoint]) -> Vec<f64> {
    let of = |point: &ShapePoint| {
        let ShapePoint { at, before, after, soft } = *point;
        [at[0], at[1], before[0], before[1], after[0], after[1], soft]
    };
    points.iter().flat_map(of).collect()
}

fn outlines() -> Vec<Case> {
    let key = |frame: f64, x: f64| {
        let bent = json!({ "at": [x, 40.0 - x], "before": [-x / 3.0, 2.0], "after": [x / 2.0, 1.0], "soft": x / 10.0 });
        json!({ "frame": frame, "points": [bent, { "at": [300.0, x * x / 50.0] }, { "at": [x, 400.0], "soft": 12.0 }] })
    };
    let keys = [key(1001.0, 10.0), key(1003.0, 90.0), key(1012.0, 40.0), key(1013.0, 55.0)];
    let ways = ["smooth", "straight", "step"];
    let shapes = ways.map(|way| json!({ "name": "outline 1", "way": way, "keys": keys }));
    let at = |written: &Value| {
        let shape: Drawn = serde_json::from_value(written.clone()).unwrap();
        let frames: Vec<f64> = (0..50).map(|step| 999.0 + f64::from(step) / 3.0).collect();
        let asked =
            format!("{}.flatMap((frame) => ({POINTS})(drawn.shapeAt({written}, frame)))", json!(frames));
        case(asked, frames.iter().flat_map(|frame| numbers(&shape.points.at(*frame))), 1e-9)
    };
    shapes.iter().map(at).collect()
}

fn tones_and_gradients() -> Vec<Case> {
    let runs: [&[[f64; 2]]; 4] = [
        &[],
        &[[0.5, 0.7]],
        &[[0.0, 0.1], [0.3, 0.1], [0.31, 0.8], [1.0, 0.9], [2.0, 4.0]],
        &[[0.0, 0.0], [0.5, 0.2], [0.5, 0.6], [1.0, 1.0]],
    ];
    let values: Vec<f32> = (0..120).map(|step| -0.5 + step as f32 * 0.03).collect();
    let tone = |points: &&[[f64; 2]]| {
        let tone = Tone::through(points);
        let asked = format!(
            "(() => {{ const points = ramps.tonePoints({}); const slopes = ramps.toneSlopes(points); return {}.map((value) => ramps.toneAt(points, slopes, value)) }})()",
            json!(points),
            json!(values)
        );
        case(asked, values.iter().map(|value| f64::from(tone.at(*value))), 2e-4)
    };
    let stop = |at: f32, colour: [f32; 3], alpha: f32, smooth: bool| Stop { at, colour, alpha, smooth };
    let stops = vec![
        stop(0.7, [0.5, 0.0, 2.0], 0.4, false),
        stop(0.1, [6.0, 3.0, 1.0], 1.0, true),
        stop(0.4, [0.0; 3], 0.0, true),
    ];
    let written: Vec<_> = stops.iter().map(|stop| json!({ "at": stop.at, "colour": stop.colour, "alpha": stop.alpha, "smooth": stop.smooth })).collect();
    let gradient = Gradient::new(stops, Spread::Hold);
    let places: Vec<f32> = (0..60).map(|step| step as f32 / 59.0).collect();
    let asked = format!(
        "{}.flatMap((at) => {{ const {{ colour, alpha }} = ramps.gradientAt({}, at); return [...colour.map((value) => value * alpha), alpha] }})",
        json!(places),
        json!(written)
    );
    let wanted = places.iter().flat_map(|at| gradient.at(*at)).map(f64::from);
    runs.iter().map(tone).chain([case(asked, wanted, 1e-4)]).collect()
}

/// Where a place of the shown picture stands in the row's own, for a warp that bulges and shifts.
fn bulged([x, y]: [f64; 2]) -> [f64; 2] {
    let (right, down) = (x - 480.0, y - 270.0);
    let pull = 60.0 * (-(right * right + down * down) / 40_000.0).exp();
    [x + 12.0 - right / 200.0 * pull, y - 5.0 - down / 200.0 * pull]
}

fn inverse_maps() -> Vec<Case> {
    let window = Window::sized(960, 540);
    let places =
        Raster::from_fn(window, |x, y| bulged([f64::from(x) + 0.5, f64::from(y) + 0.5]).map(|at| at as f32));
    let bytes = places_on_grid(&places, [96, 54], 1.0, &Cancel::new()).unwrap();
    let floats: Vec<f32> =
        bytes.chunks_exact(4).map(|four| f32::from_le_bytes(four.try_into().unwrap())).collect();
    let grid =
        format!("new carry.Grid(96, 54, new Float32Array({}), {{ width: 960, height: 540 }})", json!(floats));
    let seen: Vec<[f64; 2]> = (0..40)
        .map(|step| [60.0 + f64::from(step % 8) * 115.0, 50.0 + f64::from(step / 8) * 105.0])
        .collect();
    let own: Vec<[f64; 2]> = seen.iter().map(|place| bulged(*place)).collect();
    // Marks lie within a pixel of what they mark; a place is looked for until it is nearer than three quarters of one.
    vec![
        case(
            format!(
                "(() => {{ const grid = {grid}; return {}.flatMap((place) => grid.toOwn(place)) }})()",
                json!(seen)
            ),
            own.iter().flatten().copied(),
            0.25,
        ),
        case(
            format!(
                "(() => {{ const grid = {grid}; return {}.flatMap((place) => grid.toShown(place)) }})()",
                json!(own)
            ),
            seen.iter().flatten().copied(),
            1.5,
        ),
    ]
}

#[tokio::test(flavor = "multi_thread")]
async fn what_the_page_works_out_again_is_what_core_makes_of_it() {
    let desk = Desk::new().await;
    desk.open("/plates").await;
    let base =
        desk.run("return new URL('..', document.querySelector('script[src*=\"/pages/\"]').src).href").await;
    let names = ["shot/keys", "shot/drawn", "shot/ramps", "viewer/carry"];
    let loaded = names.map(|name| format!("import('{}{name}.js')", base.as_str().unwrap())).join(", ");
    let cases: Vec<Case> =
        [key_curves(), outlines(), tones_and_gradients(), inverse_maps()].into_iter().flatten().collect();
    for Case { asked, wanted, near } in cases {
        let script = format!(
            "const done = arguments[0]; Promise.all([{loaded}]).then(([keys, drawn, ramps, carry]) => done({asked}), (error) => done(String(error)))"
        );
        let found = desk.run_async(&script).await;
        let found: Vec<f64> =
            serde_json::from_value(found.clone()).unwrap_or_else(|_| panic!("{found} of {asked:.300}"));
        assert_eq!(found.len(), wanted.len(), "{asked:.300}");
        for (at, (found, wanted)) in found.iter().zip(&wanted).enumerate() {
            assert!(
                (found - wanted).abs() <= near * wanted.abs().max(1.0),
                "number {at} is {found}, not {wanted}: {asked:.300}"
            );
        }
    }
}

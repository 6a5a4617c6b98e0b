//! Outlines drawn on the picture.

use serde_json::Value;

use crate::support::{Desk, difference};

/// Where the outline is drawn, in shares of the picture, and a place outside of it.
const INSIDE: [f64; 4] = [0.28, 0.3, 0.32, 0.36];
const OUTSIDE: [f64; 4] = [0.8, 0.3, 0.84, 0.36];
const MOVED: [f64; 4] = [0.62, 0.3, 0.66, 0.36];

/// The outlines of the selected row, as the server has them.
async fn shapes(desk: &Desk) -> Value {
    let row = desk.row("Outline").await;
    desk.run(&format!("const state = await (await fetch('/api/shots/Saltglass/SG010/state')).json(); return state.setup.stages.find(stage => stage.id === {row}).controls.shapes?.shapes ?? []")).await
}

async fn press(desk: &Desk, words: &str) {
    desk.run(&format!("[...document.querySelectorAll('#controls .shapes button')].find(button => button.textContent === '{words}').click()")).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn an_outline_is_drawn_keyed_softened_and_used_as_a_matte() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Ellipse").await;
    desk.add("Outline").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    press(&desk, "draw an outline").await;
    for (x, y) in [(0.2, 0.2), (0.4, 0.2), (0.4, 0.5), (0.2, 0.5), (0.2, 0.2)] {
        let place = desk.at(x, y).await;
        desk.drag(place, (0, 0)).await;
    }
    desk.until("the outline", "return document.querySelectorAll('.shapeline').length === 1").await;
    desk.settled().await;
    let lit = |pixels: &[i64]| pixels.chunks(4).all(|pixel| pixel[0] > 250);
    let dark = |pixels: &[i64]| pixels.chunks(4).all(|pixel| pixel[0] < 5);
    assert!(lit(&desk.pixels(INSIDE).await) && dark(&desk.pixels(OUTSIDE).await));
    assert_eq!(shapes(&desk).await[0]["keys"][0]["points"].as_array().unwrap().len(), 4);

    // All points selected and dragged on another frame: a key there, and half way in between.
    desk.press("#strip", "\u{e010}").await;
    desk.settled().await;
    desk.press("#well", "\u{e009}a\u{e000}").await;
    let corner = desk.at(0.4, 0.5).await;
    let to = desk.at(0.74, 0.5).await;
    desk.drag(corner, (to.0 - corner.0, 0)).await;
    desk.settled().await;
    assert_eq!(shapes(&desk).await[0]["keys"].as_array().unwrap().len(), 2);
    assert!(lit(&desk.pixels(MOVED).await) && dark(&desk.pixels([0.22, 0.3, 0.26, 0.36]).await));
    desk.press("#strip", "\u{e011}").await;
    desk.settled().await;
    assert!(lit(&desk.pixels(INSIDE).await), "at its first key it is where it was");

    // A point more, on the line between two; a soft edge; away with two of the points.
    let middle = desk.at(0.3, 0.2).await;
    desk.run("document.querySelector('.toast')?.remove()").await;
    desk.double(middle).await;
    let points = "return [...document.querySelectorAll('.outlinepoints')].reduce((sum, marks) => sum + Number(marks.dataset.count), 0) === 5";
    desk.until("five points", points).await;
    desk.settled().await;
    let counts = shapes(&desk).await[0]["keys"]
        .as_array()
        .unwrap()
        .iter()
        .map(|key| key["points"].as_array().unwrap().len())
        .collect::<Vec<_>>();
    assert_eq!(counts, [5, 5], "in every key");
    let edge = desk.pixels([0.395, 0.3, 0.405, 0.36]).await;
    desk.run("const field = document.querySelector('[aria-label=\"softness of outline 1\"]'); field.value = '60'; field.dispatchEvent(new Event('change'))").await;
    desk.until(
        "softness",
        "return document.querySelector('[aria-label=\"softness of outline 1\"]').value === '60'",
    )
    .await;
    desk.settled().await;
    assert!(difference(&edge, &desk.pixels([0.395, 0.3, 0.405, 0.36]).await) > 20);

    // As the matte of a grade it lets that through where it is alone.
    desk.select("Displace").await;
    desk.add("Grade").await;
    let plain = (desk.pixels(INSIDE).await, desk.pixels(OUTSIDE).await);
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let before = (desk.pixels(INSIDE).await, desk.pixels(OUTSIDE).await);
    assert!(difference(&plain.0, &before.0) > 20, "the grade is shown now");
    desk.run("const slot = document.querySelector('[aria-label=\"matte of Grade\"]'); slot.value = [...slot.options].find(option => option.text === 'Outline').value; slot.dispatchEvent(new Event('change'))").await;
    desk.settled().await;
    desk.type_value("exposure", "2").await;
    desk.settled().await;
    assert!(difference(&before.0, &desk.pixels(INSIDE).await) > 30);
    assert!(difference(&before.1, &desk.pixels(OUTSIDE).await) <= 1);
}

#[tokio::test(flavor = "multi_thread")]
async fn of_marks_that_lie_close_together_the_nearest_is_dragged() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.add("Outline").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    press(&desk, "draw an outline").await;
    // Handles of six pixels of the screen; the second point's lies between it and the first.
    let first = desk.at(0.3, 0.3).await;
    for (x, y, handle) in [(0, 0, (0, 6)), (8, 0, (6, 0)), (100, 80, (0, 6)), (0, 80, (0, 6))] {
        desk.drag((first.0 + x, first.1 + y), handle).await;
    }
    desk.press("#well", "\u{e007}").await;
    desk.until("the outline", "return document.querySelectorAll('.shapeline').length === 1").await;
    desk.settled().await;
    let points = async || shapes(&desk).await[0]["keys"][0]["points"].clone();
    let xy = |points: &Value, index: usize, part: &str| {
        [0, 1].map(|axis| points[index][part][axis].as_f64().unwrap_or(0.0))
    };
    let before = points().await;
    desk.press("#well", "\u{e009}a\u{e000}").await;
    desk.drag(first, (40, 0)).await;
    desk.settled().await;
    let moved = points().await;
    for index in 0..4 {
        assert!(xy(&moved, index, "at")[0] > xy(&before, index, "at")[0] + 20.0, "{moved}");
        assert_eq!(xy(&moved, index, "after"), xy(&before, index, "after"));
    }
    desk.drag((first.0 + 40, first.1 + 6), (-20, 20)).await;
    desk.settled().await;
    let bent = points().await;
    for index in 0..4 {
        assert_eq!(xy(&bent, index, "at"), xy(&moved, index, "at"));
    }
    assert!(xy(&bent, 0, "after")[1] > xy(&moved, 0, "after")[1] + 10.0, "{bent}");
    assert_eq!(xy(&bent, 1, "after"), xy(&moved, 1, "after"));
}

#[tokio::test(flavor = "multi_thread")]
async fn a_point_is_followed_and_an_ellipse_dropped_on_goes_with_it() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Ellipse").await;
    let before: f64 = desk.value("centre x").await.trim_end_matches(" px").parse().unwrap();
    desk.select("Plate").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    press(&desk, "follow a point").await;
    let lamp = desk.at(0.1, 0.475).await;
    desk.drag(lamp, (0, 0)).await;
    desk.until("the track", "return document.querySelectorAll('.shapeline').length === 1").await;
    press(&desk, "on »").await;
    let tracks = "const state = await (await fetch('/api/shots/Saltglass/SG010/state')).json(); return state.setup.tracks[0]";
    desk.until("its frames", "const state = await (await fetch('/api/shots/Saltglass/SG010/state')).json(); return Object.keys(state.setup.tracks[0].samples).length === 4").await;
    let track = desk.run(tracks).await;
    let sample = |frame: &str| {
        let sample = &track["samples"][frame];
        assert!(sample["likeness"].as_f64().unwrap() > 0.9, "{sample}");
        sample["at"][0].as_f64().unwrap()
    };
    let moved = sample("1004") - sample("1001");
    assert!(moved.abs() > 0.05 && moved.abs() < 12.0, "the camera pushes in slowly: {moved}");

    // Dropped on the ellipse at the first frame, its centre goes by as much.
    desk.click("#first").await;
    desk.until("the first frame", "return document.getElementById('frame').value === '1001'").await;
    desk.settled().await;
    let place = async |css: &str| {
        let script = format!(
            "const b = document.querySelector({css:?}).getBoundingClientRect(); return [Math.round(b.x + 100), Math.round(b.y + b.height / 2)]"
        );
        let found = desk.run(&script).await;
        (found[0].as_i64().unwrap(), found[1].as_i64().unwrap())
    };
    let ellipse = format!("#row-{}", desk.row("Ellipse").await);
    let (from, to) = (place(".shapeline").await, place(&ellipse).await);
    desk.hold(from, (to.0 - from.0, to.1 - from.1)).await;
    desk.release_at(to).await;
    desk.select("Ellipse").await;
    desk.until("it to go with the track", "return [...document.querySelectorAll('#controls .feedword')].filter(word => word.textContent === 'track').length >= 2").await;
    desk.press("#strip", "\u{e010}").await;
    desk.until("the last frame", "return document.getElementById('frame').value === '1004'").await;
    desk.settled().await;
    // It is shown to a tenth of a pixel.
    let goal = before + moved;
    desk.until("the centre to have gone as far", &format!("return Math.abs(parseFloat(document.querySelector('#controls input.num[aria-label=\"centre x\"]').value) - {goal}) < 0.06")).await;
}

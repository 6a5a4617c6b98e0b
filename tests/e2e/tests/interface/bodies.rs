//! Lattices, pairs of outlines and places in space, on the bench and under the hand.

use serde_json::Value;

use crate::looking::tick;
use crate::support::{Desk, difference};

async fn state(desk: &Desk) -> Value {
    desk.run("return (await fetch('/api/shots/Saltglass/SG010/state')).json()").await
}

/// What a control of the row of a kind is set to, as the server has it.
async fn setting(desk: &Desk, kind: &str, control: &str) -> Value {
    let rows = state(desk).await["setup"]["stages"].clone();
    let row = rows.as_array().unwrap().iter().find(|row| row["kind"] == kind).cloned();
    row.map_or(Value::Null, |row| row["controls"][control].clone())
}

async fn deed(desk: &Desk, words: &str) {
    desk.run(&format!(
        "[...document.querySelectorAll('#controls .shapes button')].find(button => button.textContent === '{words}').click()"
    ))
    .await;
    desk.settled().await;
}

fn number(value: &Value) -> f64 {
    value.as_f64().unwrap()
}

/// One point of a lattice is pulled, then with what lies about it; it is keyed, cut where nothing moves, and taken back.
#[tokio::test(flavor = "multi_thread")]
async fn a_lattice_is_pulled_keyed_cut_and_copied() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Plate").await;
    desk.add("Lattice").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let (near, far) = ([0.3, 0.3, 0.37, 0.37], [0.97, 0.97, 0.99, 0.99]);
    let before = (desk.pixels(near).await, desk.pixels(far).await);
    desk.drag(desk.at(1.0 / 3.0, 1.0 / 3.0).await, (26, 14)).await;
    desk.seen_to_change(near, &before.0).await;
    assert!(difference(&before.1, &desk.pixels(far).await) <= 1, "its far corner stays");
    let places = async |index: usize| {
        let lattice = setting(&desk, "lattice", "lattice").await["lattice"].clone();
        let keys = lattice["keys"].as_array().unwrap().clone();
        (keys.len(), keys.iter().map(|key| number(&key["points"][index]["at"][0])).collect::<Vec<_>>())
    };
    let rest = setting(&desk, "lattice", "lattice").await["lattice"]["rest"][5].clone();
    let (_, pulled) = places(5).await;
    assert!(pulled[0] > number(&rest[0]) + 30.0, "{pulled:?}, at rest {rest}");

    // On another frame, with what lies within reach of it.
    desk.press("#strip", "\u{e010}").await;
    desk.settled().await;
    desk.run("const field = document.querySelector('[aria-label^=\"soft reach\"]'); field.value = '700'; field.dispatchEvent(new Event('change'))").await;
    let next = places(6).await.1[0];
    desk.drag(desk.at(2.0 / 3.0, 2.0 / 3.0).await, (-30, 0)).await;
    desk.settled().await;
    let (keys, beside) = places(6).await;
    assert_eq!(keys, 2, "a key of all points at that frame");
    assert!(beside[1] < next - 4.0, "the point above it went along in part: {beside:?}");
    assert_eq!(beside[0], next, "its first key stays");

    // A row more moves no pixel; undo takes it back.
    desk.press("#well", "\u{e00c}").await;
    let whole = [0.1, 0.1, 0.9, 0.9];
    let bent = desk.pixels(whole).await;
    deed(&desk, "add a row").await;
    assert_eq!(setting(&desk, "lattice", "lattice").await["lattice"]["rows"], 4);
    assert!(difference(&bent, &desk.pixels(whole).await) <= 2, "a row more moves next to nothing");
    desk.click("#undo").await;
    desk.settled().await;
    assert_eq!(setting(&desk, "lattice", "lattice").await["lattice"]["rows"], 3);

    // Points of a line that an undo took away are still picked: what is dragged next goes along all the same.
    desk.press("#well", "\u{e009}a\u{e000}").await;
    deed(&desk, "add a row").await;
    desk.press("#well", "\u{e009}a\u{e000}").await;
    desk.click("#undo").await;
    desk.settled().await;
    let before = setting(&desk, "lattice", "lattice").await["lattice"]["keys"].clone();
    desk.press("#well", "\u{e012}").await;
    desk.settled().await;
    assert!(setting(&desk, "lattice", "lattice").await["lattice"]["keys"] != before);
    desk.click("#undo").await;
    desk.settled().await;

    // Laid over a box that is dragged while the bench stays as it is, with what has moved; and back.
    let from = desk.at(0.25, 0.25).await;
    let to = desk.at(0.75, 0.75).await;
    desk.drag_with('\u{e008}', from, (to.0 - from.0, to.1 - from.1)).await;
    desk.run("window.dispatchEvent(new KeyboardEvent('keyup', { key: 'Shift' }))").await;
    deed(&desk, "lay over the box").await;
    let rest = setting(&desk, "lattice", "lattice").await["lattice"]["rest"].clone();
    assert!(number(&rest[0][0]) > 100.0 && number(&rest[0][1]) > 100.0, "{rest}");
    desk.click("#undo").await;
    desk.settled().await;

    // Copied with its keys.
    let one = setting(&desk, "lattice", "lattice").await;
    let id = desk.row("Lattice").await;
    desk.run(&format!("const shot = await (await fetch('/api/shots/Saltglass/SG010/state')).json(); await fetch('/api/shots/Saltglass/SG010/edit', {{ method: 'POST', headers: {{ 'content-type': 'application/json' }}, body: JSON.stringify({{ base: shot.revision, command: {{ do: 'duplicate', rows: [{id}] }} }}) }})")).await;
    let rows = state(&desk).await["setup"]["stages"].clone();
    let all: Vec<_> = rows.as_array().unwrap().iter().filter(|row| row["kind"] == "lattice").collect();
    assert_eq!((all.len(), &all[1]["controls"]["lattice"]), (2, &one));
}

/// Points in a box of the picture, in shares of it, are picked and nudged to the right so many times.
async fn nudged(desk: &Desk, [from, to]: [(f64, f64); 2], times: usize) {
    let (from, to) = (desk.at(from.0, from.1).await, desk.at(to.0, to.1).await);
    desk.drag_with('\u{e009}', from, (to.0 - from.0, to.1 - from.1)).await;
    for _ in 0..times {
        desk.press("#well", "\u{e008}\u{e014}\u{e000}").await;
    }
    desk.settled().await;
}

/// A picture is keyed at both ends by pulling all but one side: the view of ways marks that side, and no more once it is pulled too.
#[tokio::test(flavor = "multi_thread")]
async fn a_side_that_hardly_moves_is_marked_and_mended() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Plate").await;
    desk.add("Lattice").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    deed(&desk, "key here").await;
    desk.press("#strip", "\u{e010}").await;
    desk.settled().await;
    nudged(&desk, [(0.5, -0.02), (1.02, 1.02)], 6).await;
    let note = async |wanted: bool| {
        let script = format!(
            "const text = document.getElementById('note').textContent; return text.includes('motion over') && text.includes('hardly moves') === {wanted}"
        );
        desk.until("the note", &script).await;
    };
    tick(&desk, "motion").await;
    note(true).await;
    tick(&desk, "motion").await;
    desk.settled().await;
    desk.press("#well", "\u{e00c}").await;
    nudged(&desk, [(-0.02, -0.02), (0.5, 1.02)], 5).await;
    tick(&desk, "motion").await;
    note(false).await;
}

/// A pair is drawn, its goal pulled; half way it covers half of what was added. A tie drawn across another is told.
#[tokio::test(flavor = "multi_thread")]
async fn a_pair_of_outlines_is_drawn_pulled_tied_and_fenced() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Ellipse").await;
    desk.add("Between outlines").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    deed(&desk, "draw a pair").await;
    let square = [(0.2, 0.2), (0.4, 0.2), (0.4, 0.6), (0.2, 0.6), (0.2, 0.2)];
    for (x, y) in square {
        desk.drag(desk.at(x, y).await, (0, 0)).await;
    }
    desk.until("the pair", "return document.querySelectorAll('.shapeline').length === 1").await;
    desk.settled().await;
    // As it shall be: its right side lies further right.
    let to = desk.at(0.6, 0.2).await.0 - desk.at(0.4, 0.2).await.0;
    for y in [0.2, 0.6] {
        desk.drag(desk.at(0.4, y).await, (to, 0)).await;
        desk.settled().await;
    }
    let lit = |pixels: &[i64]| pixels.chunks(4).all(|pixel| pixel[0] > 250);
    let dark = |pixels: &[i64]| pixels.chunks(4).all(|pixel| pixel[0] < 5);
    let (inner, middle, outer) = ([0.3, 0.3, 0.34, 0.34], [0.44, 0.3, 0.47, 0.34], [0.54, 0.3, 0.57, 0.34]);
    assert!(lit(&desk.pixels(inner).await) && dark(&desk.pixels(middle).await));
    desk.type_value("way", "0.5").await;
    assert!(lit(&desk.pixels(middle).await) && dark(&desk.pixels(outer).await));
    desk.type_value("way", "1").await;
    assert!(lit(&desk.pixels(outer).await));
    // By its own amount it stays as it is.
    deed(&desk, "own amount").await;
    desk.type_value("own amount pair 1", "0").await;
    assert!(dark(&desk.pixels(outer).await) && lit(&desk.pixels(inner).await));

    // A tie from one side to the other crosses those at the corners.
    let ties =
        async || setting(&desk, "between_outlines", "outlines").await["pairs"]["pairs"][0]["ties"].clone();
    assert_eq!(ties().await.as_array().unwrap().len(), 4);
    deed(&desk, "tie").await;
    let from = desk.at(0.4, 0.4).await;
    let goal = desk.at(0.2, 0.5).await;
    desk.drag(from, (goal.0 - from.0, goal.1 - from.1)).await;
    desk.settled().await;
    assert_eq!(ties().await.as_array().unwrap().len(), 5);
    desk.until("a crossed tie", "return document.querySelectorAll('.tie.crossed').length > 0").await;
    assert!(desk.text(".shapeline.chosen").await.contains("crossed"));
    // A press on its end takes it away.
    desk.drag(from, (0, 0)).await;
    desk.settled().await;
    assert_eq!(ties().await.as_array().unwrap().len(), 4);
    deed(&desk, "tie").await;

    // What a fence closes in is held back as far as it is firm.
    deed(&desk, "draw a fence").await;
    for (x, y) in [(0.27, 0.27), (0.37, 0.27), (0.37, 0.37), (0.27, 0.37), (0.27, 0.27)] {
        desk.drag(desk.at(x, y).await, (0, 0)).await;
    }
    desk.until("the fence", "return document.querySelectorAll('.shapeline').length === 2").await;
    desk.settled().await;
    assert!(dark(&desk.pixels(inner).await));
    desk.type_value("firmness fence 1", "0").await;
    assert!(lit(&desk.pixels(inner).await));
    desk.click("#undo").await;
    desk.settled().await;
    assert!(dark(&desk.pixels(inner).await));
}

/// A part is drawn as it is and pulled to what it shall be; a fence keeps the rest as it was; the way, its own amount and the fence's
/// firmness say how far all that goes.
#[tokio::test(flavor = "multi_thread")]
async fn a_part_is_reshaped_inside_a_fence_and_nothing_beyond_it_moves() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Plate").await;
    desk.add("Shape warp").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let (part, beside, far) = ([0.4, 0.3, 0.5, 0.5], [0.62, 0.3, 0.68, 0.5], [0.85, 0.8, 0.97, 0.95]);
    let before = [desk.pixels(part).await, desk.pixels(beside).await, desk.pixels(far).await];
    deed(&desk, "draw a pair").await;
    for (x, y) in [(0.25, 0.25), (0.4, 0.25), (0.4, 0.6), (0.25, 0.6), (0.25, 0.25)] {
        desk.drag(desk.at(x, y).await, (0, 0)).await;
    }
    desk.until("the pair", "return document.querySelectorAll('.shapeline').length === 1").await;
    desk.settled().await;
    assert_eq!(difference(&before[0], &desk.pixels(part).await), 0, "what shall be as it is moves nothing");
    let to = desk.at(0.48, 0.25).await.0 - desk.at(0.4, 0.25).await.0;
    for y in [0.25, 0.6] {
        desk.drag(desk.at(0.4, y).await, (to, 0)).await;
        desk.settled().await;
    }
    desk.seen_to_change(part, &before[0]).await;
    let free = desk.pixels(beside).await;
    assert!(difference(&before[1], &free) > 0, "without a fence what lies about it goes along");

    deed(&desk, "draw a fence").await;
    for (x, y) in [(0.12, 0.1), (0.57, 0.1), (0.57, 0.8), (0.12, 0.8), (0.12, 0.1)] {
        desk.drag(desk.at(x, y).await, (0, 0)).await;
    }
    desk.until("the fence", "return document.querySelectorAll('.shapeline').length === 2").await;
    desk.settled().await;
    assert_eq!(difference(&before[1], &desk.pixels(beside).await), 0, "nothing crosses it");
    assert_eq!(difference(&before[2], &desk.pixels(far).await), 0);
    assert!(difference(&before[0], &desk.pixels(part).await) > 0);
    desk.type_value("firmness fence 1", "0").await;
    assert!(difference(&free, &desk.pixels(beside).await) <= 1, "it is as if it were not there");
    desk.type_value("firmness fence 1", "1").await;

    // None of the way, and all of it by its own amount.
    let shaped = desk.pixels(part).await;
    desk.type_value("way", "0").await;
    assert_eq!(difference(&before[0], &desk.pixels(part).await), 0);
    desk.click(".shapeline").await;
    desk.settled().await;
    deed(&desk, "own amount").await;
    desk.type_value("own amount pair 1", "1").await;
    assert!(difference(&shaped, &desk.pixels(part).await) <= 1);
}

/// Presses a key on the strip: the first frame, the last, or the one before.
async fn on_strip(desk: &Desk, key: &str) {
    desk.press("#strip", key).await;
    desk.settled().await;
}

/// The way is keyed from none to all and the fence from firm to loose: each frame between is bent as its numbers say. A tie drawn from
/// one outline to the other takes what lies between them along, and a key that stays until the next holds all back until then.
#[tokio::test(flavor = "multi_thread")]
async fn a_reshaping_is_keyed_with_its_ease_and_its_fence_gives_way() {
    let (first, last) = ("\u{e011}", "\u{e010}");
    let (part, beside) = ([0.4, 0.3, 0.47, 0.5], [0.62, 0.3, 0.68, 0.5]);
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Plate").await;
    let mut plate = Vec::new();
    let before_last = async |desk: &Desk| {
        on_strip(desk, last).await;
        on_strip(desk, "\u{e012}").await;
    };
    desk.press("#braid", "\u{e007}").await;
    for frame in 0..3 {
        match frame {
            0 => on_strip(&desk, first).await,
            1 => on_strip(&desk, last).await,
            _ => before_last(&desk).await,
        }
        plate.push([desk.pixels(part).await, desk.pixels(beside).await]);
    }
    desk.add("Shape warp").await;
    desk.press("#braid", "\u{e007}").await;
    on_strip(&desk, first).await;
    deed(&desk, "draw a pair").await;
    for (x, y) in [(0.25, 0.25), (0.4, 0.25), (0.4, 0.6), (0.25, 0.6), (0.25, 0.25)] {
        desk.drag(desk.at(x, y).await, (0, 0)).await;
    }
    desk.until("the pair", "return document.querySelectorAll('.shapeline').length === 1").await;
    desk.settled().await;
    let to = desk.at(0.48, 0.25).await.0 - desk.at(0.4, 0.25).await.0;
    for y in [0.25, 0.6] {
        desk.drag(desk.at(0.4, y).await, (to, 0)).await;
        desk.settled().await;
    }
    let pulled = desk.pixels(part).await;
    deed(&desk, "tie").await;
    let (from, goal) = (desk.at(0.4, 0.45).await, desk.at(0.48, 0.36).await);
    desk.drag(from, (goal.0 - from.0, goal.1 - from.1)).await;
    desk.settled().await;
    deed(&desk, "tie").await;
    assert!(difference(&pulled, &desk.pixels(part).await) > 0, "a tie more takes along what lies beside it");
    assert!(!desk.text(".shapeline.chosen").await.contains("crossed"));

    deed(&desk, "draw a fence").await;
    for (x, y) in [(0.12, 0.1), (0.57, 0.1), (0.57, 0.8), (0.12, 0.8), (0.12, 0.1)] {
        desk.drag(desk.at(x, y).await, (0, 0)).await;
    }
    desk.until("the fence", "return document.querySelectorAll('.shapeline').length === 2").await;
    desk.settled().await;
    let id = desk.row("Shape warp").await;
    for bead in ["outlines-1", "way"] {
        desk.click(&format!("[data-key='{id}-{bead}']")).await;
        desk.settled().await;
    }
    desk.type_value("way", "0").await;
    assert_eq!(difference(&plate[0][0], &desk.pixels(part).await), 0, "none of the way yet");
    on_strip(&desk, last).await;
    desk.type_value("way", "1").await;
    assert_eq!(difference(&plate[1][1], &desk.pixels(beside).await), 0, "nothing crosses the fence");
    assert!(difference(&plate[1][0], &desk.pixels(part).await) > 0);
    desk.type_value("firmness fence 1", "0").await;
    assert!(difference(&plate[1][1], &desk.pixels(beside).await) > 0, "it gives way by then");
    on_strip(&desk, first).await;
    assert_eq!(desk.value("firmness fence 1").await, "1");
    let firm = &setting(&desk, "shape_warp", "outlines").await["pairs"]["amounts"][1]["keys"];
    let keyed: Vec<_> = firm.as_array().unwrap().iter().map(|key| number(&key["value"])).collect();
    assert_eq!(keyed, [1.0, 0.0]);
    let own = &setting(&desk, "shape_warp", "outlines").await["pairs"]["amounts"][0];
    assert!(own.is_number(), "a pair's own amount is keyed for itself: {own}");

    // With an ease some of the way is gone a frame before the last; a key that stays until the next holds all of it back.
    before_last(&desk).await;
    assert!(difference(&plate[2][0], &desk.pixels(part).await) > 0);
    desk.click("#show-curves").await;
    desk.click("#curve-plot [aria-label^='key of Shape warp: way at 1001,']").await;
    desk.click("#curves [title='the value stays until the next key']").await;
    desk.settled().await;
    desk.click("#show-curves").await;
    before_last(&desk).await;
    assert_eq!(difference(&plate[2][0], &desk.pixels(part).await), 0);
}

async fn choose(desk: &Desk, label: &str, words: &str) {
    desk.run(&format!(
        "const list = document.querySelector('select[aria-label=\"{label}\"]'); \
         list.value = [...list.options].find(option => option.text === '{words}').value; list.dispatchEvent(new Event('change'))"
    ))
    .await;
    desk.settled().await;
}

/// An outline that another row has is taken for a pair; inside of it the other picture comes first.
#[tokio::test(flavor = "multi_thread")]
async fn one_picture_becomes_another_along_an_outline_that_was_drawn_before() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Ellipse").await;
    desk.add("Outline").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    deed(&desk, "draw an outline").await;
    for (x, y) in [(0.2, 0.2), (0.4, 0.2), (0.4, 0.5), (0.2, 0.5), (0.2, 0.2)] {
        desk.drag(desk.at(x, y).await, (0, 0)).await;
    }
    desk.until("the outline", "return document.querySelectorAll('.shapeline').length === 1").await;
    desk.select("Plate").await;
    desk.add("Fill").await;
    desk.select("Plate").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let (inside, far) = ([0.25, 0.3, 0.35, 0.4], [0.8, 0.7, 0.95, 0.9]);
    let plate = [desk.pixels(inside).await, desk.pixels(far).await];
    desk.add("Morph").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    choose(&desk, "to of Morph", "Fill").await;
    desk.type_value("shape", "0").await;
    desk.type_value("dissolve", "0").await;
    assert_eq!(difference(&plate[0], &desk.pixels(inside).await), 0, "nothing of the other is seen");
    desk.type_value("dissolve", "1").await;
    let other = desk.pixels(inside).await;
    assert!(difference(&plate[0], &other) > 10);
    desk.type_value("dissolve", "0").await;

    choose(&desk, "a pair from of outlines", "Outline: outline 1").await;
    let drawn = &setting(&desk, "outline", "shapes").await["shapes"][0]["keys"];
    let pair = &setting(&desk, "morph", "outlines").await["pairs"]["pairs"][0];
    assert_eq!((&pair["rest"]["keys"], &pair["goal"]["keys"]), (drawn, drawn));
    assert_eq!(pair["ties"], serde_json::json!([[0, 0], [1, 1], [2, 2], [3, 3]]));
    deed(&desk, "own dissolve").await;
    desk.settled().await;
    assert!(difference(&other, &desk.pixels(inside).await) <= 1, "its own dissolve is all of the other");
    assert_eq!(difference(&plate[1], &desk.pixels(far).await), 0, "and the rest none");
    desk.type_value("own dissolve outline 1", "0").await;
    assert!(difference(&plate[0], &desk.pixels(inside).await) <= 1);
}

/// A plane goes where its middle is dragged, turns by its axis, and its numbers are keyed like any.
#[tokio::test(flavor = "multi_thread")]
async fn a_plane_in_space_is_moved_and_turned_by_its_axes() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Plate").await;
    desk.add("Plane in space").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let right = [0.93, 0.4, 0.98, 0.6];
    let before = desk.pixels(right).await;
    desk.type_value("place turn y", "50").await;
    let turned = desk.pixels(right).await;
    assert!(difference(&before, &turned) > 10, "its right side has gone back");
    assert!(turned.chunks(4).all(|pixel| pixel[0] + pixel[1] + pixel[2] < 6), "and nothing is there");
    let shown = desk.run("return [...document.querySelectorAll('#controls input.num')].map(field => field.ariaLabel).filter(name => name.startsWith('place scale'))").await;
    assert_eq!(shown, serde_json::json!(["place scale x", "place scale y"]), "a plane has no depth");
    let axes = async || setting(&desk, "plane_in_space", "place").await["axes"].clone();
    desk.drag(desk.grip("place: move").await, (60, -20)).await;
    desk.settled().await;
    let moved = axes().await;
    assert!(number(&moved[0]) > 100.0 && number(&moved[1]) > 30.0, "{moved}");
    assert_eq!((number(&moved[2]), number(&moved[4])), (0.0, 50.0));
    desk.drag(desk.grip("place: turn about z").await, (0, -40)).await;
    desk.settled().await;
    assert!(number(&axes().await[5]) > 10.0, "counter-clockwise as seen");
    desk.click("[data-key$='-place']").await;
    desk.settled().await;
    assert!(axes().await[0]["keys"].is_array(), "keyed like any number");
}

//! Things followed, picked and keyed on the picture, as a compositor does.

use crate::support::{Desk, difference};

async fn press(desk: &Desk, words: &str) {
    let script = format!(
        "const button = [...document.querySelectorAll('#controls button')].find(button => button.textContent === '{words}'); button?.click(); return Boolean(button)"
    );
    assert_eq!(desk.run(&script).await, true, "there is a button `{words}`");
}

async fn choose(desk: &Desk, slot: &str, row: &str) {
    let script = format!(
        "const slot = document.querySelector('[aria-label=\"{slot}\"]'); slot.value = [...slot.options].find(option => option.text === '{row}').value; slot.dispatchEvent(new Event('change'))"
    );
    desk.run(&script).await;
    desk.settled().await;
}

fn mean(pixels: &[i64]) -> f64 {
    let light: i64 = pixels.chunks(4).map(|pixel| pixel[0] + pixel[1] + pixel[2]).sum();
    light as f64 / (pixels.len() / 4 * 3) as f64
}

/// How many frames the shot's first track of this name was found in.
fn found_in(code: &str, name: &str, frames: usize) -> String {
    format!(
        "const state = await (await fetch('/api/shots/Saltglass/{code}/state')).json(); const track = state.setup.tracks?.find(track => track.name === '{name}'); return Boolean(track) && Object.keys(track.samples ?? {{}}).length === {frames}"
    )
}

/// Until the bench is about a track: what is put in is chosen only once its answer is there.
async fn is_chosen(desk: &Desk, name: &str) {
    let script = format!(
        "return document.querySelector('.tracklist .chosen')?.textContent.startsWith('{name}') === true"
    );
    desk.until("the chosen track", &script).await;
}

/// Opens the shot of the barge, and drags a box of its plate, in shares of it, round what is to be followed; the bench is about the
/// new track then.
async fn boxed(desk: &Desk, what: &str, name: &str, [x0, y0, x1, y1]: [f64; 4]) {
    desk.open_shot("SG020").await;
    desk.select("Plate").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    press(desk, what).await;
    let (from, to) = (desk.at(x0, y0).await, desk.at(x1, y1).await);
    desk.drag(from, (to.0 - from.0, to.1 - from.1)).await;
    desk.until(name, &found_in("SG020", name, 0)).await;
    is_chosen(desk, name).await;
}

/// The lantern is followed, an ellipse is dropped on, and lets a glow shine from there alone.
#[tokio::test(flavor = "multi_thread")]
async fn the_lantern_is_followed_and_a_glow_goes_with_it() {
    const LANTERN: [f64; 2] = [0.275, 0.341];
    const BESIDE: [f64; 4] = [0.268, 0.375, 0.283, 0.395];
    let desk = Desk::new().await;
    desk.open_shot("SG020").await;
    desk.select("Plate").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    press(&desk, "follow a point").await;
    desk.drag(desk.at(LANTERN[0], LANTERN[1]).await, (0, 0)).await;
    let name = "track 1";
    desk.until("the track", &found_in("SG020", name, 0)).await;
    is_chosen(&desk, name).await;
    press(&desk, "on »").await;
    desk.until("its frames", &found_in("SG020", name, 4)).await;

    let plain = desk.pixels(BESIDE).await;
    desk.add("Ellipse").await;
    for (control, value) in [("centre x", "264"), ("centre y", "184"), ("radii x", "22"), ("radii y", "22")] {
        desk.type_value(control, value).await;
    }
    desk.select("Plate").await;
    let place = async |script: &str| {
        let found = desk.run(script).await;
        (found[0].as_i64().unwrap(), found[1].as_i64().unwrap())
    };
    let middle =
        "const b = of.getBoundingClientRect(); return [Math.round(b.x + 90), Math.round(b.y + b.height / 2)]";
    let line = format!(
        "const of = [...document.querySelectorAll('.shapeline')].find(one => one.textContent.startsWith('{name}')); of.scrollIntoView({{ block: 'nearest' }}); {middle}"
    );
    let row = format!("const of = document.querySelector('#row-{}'); {middle}", desk.row("Ellipse").await);
    let (from, to) = (place(&line).await, place(&row).await);
    desk.hold(from, (to.0 - from.0, to.1 - from.1)).await;
    desk.release_at(to).await;
    desk.select("Ellipse").await;
    desk.until("it to go with the track", "return [...document.querySelectorAll('#controls .feedword')].filter(word => word.textContent === 'track').length >= 2").await;

    desk.select("Plate").await;
    desk.add("Glow").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    choose(&desk, "source matte of Glow", "Ellipse").await;
    for (control, value) in [("threshold", "0.1"), ("size", "24"), ("strength", "4")] {
        desk.type_value(control, value).await;
    }
    let glowing = desk.pixels(BESIDE).await;
    assert!(mean(&glowing) > mean(&plain) + 6.0, "{} after {}", mean(&glowing), mean(&plain));
    // The sky is above the threshold too, and nothing of it shines.
    let sky = [0.7, 0.1, 0.75, 0.15];
    let with = desk.pixels(sky).await;
    desk.type_value("strength", "0").await;
    assert!(difference(&with, &desk.pixels(sky).await) <= 3);
}

/// A region is followed, and the picture held still by it: below, the region does not move any more.
#[tokio::test(flavor = "multi_thread")]
async fn a_region_is_followed_and_the_picture_held_still_by_it() {
    let desk = Desk::new().await;
    boxed(&desk, "follow a region", "region 1", [0.42, 0.425, 0.51, 0.54]).await;
    press(&desk, "on »").await;
    desk.until("its frames", &found_in("SG020", "region 1", 4)).await;
    press(&desk, "hold still").await;
    desk.until("the row", "return document.querySelector('#bench-name').textContent === 'still by region 1'")
        .await;
    desk.settled().await;
    let cabin = [0.43, 0.43, 0.5, 0.53];
    let first = desk.pixels(cabin).await;
    desk.press("#strip", "\u{e010}").await;
    desk.settled().await;
    let off = |a: &[i64], b: &[i64]| {
        a.iter().zip(b).map(|(a, b)| (a - b).abs()).sum::<i64>() as f64 / a.len() as f64
    };
    let held = off(&first, &desk.pixels(cabin).await);
    desk.select("Plate").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let moved = off(&first, &desk.pixels(cabin).await);
    // Three frames on the barge has gone some ten pixels; the rest is noise.
    assert!(held < moved * 0.6, "held {held:.2}, moved {moved:.2}");
}

/// What a script gives of the shot's first track.
async fn of_track(desk: &Desk, what: &str) -> serde_json::Value {
    let script = format!(
        "const state = await (await fetch('/api/shots/Saltglass/SG020/state')).json(); const track = state.setup.tracks.find(track => track.surface); return {what}"
    );
    desk.run(&script).await
}

/// A surface is followed both ways, put right by hand at one frame and followed again; a picture laid on it goes as it goes, and
/// there is nothing beside it.
#[tokio::test(flavor = "multi_thread")]
async fn a_surface_is_followed_put_right_and_a_picture_laid_on_it() {
    let desk = Desk::new().await;
    boxed(&desk, "follow a surface", "surface 1", [0.4, 0.4, 0.52, 0.56]).await;
    press(&desk, "« both »").await;
    desk.until("its frames", &found_in("SG020", "surface 1", 4)).await;
    desk.until("its lines", "return document.querySelectorAll('[data-surface=\"6 8\"]').length === 1").await;

    // At the next frame its first corner is pulled: what lies about it goes along in part.
    desk.press("#strip", "\u{e014}").await;
    desk.settled().await;
    let place = "Object.values(track.samples)[1].surface.corners";
    let before = of_track(&desk, place).await;
    let share = |at: &serde_json::Value| (at[0].as_f64().unwrap() / 960.0, at[1].as_f64().unwrap() / 540.0);
    let (x, y) = share(&before[0]);
    desk.drag(desk.at(x, y).await, (-8, -6)).await;
    desk.until("the mend", "const state = await (await fetch('/api/shots/Saltglass/SG020/state')).json(); return Object.values(state.setup.tracks.find(track => track.surface).samples)[1].surface.by_hand === true").await;
    let after = of_track(&desk, place).await;
    let moved = |corner: usize| before[corner][0].as_f64().unwrap() - after[corner][0].as_f64().unwrap();
    assert!(
        moved(0) > moved(1) && moved(1) > 0.5 && moved(2).abs() < 0.01,
        "{} {} {}",
        moved(0),
        moved(1),
        moved(2)
    );
    press(&desk, "on »").await;
    let again = "const state = await (await fetch('/api/shots/Saltglass/SG020/state')).json(); const all = Object.values(state.setup.tracks.find(track => track.surface).samples); return all[1].surface.by_hand && all[3].surface.likeness.some(one => one < 1)";
    desk.until("its frames again", again).await;
    assert_eq!(of_track(&desk, place).await, after, "what was laid by hand stays");
    press(&desk, "not laid by hand here").await;
    desk.settled().await;

    desk.press("#strip", "\u{e011}").await;
    desk.settled().await;
    desk.add("Skin").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    desk.run("const field = document.querySelector('[aria-label=\"lay it on of the lattice\"]'); field.value = [...field.options].find(one => one.text === 'surface 1').value; field.dispatchEvent(new Event('change'))").await;
    desk.settled().await;
    let corners = of_track(&desk, "[track.surface.corners[0], track.surface.corners.at(-1)]").await;
    let ((left, top), (right, bottom)) = (share(&corners[0]), share(&corners[1]));
    let dark = |pixels: &[i64]| pixels.chunks(4).all(|pixel| pixel[..3] == [0; 3]);
    assert!(mean(&desk.pixels([left + 0.01, top + 0.01, right - 0.01, bottom - 0.01]).await) > 5.0);
    for beside in [[left - 0.05, top, left - 0.01, bottom], [right + 0.01, top, right + 0.05, bottom]] {
        assert!(dark(&desk.pixels(beside).await), "there is nothing beside it");
    }
    // By the last frame it has gone as far as the surface has.
    desk.press("#strip", "\u{e010}").await;
    desk.settled().await;
    let there = of_track(&desk, "Object.values(track.samples)[3].surface.corners").await;
    let row = |at: usize| share(&there[at]).0;
    let (left_then, right_then) = (row(27), row(35));
    let line = |x0: f64, x1: f64| [x0, (top + bottom) / 2.0 - 0.005, x1, (top + bottom) / 2.0 + 0.005];
    assert!(!dark(&desk.pixels(line(left_then + 0.006, right_then - 0.006)).await));
    assert!(dark(&desk.pixels(line(left_then - 0.05, left_then - 0.006)).await));
    assert!(dark(&desk.pixels(line(right_then + 0.006, right_then + 0.05)).await));
}

/// A material spreads over a followed surface, keyed, by hard light: it goes as the surface goes, stays inside the matte of the thing,
/// and where it has not come the plate is what it was, not blackened.
#[tokio::test(flavor = "multi_thread")]
async fn a_material_spreads_over_a_followed_surface_and_black_is_kept_out() {
    const SIDE: [f64; 4] = [0.42, 0.43, 0.5, 0.53];
    const OUTSIDE: [[f64; 4]; 3] = [[0.02, 0.05, 0.35, 0.9], [0.6, 0.05, 0.97, 0.9], [0.4, 0.62, 0.55, 0.9]];
    let desk = Desk::new().await;
    desk.open("/").await;
    let shipped = "return fetch('/api/tools').then(tools => tools.text()).then(tools => tools.includes('spreading surface'))";
    desk.until("the tool on the rack", shipped).await;
    boxed(&desk, "follow a surface", "surface 1", [0.4, 0.4, 0.52, 0.56]).await;
    press(&desk, "« both »").await;
    desk.until("its frames", &found_in("SG020", "surface 1", 4)).await;
    let mut plate = Vec::new();
    for frame in ["\u{e011}", "\u{e010}"] {
        desk.press("#strip", frame).await;
        desk.settled().await;
        let mut seen = vec![desk.pixels(SIDE).await];
        for place in OUTSIDE {
            seen.push(desk.pixels(place).await);
        }
        plate.push(seen);
    }

    // A matte of the thing, of which the right quarter of the surface is no part.
    desk.add("Ellipse").await;
    for (control, value) in [("centre x", "432"), ("centre y", "260"), ("radii x", "36"), ("radii y", "60")] {
        desk.type_value(control, value).await;
    }
    desk.select("Plate").await;
    desk.add("spreading surface").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    choose(&desk, "within of spreading surface", "Ellipse").await;
    desk.run("const field = document.querySelector('[aria-label^=\"lay it on\"]'); field.value = [...field.options].find(one => one.text === 'surface 1').value; field.dispatchEvent(new Event('change'))").await;
    desk.settled().await;
    desk.press("#strip", "\u{e011}").await;
    desk.settled().await;
    desk.type_value("spread", "0").await;
    desk.click("[data-key$='-progress'], [data-key$='-spread']").await;
    desk.settled().await;
    let outside = async |frame: usize| {
        for (place, was) in OUTSIDE.iter().zip(&plate[frame][1..]) {
            let off = difference(was, &desk.pixels(*place).await);
            assert!(off <= 1, "{place:?} at frame {frame} is off by {off}");
        }
    };
    assert!(difference(&plate[0][0], &desk.pixels(SIDE).await) <= 1, "nothing has come yet");
    outside(0).await;
    desk.press("#strip", "\u{e010}").await;
    desk.settled().await;
    desk.type_value("spread", "1").await;
    let covered = desk.pixels(SIDE).await;
    let changed = |a: &[i64], b: &[i64]| {
        a.chunks(4).zip(b.chunks(4)).filter(|(a, b)| difference(a, b) > 1).count() as f64
            / (a.len() / 4) as f64
    };
    let share = changed(&plate[1][0], &covered);
    assert!(share > 0.4 && share < 0.97, "the material covers {share:.2} of it, as far as the matte says");
    outside(1).await;
    // Half way some of it has come, and keys stay as they are.
    desk.press("#strip", "\u{e012}").await;
    desk.settled().await;
    let keys = "const state = await (await fetch('/api/shots/Saltglass/SG020/state')).json(); return state.setup.stages.some(row => row.controls?.progress?.keys?.length === 2)";
    desk.until("two keys", keys).await;
}

/// The green sheet goes, the coat stays: its colour is taken from a box on it. A stroke of the brush takes away more.
#[tokio::test(flavor = "multi_thread")]
async fn a_key_is_pulled_and_its_matte_mended_with_a_stroke() {
    const SHEET: [f64; 4] = [0.05, 0.5, 0.12, 0.6];
    const COAT: [f64; 4] = [0.44, 0.55, 0.48, 0.62];
    let desk = Desk::new().await;
    desk.open_shot("SG035").await;
    desk.select("Plate").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    desk.add("Screen key").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let (from, to) = (desk.at(0.15, 0.3).await, desk.at(0.25, 0.5).await);
    desk.drag_with('\u{e008}', from, (to.0 - from.0, to.1 - from.1)).await;
    desk.until("the box", "return document.getElementById('probe-values')?.textContent.includes('mean') ?? document.body.textContent.includes('mean ')").await;
    desk.run("document.querySelector('[aria-label=\"take screen colour from the box\"]').click()").await;
    desk.settled().await;
    let (sheet, coat) = (mean(&desk.pixels(SHEET).await), mean(&desk.pixels(COAT).await));
    assert!(sheet < 2.0 && coat > 20.0, "sheet {sheet}, coat {coat}");

    desk.add("Matte strokes").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    press(&desk, "brush").await;
    desk.run("const what = document.querySelector('[aria-label=\"what strokes of the brush do\"]'); what.value = 'cut'; what.dispatchEvent(new Event('change'))").await;
    let (from, to) = (desk.at(0.42, 0.585).await, desk.at(0.5, 0.585).await);
    desk.drag(from, (to.0 - from.0, to.1 - from.1)).await;
    desk.until("the stroke", "return document.querySelectorAll('.shapeline').length === 1").await;
    desk.settled().await;
    let cut = mean(&desk.pixels([0.45, 0.575, 0.47, 0.595]).await);
    assert!(cut < 4.0, "where it was brushed the coat is gone: {cut}");
    assert!(mean(&desk.pixels([0.44, 0.75, 0.48, 0.8]).await) > 250.0);
}

/// A click on the picture picks the thing there, and a second one leaves it out.
#[tokio::test(flavor = "multi_thread")]
async fn a_thing_is_picked_by_a_click() {
    let desk = Desk::new().await;
    desk.open_shot("SG020").await;
    desk.select("Plate").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    desk.add("ID pick").await;
    choose(&desk, "plate", "lantern barge").await;
    press(&desk, "pick on the picture").await;
    desk.drag(desk.at(0.3, 0.6).await, (0, 0)).await;
    let names = |wanted: &str| {
        format!(
            "return [...document.querySelectorAll('#controls .tag')].map(chip => chip.firstChild.textContent).join() === '{wanted}'"
        )
    };
    desk.until("the barge", &names("barge")).await;
    desk.settled().await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let (hull, sky) = ([0.2, 0.59, 0.24, 0.62], [0.7, 0.1, 0.8, 0.2]);
    assert!(mean(&desk.pixels(hull).await) > 250.0 && mean(&desk.pixels(sky).await) < 2.0);
    desk.drag(desk.at(0.3, 0.6).await, (0, 0)).await;
    desk.until("nothing", &names("")).await;
}

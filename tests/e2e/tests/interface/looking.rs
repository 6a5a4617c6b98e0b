//! Ways to look at a row: kept stills, sides of a compare, backings, overlays, false colour, folds, motion, scopes.

use serde_json::json;

use crate::support::{Desk, difference};

const LEFT: [f64; 4] = [0.1, 0.3, 0.3, 0.6];
const MIDDLE: [f64; 4] = [0.4, 0.3, 0.6, 0.6];

async fn choose(desk: &Desk, css: &str, value: &str) {
    let script = format!(
        "const s = document.querySelector({}); s.value = {}; s.dispatchEvent(new Event('change')); return s.value",
        json!(css),
        json!(value)
    );
    assert_eq!(desk.run(&script).await, json!(value), "{css} offers {value}");
}

pub(crate) async fn tick(desk: &Desk, word: &str) {
    desk.click("#view").await;
    desk.run(&format!("[...document.querySelectorAll('.looking .switches label')].find(label => label.textContent === {}).click()", json!(word))).await;
    desk.press(".looking", "\u{e00c}").await;
    desk.settled().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_kept_still_is_looked_back_at_and_returned_to() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    let before = desk.pixels(MIDDLE).await;
    desk.press("#well", "k").await;
    desk.until(
        "the still",
        "return document.querySelector('.toast')?.textContent.startsWith('still 1 is kept') ?? false",
    )
    .await;
    desk.select("Displace").await;
    desk.type_value("strength x", "30").await;
    let after = desk.pixels(MIDDLE).await;
    assert!(difference(&before, &after) > 20);

    desk.click("#compare").await;
    desk.settled().await;
    choose(&desk, "#side-a", "still:1").await;
    desk.settled().await;
    let left = [0.41, 0.3, 0.49, 0.6];
    let seen = desk.pixels(left).await;
    choose(&desk, "#compare-mode", "difference").await;
    desk.settled().await;
    let (outside, inside) = (desk.pixels([0.02, 0.5, 0.08, 0.6]).await, desk.pixels(MIDDLE).await);
    assert!(outside.chunks(4).all(|pixel| pixel[..3] == [0, 0, 0]), "nothing differs beside the haze");
    assert!(inside.chunks(4).any(|pixel| pixel[0] > 30));
    desk.click("#compare").await;
    desk.settled().await;

    desk.click("#view").await;
    desk.click(".stills [title^='the setup as it was']").await;
    desk.settled().await;
    assert_eq!(difference(&before, &desk.pixels(MIDDLE).await), 0, "all is as it was");
    assert_eq!(difference(&seen, &desk.pixels(left).await), 0, "the left side had shown it");
    desk.click("#undo").await;
    desk.settled().await;
    assert_eq!(difference(&after, &desk.pixels(MIDDLE).await), 0);
}

#[tokio::test(flavor = "multi_thread")]
async fn coverage_lies_over_the_picture_and_a_field_has_false_colour() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    let (kiln, sky) = ([0.48, 0.5, 0.52, 0.55], [0.05, 0.05, 0.1, 0.1]);
    let plain = [desk.pixels(kiln).await, desk.pixels(sky).await];
    let id = desk.row("ID pick").await;
    desk.click("#view").await;
    choose(&desk, ".looking select[aria-label='over it, as coverage']", &id.to_string()).await;
    desk.settled().await;
    let tinted = desk.pixels(kiln).await;
    assert!(difference(&plain[0], &tinted) > 20);
    assert_eq!(difference(&plain[1], &desk.pixels(sky).await), 0);
    choose(&desk, ".looking select[aria-label='over it, as coverage']", "").await;
    desk.press(".looking", "\u{e00c}").await;

    let pick = desk.row("ID pick").await;
    desk.click(&format!("#row-{pick} button.knot")).await;
    desk.settled().await;
    choose(&desk, "#look", "false").await;
    desk.settled().await;
    let (inside, outside) = (desk.pixels(kiln).await, desk.pixels(sky).await);
    // The ramp's ends, as docs say: full coverage is pale, none is nearly black.
    assert!(inside[0] > 240 && inside[2] < 200, "{:?}", &inside[..4]);
    assert_eq!(outside[..3], [10, 14, 34]);
}

#[tokio::test(flavor = "multi_thread")]
async fn folds_motion_scopes_and_a_sheet_are_each_one_switch() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    desk.type_value("strength x", "60").await;
    tick(&desk, "folds").await;
    let note = desk.text("#note").await;
    assert!(note.contains("% of the frame is folded over"), "{note}");
    tick(&desk, "folds").await;
    tick(&desk, "motion").await;
    let note = desk.text("#note").await;
    assert!(note.starts_with("motion over 1001") && note.contains("px at most"), "{note}");
    tick(&desk, "motion").await;
    tick(&desk, "scopes").await;
    desk.until("the scopes", "return document.querySelectorAll('.scopes path').length === 3").await;
    // Of a box alone: the sky, where nothing is above white.
    let whole = desk.text(".scopes p").await;
    let corner = desk.run("const b = document.getElementById('well').getBoundingClientRect(); return [Math.round(b.x + b.width / 2), Math.round(b.y + b.height / 2)]").await;
    let middle = (corner[0].as_i64().unwrap(), corner[1].as_i64().unwrap());
    desk.drag_with('\u{e008}', (middle.0 - 200, middle.1 - 150), (80, 40)).await;
    desk.until("the box's", "return document.querySelector('.scopes p').textContent.includes('in the box')")
        .await;
    // They are asked for apart from the scopes, and may come after them.
    desk.until("its numbers", "return document.getElementById('values').textContent.startsWith('least')")
        .await;
    assert!(
        desk.text(".scopes p").await.starts_with("above 1: 0.0 %") && !whole.starts_with("above 1: 0.0 %"),
        "{whole}"
    );
    tick(&desk, "scopes").await;

    desk.click("#view").await;
    desk.click(".looking .deeds button:nth-child(2)").await;
    desk.until("every frame", "const all = [...document.querySelectorAll('.sheetframe img')]; return all.length === 4 && all.every(image => image.complete && image.naturalWidth > 0)").await;
    desk.click(".sheetframe:nth-child(3)").await;
    desk.settled().await;
    assert_eq!(desk.run("return document.getElementById('frame').value").await, json!("1003"));
}

/// A grip below a warp stands where the eye sees its place, and a drag there moves the place under it.
#[tokio::test(flavor = "multi_thread")]
async fn grips_are_carried_through_the_warps_below() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Ellipse").await;
    let stood = desk.grip("centre").await;
    desk.select("Displace").await;
    desk.press("#braid", "/").await;
    desk.until("the find list", "return document.activeElement.getAttribute('aria-label') === 'find'").await;
    desk.press("#dialog input", "transform\u{e007}").await;
    desk.settled().await;
    desk.type_value("move x", "120").await;
    desk.select("Ellipse").await;
    let zoom = "const z = parseFloat(document.getElementById('zoom').textContent) / 100; return z";
    let zoom = desk.run(zoom).await.as_f64().unwrap();
    let wanted = stood.0 + (120.0 * zoom).round() as i64;
    desk.until("the grip there", &format!("const b = document.querySelector('[data-grip=centre]').getBoundingClientRect(); return Math.abs(b.x + b.width / 2 - {wanted}) < 3")).await;
    let before: f64 = desk.value("centre x").await.trim_end_matches(" px").parse().unwrap();
    desk.drag(desk.grip("centre").await, (40, 0)).await;
    desk.settled().await;
    let after: f64 = desk.value("centre x").await.trim_end_matches(" px").parse().unwrap();
    assert!((after - before - 40.0 / zoom).abs() < 4.0, "{before} {after}");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_reference_is_compared_with_and_not_offered_as_a_plate() {
    let desk = Desk::new().await;
    let offered = "return [...document.querySelectorAll('#controls select[aria-label=plate] option')].filter(option => option.textContent.includes('from plates')).length";
    desk.open("/").await;
    desk.until(
        "all plates listed",
        "return fetch('/plates').then(page => page.text()).then(page => page.split('class=\"reference').length === 14)",
    )
    .await;
    desk.open_shot("SG010").await;
    desk.select("Plate").await;
    let before = desk.run(offered).await.as_i64().unwrap();
    desk.open("/plates").await;
    desk.run("window.boxes = [...document.querySelectorAll('.reference input')]; window.boxes.find(box => !box.getAttribute('aria-label').includes('SG010')).click()").await;
    desk.open_shot("SG010").await;
    desk.select("Plate").await;
    assert_eq!(desk.run(offered).await.as_i64().unwrap(), before - 1);

    desk.click("#compare").await;
    desk.settled().await;
    let plain = desk.pixels(LEFT).await;
    let reference =
        desk.run("return document.querySelector('#side-a optgroup[label=references] option').value").await;
    choose(&desk, "#side-a", reference.as_str().unwrap()).await;
    desk.settled().await;
    assert!(difference(&plain, &desk.pixels(LEFT).await) > 20, "the left side shows the other plate");
}

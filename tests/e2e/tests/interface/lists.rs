//! Lists of slots unfolded in the braid: layers dropped in, put in order, left out and taken away.

use crate::support::{Desk, difference};

const WHOLE: [f64; 4] = [0.1, 0.1, 0.9, 0.9];

async fn place(desk: &Desk, css: &str) -> (i64, i64) {
    let script = format!(
        "const b = document.querySelector('{css}').getBoundingClientRect(); return [Math.round(b.x + b.width / 2), Math.round(b.y + b.height / 2)]"
    );
    let found = desk.run(&script).await;
    (found[0].as_i64().unwrap(), found[1].as_i64().unwrap())
}

async fn entries(desk: &Desk) -> Vec<String> {
    let names = desk
        .run("return [...document.querySelectorAll('.row.entry .name > span')].map(span => span.textContent)")
        .await;
    names.as_array().unwrap().iter().map(|name| name.as_str().unwrap().to_owned()).collect()
}

#[tokio::test(flavor = "multi_thread")]
async fn layers_are_dropped_into_their_list_put_in_order_left_out_and_taken_away() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Ellipse").await;
    desk.add("Gradient").await;
    desk.select("Displace").await;
    desk.add("Blend").await;
    let (blend, gradient, plate) =
        (desk.row("Blend").await, desk.row("Gradient").await, desk.row("Plate").await);
    let plain = desk.pixels(WHOLE).await;

    // A first layer into the slot that opens, then Right unfolds the list and a second goes into the next place.
    desk.hold(place(&desk, &format!("#row-{gradient} .name")).await, (20, 12)).await;
    desk.release_at(place(&desk, &format!("#row-{blend} .dropslot[data-slot=layer]")).await).await;
    desk.settled().await;
    let covered = desk.pixels(WHOLE).await;
    assert!(difference(&plain, &covered) > 50);
    desk.select("Blend").await;
    desk.press("#braid", "\u{e014}").await;
    desk.until("the list", "return document.querySelectorAll('.row.entry').length === 2").await;
    assert_eq!(entries(&desk).await, ["Gradient", "another layer"]);
    desk.hold(place(&desk, &format!("#row-{plate} .name")).await, (20, 12)).await;
    desk.release_at(place(&desk, &format!("#row-{blend}-layer2")).await).await;
    desk.until("the second layer", "return document.querySelectorAll('.row.entry').length === 3").await;
    desk.settled().await;
    assert_eq!(entries(&desk).await[..2], ["Gradient", "Plate"]);
    let both = desk.pixels(WHOLE).await;
    assert!(difference(&covered, &both) > 50, "the plate lies on the gradient");

    // Up in the list the plate lies below the gradient; switched off it is not there.
    desk.click(&format!("#row-{blend}-layer2 .name")).await;
    desk.press("#braid", "\u{e00a}\u{e013}\u{e000}").await;
    desk.until(
        "the other order",
        &format!("return document.querySelector('#row-{blend}-layer .name > span')?.textContent === 'Plate'"),
    )
    .await;
    desk.settled().await;
    assert!(difference(&both, &desk.pixels(WHOLE).await) > 50);
    desk.click(&format!("#row-{blend}-layer2 .onoff")).await;
    desk.until(
        "it to be off",
        &format!("return document.querySelector('#row-{blend}-layer2').classList.contains('off')"),
    )
    .await;
    desk.settled().await;
    assert!(difference(&both, &desk.pixels(WHOLE).await) < 5, "the plate alone lies on the picture");

    // Selected and deleted, one closes up; the other keeps what it was set to.
    desk.click(&format!("#row-{blend}-layer .name")).await;
    desk.press("#braid", "\u{e017}").await;
    desk.until("one to be left", "return document.querySelectorAll('.row.entry').length === 2").await;
    assert_eq!(entries(&desk).await[0], "Gradient");
    let off = desk
        .run(&format!("return document.querySelector('#row-{blend}-layer').classList.contains('off')"))
        .await;
    assert_eq!(off.as_bool(), Some(true));
    desk.press("#braid", "\u{e012}").await;
    desk.until("the list to fold", "return document.querySelectorAll('.row.entry').length === 0").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_gradient_is_made_on_its_bar_and_laid_by_its_grips() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Ellipse").await;
    desk.add("Gradient").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let (left, right) = ([0.02, 0.4, 0.1, 0.6], [0.9, 0.4, 0.98, 0.6]);
    let sum = |pixels: Vec<i64>| pixels.iter().sum::<i64>();
    assert!(
        sum(desk.pixels(left).await) < sum(desk.pixels(right).await),
        "from black to white, left to right"
    );

    // The end is dragged to the left border, beyond the beginning.
    let end = desk.grip("to").await;
    let begin = desk.grip("from").await;
    desk.drag(end, (2 * (begin.0 - end.0), 0)).await;
    desk.settled().await;
    assert!(sum(desk.pixels(left).await) > sum(desk.pixels(right).await));

    // Another stop in the middle of the bar, then red.
    desk.click(".stops .ramp").await;
    desk.until("three stops", "return document.querySelectorAll('.stopmark').length === 3").await;
    desk.type_value("red of stop 3", "4").await;
    desk.settled().await;
    let middle = desk.pixels([0.28, 0.45, 0.32, 0.55]).await;
    assert!(middle[0] > middle[1] + 20, "{middle:?}");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_name_dropped_on_a_number_makes_it_follow_and_shortcuts_are_ones_own() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    let label = |name: &str| {
        format!(
            "#controls .ctl label[aria-label=\"{name}\"], #controls .ctl label:has(+ input[aria-label=\"{name}, slider\"])"
        )
    };
    let (x, y) = (place_of(&desk, &label("strength x")).await, place_of(&desk, &label("strength y")).await);
    desk.drag(x, (y.0 - x.0, y.1 - x.1)).await;
    desk.until("it to follow", "return [...document.querySelectorAll('#controls .feedword')].some(word => word.textContent.includes('follows'))").await;
    desk.type_value("strength x", "23").await;
    desk.until("the other to be the same", "return document.querySelector('#controls input.num[aria-label=\"strength y\"]').value.startsWith('23')").await;

    // The grips go by another key from now on, also after a reload.
    desk.press("#well", "?").await;
    desk.click("[data-command=\"hide or show the grips\"] button").await;
    desk.browser.active_element().await.unwrap().send_keys("q").await.unwrap();
    desk.until("the new key", "return document.querySelector('[data-command=\"hide or show the grips\"] button:last-child').textContent === 'q'").await;
    desk.browser.active_element().await.unwrap().send_keys("\u{e00c}").await.unwrap();
    desk.browser.refresh().await.unwrap();
    desk.settled().await;
    desk.select("Ellipse").await;
    let shown = "return document.querySelectorAll('#grips .grip').length > 0 && getComputedStyle(document.getElementById('grips')).display !== 'none'";
    desk.until("grips", shown).await;
    desk.press("#well", "g").await;
    assert_eq!(desk.run(shown).await.as_bool(), Some(true), "the old key does nothing");
    desk.press("#well", "q").await;
    desk.until("no grips", &shown.replace("return ", "return !(").replace("'none'", "'none')")).await;
}

async fn place_of(desk: &Desk, css: &str) -> (i64, i64) {
    place(desk, &css.replace('\'', "\\'")).await
}

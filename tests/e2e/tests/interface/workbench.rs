//! The workbench, used as a person uses it.

use crate::support::{Desk, difference};

/// The chimney's edge before the sky, where the haze is.
const OVER_KILN: [f64; 4] = [0.52, 0.1, 0.57, 0.4];
/// Sky beside it, where the picture must stay.
const SKY: [f64; 4] = [0.05, 0.05, 0.25, 0.25];

#[tokio::test(flavor = "multi_thread")]
async fn a_changed_strength_bends_the_air_over_the_kiln_only_and_undo_brings_it_back_after_a_reload() {
    let desk = Desk::new().await;
    desk.open("/").await;
    desk.until("all shots", "return document.querySelectorAll('.shot:not([aria-disabled])').length === 14")
        .await;
    desk.click(".shot[data-code='SG010']").await;
    desk.settled().await;
    let (kiln, sky) = (desk.pixels(OVER_KILN).await, desk.pixels(SKY).await);

    desk.select("Displace").await;
    desk.type_value("strength x", "4*5").await;
    let bent = desk.pixels(OVER_KILN).await;
    assert!(difference(&kiln, &bent) > 20, "the air over the kiln bends");
    assert_eq!(difference(&sky, &desk.pixels(SKY).await), 0, "the sky stays as it is");
    assert_eq!(desk.value("strength x").await, "20");

    desk.open_shot("SG010").await;
    assert_eq!(difference(&bent, &desk.pixels(OVER_KILN).await), 0, "the edit was kept");
    desk.click("#undo").await;
    desk.settled().await;
    assert_eq!(
        difference(&kiln, &desk.pixels(OVER_KILN).await),
        0,
        "undo after a reload gives the first picture"
    );
}

#[tokio::test(flavor = "multi_thread")]
async fn dragging_the_ellipses_grip_moves_the_matte_by_what_was_dragged() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Ellipse").await;
    desk.until("the grip", "return Boolean(document.querySelector('[data-grip=centre]'))").await;
    let before: f64 = desk.value("centre x").await.trim_end_matches(" px").parse().unwrap();
    let kiln = desk.pixels(OVER_KILN).await;
    desk.drag(desk.grip("centre").await, (150, 0)).await;
    desk.settled().await;
    let after: f64 = desk.value("centre x").await.trim_end_matches(" px").parse().unwrap();
    let zoom: f64 = desk.text("#zoom").await.trim_end_matches(" %").parse::<f64>().unwrap() / 100.0;
    // The zoom is shown in whole per cent.
    assert!((after - before - 150.0 / zoom).abs() < 8.0, "{before} {after} at {zoom}");
    assert!(difference(&kiln, &desk.pixels(OVER_KILN).await) > 5, "the haze went with the matte");
    // One drag is one step.
    desk.click("#undo").await;
    desk.settled().await;
    assert_eq!(difference(&kiln, &desk.pixels(OVER_KILN).await), 0);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_control_keyed_at_two_frames_differs_between_them() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    desk.type_value("amount", "0").await;
    let still = desk.pixels(OVER_KILN).await;
    desk.click("#controls [aria-label='key amount here']").await;
    desk.until("the bead", "return document.querySelectorAll('[data-bead]').length === 1").await;
    for _ in 0..3 {
        desk.press("#strip", "\u{e014}").await;
    }
    desk.until("frame 1004", "return document.getElementById('frame').value === '1004'").await;
    desk.settled().await;
    desk.type_value("amount", "1").await;
    desk.until("two beads", "return document.querySelectorAll('[data-bead]').length === 2").await;
    desk.click("[data-bead='1001']").await;
    desk.settled().await;
    assert_eq!(difference(&still, &desk.pixels(OVER_KILN).await), 0, "at the first key nothing bends");
    assert_eq!(desk.value("amount").await, "0");
    desk.press("#strip", "\u{e014}").await;
    desk.until(
        "a value between",
        "return document.querySelector(\"#controls input.num[aria-label='amount']\").value !== '0'",
    )
    .await;
    let between: f64 = desk.value("amount").await.parse().unwrap();
    assert!(between > 0.0 && between < 1.0, "{between}");
}

#[tokio::test(flavor = "multi_thread")]
async fn compare_shows_the_selected_stage_off_on_one_side_and_on_on_the_other() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    desk.type_value("strength x", "20").await;
    let (left, right) = ([0.44, 0.3, 0.49, 0.5], [0.51, 0.3, 0.55, 0.5]);
    let on = [desk.pixels(left).await, desk.pixels(right).await];
    desk.click("#compare").await;
    desk.settled().await;
    let side = "const s = document.getElementById('side-a'); return s.options[s.selectedIndex].text";
    assert_eq!(desk.run(side).await, "Displace off");
    assert!(difference(&on[0], &desk.pixels(left).await) > 10, "the left side shows it off");
    assert_eq!(difference(&on[1], &desk.pixels(right).await), 0, "the right side shows it on");
}

#[tokio::test(flavor = "multi_thread")]
async fn playing_goes_through_the_frames_and_the_picture_moves() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    let first = desk.pixels(OVER_KILN).await;
    desk.press("#well", " ").await;
    desk.until("every frame held and played", "return window.seen?.size === 4 || (window.seen ??= new Set(), window.seen.add(document.getElementById('frame').value), false)").await;
    assert_eq!(desk.text("#fps").await.split(" of ").nth(1), Some("24 fps"));
    desk.press("#well", " ").await;
    desk.until("it to stop", "return document.getElementById('time').dataset.playing === 'false'").await;
    desk.click("#first").await;
    desk.press("#strip", "\u{e010}").await;
    desk.until("the last frame", "return document.getElementById('frame').value === '1004'").await;
    desk.settled().await;
    assert!(difference(&first, &desk.pixels(OVER_KILN).await) > 3);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_refused_value_says_so_and_changes_nothing() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    let before = desk.value("strength x").await;
    let field = "#controls input.num[aria-label='strength x']";
    desk.click(field).await;
    desk.press(field, "lots\u{e007}").await;
    desk.until(
        "a message",
        "return document.querySelector('.toast.bad')?.textContent.includes('not a number') ?? false",
    )
    .await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    assert_eq!(desk.value("strength x").await, before);
}

//! What a pointer does can be done by keys, and a drag that is broken off leaves no trace.

use crate::support::{Desk, difference};

const ESCAPE: &str = "\u{e00c}";

#[tokio::test(flavor = "multi_thread")]
async fn the_split_line_and_the_measured_box_go_by_keys() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    desk.type_value("strength x", "20").await;
    let left = [0.44, 0.3, 0.49, 0.5];
    let on = desk.pixels(left).await;
    desk.click("#compare").await;
    desk.settled().await;
    let off = desk.pixels(left).await;
    assert!(difference(&on, &off) > 10);
    desk.press(".splitline", "\u{e011}").await;
    desk.until("the line at the left", "return document.querySelector('.splitline').ariaValueNow === '0'")
        .await;
    assert_eq!(difference(&on, &desk.pixels(left).await), 0, "all of it is as it is now");
    desk.press(".splitline", "\u{e010}").await;
    desk.until("the line at the right", "return document.querySelector('.splitline').ariaValueNow === '100'")
        .await;
    assert_eq!(difference(&off, &desk.pixels(left).await), 0);
    desk.press(".splitline", "\u{e012}").await;
    assert_eq!(desk.run("return document.querySelector('.splitline').ariaValueNow").await, "99");
    desk.click("#compare").await;

    desk.press("#well", "m").await;
    let told = "return document.getElementById('values').textContent";
    let least = "return document.getElementById('values').textContent.startsWith('least')";
    desk.until("the numbers of the box", least).await;
    let first = desk.run(told).await;
    let box_of = "const { top, height } = document.querySelector('.measuredbox').getBoundingClientRect(); return [top, height]";
    let side = async |at: usize| desk.run(box_of).await[at].as_f64().unwrap();
    let (top, high) = (side(0).await, side(1).await);
    desk.press(".measuredbox", "\u{e00a}\u{e008}\u{e013}\u{e013}\u{e013}\u{e000}").await;
    desk.until(
        "a lower box's numbers",
        &format!("return document.getElementById('values').textContent !== {first}"),
    )
    .await;
    let low = side(1).await;
    assert!(low < high && side(0).await == top, "with Alt it is sized");
    desk.press(".measuredbox", "\u{e008}\u{e015}\u{e015}\u{e000}").await;
    assert!(side(0).await > top && (side(1).await - low).abs() < 0.1, "without Alt it is moved");
    desk.press(".measuredbox", ESCAPE).await;
    assert_eq!(desk.run("return document.querySelector('.measuredbox').hidden").await, true);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_drag_that_is_broken_off_changes_nothing() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Ellipse").await;
    let state = "return document.getElementById('undo').title";
    let (undo, radius) = (desk.run(state).await, desk.value("radii x").await);
    let grip = desk.grip("width").await;
    // By Escape, and by a system that takes the pointer away.
    let ways = [
        "document.getElementById('well').dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }))",
        "window.dispatchEvent(new PointerEvent('pointercancel', { pointerId: 1 }))",
    ];
    for way in ways {
        desk.hold(grip, (-60, 0)).await;
        desk.until("what is tried", "return document.querySelector(\"#picture\").dataset.shows === ''").await;
        desk.run(way).await;
        desk.release_at((grip.0 - 80, grip.1)).await;
        desk.settled().await;
        assert_eq!(
            (desk.run(state).await, desk.value("radii x").await),
            (undo.clone(), radius.clone()),
            "{way}"
        );
        assert_eq!(desk.grip("width").await, grip, "the mark is where it was");
    }
}

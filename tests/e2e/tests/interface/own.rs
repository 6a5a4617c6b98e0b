//! Controls of one's own, and formulas that name them and others.

use crate::support::{Desk, difference};

const SKY: [f64; 4] = [0.05, 0.05, 0.2, 0.2];

#[tokio::test(flavor = "multi_thread")]
async fn a_control_of_ones_own_is_made_keyed_and_drives_a_row_by_a_completed_formula() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.click("#own").await;
    desk.press("[aria-label='name of a new control']", "glow pulse\u{e007}").await;
    desk.until(
        "the control",
        "return Boolean(document.querySelector('#controls input.num[aria-label=\"glow pulse\"]'))",
    )
    .await;
    desk.click("[data-key='0-own1']").await;
    desk.settled().await;
    desk.run(
        "const f = document.getElementById('frame'); f.value = '1003'; f.dispatchEvent(new Event('change'))",
    )
    .await;
    desk.settled().await;
    desk.type_value("glow pulse", "3").await;

    // A grade that follows it: typing a few letters offers the word.
    desk.select("Displace").await;
    desk.press("#braid", "/").await;
    desk.until("the find list", "return document.activeElement.getAttribute('aria-label') === 'find'").await;
    desk.press("#dialog input", "grade\u{e007}").await;
    desk.until("the grade", "return document.getElementById('bench-name').textContent === 'Grade'").await;
    desk.click("[aria-label='where exposure comes from']").await;
    desk.run("const s = document.querySelector('.feedpop select'); s.value = 'formula'; s.dispatchEvent(new Event('change'))").await;
    let field = ".feedpop input.formula";
    desk.run(&format!("document.querySelector('{field}').value = ''")).await;
    desk.press(field, "glo").await;
    desk.until(
        "the word",
        "return document.querySelector('.completions li b')?.textContent === 'glow_pulse'",
    )
    .await;
    desk.press(field, "\u{e004}").await;
    desk.press(field, " - 1").await;
    desk.until("the curve", "return Number(document.querySelector('.feedcurve').dataset.values) > 0 && document.querySelector('.feedcurve').textContent.startsWith('2 now')").await;
    desk.press(field, "\u{e007}").await;
    desk.settled().await;
    let third = desk.pixels(SKY).await;
    desk.run(
        "const f = document.getElementById('frame'); f.value = '1001'; f.dispatchEvent(new Event('change'))",
    )
    .await;
    desk.settled().await;
    let first = desk.pixels(SKY).await;
    assert!(difference(&first, &third) > 60, "two stops between the keys");

    // Taken away, it leaves its values behind.
    desk.click("#own").await;
    desk.click("[aria-label='remove glow pulse']").await;
    desk.settled().await;
    assert_eq!(difference(&first, &desk.pixels(SKY).await), 0);
}

//! Rows that show other frames than their own.

use serde_json::{Value, json};

use crate::support::Desk;

async fn go(desk: &Desk, frame: u32) {
    desk.run(&format!(
        "const f = document.getElementById('frame'); f.value = '{frame}'; f.dispatchEvent(new Event('change'))"
    ))
    .await;
    desk.settled().await;
}

/// The frames of the exposure's keys.
async fn keys(desk: &Desk) -> Value {
    let state = desk.served.get("/api/shots/Saltglass/SG010/state").await;
    let stages = state["setup"]["stages"].as_array().unwrap();
    let grade = stages.iter().find(|stage| stage["name"] == "Grade").unwrap();
    let keys = grade["controls"]["exposure"]["keys"].as_array().unwrap();
    keys.iter().map(|key| key["frame"].clone()).collect()
}

/// Common practice: a plate at half speed shows each of its frames for two, what is keyed above goes along, and keys are put where
/// they are seen.
#[tokio::test(flavor = "multi_thread")]
async fn a_plate_at_half_speed_is_keyed_where_it_is_seen() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Plate").await;
    desk.add("Grade").await;
    desk.add("Retime").await;
    assert_eq!(desk.text("#plate-time").await, "");
    go(&desk, 1003).await;
    desk.until(
        "the plate's time",
        "return document.getElementById('plate-time').textContent === 'plate time 1002'",
    )
    .await;

    desk.select("Grade").await;
    desk.settled().await;
    let id = desk.row("Grade").await;
    desk.click(&format!("[data-key='{id}-exposure']")).await;
    desk.settled().await;
    let place = [0.3, 0.4, 0.5, 0.6];
    let dark = desk.pixels(place).await;
    go(&desk, 1005).await;
    desk.type_value("exposure", "1").await;
    assert_eq!(keys(&desk).await, json!([1002.0, 1003.0]));
    let light = desk.pixels(place).await;
    let sum = |pixels: &[i64]| pixels.iter().sum::<i64>();
    assert!(sum(&light) > sum(&dark) + pixels_of(&dark) * 10, "{} after {}", sum(&light), sum(&dark));

    // The first key is seen at 1003, and its bead leads there; without its key it is gone.
    desk.click("[data-bead='1002'][role=button]").await;
    desk.settled().await;
    let frame = desk.run("return document.getElementById('frame').value").await;
    assert_eq!(frame, "1003");
    assert_eq!(desk.value("exposure").await, "0 EV");
    desk.press("[data-bead='1003'][role=button]", "\u{e017}").await;
    desk.settled().await;
    assert_eq!(keys(&desk).await, json!([1002.0]));
}

fn pixels_of(bytes: &[i64]) -> i64 {
    bytes.len() as i64 / 4
}

/// The lamp goes: the sky above it is brought over it with a stroke, and takes on the light that is there; from the frame on that
/// the stroke is not seen at, the lamp is back.
#[tokio::test(flavor = "multi_thread")]
async fn a_lamp_is_painted_out_for_some_frames() {
    const LAMP: [f64; 4] = [0.085, 0.45, 0.115, 0.49];
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Plate").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let brightest = async || {
        desk.pixels(LAMP)
            .await
            .into_iter()
            .enumerate()
            .filter(|(at, _)| at % 4 != 3)
            .map(|(_, byte)| byte)
            .max()
    };
    let lamp = brightest().await.unwrap();
    assert!(lamp > 240, "{lamp}");
    desk.add("Patch").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    desk.run("[...document.querySelectorAll('#controls button')].find(button => button.textContent === 'brush').click()").await;
    desk.type_value("width of the brush", "70").await;
    let (from, to) = (desk.at(0.08, 0.468).await, desk.at(0.12, 0.468).await);
    desk.drag(from, (to.0 - from.0, to.1 - from.1)).await;
    desk.until("the stroke", "return document.querySelectorAll('.shapeline').length === 1").await;
    desk.settled().await;
    // Brought from where it lands, it is what it was.
    assert!(brightest().await.unwrap() > 240);
    desk.type_value("brings from x", "700").await;
    desk.type_value("brings from y", "240").await;
    let gone = brightest().await.unwrap();
    assert!(gone < 190, "{gone}");
    desk.click(".shapeline").await;
    desk.run("const field = document.querySelector(\"[aria-label^='seen to of']\"); field.value = '1003'; field.dispatchEvent(new Event('change'))").await;
    desk.settled().await;
    go(&desk, 1004).await;
    let back = brightest().await.unwrap();
    assert!(back > 240, "{back}");
}

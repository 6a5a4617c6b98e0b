//! Keys in the curves: moved, shaped, picked in a box, stretched, and their timing copied.

use serde_json::{Value, json};

use crate::support::Desk;

/// The keys of a control's first number.
async fn keys(desk: &Desk, row: &str, control: &str) -> Vec<Value> {
    let script = format!(
        "return fetch('/api/shots/Saltglass/SG010/state').then(answer => answer.json()).then(state => {{
             const stage = state.setup.stages.find(stage => stage.name === {});
             const setting = stage.controls[{}]; return (setting.axes?.[0] ?? setting).keys ?? []; }});",
        json!(row),
        json!(control)
    );
    desk.run(&script).await.as_array().unwrap().clone()
}

fn frames(keys: &[Value]) -> Vec<f64> {
    keys.iter().map(|key| key["frame"].as_f64().unwrap()).collect()
}

/// The middle of the key's mark.
async fn mark(desk: &Desk, title: &str, frame: u32) -> (i64, i64) {
    let script = format!(
        "const b = document.querySelector('#curve-plot [aria-label^=\"key of {title} at {frame},\"]').getBoundingClientRect();
         return [Math.round(b.x + b.width / 2), Math.round(b.y + b.height / 2)]"
    );
    let at = desk.run(&script).await;
    (at[0].as_i64().unwrap(), at[1].as_i64().unwrap())
}

/// Sets keys by changing a value on other frames, and opens the curves.
async fn keyed(desk: &Desk) {
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    let id = desk.row("Displace").await;
    desk.click(&format!("[data-key='{id}-strength_x']")).await;
    desk.settled().await;
    for (frame, value) in [("1002", "6"), ("1004", "1")] {
        desk.run(&format!("const f = document.getElementById('frame'); f.value = '{frame}'; f.dispatchEvent(new Event('change'))")).await;
        desk.settled().await;
        desk.type_value("strength x", value).await;
    }
    desk.click("#show-curves").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_dragged_key_moves_in_time_and_a_flat_tangent_and_a_step_are_one_click() {
    let desk = Desk::new().await;
    keyed(&desk).await;
    assert_eq!(frames(&keys(&desk, "Displace", "strength_x").await), [1001.0, 1002.0, 1004.0]);
    let frame = desk.run("const r = document.getElementById('strip').getBoundingClientRect(); return Math.round((r.width - 28) / (document.getElementById('strip').ariaValueMax - document.getElementById('strip').ariaValueMin))").await;
    let from = mark(&desk, "Displace: strength x", 1002).await;
    desk.drag(from, (frame.as_i64().unwrap(), 0)).await;
    desk.settled().await;
    let moved = keys(&desk, "Displace", "strength_x").await;
    assert_eq!(frames(&moved), [1001.0, 1003.0, 1004.0]);
    assert_eq!(moved[1]["value"], 6.0);

    desk.click("#curves [title='level at the key']").await;
    desk.settled().await;
    let flat = keys(&desk, "Displace", "strength_x").await;
    assert_eq!(flat[1]["slopes"], json!({ "arrive": 0, "leave": 0 }));
    assert_eq!([&flat[0]["ease"], &flat[1]["ease"]], ["through", "through"]);
    desk.click("#curves [title='the value stays until the next key']").await;
    desk.settled().await;
    assert_eq!(keys(&desk, "Displace", "strength_x").await[1]["ease"], "step");

    // One undo for the drag, as it was one step.
    for _ in 0..3 {
        desk.click("#undo").await;
        desk.settled().await;
    }
    assert_eq!(frames(&keys(&desk, "Displace", "strength_x").await), [1001.0, 1002.0, 1004.0]);
}

#[tokio::test(flavor = "multi_thread")]
async fn picked_keys_go_by_arrow_keys_are_stretched_and_lend_their_timing() {
    let desk = Desk::new().await;
    keyed(&desk).await;
    let id = desk.row("Displace").await;
    desk.click(&format!("[data-key='{id}-strength_y']")).await;
    desk.settled().await;
    desk.run(
        "const f = document.getElementById('frame'); f.value = '1001'; f.dispatchEvent(new Event('change'))",
    )
    .await;
    desk.settled().await;
    desk.type_value("strength y", "9").await;
    assert_eq!(frames(&keys(&desk, "Displace", "strength_y").await), [1001.0, 1004.0]);

    // Strength x is the chosen curve; its timing goes to strength y, from end to end.
    desk.run("const s = document.querySelector('#curves [aria-label=\"give the chosen curve\\'s timing to\"]'); s.value = '0'; s.dispatchEvent(new Event('change'))").await;
    desk.until("the timing", "return document.querySelectorAll('#curve-plot [aria-label^=\"key of Displace: strength y\"]').length === 3").await;
    desk.settled().await;
    assert_eq!(frames(&keys(&desk, "Displace", "strength_y").await), [1001.0, 1002.0, 1004.0]);

    desk.press("#curve-plot", "\u{e009}a\u{e000}").await;
    desk.press("#curve-plot", "\u{e014}").await;
    desk.settled().await;
    for control in ["strength_x", "strength_y"] {
        assert_eq!(frames(&keys(&desk, "Displace", control).await), [1002.0, 1003.0, 1005.0], "{control}");
    }
    let stretch = "#curves input[aria-label='stretch % of the picked keys']";
    desk.click(stretch).await;
    desk.run("document.activeElement.select()").await;
    desk.press(stretch, "200\u{e007}").await;
    desk.until(
        "the stretch",
        "return document.querySelectorAll('#curve-plot [aria-label*=\" at 1008,\"]').length === 2",
    )
    .await;
    desk.settled().await;
    assert_eq!(frames(&keys(&desk, "Displace", "strength_x").await), [1002.0, 1004.0, 1008.0]);
}

#[tokio::test(flavor = "multi_thread")]
async fn without_auto_key_a_changed_value_moves_the_whole_curve() {
    let desk = Desk::new().await;
    keyed(&desk).await;
    desk.click("#auto-key").await;
    let before = keys(&desk, "Displace", "strength_x").await;
    desk.run(
        "const f = document.getElementById('frame'); f.value = '1003'; f.dispatchEvent(new Event('change'))",
    )
    .await;
    desk.settled().await;
    desk.type_value("strength x", "10").await;
    assert_eq!(keys(&desk, "Displace", "strength_x").await, before);
    assert_eq!(desk.value("strength x").await, "10");
}

//! Whole jobs: a render from the page, and a tool carried to another shot.

use std::path::Path;
use std::process::Command;

use crate::support::{Desk, difference, program};

/// The haze's setup as the server holds it, written beside the media.
async fn export_setup(desk: &Desk) -> std::path::PathBuf {
    let script = "const done = arguments[0]; fetch('/api/shots/Saltglass/SG010/state').then(r => r.json()).then(s => done(JSON.stringify(s.setup)))";
    let text = desk.browser.execute_async(script, vec![]).await.unwrap();
    let file = desk.data.path().join("media/saltglass/haze.json");
    std::fs::write(&file, text.as_str().unwrap()).unwrap();
    file
}

fn render(setup: &Path, out: &Path, threads: &str) {
    let pattern = out.join("x.####.exr");
    let done = Command::new(program())
        .args(["render", "--frames", "1001-1002", "--threads", threads, "--setup"])
        .arg(setup)
        .arg("--out")
        .arg(&pattern)
        .status()
        .unwrap();
    assert!(done.success());
}

#[tokio::test(flavor = "multi_thread")]
async fn frames_rendered_from_the_page_equal_those_of_the_command_line_on_one_thread_and_on_two() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    let setup = export_setup(&desk).await;
    desk.click("#render").await;
    desk.until("the dialog", "return Boolean(document.querySelector('#start-render'))").await;
    desk.run("document.querySelector('dialog [aria-label=frames]').select()").await;
    desk.press("dialog [aria-label=frames]", "1001-1002").await;
    desk.click("#start-render").await;
    desk.until("the render", "return document.querySelector('tr[data-id]')?.dataset.state === 'done'").await;
    let from_page = desk.data.path().join("renders/saltglass/SG010/r001-Final");
    let out = tempfile::tempdir().unwrap();
    for threads in ["1", "2"] {
        let folder = out.path().join(threads);
        render(&setup, &folder, threads);
        for frame in ["1001", "1002"] {
            let page = std::fs::read(from_page.join(format!("SG010.{frame}.exr"))).unwrap();
            let line = std::fs::read(folder.join(format!("x.{frame}.exr"))).unwrap();
            assert!(page == line, "frame {frame} on {threads} threads");
        }
    }
    desk.browser.clone().close().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn rows_become_a_tool_that_bends_another_shots_plate() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Noise").await;
    let last = desk.row("Displace").await;
    // Noise, Steepness map and Strength stand together; Displace is added to them.
    let strength = desk.row("Strength").await;
    desk.run(&format!(
        "const press = (id, keys) => document.querySelector(`#row-${{id}} .name`).dispatchEvent(new MouseEvent('click', {{ bubbles: true, ...keys }}));
         press({strength}, {{ shiftKey: true }}); press({last}, {{ ctrlKey: true }});"
    ))
    .await;
    desk.click("#make-tool").await;
    desk.until("the dialog", "return Boolean(document.querySelector('dialog [name=tool-name]'))").await;
    desk.press("dialog [name=tool-name]", "haze").await;
    desk.click(&format!("[data-pick='{last}-strength_x']")).await;
    desk.click("#make-it").await;
    desk.until(
        "the tool on the rack",
        "return document.querySelector('.toast')?.textContent.includes('on the rack as number 1') ?? false",
    )
    .await;
    assert_eq!(
        desk.run("return document.querySelectorAll('.row').length").await,
        5,
        "plate, ID pick, ellipse, haze, final"
    );

    desk.open("/rack").await;
    assert!(desk.text(".tool h2").await.starts_with("haze"));
    desk.open_shot("SG020").await;
    let middle = [0.3, 0.3, 0.6, 0.7];
    let plain = desk.pixels(middle).await;
    desk.select("Plate").await;
    desk.press("#braid", "/").await;
    desk.until("find", "return Boolean(document.querySelector('dialog[open] .found li'))").await;
    desk.press("dialog [aria-label=find]", "haze\u{e007}").await;
    desk.until(
        "the question",
        "return document.querySelector('dialog[open]')?.textContent.includes('Scale its lengths') ?? false",
    )
    .await;
    desk.click("dialog footer .brass").await;
    desk.settled().await;
    desk.until(
        "its row",
        "return [...document.querySelectorAll('.row .name span')].some(name => name.textContent === 'haze')",
    )
    .await;
    let bent = desk.pixels(middle).await;
    assert!(difference(&plain, &bent) > 5, "the barge's air bends");
    desk.type_value("strength x", "0").await;
    assert!(difference(&bent, &desk.pixels(middle).await) > 0, "the faceplate works");

    // Unfolded, the rows inside stand above it.
    let id = desk.row("haze").await;
    desk.click(&format!("#row-{id} .fold")).await;
    desk.until("the rows inside", "return document.querySelectorAll('.row').length === 7").await;
    desk.browser.clone().close().await.unwrap();
}

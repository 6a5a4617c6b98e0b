//! Whole jobs: a render from the page, and a tool carried to another shot.

use std::path::Path;
use std::process::Command;

use crate::support::{Desk, difference, program};

/// The haze's setup as the server holds it, written beside the media.
async fn export_setup(desk: &Desk) -> std::path::PathBuf {
    let script = "const done = arguments[0]; fetch('/api/shots/Saltglass/SG010/state').then(r => r.json()).then(s => done(JSON.stringify(s.setup)))";
    let text = desk.browser.execute_async(script, vec![]).await.unwrap();
    let file = desk.served.media().join("haze.json");
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
    let from_page = desk.served.data.path().join("renders/saltglass/SG010/r001-Final");
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
}

/// From the rack's link to a file, and from the file back through the rack's field.
async fn a_tools_file_goes_out_and_comes_in(desk: &Desk) {
    let card = "[...document.querySelectorAll('.tool')].find(tool => tool.querySelector('h2').textContent.startsWith('bent air'))";
    let script = format!(
        "const done = arguments[0]; fetch({card}.querySelector('a[download]').href).then(r => r.text()).then(done)"
    );
    let text = desk.browser.execute_async(&script, vec![]).await.unwrap();
    let broken = desk.served.data.path().join("broken.json");
    std::fs::write(&broken, &text.as_str().unwrap()[..40]).unwrap();
    desk.press("#import", &broken.display().to_string()).await;
    desk.until("a message", "return document.querySelector('.faults').textContent.includes('broken.json')")
        .await;
    let whole = desk.served.data.path().join("haze.json");
    std::fs::write(&whole, text.as_str().unwrap()).unwrap();
    desk.press("#import", &whole.display().to_string()).await;
    let second = format!("return {card}?.querySelector('h2').textContent.includes('2') ?? false");
    desk.until("the tool as number 2", &second).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_render_tells_the_frame_that_failed_keeps_the_others_and_can_be_called_off() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    let plates = std::fs::read_dir(desk.served.media().join("plates/SG010"))
        .unwrap()
        .map(|entry| entry.unwrap().path());
    let missing = plates.filter(|path| path.display().to_string().contains("1003")).collect::<Vec<_>>();
    assert!(!missing.is_empty());
    for file in missing {
        std::fs::remove_file(file).unwrap();
    }
    let render = async |frames: &str| {
        desk.click("#render").await;
        desk.until("the dialog", "return Boolean(document.querySelector('#start-render'))").await;
        desk.run("document.querySelector('dialog [aria-label=frames]').select()").await;
        desk.press("dialog [aria-label=frames]", frames).await;
        desk.click("#start-render").await;
    };
    render("1001-1004").await;
    let state =
        |word: &str| format!("return document.querySelector('tr[data-id]')?.dataset.state === '{word}'");
    desk.until("the failure", &state("failed")).await;
    assert!(desk.text("tr[data-id] .failed").await.starts_with("1003: "));
    assert_eq!(desk.text("tr[data-id] .done").await, "3 of 4");
    let names = |folder: &str| -> Vec<String> {
        let folder = desk.served.data.path().join("renders/saltglass/SG010").join(folder);
        let files = std::fs::read_dir(folder).unwrap();
        let mut names: Vec<_> = files.map(|file| file.unwrap().file_name().into_string().unwrap()).collect();
        // The list of what was made.
        names.retain(|name| name != ".made");
        names.sort();
        names
    };
    assert_eq!(names("r001-Final"), ["SG010.1001.exr", "SG010.1002.exr", "SG010.1004.exr"]);

    desk.open("/shots/Saltglass/SG010").await;
    desk.until("the page", "return document.body.dataset.ready === 'true'").await;
    render("1001-1900").await;
    desk.until(
        "a frame",
        "return Number.parseInt(document.querySelector('tr[data-id] .done')?.textContent) > 0",
    )
    .await;
    desk.click("tr[data-id] .cancel").await;
    desk.until("the end", &state("cancelled")).await;
    let made = names("r002-Final");
    assert!(
        made.len() < 900 && made.iter().all(|name| name.ends_with(".exr") && !name.starts_with('.')),
        "{made:?}"
    );
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
    desk.press("dialog [name=tool-name]", "bent air").await;
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
        "plate, ID pick, ellipse, bent air, final"
    );

    desk.open("/rack").await;
    desk.until(
        "it there",
        "return [...document.querySelectorAll('.tool h2')].some(name => name.textContent.startsWith('bent air'))",
    )
    .await;
    a_tools_file_goes_out_and_comes_in(&desk).await;
    desk.open_shot("SG020").await;
    let middle = [0.3, 0.3, 0.6, 0.7];
    let plain = desk.pixels(middle).await;
    desk.select("Plate").await;
    desk.press("#braid", "/").await;
    desk.until("find", "return Boolean(document.querySelector('dialog[open] .found li'))").await;
    desk.press("dialog [aria-label=find]", "bent air\u{e007}").await;
    desk.until(
        "the question",
        "return document.querySelector('dialog[open]')?.textContent.includes('Scale its lengths') ?? false",
    )
    .await;
    desk.click("dialog footer .is-primary").await;
    desk.settled().await;
    desk.until(
        "its row",
        "return [...document.querySelectorAll('.row .name span')].some(name => name.textContent === 'bent air')",
    )
    .await;
    let bent = desk.pixels(middle).await;
    assert!(difference(&plain, &bent) > 5, "the barge's air bends");
    desk.type_value("strength x", "0").await;
    assert!(difference(&bent, &desk.pixels(middle).await) > 0, "the faceplate works");

    // Unfolded, the rows inside stand above it.
    let id = desk.row("bent air").await;
    desk.click(&format!("#row-{id} .fold")).await;
    desk.until("the rows inside", "return document.querySelectorAll('.row').length === 8").await;
    a_number_is_taken_when_asked(&desk).await;
}

/// One shot changes the tool inside and keeps it; the other stays as it is until it takes the new number.
async fn a_number_is_taken_when_asked(desk: &Desk) {
    let middle = [0.3, 0.3, 0.6, 0.7];
    let deed = |words: &str| {
        format!(
            "[...document.querySelectorAll('.deeds button')].find(one => one.textContent.startsWith('{words}'))"
        )
    };
    desk.select("bent air").await;
    desk.type_value("strength x", "6").await;
    let before = desk.pixels(middle).await;

    desk.open_shot("SG010").await;
    let id = desk.row("bent air").await;
    desk.click(&format!("#row-{id} .fold")).await;
    desk.until("the rows inside", "return [...document.querySelectorAll('.row .name > span')].some(span => span.textContent === 'Noise')").await;
    desk.select("Noise").await;
    desk.type_value("size x", "260").await;
    desk.select("bent air").await;
    desk.until(
        "it to be its own",
        "return document.querySelector('.deeds')?.textContent.includes('own copy of bent air') ?? false",
    )
    .await;
    desk.run(&format!("{}.click()", deed("keep as"))).await;
    desk.until(
        "the rack",
        "return document.querySelector('.toast')?.textContent.startsWith('on the rack as number') ?? false",
    )
    .await;

    desk.open_shot("SG020").await;
    assert_eq!(difference(&before, &desk.pixels(middle).await), 0, "the other shot is as it was");
    desk.select("bent air").await;
    desk.until("the newer number", &format!("return Boolean({})", deed("take"))).await;
    desk.run(&format!("{}.click()", deed("take"))).await;
    desk.until("it to be taken", &format!("return !{}", deed("take"))).await;
    desk.settled().await;
    assert!(difference(&before, &desk.pixels(middle).await) > 5);
    assert_eq!(desk.value("strength x").await, "6");
}

//! The first five minutes, step by step as docs/guide/first-five-minutes.md tells them, on footage that the test makes.

use fantoccini::Locator;
use serde_json::Value;

use crate::support::{Desk, Served, difference};

const FRAMES: usize = 24;
const SIZE: [u32; 2] = [320, 180];

/// A brick-like pattern that drifts, with fine grain: something that can be seen to bend.
fn footage(folder: &std::path::Path) -> Vec<String> {
    let [width, height] = SIZE;
    (0..FRAMES)
        .map(|frame| {
            let pixel = |at: u32| {
                let (x, y) = (at % width + frame as u32, at / width);
                let joint = (x + (y / 12 % 2) * 16) % 32 < 3 || y % 12 < 2;
                let grain = (x.wrapping_mul(2_654_435_761) ^ y.wrapping_mul(40_503) ^ frame as u32) >> 27;
                let base = if joint { 190 } else { 90 };
                let light = (base + grain) as u8;
                [light, (light / 4) * 3, light / 2, 255]
            };
            let bytes: Vec<u8> = (0..width * height).flat_map(pixel).collect();
            let file = folder.join(format!("wall.{}.png", 1001 + frame));
            std::fs::write(&file, veil_media::encode_png(&bytes, width, height).unwrap()).unwrap();
            file.display().to_string()
        })
        .collect()
}

/// A part of the picture in its middle.
const MIDDLE: [f64; 4] = [0.3, 0.3, 0.7, 0.7];

#[tokio::test(flavor = "multi_thread")]
async fn from_an_empty_folder_to_a_rendered_haze_and_all_of_it_is_there_after_a_restart() {
    let source = tempfile::tempdir().unwrap();
    let files = footage(source.path());
    let mut desk = Desk::of(Served::empty(&[]).await).await;

    // Your footage.
    desk.open("/").await;
    let chooser = desk.browser.find(Locator::Css(".choose-files")).await.unwrap();
    chooser.send_keys(&files.join("\n")).await.unwrap();
    desk.until("the dialog", "return Boolean(document.querySelector('dialog[open] .is-primary'))").await;
    desk.click("dialog footer .is-primary").await;
    desk.until("the shot", "return location.pathname === '/shots/My%20show/WALL'").await;
    desk.settled().await;
    let plate = desk.pixels(MIDDLE).await;
    assert!(plate.iter().any(|value| *value > 60), "the plate is seen");
    assert_eq!(desk.text("#size").await, "320x180");

    // Warm air.
    desk.select("Plate").await;
    desk.add("Noise").await;
    desk.add("Steepness map").await;
    desk.add("Displace").await;
    desk.until(
        "what was done to be said",
        "return document.querySelector('.toast')?.textContent.includes('on the strand of Plate') ?? false",
    )
    .await;
    assert!(difference(&plate, &desk.pixels(MIDDLE).await) < 20, "the slope of noise is small");
    desk.type_value("strength x", "180").await;
    desk.type_value("strength y", "180").await;
    desk.seen_to_change(MIDDLE, &plate).await;

    // Only above the mouth.
    desk.add("Ellipse").await;
    let ellipse = desk.row("Ellipse").await;
    desk.select("Displace").await;
    let everywhere = desk.pixels(MIDDLE).await;
    let matte = format!(
        "const pick = [...document.querySelectorAll('#controls select')].find(one => one.getAttribute('aria-label')?.startsWith('matte'));
         pick.value = [...pick.options].find(one => one.textContent.includes('Ellipse') || one.value.includes('{ellipse}')).value;
         pick.dispatchEvent(new Event('change', {{ bubbles: true }}));"
    );
    desk.run(&matte).await;
    desk.seen_to_change([0.0, 0.0, 1.0, 1.0], &everywhere).await;

    // Out.
    desk.click("#render").await;
    desk.click("#start-render").await;
    desk.until("the render", "return document.querySelector('tr[data-id]')?.dataset.state === 'done'").await;
    desk.until(
        "what can be done with it",
        "return Boolean(document.querySelector('tr[data-id] a[download]'))",
    )
    .await;
    let archive = "const done = arguments[0];
        fetch(document.querySelector('tr[data-id] a[download]').href).then(r => r.arrayBuffer()).then((bytes) => {
            const view = new DataView(bytes);
            // The end of the central directory, in which the number of files stands.
            done([view.getUint32(bytes.byteLength - 22, true), view.getUint16(bytes.byteLength - 12, true), bytes.byteLength]);
        })";
    let told = desk.browser.execute_async(archive, vec![]).await.unwrap();
    assert_eq!((told[0].as_u64(), told[1].as_u64()), (Some(0x0605_4b50), Some(FRAMES as u64)), "{told}");
    let rendered = desk.served.data.path().join("renders/my-show/WALL/r001-Final");
    let sizes: u64 = std::fs::read_dir(&rendered)
        .unwrap()
        .map(Result::unwrap)
        .filter(|file| file.path().extension().is_some_and(|ending| ending == "exr"))
        .map(|file| file.metadata().unwrap().len())
        .sum();
    assert!(told[2].as_u64().unwrap() > sizes, "all bytes of all frames are in it");
    desk.click("tr[data-id] .deeds .open").await;
    desk.until("the result", "return (document.querySelector('dialog .result')?.naturalWidth ?? 0) > 0")
        .await;

    // All of it is found again.
    desk.served.cut_off_and_started_again().await;
    desk.open("/").await;
    desk.until("the shot on the wall", "return document.querySelector('.shot[data-code=WALL]') !== null")
        .await;
    desk.open("/renders").await;
    desk.until("the render", "return document.querySelector('tr[data-id]')?.dataset.state === 'done'").await;
    desk.open("/shots/My%20show/WALL").await;
    desk.settled().await;
    let rows = desk
        .run("return [...document.querySelectorAll('.row .name > span')].map(one => one.textContent)")
        .await;
    for name in ["Plate", "Noise", "Steepness map", "Displace", "Ellipse", "Final"] {
        assert!(rows.as_array().unwrap().contains(&Value::from(name)), "{rows}");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn shows_are_made_renamed_switched_binned_and_put_back_and_bad_names_are_refused() {
    let desk = Desk::of(Served::empty(&[]).await).await;
    for (name, says) in
        [("", "cannot be a name"), ("a/b", "cannot be a name"), (&*"x".repeat(300), "at most")]
    {
        let (status, text) = desk.served.post("/api/shows", &serde_json::json!({ "name": name })).await;
        let fits = status == 422 && (text.contains(says) || text.contains("cannot be a name"));
        assert!(fits && text.len() < 900, "{name}: {status} {text}");
    }
    let make = async |name: &str| {
        desk.open("/").await;
        desk.click(".new-show").await;
        desk.press("dialog [aria-label=name]", &format!("{name}\u{e007}")).await;
        desk.until(
            "the show",
            &format!("return document.querySelector('section.show h1')?.textContent === '{name}'"),
        )
        .await;
    };
    make("Salt").await;
    make("Glass").await;
    let (status, text) = desk.served.post("/api/shows", &serde_json::json!({ "name": "salt" })).await;
    assert!(status == 409 && text.contains("the show `Salt` is there already"), "{status} {text}");

    // The switch is on every page, and its choice goes along.
    for page in ["/", "/plates", "/rack", "/renders", "/bin"] {
        desk.open(page).await;
        desk.until("the switch", "return document.querySelectorAll('#show-switch option').length === 3")
            .await;
    }
    desk.open("/").await;
    let choose = "const pick = document.getElementById('show-switch'); pick.value = 'Glass'; pick.dispatchEvent(new Event('change'))";
    desk.run(choose).await;
    desk.until("one show", "return [...document.querySelectorAll('section.show')].map(one => one.dataset.show).join() === 'Glass'").await;
    assert!(
        desk.run("return document.querySelector('nav a[href^=\"/plates\"]').href")
            .await
            .as_str()
            .unwrap()
            .ends_with("?show=Glass")
    );

    desk.click("section.show .rename").await;
    desk.until("the dialog", "return Boolean(document.querySelector('dialog[open] [aria-label=name]'))")
        .await;
    desk.press("dialog [aria-label=name]", "Brass\u{e007}").await;
    desk.until("the new name", "return document.querySelector('section.show')?.dataset.show === 'Brass'")
        .await;

    desk.click("section.show .delete-show").await;
    desk.until(
        "it gone",
        "return ![...document.querySelectorAll('section.show')].some(one => one.dataset.show === 'Brass')",
    )
    .await;
    // Its name is free; what comes back beside it gets a number.
    make("Brass").await;
    desk.open("/bin").await;
    desk.click("tr .back").await;
    desk.until("the bin to be empty", "return document.querySelector('tr .back') === null").await;
    desk.open("/").await;
    desk.until(
        "all three",
        "return [...document.querySelectorAll('section.show')].map(one => one.dataset.show).sort().join() === 'Brass,Brass 2,Salt'",
    )
    .await;

    desk.click("section.show[data-show='Brass 2'] .delete-show").await;
    desk.until("it gone", "return document.querySelector(\"section.show[data-show='Brass 2']\") === null")
        .await;
    desk.open("/bin").await;
    desk.click("#empty").await;
    desk.click("dialog .is-primary").await;
    desk.until(
        "nothing left",
        "return document.querySelector('tr .back') === null && !document.querySelector('dialog[open]')",
    )
    .await;
}

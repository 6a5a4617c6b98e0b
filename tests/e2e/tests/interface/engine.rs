//! What the engine does for a person: warps sampled once, passes that travel, bakes, costs, files with flaws.

use fantoccini::Locator;
use veil_media::{About, Depth, Layer, LayerChannel, write_layers, write_whole};
use veil_pixels::colour::space::BT709;
use veil_pixels::{Raster, Window};

use crate::support::{Desk, difference};

const MIDDLE: [f64; 4] = [0.3, 0.3, 0.7, 0.7];

/// Adds a stage after the selected row, with the keyboard.
async fn add(desk: &Desk, name: &str) {
    desk.press("#braid", "/").await;
    let field = "return document.activeElement?.getAttribute('aria-label') === 'find'";
    desk.until("the field to find by", field).await;
    desk.press("dialog [aria-label='find']", &format!("{name}\u{e007}")).await;
    desk.until(
        "the new row",
        &format!("return document.getElementById('bench-name').textContent.startsWith('{name}')"),
    )
    .await;
    desk.settled().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn turns_there_and_back_are_clasped_and_give_the_same_picture_and_passes_went_along() {
    let desk = Desk::new().await;
    desk.open_shot("SG020").await;
    let before = desk.pixels(MIDDLE).await;
    desk.select("Plate").await;
    for angle in ["25", "-25"] {
        add(&desk, "Transform").await;
        desk.type_value("angle", angle).await;
    }
    assert!(
        difference(&before, &desk.pixels(MIDDLE).await) <= 1,
        "two turns that undo each other leave the picture"
    );
    assert_eq!(desk.run("return document.querySelectorAll('#braid .clasp').length").await, 1);
    desk.select("Transform").await;
    desk.until(
        "what is said of the passes",
        "const told = document.querySelector('.passes')?.textContent ?? ''; return told.includes('depth') && told.includes('moved with the picture by Transform')",
    )
    .await;
    // A matte mixes pictures, so that each is sampled for itself.
    desk.select("Transform 2").await;
    desk.click("#controls [data-field='slot-matte']").await;
    let slot = desk.browser.find(Locator::Css("#controls [data-field='slot-matte']")).await.unwrap();
    slot.select_by_label("Plate").await.unwrap();
    desk.until("no clasp", "return document.querySelectorAll('#braid .clasp').length === 0").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_baked_row_says_when_it_is_stale_and_is_given_up_with_one_click() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    let before = desk.pixels(MIDDLE).await;
    desk.select("Displace").await;
    let row = desk.row("Displace").await;
    let says = |what: &str| {
        format!("return document.querySelector('#row-{row} small').textContent.includes('{what}')")
    };
    let button = |words: &str| {
        format!("[...document.querySelectorAll('.deeds button')].find(one => one.textContent === '{words}')")
    };
    desk.until("the button", &format!("return Boolean({})", button("bake"))).await;
    desk.click(".deeds button:last-child").await;
    desk.until("a baked row", &says("baked")).await;
    desk.settled().await;
    // Half floats: one step of a byte at most.
    assert!(difference(&before, &desk.pixels(MIDDLE).await) <= 1);
    desk.select("Strength").await;
    desk.type_value("x", "20").await;
    desk.until("a stale bake", &says("stale bake: 0 of 4 fit")).await;
    assert!(
        difference(&before, &desk.pixels(MIDDLE).await) > 3,
        "what is worked out is seen, not the stale files"
    );
    desk.click("#undo").await;
    desk.settled().await;
    desk.until("a bake that fits again", &says("baked")).await;
    desk.select("Displace").await;
    desk.until("the button", &format!("return Boolean({})", button("baked"))).await;
    desk.click(".deeds button:last-child").await;
    desk.until(
        "no bake",
        &format!("return !document.querySelector('#row-{row} small').textContent.includes('bake')"),
    )
    .await;
    desk.settled().await;
    assert_eq!(difference(&before, &desk.pixels(MIDDLE).await), 0);

    desk.click("#costs").await;
    desk.until("milliseconds at the rows", "return document.querySelectorAll('#braid .ms').length >= 6")
        .await;
}

/// A picture with one value that is no number, and a layer of a name that says nothing.
fn write_flawed(path: &std::path::Path) {
    let window = Window::sized(64, 36);
    let channel = |name: &str, value: f32| LayerChannel {
        name: name.into(),
        // What a half cannot hold would be mended as it is written.
        depth: Depth::Float,
        values: Raster::flat(window, value),
    };
    let mut red = channel("R", 0.5);
    red.values.set(3, 3, f32::NAN);
    let layer = |name: &str, channels| Layer { name: name.into(), data: window, channels, texts: Vec::new() };
    let layers = vec![
        layer("beauty", vec![red, channel("G", 0.4), channel("B", 0.3)]),
        layer("saltwork_07", vec![channel("V", 2.5)]),
    ];
    write_whole(path, |out| write_layers(path, About::still(window, BT709), layers, out)).unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_layer_of_an_unfamiliar_name_is_taught_and_a_flaw_in_a_file_is_a_mark_on_its_row() {
    let desk = Desk::new().await;
    write_flawed(&desk.served.media().join("plates/flawed.exr"));
    desk.open("/plates").await;
    desk.click(".scan").await;
    let unknown = "select.alias[data-layer='saltwork_07']";
    desk.until("the layer", &format!("return document.querySelector(\"{unknown}\")?.value === ''")).await;
    let select = desk.browser.find(Locator::Css(unknown)).await.unwrap();
    select.select_by_value("depth").await.unwrap();
    desk.until(
        "what was taught",
        &format!("return document.querySelector(\"{unknown}\")?.value === 'depth'"),
    )
    .await;

    desk.open_shot("SG020").await;
    desk.select("Plate").await;
    let media = desk.browser.find(Locator::Css("#controls select[aria-label='plate']")).await.unwrap();
    media.select_by_value("use plates/flawed.exr").await.unwrap();
    desk.settled().await;
    let row = desk.row("Plate").await;
    desk.until(
        "the mark",
        &format!("return document.querySelector('#row-{row} .fault-mark')?.title.includes('a value that is no number') ?? false"),
    )
    .await;
    // The taught layer is depth now.
    add(&desk, "Pass").await;
    let media = desk.browser.find(Locator::Css("#controls select[aria-label='plate']")).await.unwrap();
    media.select_by_label("flawed").await.unwrap();
    desk.settled().await;
    let pass = desk.row("Pass").await;
    desk.click(&format!("#row-{pass} .knot")).await;
    desk.settled().await;
    assert!(desk.pixels([0.01, 0.01, 0.05, 0.05]).await.iter().all(|byte| *byte == 255), "2.5 is white");
}

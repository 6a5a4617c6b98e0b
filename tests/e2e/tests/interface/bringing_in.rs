//! Footage comes in: dropped files of all kinds become plates and shots, and the page goes on when the server was away.

use std::path::{Path, PathBuf};

use fantoccini::Locator;
use serde_json::{Value, json};
use veil_core::setup::{Frames, PictureFormat};
use veil_core::signal::{Domain, Pixels, Signal};
use veil_media::{OutputPattern, write_frame};
use veil_pixels::{Raster, Window};

use crate::support::{Desk, Served, program, seeded};

/// A picture of odd size that is clear on its left side, as a file of a sequence.
fn picture(folder: &Path, name: &str, frame: i32, [width, height]: [usize; 2]) -> PathBuf {
    let window = Window::sized(width as u32, height as u32);
    let pixels = Raster::from_fn(window, |x, y| {
        let alpha = (x as f32 + 1.0) / width as f32;
        let [u, v] = [x as f32 * 0.21, y as f32 * 0.13];
        [(0.5 + 0.4 * u.sin()) * alpha, (0.5 + 0.4 * v.cos()) * alpha, 0.3 * alpha, alpha]
    });
    let signal = Signal { domain: Domain { display: window, data: window }, pixels: Pixels::Picture(pixels) };
    let output: OutputPattern = folder.join(name).display().to_string().parse().unwrap();
    let shot = PictureFormat::plain(width as u32, height as u32, Frames { first: frame, last: frame });
    write_frame(&output, frame, &signal, &shot, &[]).unwrap().file
}

fn clip(folder: &Path) -> PathBuf {
    let file = folder.join("sparks.mp4");
    let made = std::process::Command::new("ffmpeg")
        .args(["-v", "error", "-f", "lavfi", "-i", "testsrc=size=66x50:rate=25", "-frames:v", "5"])
        .args(["-pix_fmt", "yuv420p"])
        .arg(&file)
        .status()
        .unwrap();
    assert!(made.success());
    file
}

/// Drops files on the page, chooses what they become, and brings them in.
pub(crate) async fn drop_files(desk: &Desk, files: &[PathBuf], become_what: &str) {
    desk.open("/").await;
    // A field of the test's own hands the files over to the drop.
    desk.run(
        "const field = document.createElement('input'); field.type = 'file'; field.multiple = true; field.id = 'dropped';
         document.querySelector('main').prepend(field);",
    )
    .await;
    let field = desk.browser.find(Locator::Css("#dropped")).await.unwrap();
    let paths: Vec<String> = files.iter().map(|file| file.display().to_string()).collect();
    field.send_keys(&paths.join("\n")).await.unwrap();
    desk.run(
        "const held = new DataTransfer();
         for (const file of document.getElementById('dropped').files) held.items.add(file);
         document.body.dispatchEvent(new DragEvent('drop', { dataTransfer: held, bubbles: true, cancelable: true }));",
    )
    .await;
    desk.until("the dialog", "return Boolean(document.querySelector('dialog[open] .is-primary'))").await;
    desk.run(&format!(
        "const pick = document.querySelector('dialog [aria-label=\"what it becomes\"]'); pick.value = '{become_what}';
         pick.dispatchEvent(new Event('change', {{ bubbles: true }}));"
    ))
    .await;
    desk.click("dialog footer .is-primary").await;
}

async fn shot_of(desk: &Desk, code: &str) -> Value {
    desk.served.get(&format!("/api/shots/Own/{code}/state")).await
}

/// What is twice as wide as high in pixels of the file, and its pixels twice as wide as high, is four times as wide on the
/// screen.
#[tokio::test(flavor = "multi_thread")]
async fn a_plate_of_wide_pixels_is_shown_wide_and_renders_with_them() {
    let source = tempfile::tempdir().unwrap();
    let window = Window::sized(240, 120);
    let pixels =
        Pixels::Picture(Raster::from_fn(window, |x, _| [if x < 120 { 0.9 } else { 0.1 }, 0.2, 0.2, 1.0]));
    let signal = Signal { domain: Domain { display: window, data: window }, pixels };
    let output: OutputPattern = source.path().join("wide.####.exr").display().to_string().parse().unwrap();
    let frames = Frames { first: 1, last: 1 };
    let shot = PictureFormat { aspect: 2.0, ..PictureFormat::plain(240, 120, frames) };
    let file = write_frame(&output, 1, &signal, &shot, &[]).unwrap().file;
    let desk = Desk::of(Served::empty(&[]).await).await;
    desk.served.post("/api/shows", &json!({ "name": "Own" })).await;
    let files = [file, picture(source.path(), "plain.####.exr", 1, [40, 30])];
    drop_files(&desk, &files, "each").await;
    desk.until("two shots", "return document.querySelectorAll('.shot[data-code]').length === 2").await;
    assert_eq!(shot_of(&desk, "PLAIN").await["setup"]["picture"]["aspect"], Value::Null);
    assert_eq!(shot_of(&desk, "WIDE").await["setup"]["picture"]["aspect"], json!(2.0));
    desk.open("/shots/Own/WIDE").await;
    desk.settled().await;
    let told = desk.text("#zoom").await;
    assert!(told.contains("pixels 2 wide"), "{told}");
    // Of the canvas, how wide and high what is not the well's own grey is.
    let shown = desk
        .run(
            "const canvas = document.querySelector('#well canvas');
             const { data, width, height } = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height);
             let [x0, x1, y0, y1] = [width, 0, height, 0];
             for (let y = 0; y < height; y += 1) for (let x = 0; x < width; x += 1) {
               const at = (y * width + x) * 4;
               if (data[at] === data[at + 1]) continue;
               x0 = Math.min(x0, x); x1 = Math.max(x1, x); y0 = Math.min(y0, y); y1 = Math.max(y1, y);
             }
             return [x1 - x0, y1 - y0];",
        )
        .await;
    let [wide, high] = [0, 1].map(|axis| shown[axis].as_f64().unwrap());
    assert!((wide / high - 4.0).abs() < 0.1, "{wide} by {high}");
}

#[tokio::test(flavor = "multi_thread")]
async fn dropped_stills_sequences_and_clips_of_any_size_become_shots_each_or_one() {
    let source = tempfile::tempdir().unwrap();
    let folder = source.path();
    let mut files: Vec<PathBuf> =
        [1, 2, 5].map(|frame| picture(folder, "a take.####.png", frame, [501, 357])).into();
    files.push(picture(folder, "tall.####.jpg", 7, [97, 400]));
    files.push(picture(folder, "dot.####.tif", 1, [1, 1]));
    files.push(clip(folder));
    let desk = Desk::of(Served::empty(&[]).await).await;
    desk.served.post("/api/shows", &json!({ "name": "Own" })).await;

    drop_files(&desk, &files, "each").await;
    desk.until("four shots", "return document.querySelectorAll('.shot[data-code]').length === 4").await;
    for (code, [width, height], [first, last]) in [
        ("A%20TAKE", [501, 357], [1, 5]),
        ("TALL", [97, 400], [7, 7]),
        ("DOT", [1, 1], [1, 1]),
        ("SPARKS", [66, 50], [1, 5]),
    ] {
        let state = shot_of(&desk, code).await;
        let picture = &state["setup"]["picture"];
        assert_eq!(
            (&picture["width"], &picture["height"]),
            (&json!(width), &json!(height)),
            "{code}: {state}"
        );
        assert_eq!(picture["frames"], json!({ "first": first, "last": last }), "{code}");
        desk.open(&format!("/shots/Own/{code}")).await;
        desk.settled().await;
        let seen = desk.pixels([0.0, 0.0, 1.0, 1.0]).await;
        assert!(seen.iter().any(|value| *value > 40), "{code} is seen");
    }
    assert_eq!(shot_of(&desk, "SPARKS").await["setup"]["picture"]["fps"], json!(25.0));

    // Of a sequence with a gap, what can be made is made, and can be looked at.
    desk.open("/shots/Own/A%20TAKE").await;
    desk.settled().await;
    desk.click("#render").await;
    desk.click("#start-render").await;
    desk.until(
        "what was made to be offered",
        "const row = document.querySelector('tr[data-state=failed]');
         return row?.querySelector('.done').textContent === '3 of 5' && Boolean(row.querySelector('.deeds .open'))",
    )
    .await;
    desk.click("tr[data-id] .deeds .open").await;
    desk.until("the result", "return (document.querySelector('dialog .result')?.naturalWidth ?? 0) > 0")
        .await;

    // Once more, as one shot: what is there is not sent again, and all plates stand in it.
    drop_files(&desk, &files, "one").await;
    desk.until("the shot", "return location.pathname.startsWith('/shots/Own/A%20TAKE')").await;
    let state = shot_of(&desk, "A%20TAKE%202").await;
    let plates =
        state["setup"]["stages"].as_array().unwrap().iter().filter(|row| row["kind"] == "plate").count();
    assert_eq!(plates, 4, "{state}");
}

/// The server is away when the files are to be sent, and comes back where it was.
#[tokio::test(flavor = "multi_thread")]
async fn an_import_waits_for_a_server_that_is_away_and_goes_on_when_it_is_back() {
    let frames: Vec<PathBuf> = (1001..=1004)
        .map(|frame| seeded().join(format!("media/saltglass/plates/SG020/SG020.{frame}.exr")))
        .collect();
    let mut desk = Desk::of(Served::empty(&[]).await).await;
    desk.served.post("/api/shows", &json!({ "name": "Own" })).await;
    desk.open("/").await;
    let chooser = desk.browser.find(Locator::Css(".choose-files")).await.unwrap();
    let paths: Vec<String> = frames.iter().map(|file| file.display().to_string()).collect();
    chooser.send_keys(&paths.join("\n")).await.unwrap();
    desk.until(
        "the plan",
        "return document.querySelector('dialog[open] .foundmedia')?.textContent.includes('1001–1004') ?? false",
    )
    .await;
    desk.served.cut_off().await;
    desk.click("dialog footer .is-primary").await;
    desk.until(
        "it to wait",
        "return document.querySelector('.import .said')?.textContent.includes('waiting for the server') ?? false",
    )
    .await;
    desk.served.started_where_it_was().await;
    desk.until("the shot", "return location.pathname === '/shots/Own/SG020'").await;
    for (frame, source) in (1001..).zip(&frames) {
        let kept = desk.served.data.path().join(format!("media/own/dropped/SG020.{frame}.exr"));
        assert!(std::fs::read(kept).unwrap() == std::fs::read(source).unwrap(), "{frame}");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_backup_of_a_running_copy_holds_what_was_done() {
    let served = Served::empty(&[]).await;
    served.post("/api/shows", &json!({ "name": "Own" })).await;
    let elsewhere = tempfile::tempdir().unwrap();
    let backup = |to: &Path| {
        let mut program = std::process::Command::new(program());
        program.args(["backup", "--data"]).arg(served.data.path()).arg("--to").arg(to).output().unwrap()
    };
    let copy = elsewhere.path().join("veil.db");
    assert!(backup(&copy).status.success());
    let again = backup(&copy);
    let said = String::from_utf8_lossy(&again.stderr).into_owned();
    assert!(!again.status.success() && said.contains("veil.db"), "{said}");
    // It is a data folder's database, without what came after it.
    served.post("/api/shows", &json!({ "name": "Later" })).await;
    let copied = Served::on(elsewhere, &["serve"]).await;
    let (status, _) = copied.post("/api/shows/Own/import/plan", &json!({ "files": [] })).await;
    assert_eq!(status, 200);
    let (status, _) = copied.post("/api/shows/Later/import/plan", &json!({ "files": [] })).await;
    assert_eq!(status, 404);
}

/// A long run: `docs/testing.md` tells how. Three at a time, as the page sends them.
#[tokio::test(flavor = "multi_thread")]
#[ignore = "takes minutes and 20 GB of disk"]
async fn twenty_gigabytes_in_two_thousand_files_come_in() {
    const FILES: usize = 2000;
    let source = tempfile::tempdir().unwrap();
    let window = Window::sized(1700, 1100);
    // Noise, which does not become smaller.
    let noise = |x: i32, y: i32| {
        let mut mixed = (x as u32).wrapping_mul(0x9e37_79b1) ^ (y as u32).wrapping_mul(0x85eb_ca77);
        std::array::from_fn(|_| {
            mixed = (mixed ^ mixed >> 15).wrapping_mul(0x2c1b_3c6d) ^ mixed >> 13;
            mixed as f32 / u32::MAX as f32
        })
    };
    let pixels = Pixels::Picture(Raster::from_fn(window, noise));
    let signal = Signal { domain: Domain { display: window, data: window }, pixels };
    let output: OutputPattern = source.path().join("noise.####.exr").display().to_string().parse().unwrap();
    let shot =
        PictureFormat::plain(window.width() as u32, window.height() as u32, Frames { first: 1, last: 1 });
    let file = write_frame(&output, 1, &signal, &shot, &[]).unwrap().file;
    let bytes = std::fs::read(file).unwrap();
    let size = bytes.len();
    assert!(FILES * size > 20_000_000_000, "{size}");

    let served = Served::empty(&[]).await;
    served.post("/api/shows", &json!({ "name": "Own" })).await;
    let begun = std::time::Instant::now();
    let some = async |first: usize| {
        for number in (first..FILES).step_by(3) {
            let put = format!(
                "PUT /api/shows/Own/import?path=noise.{:04}.exr&size={size}&modified=1700000000000&at=0",
                number + 1
            );
            let (status, text) = served.ask(&put, &[("host", &served.host)], &bytes).await;
            assert_eq!(status, 200, "{number}: {text}");
        }
    };
    tokio::join!(some(0), some(1), some(2));
    let rate = (FILES * size) as f64 / begun.elapsed().as_secs_f64() / 1e6;
    println!("{FILES} files of {size} bytes, {rate:.0} MB/s");
    let kept = std::fs::read_dir(served.data.path().join("media/own/dropped")).unwrap();
    assert!(kept.map(|file| file.unwrap().metadata().unwrap().len()).all(|kept| kept == size as u64));
    let (status, text) =
        served.post("/api/shows/Own/scan", &json!({ "files": ["noise.0001.exr", "noise.2000.exr"] })).await;
    assert_eq!(status, 200, "{text}");
}

//! A figure goes: its place without it, what is left painted out, the veil, its reveal keyed, played and rendered.

use std::path::{Path, PathBuf};

use serde_json::json;
use veil_core::setup::{Frames, PictureFormat};
use veil_core::signal::{Domain, Pixels, Signal};
use veil_media::{OutputPattern, write_frame};
use veil_pixels::{Raster, Window};

use crate::bringing_in::drop_files;
use crate::support::{Desk, Served};

const SIZE: [u32; 2] = [320, 180];
const COUNT: i32 = 12;
/// A mark on the wall that is to go: its middle, and half its side.
const MARK: ([i32; 2], i32) = ([250, 40], 5);

/// Files of a shot, from what each pixel is at each frame.
fn footage(folder: &Path, name: &str, pixel: impl Fn(i32, i32, i32) -> [f32; 4] + Sync) -> Vec<PathBuf> {
    footage_of(SIZE, folder, name, pixel)
}

fn footage_of(
    size: [u32; 2],
    folder: &Path,
    name: &str,
    pixel: impl Fn(i32, i32, i32) -> [f32; 4] + Sync,
) -> Vec<PathBuf> {
    let window = Window::sized(size[0], size[1]);
    let output: OutputPattern = folder.join(name).display().to_string().parse().unwrap();
    let shot = PictureFormat::plain(size[0], size[1], Frames { first: 1, last: COUNT });
    let frame = |frame: i32| {
        let pixels = Raster::from_fn(window, |x, y| pixel(frame, x, y));
        let signal =
            Signal { domain: Domain { display: window, data: window }, pixels: Pixels::Picture(pixels) };
        write_frame(&output, frame, &signal, &shot, &[]).unwrap().file
    };
    (1..=COUNT).map(frame).collect()
}

fn is_marked(x: i32, y: i32) -> bool {
    let ([mark_x, mark_y], half) = MARK;
    (x - mark_x).abs() <= half && (y - mark_y).abs() <= half
}

/// Made up: a dim wall with detail, before it a bright figure that walks through, and a red mark.
fn walk(frame: i32, x: i32, y: i32) -> [f32; 4] {
    let left = 10 + 22 * (frame - 1);
    if is_marked(x, y) {
        [0.9, 0.0, 0.0, 1.0]
    } else if (left..left + 44).contains(&x) && (60..165).contains(&y) {
        [3.0, 2.8, 2.4, 1.0]
    } else {
        wall(x, y)
    }
}

/// Where the middle of the mark has gone at a frame, and how much the wall has grown.
fn gone(frame: i32) -> ([f32; 2], f32) {
    let ([x, y], since) = (MARK.0, (frame - 1) as f32);
    ([x as f32 - 6.0 * since, y as f32 + 5.0 * since], 1.0 + 0.04 * since)
}

/// Made up: the wall with its mark goes by, turns and comes nearer.
fn going(frame: i32, x: i32, y: i32) -> [f32; 4] {
    let ([middle_x, middle_y], grown) = gone(frame);
    let (sin, cos) = (0.03 * (frame - 1) as f32).sin_cos();
    let (right, down) = ((x as f32 - middle_x) / grown, (y as f32 - middle_y) / grown);
    let [right, down] = [right * cos + down * sin, down * cos - right * sin];
    let ([mark_x, mark_y], half) = MARK;
    if right.abs().max(down.abs()) <= half as f32 + 0.5 {
        [0.9, 0.0, 0.0, 1.0]
    } else {
        lit_wall(mark_x as f32 + right, mark_y as f32 + down)
    }
}

fn wall(x: i32, y: i32) -> [f32; 4] {
    lit_wall(x as f32, y as f32)
}

fn lit_wall(x: f32, y: f32) -> [f32; 4] {
    let light = 0.2 + 0.08 * ((x * 0.35).sin() + (y * 0.27 + x * 0.05).cos());
    [light, light * 0.9, light * 0.8, 1.0]
}

async fn plug(desk: &Desk, slot: &str, row: &str) {
    desk.settled().await;
    // At once, since the bench may be drawn anew at any moment.
    let script = format!(
        "const slot = document.querySelector(\"#controls [data-field='slot-{slot}']\");
         const value = [...slot.options].find(option => option.text === '{row}').value;
         if (slot.value === value) return false;
         slot.value = value; slot.dispatchEvent(new Event('change')); return true;"
    );
    if desk.run(&script).await == true {
        desk.settled().await;
    }
}

async fn go(desk: &Desk, frame: i32) {
    desk.run(&format!(
        "const f = document.getElementById('frame'); f.value = '{frame}'; f.dispatchEvent(new Event('change'))"
    ))
    .await;
    desk.settled().await;
}

/// What part of the picture is, in shares of it, from pixel to pixel.
fn part([x0, y0, x1, y1]: [i32; 4]) -> [f64; 4] {
    let share = |at: i32, of: u32| f64::from(at) / f64::from(of);
    [share(x0, SIZE[0]), share(y0, SIZE[1]), share(x1, SIZE[0]), share(y1, SIZE[1])]
}

/// The mean byte of red, green and blue.
fn mean(pixels: &[i64]) -> f64 {
    let light: i64 = pixels.chunks(4).map(|pixel| pixel[0] + pixel[1] + pixel[2]).sum();
    light as f64 / (pixels.len() / 4 * 3) as f64
}

/// The place that the figure covers at the sixth frame.
const COVERED: [i32; 4] = [125, 70, 160, 155];

async fn clean_plate_without_the_figure(desk: &Desk) {
    desk.select("Plate").await;
    desk.add("Luma range").await;
    desk.type_value("from", "1").await;
    desk.select("Plate").await;
    desk.add("Clean plate").await;
    desk.select("Luma range").await;
    plug(desk, "main", "Plate").await;
    desk.select("Clean plate").await;
    plug(desk, "left_out", "Luma range").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_figure_goes_behind_a_veil_that_is_keyed_played_and_rendered() {
    let source = tempfile::tempdir().unwrap();
    let desk = shot_of(&footage(source.path(), "walk.####.exr", walk), "WALK").await;
    go(&desk, 6).await;
    let figure = mean(&desk.pixels(part(COVERED)).await);
    let wall = mean(&desk.pixels(part([40, 70, 75, 155])).await);
    assert!(figure > wall + 60.0, "{figure} before {wall}");

    clean_plate_without_the_figure(&desk).await;
    let clean = mean(&desk.pixels(part(COVERED)).await);
    assert!((clean - wall).abs() < 12.0, "{clean} for {wall}");

    // The mark is seen in every frame, so it is still there; a stroke brings wall over it.
    let ([x, y], half) = MARK;
    let mark = part([x - half + 1, y - half + 1, x + half - 1, y + half - 1]);
    assert!(redness(&desk.pixels(mark).await) > 150);
    patched(&desk).await;
    let left = redness(&desk.pixels(mark).await);
    assert!(left < 40, "{left}");

    veiled(&desk).await;
    rendered(&desk).await;
}

async fn shot_of(files: &[PathBuf], code: &str) -> Desk {
    let desk = Desk::of(Served::empty(&[]).await).await;
    desk.served.post("/api/shows", &json!({ "name": "Own" })).await;
    drop_files(&desk, files, "each").await;
    desk.until("the shot", &format!("return location.pathname === '/shots/Own/{code}'")).await;
    desk.open(&format!("/shots/Own/{code}")).await;
    desk.settled().await;
    desk
}

/// How much redder than green the reddest pixel is.
fn redness(pixels: &[i64]) -> i64 {
    pixels.chunks(4).map(|pixel| pixel[0] - pixel[1]).max().unwrap()
}

/// A stroke over the mark where it is at the first frame, which brings wall.
async fn patched(desk: &Desk) {
    let ([x, y], _) = MARK;
    desk.add("Patch").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    press_named(desk, "brush").await;
    desk.type_value("width of the brush", "44").await;
    let [left, right] = [f64::from(x - 4), f64::from(x + 4)].map(|x| x / f64::from(SIZE[0]));
    let down = f64::from(y) / f64::from(SIZE[1]);
    let (from, to) = (desk.at(left, down).await, desk.at(right, down).await);
    desk.drag(from, (to.0 - from.0, to.1 - from.1)).await;
    desk.until("the stroke", "return document.querySelectorAll('.shapeline').length === 1").await;
    desk.settled().await;
    for (control, place) in
        [("brings from x", 196), ("brings from y", 40), ("lands at x", x), ("lands at y", y)]
    {
        desk.type_value(control, &place.to_string()).await;
    }
}

/// A mark on a wall that goes by, turns and comes nearer is painted out once: the stroke goes with the wall as it is followed.
#[tokio::test(flavor = "multi_thread")]
async fn a_stroke_stays_on_the_surface_it_was_put_on() {
    let source = tempfile::tempdir().unwrap();
    let desk = shot_of(&footage(source.path(), "going.####.exr", going), "GOING").await;
    go(&desk, 1).await;
    let mark = |frame: i32| {
        let ([x, y], grown) = gone(frame);
        let half = MARK.1 as f32 * grown - 1.0;
        part([x - half, y - half, x + half, y + half].map(|at| at.round() as i32))
    };
    desk.select("Plate").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    press_named(&desk, "follow a region").await;
    let [x0, y0, x1, y1] = part([200, 6, 300, 80]);
    let (from, to) = (desk.at(x0, y0).await, desk.at(x1, y1).await);
    desk.drag(from, (to.0 - from.0, to.1 - from.1)).await;
    let found = |frames: i32| {
        format!(
            "const state = await (await fetch('/api/shots/Own/GOING/state')).json(); return Object.keys(state.setup.tracks?.[0]?.samples ?? {{}}).length === {frames} && state.setup.tracks?.length === 1"
        )
    };
    desk.until("the track", &found(0)).await;
    desk.until("it to be chosen", "return Boolean(document.querySelector('.tracklist .chosen'))").await;
    press_named(&desk, "on »").await;
    desk.until("its frames", &found(COUNT)).await;

    patched(&desk).await;
    assert!(redness(&desk.pixels(mark(1)).await) < 40);
    go(&desk, 9).await;
    assert!(redness(&desk.pixels(mark(9)).await) > 150, "it stays where it was");
    go(&desk, 1).await;
    desk.click(".shapeline").await;
    desk.run("const field = document.querySelector(\"[aria-label^='goes with of']\"); field.value = [...field.options].find(option => option.text === 'region 1').value; field.dispatchEvent(new Event('change'))").await;
    desk.settled().await;
    for frame in [1, 5, 9, COUNT] {
        go(&desk, frame).await;
        let left = redness(&desk.pixels(mark(frame)).await);
        assert!(left < 40, "frame {frame}: {left}");
    }
}

async fn press_named(desk: &Desk, words: &str) {
    let script = format!(
        "[...document.querySelectorAll('#controls button')].find(button => button.textContent === '{words}').click()"
    );
    desk.run(&script).await;
}

/// A clean plate that takes long says how far it is and can be given up; another frame asks for it anew.
#[tokio::test(flavor = "multi_thread")]
async fn a_clean_plate_tells_how_far_it_is_and_is_given_up() {
    const LARGE: i32 = 6;
    let source = tempfile::tempdir().unwrap();
    let size = SIZE.map(|length| length * LARGE as u32);
    let large = |frame: i32, x: i32, y: i32| walk(frame, x / LARGE, y / LARGE);
    let desk = shot_of(&footage_of(size, source.path(), "walk.####.exr", large), "WALK").await;
    go(&desk, 5).await;
    clean_plate_without_the_figure(&desk).await;
    // At once: what tells it is drawn anew each time.
    let stops = "const told = document.getElementById('baking');
         new MutationObserver((_, watch) => {
             if (!/^frames looked at: [1-9][0-9]* of 12 /.test(told.textContent)) return;
             watch.disconnect();
             told.querySelector('button').click();
             document.body.dataset.stopped = 'true';
         }).observe(told, { childList: true })";
    desk.run(stops).await;
    desk.run("const field = document.querySelector(\"[data-field$='-align']\"); field.value = 'flow'; field.dispatchEvent(new Event('change'))").await;
    desk.until("how far it is", "return document.body.dataset.stopped === 'true'").await;
    desk.until("that it is given up", "return document.getElementById('note').textContent.startsWith('given up') && document.getElementById('baking').hidden").await;
    go(&desk, 6).await;
    let (clean, wall) =
        (mean(&desk.pixels(part(COVERED)).await), mean(&desk.pixels(part([40, 70, 75, 155])).await));
    assert!((clean - wall).abs() < 12.0, "{clean} for {wall}");
}

/// The veil over the plate: nothing before its reveal, all after; the wall is seen where the figure is, bent but as bright.
async fn veiled(desk: &Desk) {
    desk.press("#braid", "/").await;
    desk.until("find", "return Boolean(document.querySelector('dialog[open] .found li'))").await;
    desk.press("dialog [aria-label=find]", "veil\u{e007}").await;
    desk.until(
        "the question of its lengths",
        "return document.querySelector('dialog[open]')?.textContent.includes('Scale its lengths') ?? false",
    )
    .await;
    desk.click("dialog footer .is-primary").await;
    desk.settled().await;
    desk.select("veil").await;
    plug(desk, "input2", "Patch").await;
    plug(desk, "input3", "Luma range").await;
    plug(desk, "main", "Plate").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    desk.select("Final").await;
    plug(desk, "main", "veil").await;
    desk.select("veil").await;
    desk.settled().await;
    go(desk, 3).await;
    desk.click("#controls [aria-label^='key reveal']").await;
    desk.settled().await;
    desk.type_value("reveal", "0").await;
    go(desk, 9).await;
    desk.type_value("reveal", "1").await;
    let light = async |frame: i32, place: [i32; 4]| {
        go(desk, frame).await;
        mean(&desk.pixels(part(place)).await)
    };
    let at = |frame: i32| [10 + 22 * (frame - 1) + 6, 70, 10 + 22 * (frame - 1) + 38, 155];
    let wall = light(1, [200, 70, 240, 155]).await;
    let (before, after) = (light(2, at(2)).await, light(11, at(11)).await);
    assert!(before > wall + 60.0, "{before} before {wall}");
    assert!((after - wall).abs() < 25.0, "{after} for {wall}");
    // He is not quite gone: what is bent is not the wall as it was.
    let bent = desk.pixels(part(at(11))).await;
    desk.type_value("how much", "0").await;
    assert!(mean(&desk.pixels(part(at(11))).await) > wall + 60.0);
    desk.type_value("how much", "1").await;
    assert_eq!(desk.pixels(part(at(11))).await, bent);
}

/// It plays on, and a render of it is made of every frame.
async fn rendered(desk: &Desk) {
    go(desk, 1).await;
    desk.press("#braid", " ").await;
    desk.until("it to play", "return Number(document.getElementById('frame').value) > 3").await;
    desk.press("#braid", " ").await;
    desk.settled().await;
    desk.click("#render").await;
    desk.until("the dialog", "return Boolean(document.querySelector('#start-render'))").await;
    desk.click("#start-render").await;
    desk.until("the render", "return document.querySelector('tr[data-id]')?.dataset.state === 'done'").await;
    assert_eq!(desk.text("tr[data-id] .done").await, format!("{COUNT} of {COUNT}"));
    let folder = desk.served.data.path().join("renders/own/WALK/r001-Final");
    let made = std::fs::read_dir(folder).unwrap().filter(|entry| {
        entry.as_ref().is_ok_and(|entry| entry.path().extension().is_some_and(|form| form == "exr"))
    });
    assert_eq!(made.count(), COUNT as usize);
}

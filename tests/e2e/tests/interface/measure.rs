//! How long a person waits. Not a check: `./veil bench` runs it and keeps what it says.

use serde_json::Value;

use crate::support::Desk;

const CHANGES: &str = "
    const done = arguments[0];
    const [well, canvas] = ['well', 'picture'].map(id => document.getElementById(id));
    const settled = () => document.getElementById('saved').textContent === 'saved' && canvas.dataset.shows && canvas.dataset.shows === well.dataset.wanted;
    const taken = [];
    const change = () => {
        if (taken.length === 30) return done(taken);
        const field = document.querySelector(\"#controls input.num[aria-label='strength x']\");
        field.value = String(3 + taken.length / 7);
        const start = performance.now();
        field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }));
        const wait = () => {
            if (!settled()) return requestAnimationFrame(wait);
            taken.push(performance.now() - start);
            setTimeout(change, 400);
        };
        requestAnimationFrame(wait);
    };
    change();";

const DRAG: &str = "
    const done = arguments[0];
    const slider = document.querySelector(\"#controls input[type=range][aria-label='strength x, slider']\");
    const seen = [];
    const watcher = new MutationObserver(() => seen.push(performance.now()));
    watcher.observe(document.getElementById('cost'), { childList: true, characterData: true, subtree: true });
    const start = performance.now();
    const drag = () => {
        if (performance.now() - start > 6000) {
            watcher.disconnect();
            slider.dispatchEvent(new Event('change', { bubbles: true }));
            return done(seen.slice(1).map((at, index) => at - seen[index]));
        }
        slider.value = 10 + 8 * Math.sin((performance.now() - start) / 300);
        slider.dispatchEvent(new Event('input', { bubbles: true }));
        requestAnimationFrame(drag);
    };
    drag();";

/// When the frame changed while held frames played at full size, for about eight seconds.
const PLAY: &str = "
    const done = arguments[0];
    const seen = [];
    let shown = document.getElementById('frame').value;
    const start = performance.now();
    const look = (now) => {
        const here = document.getElementById('frame').value;
        if (here !== shown) {
            shown = here;
            seen.push(now);
        }
        if (performance.now() - start < 8500) requestAnimationFrame(look);
        else done(seen.slice(1).map((at, index) => at - seen[index]));
    };
    requestAnimationFrame(look);";

/// How many of the frames were shown, and how many of them late by more than half of a frame's time.
async fn played(desk: &Desk) -> (usize, usize) {
    desk.press("#well", "1").await;
    desk.settled().await;
    desk.click("#play").await;
    let held = "return document.getElementById('fps').textContent.startsWith('24') || document.getElementById('fps').textContent.startsWith('25')";
    desk.until("held frames", held).await;
    let between = desk.browser.execute_async(PLAY, vec![]).await.unwrap();
    let between: Vec<f64> = between.as_array().unwrap().iter().filter_map(Value::as_f64).collect();
    desk.click("#play").await;
    (between.len(), between.iter().filter(|taken| **taken > 1.5 * 1e3 / 24.0).count())
}

async fn median(desk: &Desk, script: &str) -> (f64, usize) {
    let taken = desk.browser.execute_async(script, vec![]).await.unwrap();
    let mut taken: Vec<f64> = taken.as_array().unwrap().iter().filter_map(Value::as_f64).collect();
    taken.sort_by(f64::total_cmp);
    (taken[taken.len() / 2], taken.len())
}

#[tokio::test(flavor = "multi_thread")]
#[ignore = "a measurement; ./veil bench runs it"]
async fn waiting_for_pictures() {
    let desk = Desk::new().await;
    let patient =
        fantoccini::wd::TimeoutConfiguration::new(Some(std::time::Duration::from_secs(120)), None, None);
    desk.browser.update_timeouts(patient).await.unwrap();
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    desk.settled().await;
    tokio::time::sleep(std::time::Duration::from_secs(3)).await;
    let (change, changes) = median(&desk, CHANGES).await;
    let (between, pictures) = median(&desk, DRAG).await;
    let (shown, late) = played(&desk).await;
    let text = format!(
        "## In the browser\n\nThe demo shot SG010 at 1280x720 in headless Chromium, on the same machine as the server.\n\n\
         | what | median | of |\n|---|---|---|\n\
         | from a control's change to the new full-scale picture | {change:.0} ms | {changes} changes |\n\
         | while dragging | {:.1} pictures a second | {pictures} pictures |\n\n\
         Held frames at 1280x720 and 24 fps: {shown} shown, {late} of them late by more than half of a frame's time.\n",
        1e3 / between
    );
    println!("{text}");
    if let Some(file) = std::env::var_os("BROWSER_BENCH") {
        std::fs::write(file, text).unwrap();
    }
    desk.browser.clone().close().await.unwrap();
}

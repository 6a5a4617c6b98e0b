//! How long a person waits. Not a check: `./veil bench` runs it and keeps what it says.

use std::time::Duration;

use fantoccini::actions::{InputSource, MouseActions, PointerAction};
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

/// How long [`PLAY`] looks.
const PLAYED_SECONDS: f64 = 8.5;

/// When the frame changed while held frames played at full size.
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

/// From a click on a row's switch to the row that shows it, thirty times.
const ROWS: &str = "
    const done = arguments[0];
    const taken = [];
    const change = () => {
        if (taken.length === 30) return done(taken);
        const rows = [...document.querySelectorAll('.row .onoff[role=switch]')];
        const id = rows[3].closest('.row').id;
        const checked = () => document.querySelector(`#${id} .onoff`)?.getAttribute('aria-checked');
        const before = checked();
        const start = performance.now();
        rows[3].click();
        const wait = () => {
            if (checked() === before) return requestAnimationFrame(wait);
            taken.push(performance.now() - start);
            setTimeout(change, 500);
        };
        requestAnimationFrame(wait);
    };
    change();";

/// The longest task of the page while all rows are scrolled through, and how many took longer than 50 ms.
const SCROLL: &str = "
    const done = arguments[0];
    const long = [];
    const watcher = new PerformanceObserver(list => long.push(...list.getEntries().map(entry => entry.duration)));
    watcher.observe({ entryTypes: ['longtask'] });
    const braid = document.getElementById('braid');
    const start = performance.now();
    const step = () => {
        const share = ((performance.now() - start) / 2500) % 2;
        braid.scrollTop = (share < 1 ? share : 2 - share) * (braid.scrollHeight - braid.clientHeight);
        if (performance.now() - start < 10000) return requestAnimationFrame(step);
        watcher.disconnect();
        done([Math.max(0, ...long), long.length]);
    };
    step();";

/// A shot with an outline of a hundred bent points and eight keys as its only addition.
const HUNDRED: &str = "
    const done = arguments[0];
    (async () => {
        const base = '/api/shots/Saltglass/SG020';
        const post = (command, revision) => fetch(`${base}/edit`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ base: revision, command }) }).then(answer => answer.json());
        let state = await (await fetch(`${base}/state`)).json();
        state = await post({ do: 'add', kind: 'outline', after: state.setup.stages[0].id }, state.revision);
        const points = (frame) => Array.from({ length: 100 }, (_, index) => {
            const angle = index / 100 * 2 * Math.PI;
            const [c, s] = [Math.cos(angle), Math.sin(angle)];
            return { at: [480 + 210 * c + 2 * frame, 270 + 150 * s], before: [4 * s, -4 * c], after: [-4 * s, 4 * c] };
        });
        const keys = Array.from({ length: 8 }, (_, index) => ({ frame: 1001 + index * 4, points: points(index) }));
        const shapes = [{ name: 'one', keys, softness: 20 }];
        state = await post({ do: 'set', stage: state.step.row, control: 'shapes', setting: { shapes } }, state.revision);
        done(0);
    })();";

/// Notes for each move of the pointer how long the page works on it until it is painted, and how long that takes with
/// the wait for the screen's next refresh. What is heard last of a move is heard after all that the page does with it.
const WATCH_MOVES: &str = "
    window.moves = [];
    let start = 0;
    window.addEventListener('pointermove', () => { start = performance.now(); }, { capture: true });
    const heardLast = () => {
        const [began, done] = [start, performance.now()];
        requestAnimationFrame(() => {
            const refresh = performance.now();
            const painted = new MessageChannel();
            painted.port1.onmessage = () => {
                const now = performance.now();
                window.moves.push([done - began + now - refresh, now - began]);
            };
            painted.port2.postMessage(0);
        });
    };
    window.addEventListener('pointerdown', () => window.addEventListener('pointermove', heardLast));";

/// Bytes that a page needs besides pictures.
const WEIGHT: &str = "return [...performance.getEntriesByType('navigation'), ...performance.getEntriesByType('resource')]
    .filter(entry => !/\\/(frame|thumb|still|effect|probe|carry|findings|events)\\b/.test(entry.name)).reduce((sum, entry) => sum + entry.encodedBodySize, 0)";

/// Makes the shot's setup longer, to so many rows, with blurs along its strand that are off.
async fn lengthen(desk: &Desk, rows: usize) {
    let script = format!("
        const done = arguments[0];
        (async () => {{
            const base = '/api/shots/Saltglass/SG010';
            const post = (command, revision) => fetch(`${{base}}/edit`, {{ method: 'POST', headers: {{ 'content-type': 'application/json' }}, body: JSON.stringify({{ base: revision, command }}) }}).then(answer => answer.json());
            let state = await (await fetch(`${{base}}/state`)).json();
            const plate = state.setup.stages[0].id;
            while (state.setup.stages.length < {rows}) {{
                const before = new Set(state.setup.stages.map(stage => stage.id));
                const adds = Array.from({{ length: Math.min(100, {rows} - before.size) }}, (_, at) => ({{ do: 'add', kind: at % 5 === 0 ? 'ellipse' : 'blur', after: plate }}));
                state = await post({{ do: 'together', commands: adds }}, state.revision);
                const added = state.setup.stages.filter(stage => !before.has(stage.id));
                const off = added.map(stage => ({{ do: 'switch', stage: stage.id, on: false }}));
                state = await post({{ do: 'together', commands: off }}, state.revision);
            }}
            done(state.setup.stages.length);
        }})();");
    let made = desk.browser.execute_async(&script, vec![]).await.unwrap();
    assert_eq!(made.as_u64(), Some(rows as u64));
}

/// The demo's shots, each played from held frames, as lines of a table.
async fn all_played() -> String {
    let desk = Desk::new().await;
    desk.open("/").await;
    let codes =
        desk.run("return [...document.querySelectorAll('.shot')].map(shot => shot.dataset.code)").await;
    let mut lines = String::new();
    for code in codes.as_array().unwrap().iter().filter_map(Value::as_str) {
        desk.open_shot(code).await;
        let (shown, late) = played(&desk).await;
        lines += &format!("| {code} | {:.1} | {late} of {shown} |\n", shown as f64 / PLAYED_SECONDS);
    }
    lines
}

/// How many of the frames were shown, and how many of them late by more than half of a frame's time.
async fn played(desk: &Desk) -> (usize, usize) {
    desk.press("#well", "1").await;
    desk.settled().await;
    desk.click("#play").await;
    let held = "return document.getElementById('fps').textContent.startsWith('24') || document.getElementById('fps').textContent.startsWith('25')";
    desk.until("held frames", held).await;
    // By then every frame has been seen once.
    tokio::time::sleep(Duration::from_secs(6)).await;
    let between = desk.browser.execute_async(PLAY, vec![]).await.unwrap();
    let between: Vec<f64> = between.as_array().unwrap().iter().filter_map(Value::as_f64).collect();
    desk.click("#play").await;
    (between.len(), between.iter().filter(|taken| **taken > 1.5 * 1e3 / 24.0).count())
}

/// How long the page works on each of a drag's moves of all points of an outline, and how long each takes to be seen; the
/// shortest first.
async fn outline_moves(desk: &Desk) -> [Vec<f64>; 2] {
    desk.browser.execute_async(HUNDRED, vec![]).await.unwrap();
    desk.open_shot("SG020").await;
    desk.select("Outline").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    desk.press("#well", "\u{e009}a\u{e000}").await;
    desk.run(WATCH_MOVES).await;
    let (x, y) = desk.at(690.0 / 960.0, 0.5).await;
    let go = |x: f64, y: f64| PointerAction::MoveTo { duration: Some(Duration::from_millis(25)), x, y };
    let begin = MouseActions::new("mouse".into())
        .then(go(x as f64, y as f64))
        .then(PointerAction::Down { button: 0 });
    let actions = (0..200).fold(begin, |actions, step| {
        let turn = f64::from(step) / 20.0;
        actions.then(go(x as f64 - 90.0 * turn.sin(), y as f64 + 60.0 * (1.0 - turn.cos())))
    });
    desk.browser.perform_actions(actions.then(PointerAction::Up { button: 0 })).await.unwrap();
    desk.browser.release_actions().await.unwrap();
    let moved = desk.run("await new Promise(done => setTimeout(done, 500)); const state = await (await fetch('/api/shots/Saltglass/SG020/state')).json(); return state.setup.stages.find(stage => stage.kind === 'outline').controls.shapes.shapes[0].keys[0].points[0].at[0]").await;
    assert!((moved.as_f64().unwrap() - 690.0).abs() > 1.0, "the outline was not dragged: {moved}");
    let taken = desk.run("return window.moves").await;
    [0, 1].map(|which| {
        let of = |pair: &Value| pair[which].as_f64();
        let mut taken: Vec<f64> = taken.as_array().unwrap().iter().filter_map(of).collect();
        taken.sort_by(f64::total_cmp);
        taken
    })
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
    let patient = fantoccini::wd::TimeoutConfiguration::new(Some(Duration::from_secs(120)), None, None);
    desk.browser.update_timeouts(patient).await.unwrap();
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    desk.settled().await;
    tokio::time::sleep(Duration::from_secs(3)).await;
    let (change, changes) = median(&desk, CHANGES).await;
    let (between, pictures) = median(&desk, DRAG).await;
    let plays = all_played().await;
    desk.open_shot("SG010").await;
    let weight = desk.run(WEIGHT).await.as_f64().unwrap() / 1e3;
    let mut opened = Vec::new();
    for _ in 0..7 {
        desk.open_shot("SG010").await;
        opened.push(
            desk.run("return performance.getEntriesByName('picture')[0].startTime").await.as_f64().unwrap(),
        );
    }
    opened.sort_by(f64::total_cmp);
    let [worked, seen] = outline_moves(&desk).await;
    let share = |of: &[f64], part: f64| of[((of.len() - 1) as f64 * part) as usize];
    desk.open_shot("SG010").await;
    lengthen(&desk, 50).await;
    desk.open_shot("SG010").await;
    tokio::time::sleep(Duration::from_secs(4)).await;
    let (to_rows, edits) = median(&desk, ROWS).await;
    lengthen(&desk, 200).await;
    desk.open_shot("SG010").await;
    tokio::time::sleep(Duration::from_secs(8)).await;
    let long = desk.browser.execute_async(SCROLL, vec![]).await.unwrap();
    lengthen(&desk, 2000).await;
    let mut thousands = Vec::new();
    for _ in 0..5 {
        desk.open("/shots/Saltglass/SG010").await;
        desk.until("the rows", "return performance.getEntriesByName('rows').length === 1").await;
        let there = desk.run("return performance.getEntriesByName('rows')[0].startTime").await;
        thousands.push(there.as_f64().unwrap());
    }
    thousands.sort_by(f64::total_cmp);
    let text = format!(
        "## In the browser\n\nThe demo shot SG010 at 1280x720 in headless Chromium, on the same machine as the server.\n\n\
         | what | median | of |\n|---|---|---|\n\
         | from a control's change to the new full-scale picture | {change:.0} ms | {changes} changes |\n\
         | while dragging | {:.1} pictures a second (to be at least 15) | {pictures} pictures |\n\
         | from an edit to the new rows, at 50 rows | {to_rows:.0} ms (at most 60) | {edits} edits |\n\
         | from opening the page to its picture, warm | {:.0} ms (at most 1500) | 7 |\n\
         | from opening the page of 2,000 rows to its rows | {:.0} ms (at most 1000) | 5 |\n\
         | weight of the page without pictures | {weight:.0} kB (at most 1000) | |\n\
         | redrawing an outline of 100 points for a move | {:.1} ms, 95 % within {:.1} (to be within 16) | {} moves |\n\
         | the same with the wait for the screen's refresh | {:.1} ms, 95 % within {:.1} | |\n\
         | longest task while scrolling 200 rows | {:.0} ms, {} over 50 ms (none) | 10 s |\n\n\
         Played from held frames, 24 of which are to be shown a second:\n\n\
         | shot | frames a second | late by more than half of a frame's time |\n|---|---|---|\n{plays}",
        1e3 / between,
        opened[opened.len() / 2],
        thousands[2],
        share(&worked, 0.5),
        share(&worked, 0.95),
        worked.len(),
        share(&seen, 0.5),
        share(&seen, 0.95),
        long[0].as_f64().unwrap(),
        long[1],
    );
    println!("{text}");
    if let Some(file) = std::env::var_os("BROWSER_BENCH") {
        std::fs::write(file, text).unwrap();
    }
}

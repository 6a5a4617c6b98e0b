//! Rows and feeds, by mouse and by keyboard.

use crate::support::{Desk, difference};

const CONTROL: &str = "\u{e009}";
const SHIFT: &str = "\u{e008}";
const LET_GO: &str = "\u{e000}";
const FINDING: &str = "return document.activeElement.getAttribute('aria-label') === 'find'";
const OVER_KILN: [f64; 4] = [0.52, 0.1, 0.57, 0.4];

async fn rows(desk: &Desk) -> Vec<String> {
    let names = desk
        .run("return [...document.querySelectorAll('.row .name > span')].map(span => span.textContent)")
        .await;
    names.as_array().unwrap().iter().map(|name| name.as_str().unwrap().to_owned()).collect()
}

/// Presses keys in the braid and waits for the row that comes of it.
async fn press_for(desk: &Desk, keys: &str, name: &str) {
    desk.press("#braid", keys).await;
    desk.until(
        name,
        &format!("return [...document.querySelectorAll('.row .name > span')].some(span => span.textContent === '{name}')"),
    )
    .await;
    desk.settled().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn rows_are_copied_followed_cut_and_put_in_by_keyboard_and_one_undo_takes_each_back() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    let (first, kiln) = (rows(&desk).await, desk.pixels(OVER_KILN).await);
    desk.select("Displace").await;
    press_for(&desk, &format!("{CONTROL}d{LET_GO}"), "Displace 2").await;
    assert_eq!(difference(&kiln, &desk.pixels(OVER_KILN).await), 0, "nothing takes a copy yet");

    desk.select("Displace").await;
    press_for(&desk, &format!("{CONTROL}{SHIFT}d{LET_GO}"), "Displace 3").await;
    desk.select("Displace").await;
    desk.type_value("strength x", "17").await;
    desk.select("Displace 3").await;
    assert_eq!(desk.value("strength x").await, "17", "the linked copy follows");
    desk.select("Displace 2").await;
    assert_ne!(desk.value("strength x").await, "17", "the plain one does not");

    // Cut, and put in again below another row.
    desk.press("#braid", &format!("{CONTROL}x{LET_GO}")).await;
    desk.until("it to be gone", "return ![...document.querySelectorAll('.row .name > span')].some(span => span.textContent === 'Displace 2')").await;
    desk.select("Ellipse").await;
    press_for(&desk, &format!("{CONTROL}v{LET_GO}"), "Displace 2").await;
    for _ in 0..5 {
        desk.click("#undo").await;
        desk.settled().await;
    }
    assert_eq!(rows(&desk).await, first);
    assert_eq!(difference(&kiln, &desk.pixels(OVER_KILN).await), 0);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_row_gets_a_note_a_colour_and_another_kind_from_its_menu_and_is_found_by_the_filter() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Ellipse").await;
    desk.press("#braid", &format!("{SHIFT}\u{e03a}{LET_GO}")).await;
    desk.click(".rowmenu .tab-moss").await;
    desk.until("the colour", "return Boolean(document.querySelector('.row .tab.tab-moss'))").await;
    desk.press("#braid", &format!("{SHIFT}\u{e03a}{LET_GO}")).await;
    desk.press(".rowmenu input", "too soft?\u{e007}").await;
    desk.until("the note", "return [...document.querySelectorAll('.row small')].some(small => small.textContent.includes('too soft?'))").await;
    desk.press("#filter", "too soft").await;
    assert_eq!(rows(&desk).await, ["Ellipse"]);
    desk.press("#filter", "\u{e00c}").await;
    desk.select("Displace").await;
    desk.run("const way = document.getElementById('way'); way.value = 'below'; way.dispatchEvent(new Event('change'))").await;
    let below = rows(&desk).await;
    assert_eq!(
        (below.first().map(String::as_str), below.last().map(String::as_str)),
        (Some("Displace"), Some("Final"))
    );
    assert!(!below.contains(&"Noise".to_owned()));
    desk.run(
        "const way = document.getElementById('way'); way.value = ''; way.dispatchEvent(new Event('change'))",
    )
    .await;

    // Back to the row before, and to any row by the gutter beside the rows.
    desk.select("Ellipse").await;
    desk.select("Displace").await;
    desk.press("#braid", "\u{e00a}\u{e012}\u{e000}").await;
    let selected = "return document.querySelector('.row[aria-selected=true] .name > span').textContent";
    assert_eq!(desk.run(selected).await.as_str(), Some("Ellipse"));
    let tick = desk
        .run("const at = document.querySelectorAll('#gutter rect')[4].getBoundingClientRect(); return [Math.round(at.x + 2), Math.round(at.y + 1)]")
        .await;
    desk.drag((tick[0].as_i64().unwrap(), tick[1].as_i64().unwrap()), (0, 0)).await;
    assert_eq!(desk.run(selected).await.as_str(), Some("ID pick"), "the fifth of eight rows");

    // Compact rows are 24 px high and still show long names.
    desk.click("#compact").await;
    let high = desk.run("return document.querySelector('.row').getBoundingClientRect().height").await;
    assert_eq!(high.as_f64(), Some(24.0));
    desk.select("Ellipse").await;
    desk.press("#braid", &format!("{SHIFT}\u{e03a}{LET_GO}")).await;
    desk.run("const kind = document.querySelector('.rowmenu select'); kind.value = 'noise'; kind.dispatchEvent(new Event('change'))").await;
    desk.until("the other kind", "return [...document.querySelectorAll('.row .name > span')].some(span => span.textContent === 'Noise 2')").await;
    desk.settled().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_wave_shows_its_curve_before_it_is_used_and_moves_the_picture_from_frame_to_frame() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    let still = desk.value("strength x").await;
    desk.click("#controls [aria-label='where strength x comes from']").await;
    let pick = "const pick = document.querySelector('.feedpop select'); pick.value = 'wave'; pick.dispatchEvent(new Event('change'))";
    desk.run(pick).await;
    desk.until("the curve", "return document.querySelector('.feedcurve').dataset.values === '100'").await;
    for (field, value) in [("low", "0"), ("high", "40"), ("period", "8")] {
        let css = format!(".feedpop input[aria-label='{field}']");
        desk.run(&format!("document.querySelector(\"{css}\").select()")).await;
        desk.press(&css, value).await;
    }
    // What has no meaning is told, and cannot be used.
    desk.press(".feedpop input[aria-label='period']", "\u{e003}0").await;
    desk.until("the refusal", "return !document.querySelector('.feedpop .fault').hidden").await;
    desk.press(".feedpop input[aria-label='period']", "\u{e003}8").await;
    desk.until("the curve again", "return document.querySelector('.feedpop .fault').hidden && !document.querySelector('.feedpop .is-primary').disabled").await;
    desk.click(".feedpop .is-primary").await;
    desk.until(
        "the word",
        "return [...document.querySelectorAll('.feedword')].some(word => word.textContent === 'wave')",
    )
    .await;
    desk.settled().await;
    desk.until(
        "the value here",
        "return document.querySelector(\"#controls input[aria-label='strength x']\").value === '20'",
    )
    .await;
    let half = desk.pixels(OVER_KILN).await;
    desk.press("#strip", "\u{e014}\u{e014}").await;
    desk.settled().await;
    desk.until(
        "the value two frames on",
        "return document.querySelector(\"#controls input[aria-label='strength x']\").value === '40'",
    )
    .await;
    assert!(difference(&half, &desk.pixels(OVER_KILN).await) > 10);
    desk.click("#undo").await;
    desk.settled().await;
    assert_eq!(desk.value("strength x").await, still);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_formula_is_written_underlined_where_it_goes_wrong_and_seen_once_it_is_right() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    desk.press("body", "/").await;
    desk.until("the find list", FINDING).await;
    desk.press("#dialog input", "formula\u{e007}").await;
    desk.until("the new row", "return [...document.querySelectorAll('.row .name > span')].some(span => span.textContent === 'Formula')").await;
    desk.select("Formula").await;
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
    let field = "textarea[aria-label='value, x or red']";
    desk.run(&format!("document.querySelector(\"{field}\").select()")).await;
    desk.press(field, "px / wide +").await;
    desk.until("the mistake", "return document.querySelector('.wrong u') !== null && document.querySelector('.wrong').textContent.includes('a number')").await;
    let rings = desk.pixels(OVER_KILN).await;
    desk.press(field, "\u{e003}\u{e003}\u{e007}").await;
    desk.settled().await;
    desk.until("it to be kept", &format!("return document.querySelector(\"{field}\").value === 'px / wide ' || document.querySelector(\"{field}\").value === 'px / wide'")).await;
    desk.seen_to_change(OVER_KILN, &rings).await;
    // One row of the screen.
    let ramp = desk.pixels([0.0, 0.5, 1.0, 0.503]).await;
    let red: Vec<i64> = ramp.chunks(4).map(|pixel| pixel[0]).collect();
    assert!(red.windows(2).all(|pair| pair[0] <= pair[1] + 1), "it rises from left to right");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_version_is_kept_compared_with_now_and_gone_on_from_and_undo_takes_that_back() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    let kiln = desk.pixels(OVER_KILN).await;
    desk.click("#keep").await;
    desk.press("#dialog input", "before the storm\u{e007}").await;
    desk.until("the version", "return document.getElementById('version').textContent.includes('v001')").await;
    desk.select("Displace").await;
    desk.type_value("strength x", "20").await;
    let bent = desk.pixels(OVER_KILN).await;
    desk.click("#keep").await;
    desk.until(
        "the list",
        "return document.querySelector('.versions')?.textContent.includes('before the storm')",
    )
    .await;
    let choose = "const pick = document.querySelector('.versions select'); pick.value = 'now'; pick.dispatchEvent(new Event('change'))";
    desk.run(choose).await;
    desk.until(
        "what differs",
        "return document.querySelector('.told')?.textContent.includes('strength x: 2, then 20')",
    )
    .await;
    desk.until("both pictures", "return [...document.querySelectorAll('.told img')].filter(image => image.complete && image.naturalWidth > 0).length === 2").await;
    desk.click(".versions button").await;
    desk.until(
        "the first value",
        "return document.querySelector(\"#controls input[aria-label='strength x']\")?.value === '2'",
    )
    .await;
    desk.settled().await;
    assert_eq!(difference(&kiln, &desk.pixels(OVER_KILN).await), 0);
    desk.click("#undo").await;
    desk.until(
        "the value of now",
        "return [...document.querySelectorAll('.row')].some(row => row.textContent.includes('strength x 20'))",
    )
    .await;
    desk.settled().await;
    assert_eq!(difference(&bent, &desk.pixels(OVER_KILN).await), 0);
}

/// Presses keys one after the other, wherever the focus is; what is drawn anew in between has the focus again.
async fn type_keys(desk: &Desk, keys: &str) {
    for _ in 0..20 {
        match desk.browser.active_element().await.unwrap().send_keys(keys).await {
            Ok(()) => return,
            Err(error) => assert!(error.to_string().contains("stale element"), "{error}"),
        }
    }
    panic!("the focus is lost again and again");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_row_is_dragged_into_a_slot_that_opens_by_name_and_strands_and_groups_fold() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    let (pick, displace) = (desk.row("ID pick").await, desk.row("Displace").await);
    let middle = |css: String| {
        format!(
            "const b = document.querySelector('{css}').getBoundingClientRect(); return [Math.round(b.x + b.width / 2), Math.round(b.y + b.height / 2)]"
        )
    };
    let at = async |css: String| {
        let found = desk.run(&middle(css)).await;
        (found[0].as_i64().unwrap(), found[1].as_i64().unwrap())
    };
    let from = at(format!("#row-{pick} .name")).await;
    // Slots open where the pointer is over their row's height; the last of Displace is its matte.
    desk.hold(from, (20, 12)).await;
    let slot = at(format!("#row-{displace} .dropslot[data-slot=matte]")).await;
    desk.release_at(slot).await;
    desk.settled().await;
    assert_eq!(desk.run("return document.querySelector('#bench-name').textContent").await.as_str(), Some(""));
    desk.select("Displace").await;
    let taken = "const s = document.querySelector('[aria-label=\"matte of Displace\"]'); return s.options[s.selectedIndex].text";
    assert_eq!(desk.run(taken).await.as_str(), Some("ID pick"));

    desk.select("Strength").await;
    desk.press("#braid", "\u{e012}").await;
    desk.until("the strand to fold", "return document.querySelectorAll('.row').length === 6").await;
    assert!(!rows(&desk).await.contains(&"Noise".to_owned()));
    desk.press("#braid", "\u{e014}").await;
    desk.until("the strand to open", "return document.querySelectorAll('.row').length === 8").await;

    desk.select("Steepness map").await;
    desk.press("#braid", &format!("{SHIFT}\u{e015}{LET_GO}")).await;
    desk.press("#braid", &format!("{CONTROL}g{LET_GO}")).await;
    desk.until("the group", "return [...document.querySelectorAll('.row small')].filter(small => small.textContent.includes('in group')).length === 2").await;
    desk.press("#braid", "\u{e012}").await;
    desk.until("the group to fold", "return [...document.querySelectorAll('.row .name > span')].some(span => span.textContent === 'group')").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_matte_that_five_rows_take_is_split_off_for_one_of_them() {
    let desk = Desk::new().await;
    desk.open_shot("SG010").await;
    desk.select("Displace").await;
    for number in 0..4 {
        desk.press("#braid", "/").await;
        desk.until("the find list", FINDING).await;
        desk.press("#dialog input", "blur\u{e007}").await;
        let name = if number == 0 { "Blur".to_owned() } else { format!("Blur {}", number + 1) };
        desk.until(
            "the blur",
            &format!("return document.getElementById('bench-name').textContent === '{name}'"),
        )
        .await;
        let ellipse = desk.row("Ellipse").await;
        desk.click("[aria-label='pick a row for matte by clicking it']").await;
        desk.click(&format!("#row-{ellipse} .name")).await;
        desk.settled().await;
    }
    let taps = "return [...document.querySelectorAll('.row small')].some(small => small.textContent.includes('5 taps'))";
    desk.until("five taps", taps).await;
    assert_eq!(desk.text(".shared").await.split(" take this").next(), Some("5"));
    desk.click("[aria-label='split off matte for Blur 4 only']").await;
    desk.until("a copy", "return [...document.querySelectorAll('.row .name > span')].some(span => span.textContent === 'Ellipse 2')").await;
    let four = "return [...document.querySelectorAll('.row small')].some(small => small.textContent.includes('4 taps'))";
    desk.until("four taps", four).await;

    // What is changed on the copy is seen below Blur 4 only.
    desk.select("Ellipse 2").await;
    desk.type_value("radii x", "10").await;
    desk.select("Ellipse").await;
    assert_eq!(desk.value("radii x").await, "200 px");
}

/// From an empty setup to a rendered frame without the mouse.
#[tokio::test(flavor = "multi_thread")]
async fn a_whole_job_is_done_by_keyboard_alone() {
    let desk = Desk::new().await;
    let made = "return fetch('/api/shows/Saltglass/shots', { method: 'POST', headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ code: 'KB010', title: 'by hand', picture: { width: 320, height: 180, fps: 24, frames: { first: 1001, last: 1003 } } }) }).then(answer => answer.status)";
    desk.open("/").await;
    assert_eq!(desk.run(made).await.as_i64(), Some(200));
    desk.open_shot("KB010").await;
    let add = async |kind: &str, name: &str| {
        type_keys(&desk, "/").await;
        desk.until("the find list", FINDING).await;
        type_keys(&desk, &format!("{kind}\u{e007}")).await;
        desk.until(name, &format!("return document.getElementById('bench-name').textContent === '{name}'"))
            .await;
    };
    desk.run("document.getElementById('braid').focus()").await;
    add("formula", "Formula").await;
    // F6 goes on to the viewer, the strip and the bench; a choice there by its first letters.
    let field = async |label: &str, keys: &str| {
        desk.until(
            label,
            &format!("return Boolean(document.querySelector('#controls [aria-label=\"{label}\"]'))"),
        )
        .await;
        for _ in 0..40 {
            let here = desk.run("return document.activeElement.getAttribute('aria-label')").await;
            if here.as_str() == Some(label) {
                break;
            }
            type_keys(&desk, "\u{e004}").await;
        }
        type_keys(&desk, keys).await;
        desk.settled().await;
    };
    for _ in 0..3 {
        type_keys(&desk, "\u{e00c}").await;
        type_keys(&desk, "\u{e036}").await;
    }
    field("gives", "\u{e015}\u{e015}").await;
    field("value, x or red", &format!("{CONTROL}a{LET_GO}px / wide\u{e007}")).await;
    // Back to the braid, down to the final row, which takes it.
    let to_braid = async || {
        for _ in 0..5 {
            if desk.run("return document.activeElement.id").await.as_str() == Some("braid") {
                break;
            }
            type_keys(&desk, "\u{e036}").await;
        }
    };
    to_braid().await;
    type_keys(&desk, "\u{e010}").await;
    desk.until("the final row", "return document.getElementById('bench-name').textContent === 'Final'").await;
    for _ in 0..3 {
        type_keys(&desk, "\u{e036}").await;
    }
    field("main of Final", "Fo").await;
    to_braid().await;
    type_keys(&desk, "\u{e007}").await;
    desk.settled().await;
    let line = desk.pixels([0.02, 0.5, 0.98, 0.503]).await;
    let reds: Vec<i64> = line.chunks(4).map(|pixel| pixel[0]).collect();
    // IEC 61966-2-1: a linear 0.5 is byte 188.
    let middle = reds[reds.len() / 2];
    assert!(
        reds[5] < 60 && (180..196).contains(&middle) && reds[reds.len() - 1] > 245,
        "{middle} of {}",
        reds.len()
    );

    type_keys(&desk, &format!("{CONTROL}k{LET_GO}")).await;
    desk.until("the find list", FINDING).await;
    type_keys(&desk, "render\u{e007}").await;
    desk.until("the dialog", "return document.activeElement.getAttribute('aria-label') === 'frames'").await;
    type_keys(&desk, &format!("{CONTROL}a{LET_GO}1002-1002")).await;
    for _ in 0..8 {
        if desk.run("return document.activeElement.id").await.as_str() == Some("start-render") {
            break;
        }
        type_keys(&desk, "\u{e004}").await;
    }
    assert_eq!(desk.run("return document.activeElement.id").await.as_str(), Some("start-render"));
    type_keys(&desk, "\u{e007}").await;
    desk.until("the render", "return document.querySelector('tr[data-id]')?.dataset.state === 'done'").await;
}

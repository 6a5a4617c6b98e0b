//! Effects built, taken apart and timed on the demo's shots.

use serde_json::json;

use crate::support::{Desk, difference};

const WHOLE: [f64; 4] = [0.0, 0.0, 1.0, 1.0];

/// Takes an entry of a list on the bench by its words.
async fn choose(desk: &Desk, label: &str, words: &str) {
    let script = format!(
        "const list = document.querySelector('#controls select[aria-label={}]');
         list.value = [...list.options].find(option => option.text === {}).value; list.dispatchEvent(new Event('change'))",
        json!(label),
        json!(words)
    );
    desk.run(&script).await;
    desk.settled().await;
}

async fn go(desk: &Desk, frame: u32) {
    desk.run(&format!("const f = document.getElementById('frame'); f.value = '{frame}'; f.dispatchEvent(new Event('change'))")).await;
    desk.settled().await;
}

/// Shows the selected row.
async fn show(desk: &Desk) {
    desk.press("#braid", "\u{e007}").await;
    desk.settled().await;
}

/// How many pieces of light a box of the picture holds, and the share of its columns that hold any.
async fn pieces(desk: &Desk, place: [f64; 4]) -> (usize, f64) {
    let script = "const well = document.getElementById('well'), [w, h] = document.getElementById('size').textContent.split('x').map(Number);
         return Math.round(Math.max(0.02, Math.min((well.clientWidth - 28) / w, (well.clientHeight - 28) / h)) * w * 1e3)";
    let wide = desk.run(script).await.as_i64().unwrap() as f64 / 1e3;
    let columns = (wide * (place[2] - place[0])).round() as usize;
    let bytes = desk.pixels(place).await;
    let mut lit: Vec<bool> = bytes.chunks(4).map(|pixel| pixel[1] > 60).collect();
    let held =
        (0..columns).filter(|column| lit.iter().skip(*column).step_by(columns).any(|lit| *lit)).count();
    let mut found = 0;
    while let Some(first) = lit.iter().position(|lit| *lit) {
        found += 1;
        let mut next = vec![first];
        while let Some(at) = next.pop() {
            if !std::mem::take(&mut lit[at]) {
                continue;
            }
            let (x, y) = ((at % columns) as i64, (at / columns) as i64);
            for (dx, dy) in [(-1, -1), (0, -1), (1, -1), (-1, 0), (1, 0), (-1, 1), (0, 1), (1, 1)] {
                let (x, y) = (x + dx, y + dy);
                let inside = (0..columns as i64).contains(&x) && y >= 0 && y < (lit.len() / columns) as i64;
                if inside && lit[(y * columns as i64 + x) as usize] {
                    next.push((y * columns as i64 + x) as usize);
                }
            }
        }
    }
    (found, held as f64 / columns as f64)
}

/// Common practice: a bar that noise moves up and down breaks into islands, unless one row of the noise is stretched over
/// the frame; then it reads as lightning.
#[tokio::test(flavor = "multi_thread")]
async fn lightning_is_built_of_a_bar_and_holds_together_once_a_line_is_stretched() {
    let desk = Desk::new().await;
    desk.open_shot("SG050").await;
    desk.select("Plate").await;
    desk.add("Box").await;
    for (label, value) in
        [("half size x", "380"), ("half size y", "7"), ("centre y", "250"), ("softness", "2")]
    {
        desk.type_value(label, value).await;
    }
    desk.add("Fill").await;
    choose(&desk, "covers of Fill", "Box").await;
    for (label, value) in [("colour red", "3"), ("colour green", "3.6"), ("colour blue", "4.4")] {
        desk.type_value(label, value).await;
    }
    desk.add("Noise").await;
    for (label, value) in [("size x", "110"), ("size y", "30"), ("octaves", "3"), ("churn", "0.3")] {
        desk.type_value(label, value).await;
    }
    desk.add("Push map").await;
    desk.type_value("strength", "260").await;
    choose(&desk, "no move at", "a half").await;
    desk.add("Displace").await;
    choose(&desk, "main of Displace", "Fill").await;
    choose(&desk, "map of Displace", "Push map").await;
    choose(&desk, "outside", "clear").await;
    show(&desk).await;
    let along = [0.15, 0.0, 0.85, 1.0];
    let (islands, _) = pieces(&desk, along).await;
    assert!(islands > 3, "{islands} islands");

    desk.select("Noise").await;
    desk.add("Line stretch").await;
    desk.select("Push map").await;
    choose(&desk, "main of Push map", "Line stretch").await;
    desk.select("Displace").await;
    desk.settled().await;
    let (bolt, held) = pieces(&desk, along).await;
    assert!(bolt == 1 && held == 1.0, "a bolt is in one piece, from side to side: {bolt} {held}");

    desk.add("Glow").await;
    desk.type_value("threshold", "0").await;
    desk.type_value("size", "12").await;
    desk.add("Blend").await;
    choose(&desk, "main of Blend", "Plate").await;
    choose(&desk, "layer of Blend", "Glow").await;
    choose(&desk, "mode", "plus").await;
    show(&desk).await;
    let over = desk.pixels(WHOLE).await;
    desk.select("Plate").await;
    show(&desk).await;
    let plate = desk.pixels(WHOLE).await;
    assert!(difference(&plate, &over) > 100);
    // Added light darkens nothing, but for what cubic sampling rings by.
    assert!(plate.iter().zip(&over).all(|(plate, over)| over - plate > -12));
}

#[tokio::test(flavor = "multi_thread")]
async fn under_the_crackle_the_crest_gives_way_to_text() {
    const CREST: [f64; 4] = [0.35, 0.1, 0.65, 0.6];
    const NAME: [f64; 4] = [0.3, 0.74, 0.7, 0.94];
    let desk = Desk::new().await;
    desk.open_shot("SG140").await;
    let lit = |pixels: Vec<i64>| pixels.chunks(4).filter(|pixel| pixel[2] > 120).count();
    let (crest, name) = (lit(desk.pixels(CREST).await), lit(desk.pixels(NAME).await));
    assert!(crest > 200 && name > 200, "{crest} {name}");
    desk.select("crackle along edges").await;
    choose(&desk, "figure of crackle along edges", "name").await;
    assert_eq!(lit(desk.pixels(CREST).await), 0, "nothing crackles where the crest is");
    let kept = lit(desk.pixels(NAME).await);
    assert!(kept.abs_diff(name) < name / 5, "{kept} for {name}");

    desk.select("name").await;
    desk.press("#controls textarea", "\u{e009}a\u{e000}Brine\u{e004}").await;
    desk.settled().await;
    let shorter = lit(desk.pixels(NAME).await);
    assert!(shorter > 100 && shorter < kept * 4 / 5, "{shorter} for {kept}");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_ring_grows_by_its_keys() {
    const NEAR: [f64; 4] = [0.4, 0.35, 0.6, 0.65];
    const FAR: [f64; 4] = [0.18, 0.3, 0.3, 0.7];
    let desk = Desk::new().await;
    desk.open_shot("SG050").await;
    desk.select("Plate").await;
    desk.add("Ring wave").await;
    let ring = desk.row("Ring wave").await;
    desk.type_value("count", "1").await;
    desk.type_value("radius", "60").await;
    desk.click(&format!("[data-key='{ring}-radius']")).await;
    desk.settled().await;
    go(&desk, 1004).await;
    desk.type_value("radius", "250").await;
    desk.add("Push map").await;
    choose(&desk, "way", "away from a point").await;
    desk.type_value("strength", "30").await;
    desk.select("Plate").await;
    desk.add("Displace").await;
    choose(&desk, "map of Displace", "Push map").await;
    show(&desk).await;
    let row = desk.row("Displace").await;
    let mut bent = Vec::new();
    for frame in [1001, 1004] {
        go(&desk, frame).await;
        let with = [desk.pixels(NEAR).await, desk.pixels(FAR).await];
        desk.click(&format!("#row-{row} .onoff")).await;
        desk.settled().await;
        let without = [desk.pixels(NEAR).await, desk.pixels(FAR).await];
        desk.click(&format!("#row-{row} .onoff")).await;
        desk.settled().await;
        bent.push([0, 1].map(|place| difference(&with[place], &without[place])));
    }
    assert!(bent[0][0] > 20 && bent[0][1] <= 2, "near the centre at first: {bent:?}");
    assert!(bent[1][0] <= 2 && bent[1][1] > 20, "far out at last: {bent:?}");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_shipped_tool_is_opened_and_changed_inside() {
    let desk = Desk::new().await;
    desk.open("/").await;
    desk.until(
        "the tool on the rack",
        "return fetch('/api/tools').then(tools => tools.text()).then(tools => tools.includes('porthole'))",
    )
    .await;
    desk.open_shot("SG100").await;
    let before = desk.pixels(WHOLE).await;
    desk.select("porthole").await;
    desk.until(
        "the tool's number",
        "return document.getElementById('controls').textContent.includes('porthole 1')",
    )
    .await;
    desk.press("#braid", "\u{e014}").await;
    desk.until("its rows", "return [...document.querySelectorAll('.row .name span')].some(name => name.textContent === 'thick glass')").await;
    desk.select("thick glass").await;
    desk.type_value("strength", "0").await;
    let changed = desk.pixels(WHOLE).await;
    assert!(difference(&before, &changed) > 40);
    // Strength is on the faceplate, whose values leave it the tool of the rack; the rim's softness is inside.
    desk.select("within the rim").await;
    desk.type_value("softness", "30").await;
    desk.select("porthole").await;
    desk.until(
        "a copy of its own",
        "return document.getElementById('controls').textContent.includes('own copy of porthole 1')",
    )
    .await;
    for _ in 0..2 {
        desk.click("#undo").await;
        desk.settled().await;
    }
    desk.until(
        "the rack's again",
        "return !document.getElementById('controls').textContent.includes('own copy')",
    )
    .await;
    desk.settled().await;
    assert_eq!(difference(&before, &desk.pixels(WHOLE).await), 0);
}

#[tokio::test(flavor = "multi_thread")]
async fn the_keys_of_a_burst_are_stretched_together() {
    let desk = Desk::new().await;
    desk.open_shot("SG110").await;
    go(&desk, 1016).await;
    // What burns is red and yellow, what flashes is white.
    let burns = |pixels: Vec<i64>| pixels.chunks(4).filter(|p| p[0] > 150 && p[2] * 2 < p[0]).count();
    let quick = burns(desk.pixels(WHOLE).await);
    desk.select("burst").await;
    desk.type_value("lasts", "590").await;
    desk.until(
        "the new pace",
        "return document.querySelector('#controls input[aria-label=lasts]')?.value === '590 fr'",
    )
    .await;
    desk.settled().await;
    let slow = burns(desk.pixels(WHOLE).await);
    assert!(slow * 3 < quick, "{slow} of {quick}");
    let keys = desk
        .run(
            "return fetch('/api/shots/Saltglass/SG110/state').then(answer => answer.json()).then(state => {
                 const of = (row, control) => { const setting = state.setup.stages.find(stage => stage.name === row).controls[control]; return (setting.axes?.[0] ?? setting).keys.map(key => key.frame); };
                 return [of('ball', 'radius'), of('billows', 'size'), of('how far it rolls', 'x'), of('smoke', 'amount')]; })",
        )
        .await;
    assert_eq!(keys, json!([[1001, 1331], [1001, 1391], [1001, 1391], [1351, 1591]]));
    desk.until(
        "the rack's number",
        "return document.getElementById('controls').textContent.includes('burst 1')",
    )
    .await;
    let said = desk.text("#controls").await;
    assert!(!said.contains("own copy"), "{said}");
}

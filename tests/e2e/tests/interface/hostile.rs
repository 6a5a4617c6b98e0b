//! What comes in badly: from other sites, from broken files, from names that climb, and in the wrong order.

use std::path::Path;

use serde_json::json;

use crate::support::{Desk, Served, json_in, program};

/// As a page sends a dropped file.
async fn drop_file(served: &Served, name: &str, bytes: &[u8]) -> (u16, String) {
    let path = name.replace('/', "%2F");
    let first =
        format!("PUT /api/shows/Saltglass/import?path={path}&size={}&modified=1000&at=0", bytes.len());
    served.ask(&first, &[("host", served.host.as_str())], bytes).await
}

fn files_below(folder: &Path) -> Vec<String> {
    let Ok(entries) = std::fs::read_dir(folder) else { return Vec::new() };
    entries
        .map(|entry| entry.unwrap().path())
        .flat_map(|path| if path.is_dir() { files_below(&path) } else { vec![path.display().to_string()] })
        .collect()
}

#[tokio::test(flavor = "multi_thread")]
async fn pages_of_other_sites_are_not_answered() {
    let served = Served::with(&["--host", "veil.studio"]).await;
    let own = served.host.clone();
    let other = format!("http://{}", "other.example");
    let cases: [(&[(&str, &str)], u16); 6] = [
        (&[("host", &own)], 200),
        (&[("host", "veil.studio")], 200),
        (&[("host", "other.example")], 403),
        (&[], 400),
        (&[("host", &own), ("origin", &other)], 403),
        (&[("host", &own), ("origin", "null")], 403),
    ];
    for (headers, wanted) in cases {
        let (status, _) = served.ask("GET /", headers, b"").await;
        assert!(status == wanted || (wanted == 400 && status == 403), "{headers:?}: {status}");
    }
    let (status, _) = served.ask("GET /assets/../../Cargo.toml", &[("host", &own)], b"").await;
    assert_eq!(status, 404);
}

#[tokio::test(flavor = "multi_thread")]
async fn broken_large_and_climbing_files_are_refused_by_name_and_leave_nothing() {
    let served = Served::with(&["--largest-file", "1"]).await;
    // The demo's own plates may still be drawn meanwhile.
    let besides_plates = |folder: &std::path::Path| -> Vec<String> {
        files_below(folder).into_iter().filter(|path| !path.contains("/plates/")).collect()
    };
    let before = besides_plates(served.data.path()).len();
    let plates = files_below(&served.media());
    let exr = std::fs::read(plates.iter().find(|path| path.ends_with(".exr")).unwrap()).unwrap();
    let bomb = {
        // A header that promises four thousand million pixels.
        let mut png = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR".to_vec();
        png.extend_from_slice(&[0, 0, 0xff, 0xff, 0, 0, 0xff, 0xff, 16, 6, 0, 0, 0, 1, 2, 3, 4]);
        png
    };
    let cases: [(&str, &[u8]); 7] = [
        ("cut.1001.exr", &exr[..exr.len().min(900_000) / 2]),
        ("words.exr", b"these are words"),
        ("bomb.png", &bomb),
        ("../../climbs.exr", &exr[..1000]),
        ("/etc/absolute.png", &bomb),
        ("run.sh", b"#!/bin/sh"),
        ("large.exr", &vec![0; 3 << 20]),
    ];
    for (name, bytes) in cases {
        let (status, text) = drop_file(&served, name, bytes).await;
        assert!((400..500).contains(&status), "{name}: {status} {text}");
        assert!(text.contains(name), "{name}: {text}");
        let (status, _) = served.ask("GET /", &[("host", &served.host)], b"").await;
        assert_eq!(status, 200, "the server is there after {name}");
    }
    let after = besides_plates(served.data.path());
    let media = besides_plates(&served.media());
    assert!(media.is_empty(), "{media:?}");
    assert!(after.len() <= before + 2, "only the store's own files may come and go: {after:?}");
}

#[tokio::test(flavor = "multi_thread")]
async fn edits_that_make_no_sense_change_nothing_and_say_why() {
    let served = Served::with(&[]).await;
    let state = "/api/shots/Saltglass/SG010/state";
    let revision = async || {
        let (_, text) = served.ask(&format!("GET {state}"), &[("host", &served.host)], b"").await;
        json_in(&text)["revision"].as_i64().unwrap()
    };
    let first = revision().await;
    let (noise, steepness, displace) = (3, 4, 8);
    let cases = [
        (json!({ "do": "link", "stage": noise, "slot": "matte", "from": { "stage": displace } }), "loop"),
        (json!({ "do": "add", "kind": "nonsense" }), "nonsense"),
        (
            json!({ "do": "put", "stage": displace, "control": "strength_x", "values": ["lots"], "frame": 1001 }),
            "lots",
        ),
        (json!({ "do": "set", "stage": displace, "control": "strength_z", "setting": 1 }), "strength_z"),
        (json!({ "do": "remove", "stage": 99 }), "99"),
        (
            json!({ "do": "link", "stage": steepness, "slot": "nowhere", "from": { "stage": noise } }),
            "nowhere",
        ),
    ];
    for (command, says) in cases {
        let (status, text) = served
            .post("/api/shots/Saltglass/SG010/edit", &json!({ "base": first, "command": command }))
            .await;
        assert!((400..500).contains(&status), "{command}: {status}");
        assert!(text.contains(says), "{command}: {text}");
    }
    assert_eq!(revision().await, first);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_picture_dropped_on_the_plates_page_is_listed_and_a_broken_one_is_named() {
    let desk = Desk::new().await;
    desk.open("/plates").await;
    let drop = |name: &str, bytes: &str| {
        format!(
            "const drop = (blob) => {{
               const data = new DataTransfer();
               data.items.add(new File([blob], '{name}'));
               document.querySelector('.drop').dispatchEvent(new DragEvent('drop', {{ bubbles: true, cancelable: true, dataTransfer: data }}));
             }};
             {bytes}"
        )
    };
    desk.run(&drop("broken.png", "drop(new Blob(['no picture']))")).await;
    desk.until(
        "a message",
        "return document.querySelector('.faults')?.textContent.includes('broken.png') ?? false",
    )
    .await;
    let drawn = "const canvas = document.createElement('canvas'); canvas.width = 40; canvas.height = 20; canvas.toBlob(drop)";
    desk.run(&drop("yard.png", drawn)).await;
    let listed =
        "return [...document.querySelectorAll('td')].some(cell => cell.textContent === 'dropped/yard.png')";
    desk.until("the plate in the list", listed).await;
}

#[tokio::test]
async fn a_clip_where_the_program_that_reads_clips_is_missing_is_told_with_what_to_install() {
    let folder = tempfile::tempdir().unwrap();
    let clip = folder.path().join("walk.mp4");
    std::fs::write(&clip, "a clip, they say").unwrap();
    let mut inspect = tokio::process::Command::new(program());
    let said = inspect.arg("inspect").arg(&clip).env("PATH", "").output().await.unwrap();
    let text = String::from_utf8_lossy(&said.stderr);
    assert!(
        !said.status.success() && text.contains("walk.mp4") && text.contains("apt-get install ffmpeg"),
        "{text}"
    );
}

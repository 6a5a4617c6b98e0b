//! The program ended at any moment, again and again, while it edits, takes files in and renders.

use std::collections::BTreeMap;
use std::path::Path;
use std::time::Duration;

use serde_json::{Value, json};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;

use crate::support::{Served, json_in};

const KILLS: u64 = 50;
const FRAMES: usize = 6000;

/// A request to a program that may end meanwhile; its answer, where all of it came.
async fn asked(host: &str, first: &str, kind: &str, body: &[u8]) -> Option<Value> {
    let mut stream = TcpStream::connect(host).await.ok()?;
    let length = body.len();
    let head = format!(
        "{first} HTTP/1.1\r\nhost: {host}\r\nconnection: close\r\ncontent-type: {kind}\r\ncontent-length: {length}\r\n\r\n"
    );
    stream.write_all(head.as_bytes()).await.ok()?;
    stream.write_all(body).await.ok()?;
    let mut answer = Vec::new();
    stream.read_to_end(&mut answer).await.ok()?;
    let text = String::from_utf8(answer).ok().filter(|text| text.contains(" 200 OK"))?;
    text.ends_with(['}', ']']).then(|| json_in(&text))
}

/// Sets one number to the next whole number, as often as it can; the last that was acknowledged.
async fn edits(host: String, mut next: i64) -> i64 {
    loop {
        let Some(state) = asked(&host, "GET /api/shots/Own/WALL/state", "", b"").await else {
            return next - 1;
        };
        let set = json!({ "do": "set", "stage": 2, "control": "exposure", "setting": next as f64 / 1000.0 });
        let edit = json!({ "base": state["revision"], "command": set }).to_string();
        if asked(&host, "POST /api/shots/Own/WALL/edit", "application/json", edit.as_bytes()).await.is_none()
        {
            return next - 1;
        }
        next += 1;
    }
}

/// Sends one picture after the other; those that were acknowledged.
async fn uploads(host: String, png: Vec<u8>, from: usize) -> Vec<String> {
    let mut whole = Vec::new();
    for number in from.. {
        let name = format!("p{number}x.png");
        let put = format!("PUT /api/shows/Own/import?path={name}&size={}&modified=1000&at=0", png.len());
        if asked(&host, &put, "image/png", &png).await.is_none() {
            break;
        }
        whole.push(name);
    }
    whole
}

fn unfinished(folder: &Path) -> Vec<String> {
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
    entries
        .flat_map(|entry| {
            let name = entry.file_name().to_string_lossy().into_owned();
            let below = if entry.path().is_dir() { unfinished(&entry.path()) } else { Vec::new() };
            let own = [".writing-", ".making-"].iter().any(|start| name.starts_with(start)).then_some(name);
            own.into_iter().chain(below)
        })
        .collect()
}

/// Processes besides the server itself that were started with something of a folder.
fn left_running(folder: &Path) -> Vec<String> {
    let wanted = folder.display().to_string();
    let lines = std::fs::read_dir("/proc").into_iter().flatten().flatten();
    let commands = lines.filter_map(|entry| std::fs::read(entry.path().join("cmdline")).ok());
    let texts = commands.map(|bytes| String::from_utf8_lossy(&bytes).replace('\0', " "));
    texts.filter(|text| text.contains(&wanted) && !text.contains(" serve ")).collect()
}

/// How often each frame was made.
fn made(folder: &Path) -> BTreeMap<i32, usize> {
    let list = std::fs::read_to_string(folder.join(".made")).unwrap_or_default();
    let mut counted = BTreeMap::new();
    let frames = list.lines().filter_map(|line| line.split(' ').next()?.parse().ok());
    frames.for_each(|frame: i32| *counted.entry(frame).or_insert(0) += 1);
    counted
}

#[tokio::test(flavor = "multi_thread")]
async fn fifty_kills_lose_nothing_that_was_acknowledged_and_leave_nothing_behind() {
    let mut served = Served::empty(&[]).await;
    let range = json!({ "first": 1, "last": FRAMES });
    let picture = json!({ "width": 160, "height": 90, "fps": 24, "frames": range });
    let add = json!({ "do": "add", "kind": "grade", "after": null, "into": [1, "main"] });
    for (path, body) in [
        ("/api/shows", json!({ "name": "Own" })),
        ("/api/shows/Own/shots", json!({ "code": "WALL", "picture": picture })),
        ("/api/shots/Own/WALL/edit", json!({ "base": 1, "command": add })),
        ("/api/shots/Own/WALL/render", json!({ "frames": format!("1-{FRAMES}"), "form": "png" })),
    ] {
        let (status, text) = served.post(path, &body).await;
        assert_eq!(status, 200, "{text}");
    }
    let png = veil_media::encode_png(&[90; 64 * 36 * 4], 64, 36).unwrap();
    let (mut value, mut sent, mut whole) = (0, 0, Vec::new());
    // Marsaglia's xorshift, so that a failure comes again.
    let mut chance = 0x9e37_79b9_u64;
    for _ in 0..KILLS {
        let editing = tokio::spawn(edits(served.host.clone(), value + 1));
        let sending = tokio::spawn(uploads(served.host.clone(), png.clone(), sent));
        chance ^= chance << 13;
        chance ^= chance >> 7;
        chance ^= chance << 17;
        tokio::time::sleep(Duration::from_millis(40 + chance % 400)).await;
        served.cut_off().await;
        value = editing.await.unwrap();
        let acknowledged = sending.await.unwrap();
        // The one that was under way may or may not be there.
        sent += acknowledged.len() + 1;
        whole.extend(acknowledged);
        served.started_where_it_was().await;
        let now = served.get("/api/shots/Own/WALL/state").await;
        let kept = &now["setup"]["stages"][0]["controls"]["exposure"];
        let kept = kept.as_f64().map_or(0, |kept| (kept * 1000.0).round() as i64);
        assert!(kept == value || kept == value + 1, "{value} was acknowledged, and {kept} is there");
        value = kept;
    }
    assert!(value > KILLS as i64 && whole.len() > KILLS as usize, "{value} edits, {} files", whole.len());
    let data = served.data.path();
    for name in &whole {
        assert!(std::fs::read(data.join("media/own/dropped").join(name)).unwrap() == png, "{name}");
    }
    let counted = made(&data.join("renders/own/WALL/r001-Final"));
    let again: usize = counted.values().map(|times| times - 1).sum();
    assert!(
        counted.len() > KILLS as usize && again <= KILLS as usize,
        "{again} of {} frames made again",
        counted.len()
    );
    assert_eq!(left_running(data), Vec::<String>::new());
    served.asked_to_end().await;
    assert_eq!(unfinished(served.data.path()), Vec::<String>::new());
}

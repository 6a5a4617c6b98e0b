//! What lasts when the program is cut off or the disk is full: renders and imports go on, and nothing is lost.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;
use std::time::{Duration, Instant};

use serde_json::{Value, json};
use tokio::io::AsyncWriteExt;
use tokio::net::TcpStream;

use crate::support::{PATIENCE, Served, json_in, seeded};

const PICTURE: [u32; 2] = [32, 18];

/// A show `Own` with a shot `WALL` of some frames, which show a gradient.
async fn with_a_shot(served: &Served, frames: u32) {
    with_a_shot_of(served, PICTURE, frames).await;
}

async fn with_a_shot_of(served: &Served, [width, height]: [u32; 2], frames: u32) {
    let (status, text) = served.post("/api/shows", &json!({ "name": "Own" })).await;
    assert_eq!(status, 200, "{text}");
    let range = json!({ "first": 1, "last": frames });
    let picture = json!({ "width": width, "height": height, "fps": 24, "frames": range });
    let (status, text) =
        served.post("/api/shows/Own/shots", &json!({ "code": "WALL", "picture": picture })).await;
    assert_eq!(status, 200, "{text}");
    let add = json!({ "do": "add", "kind": "gradient", "after": null, "into": [1, "main"] });
    let (status, text) = served.post("/api/shots/Own/WALL/edit", &json!({ "base": 1, "command": add })).await;
    assert_eq!(status, 200, "{text}");
}

/// State and frames done of the shot's newest render, as the page tells them.
async fn newest_render(served: &Served) -> (String, u32) {
    let (_, text) = served.ask("GET /renders", &[("host", &served.host)], b"").await;
    let after = |mark: &str| text.split_once(mark).map(|(_, rest)| rest.to_owned()).unwrap_or_default();
    let state = after("data-state=\"").split('"').next().unwrap().to_owned();
    let done = after("quiet done\">").split(' ').next().unwrap().parse().unwrap_or(0);
    (state, done)
}

async fn until_rendered(served: &Served, wanted: impl Fn(&str, u32) -> bool) {
    for _ in 0..1200 {
        let (state, done) = newest_render(served).await;
        assert_ne!(state, "failed");
        if wanted(&state, done) {
            return;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    panic!("the render came to nothing: {:?}", newest_render(served).await);
}

/// The frames that were made, each as often as it was.
fn made(folder: &Path) -> BTreeMap<i32, usize> {
    let list = std::fs::read_to_string(folder.join(".made")).unwrap();
    let mut counted = BTreeMap::new();
    for line in list.lines().filter(|line| !line.is_empty()) {
        *counted.entry(line.split(' ').next().unwrap().parse().unwrap()).or_insert(0) += 1;
    }
    counted
}

#[tokio::test(flavor = "multi_thread")]
async fn a_render_cut_off_five_times_makes_at_most_five_frames_again() {
    let mut served = Served::empty(&[]).await;
    with_a_shot(&served, 2000).await;
    let (status, _) =
        served.post("/api/shots/Own/WALL/render", &json!({ "frames": "1-2000", "form": "png" })).await;
    assert_eq!(status, 200);
    for cut in 1..=5 {
        until_rendered(&served, |_, done| done >= cut * 300).await;
        served.cut_off_and_started_again().await;
    }
    until_rendered(&served, |state, _| state == "done").await;
    let folder = served.data.path().join("renders/own/WALL/r001-Final");
    let made = made(&folder);
    assert_eq!(made.len(), 2000);
    let again: usize = made.values().map(|times| times - 1).sum();
    assert!(again <= 5, "{again} frames were made again");
    let files = std::fs::read_dir(&folder)
        .unwrap()
        .filter(|file| file.as_ref().unwrap().path().extension().is_some_and(|ending| ending == "png"));
    assert_eq!(files.count(), 2000);

    // Made again, all are kept but the one that was lost and the one that is not what was written.
    std::fs::remove_file(folder.join("WALL.0007.png")).unwrap();
    std::fs::write(folder.join("WALL.0009.png"), "cut").unwrap();
    let (status, _) = served.post("/api/renders/1/retry", &json!({})).await;
    assert_eq!(status, 200);
    until_rendered(&served, |state, _| state == "done").await;
    let (_, text) = served.ask("GET /renders", &[("host", &served.host)], b"").await;
    assert!(text.contains("1998 were there already"), "{text}");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_frame_that_ends_the_program_three_times_is_left_and_named() {
    let mut served = Served::empty(&[]).await;
    // Large enough that the program is ended before its first frame is there.
    with_a_shot_of(&served, [9000, 6000], 3).await;
    let (status, _) =
        served.post("/api/shots/Own/WALL/render", &json!({ "frames": "1-3", "form": "png" })).await;
    assert_eq!(status, 200);
    for _ in 0..3 {
        until_rendered(&served, |state, done| state == "running" && done == 0).await;
        served.cut_off_and_started_again().await;
    }
    for _ in 0..1200 {
        if newest_render(&served).await.0 == "failed" {
            break;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    let (_, text) = served.ask("GET /renders", &[("host", &served.host)], b"").await;
    assert!(text.contains("1: this frame has ended the program 3 times"), "{text}");
}

/// Two renders that are asked for at once have a folder each.
#[tokio::test(flavor = "multi_thread")]
async fn renders_asked_for_at_once_have_folders_of_their_own() {
    let served = Served::empty(&[]).await;
    with_a_shot(&served, 2).await;
    let asked = json!({ "frames": "1-2", "form": "png" });
    let one = || served.post("/api/shots/Own/WALL/render", &asked);
    let all = tokio::join!(one(), one(), one(), one(), one(), one(), one(), one());
    let ids: BTreeSet<i64> = [all.0, all.1, all.2, all.3, all.4, all.5, all.6, all.7]
        .iter()
        .map(|(_, text)| json_in(text)["id"].as_i64().unwrap())
        .collect();
    assert_eq!(ids.len(), 8);
    until_rendered(&served, |state, _| state == "done").await;
    let folders = std::fs::read_dir(served.data.path().join("renders/own/WALL")).unwrap();
    assert_eq!(folders.count(), 8);
}

struct Source {
    name: String,
    bytes: Vec<u8>,
}

impl Source {
    fn offered(&self) -> Value {
        json!({ "path": self.name, "size": self.bytes.len(), "modified": 1_700_000_000_123_u64 })
    }

    fn put(&self, at: u64) -> String {
        let size = self.bytes.len();
        format!("PUT /api/shows/Own/import?path={}&size={size}&modified=1700000000123&at={at}", self.name)
    }
}

async fn plan(served: &Served, sources: &[Source]) -> Vec<Value> {
    let files: Vec<Value> = sources.iter().map(Source::offered).collect();
    let (status, text) = served.post("/api/shows/Own/import/plan", &json!({ "files": files })).await;
    assert_eq!(status, 200, "{text}");
    json_in(&text)["files"].as_array().unwrap().clone()
}

/// Frames of the demo under other names.
fn sources(count: usize) -> Vec<Source> {
    let footage = seeded().join("media/saltglass/plates/SG020");
    let frames: Vec<Vec<u8>> = (1001..=1004)
        .map(|frame| std::fs::read(footage.join(format!("SG020.{frame}.exr"))).unwrap())
        .collect();
    let source = |at: usize| Source {
        name: format!("barge.{}.exr", 1001 + at),
        bytes: frames[at % frames.len()].clone(),
    };
    (0..count).map(source).collect()
}

#[tokio::test(flavor = "multi_thread")]
async fn an_import_cut_off_twenty_times_sends_nothing_again_that_was_whole_and_loses_nothing() {
    let mut served = Served::empty(&[]).await;
    served.post("/api/shows", &json!({ "name": "Own" })).await;
    let sources = sources(14);
    let (mut whole, mut cuts) = (BTreeSet::new(), 0_u32);
    loop {
        let steps = plan(&served, &sources).await;
        for (source, step) in sources.iter().zip(&steps) {
            let is_whole = step["state"] == "whole";
            assert!(is_whole || !whole.contains(&source.name), "{} was whole and is {step}", source.name);
        }
        let next = sources.iter().zip(&steps).find(|(_, step)| step["state"] == "send");
        let Some((source, step)) = next else { break };
        let at = step["at"].as_u64().unwrap();
        let rest = &source.bytes[at as usize..];
        if cuts < 20 {
            // Half of what is left, and then the cut; every third time after a whole file.
            let host = &served.host;
            let head = format!(
                "{} HTTP/1.1\r\nhost: {host}\r\ncontent-length: {}\r\n\r\n",
                source.put(at),
                rest.len()
            );
            let mut stream = TcpStream::connect(host).await.unwrap();
            stream.write_all(head.as_bytes()).await.unwrap();
            stream.write_all(&rest[..rest.len() / 2]).await.unwrap();
            stream.flush().await.unwrap();
            let there = async |served: &Served| {
                plan(served, std::slice::from_ref(source)).await[0]["at"].as_u64().unwrap()
            };
            // The last quarter of a megabyte is written with what comes after it, and some may be on its way.
            let sent = (rest.len() / 2) as u64;
            let mut before = at;
            let begun = Instant::now();
            while begun.elapsed() < PATIENCE {
                before = there(&served).await;
                if before + (1 << 19) >= at + sent {
                    break;
                }
                tokio::time::sleep(Duration::from_millis(20)).await;
            }
            assert!(before + (1 << 19) >= at + sent, "of {sent} bytes {} have come", before - at);
            cuts += 1;
            served.cut_off_and_started_again().await;
            let now = there(&served).await;
            assert!(now >= before, "of {before} bytes that were there {now} are kept");
            if !cuts.is_multiple_of(3) {
                continue;
            }
        }
        let at = plan(&served, std::slice::from_ref(source)).await[0]["at"].as_u64().unwrap();
        let headers = [("host", served.host.as_str())];
        let (status, text) = served.ask(&source.put(at), &headers, &source.bytes[at as usize..]).await;
        assert_eq!(status, 200, "{text}");
        whole.insert(source.name.clone());
    }
    assert_eq!(cuts, 20);
    for source in &sources {
        let kept = std::fs::read(served.data.path().join("media/own/dropped").join(&source.name)).unwrap();
        assert!(kept == source.bytes, "{} is not what was sent", source.name);
    }
    assert_eq!(std::fs::read_dir(served.data.path().join("incoming")).unwrap().count(), 0);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_file_whose_name_is_taken_is_asked_about_and_a_piece_that_does_not_fit_is_refused() {
    let served = Served::empty(&[]).await;
    served.post("/api/shows", &json!({ "name": "Own" })).await;
    let [one] = &sources(1)[..] else { panic!("one source") };
    let headers = [("host", served.host.as_str())];
    let (status, _) = served.ask(&one.put(0), &headers, &one.bytes).await;
    assert_eq!(status, 200);
    // Of the same name, and other bytes.
    let other = Source { name: one.name.clone(), bytes: sources(2)[1].bytes.clone() };
    let step = &plan(&served, std::slice::from_ref(&other)).await[0];
    assert_eq!((step["state"].as_str(), step["beside"].as_str()), (Some("taken"), Some("barge-2.1001.exr")));
    let (status, text) = served.ask(&other.put(7), &headers, &other.bytes[7..]).await;
    assert!(status == 412 && text.contains("0 bytes are there"), "{status} {text}");
    let (status, text) = served.ask(&other.put(0), &headers, &other.bytes).await;
    assert!(status == 409 && text.contains("is there already"), "{status} {text}");
    let folder = served.data.path().join("media/own/dropped");
    assert!(std::fs::read(folder.join(&one.name)).unwrap() == one.bytes, "what was there is as it was");
    // Kept beside it, it is known as there however often it is offered.
    let size = other.bytes.len() as u64;
    let kept_beside = format!("{}&name=barge-2.1001.exr", other.put(size));
    let (status, text) = served.ask(&kept_beside, &headers, b"").await;
    assert_eq!(status, 200, "{text}");
    let step = &plan(&served, std::slice::from_ref(&other)).await[0];
    assert_eq!((step["state"].as_str(), step["name"].as_str()), (Some("whole"), Some("barge-2.1001.exr")));
    let (status, _) = served.ask(&other.put(0), &headers, &other.bytes).await;
    assert_eq!(status, 409);
    // All of it has arrived, so that nothing is sent again with the answer.
    let (status, text) = served.ask(&format!("{}&replace=true", other.put(size)), &headers, b"").await;
    assert_eq!(status, 200, "{text}");
    assert!(std::fs::read(folder.join(&one.name)).unwrap() == other.bytes);
}

/// A small file system of its own, unmounted at the end; none where that is not allowed.
struct SmallDisk(tempfile::TempDir);

impl SmallDisk {
    fn of(bytes: u64) -> Option<Self> {
        let place = tempfile::tempdir().unwrap();
        let mounted = std::process::Command::new("mount")
            .args(["-t", "tmpfs", "-o", &format!("size={bytes}"), "tmpfs"])
            .arg(place.path())
            .output()
            .is_ok_and(|done| done.status.success());
        mounted.then_some(Self(place))
    }
}

impl Drop for SmallDisk {
    fn drop(&mut self) {
        let _ = std::process::Command::new("umount").arg("-l").arg(self.0.path()).output();
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn on_a_full_disk_an_import_an_edit_and_a_render_say_so_lose_nothing_and_go_on_when_there_is_room() {
    let Some(disk) = SmallDisk::of(12 << 20) else {
        eprintln!("no file system can be mounted here, so a full disk is not tried");
        return;
    };
    let data = tempfile::tempdir_in(disk.0.path()).unwrap();
    let served = Served::on(data, &["serve"]).await;
    with_a_shot(&served, 8).await;
    let filler = disk.0.path().join("filler");
    let fill = || {
        // All that is left, to the last block.
        for block in [1 << 20, 1 << 12, 1] {
            let mut file = std::fs::OpenOptions::new().create(true).append(true).open(&filler).unwrap();
            while std::io::Write::write_all(&mut file, &vec![7; block]).is_ok() {}
        }
    };

    // An import.
    let headers = [("host", served.host.as_str())];
    let sources = sources(4);
    let mut full = None;
    for source in &sources {
        let (status, text) = served.ask(&source.put(0), &headers, &source.bytes).await;
        if status != 200 {
            assert!(status == 507 && text.contains(&source.name) && text.contains("full"), "{status} {text}");
            full = Some(source);
            break;
        }
    }
    let full = full.expect("the disk is full before all have come in");
    fill();

    // An edit.
    let state = served.get("/api/shots/Own/WALL/state").await;
    let add = json!({ "do": "add", "kind": "blur", "after": 2 });
    let edit = json!({ "base": state["revision"], "command": add });
    let mut refused = None;
    for _ in 0..200 {
        // The database may have some room of its own left.
        let now = served.get("/api/shots/Own/WALL/state").await["revision"].clone();
        let (status, text) = served
            .post("/api/shots/Own/WALL/edit", &json!({ "base": now, "command": edit["command"] }))
            .await;
        if status != 200 {
            refused = Some((status, text, now));
            break;
        }
    }
    let (status, text, before) = refused.expect("an edit that cannot be kept is refused");
    assert!(status >= 500 && text.contains("full"), "{status} {text}");
    assert_eq!(served.get("/api/shots/Own/WALL/state").await["revision"], before);

    // There is room again.
    std::fs::remove_file(&filler).unwrap();
    let at = plan(&served, std::slice::from_ref(full)).await[0]["at"].as_u64().unwrap();
    assert!(at > 0, "what had come in of it is kept");
    std::fs::remove_file(served.data.path().join("media/own/dropped").join(&sources[0].name)).unwrap();
    let (status, text) = served.ask(&full.put(at), &headers, &full.bytes[at as usize..]).await;
    assert_eq!(status, 200, "{text}");
    let (status, text) =
        served.post("/api/shots/Own/WALL/edit", &json!({ "base": before, "command": edit["command"] })).await;
    assert_eq!(status, 200, "{text}");

    // A render, queued while there is room for that alone.
    let (status, _) =
        served.post("/api/shots/Own/WALL/render", &json!({ "frames": "1-8", "form": "tif" })).await;
    assert_eq!(status, 200);
    until_rendered(&served, |state, _| state == "done").await;
    std::fs::remove_dir_all(served.data.path().join("renders/own/WALL/r001-Final")).unwrap();
    fill();
    let (_, _) = served.post("/api/renders/1/retry", &json!({})).await;
    for _ in 0..200 {
        if newest_render(&served).await.0 == "failed" {
            break;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    std::fs::remove_file(&filler).unwrap();
    let (status, text) = served.post("/api/renders/1/retry", &json!({})).await;
    assert_eq!(status, 200, "{text}");
    until_rendered(&served, |state, done| state == "done" && done == 8).await;
}

//! Doors that were open once: what one request, one client or one file could do to everybody.

use std::path::Path;
use std::process::Stdio;
use std::time::{Duration, Instant};

use serde_json::{Value, json};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;
use tokio::process::Command;

use crate::support::{PATIENCE, Served, program};

/// A show `Own` with an empty shot `WALL`.
async fn with_a_shot() -> Served {
    let served = Served::empty(&[]).await;
    for (path, what) in [
        ("/api/shows", json!({ "name": "Own" })),
        (
            "/api/shows/Own/shots",
            json!({ "code": "WALL", "picture": { "width": 32, "height": 18, "fps": 24, "frames": { "first": 1, "last": 9 } } }),
        ),
    ] {
        let (status, text) = served.post(path, &what).await;
        assert_eq!(status, 200, "{text}");
    }
    served
}

async fn edit(served: &Served, base: i64, command: Value) -> (u16, String) {
    served.post("/api/shots/Own/WALL/edit", &json!({ "base": base, "command": command })).await
}

/// The program with arguments that it does not start with: what it says of them.
async fn refusal(arguments: &[&str]) -> String {
    let ended = Command::new(program()).args(arguments).stdin(Stdio::null()).kill_on_drop(true).output();
    let ended = tokio::time::timeout(PATIENCE, ended).await.expect("it ends by itself").unwrap();
    assert!(!ended.status.success());
    String::from_utf8_lossy(&ended.stderr).into_owned()
}

/// Deep, endless, reversed and enormous: each is its own request's error, and everybody else is answered.
#[tokio::test(flavor = "multi_thread")]
async fn what_one_request_asks_for_ends_nobody_elses() {
    let served = with_a_shot().await;
    let rows: Vec<Value> = (0..1000).map(|_| json!({ "do": "add", "kind": "grade", "after": 1 })).collect();
    let (status, text) = edit(&served, 1, json!({ "do": "together", "commands": rows })).await;
    assert_eq!(status, 200, "{}", &text[..text.len().min(300)]);
    let picture = "GET /api/shots/Own/WALL/frame?stage=1&frame=";
    let host = [("host", served.host.as_str())];
    assert_eq!(served.ask(&format!("{picture}5"), &host, b"").await.0, 200, "a chain of a thousand rows");
    for frame in ["1e300", "1e10", "-1e10", "NaN", "inf"] {
        let (status, text) = served.ask(&format!("{picture}{frame}"), &host, b"").await;
        assert!((400..500).contains(&status), "{frame}: {status} {text}");
    }
    let endless = json!({ "formula": vec!["now"; 20_000].join("+"), "names": {} });
    let set = json!({ "do": "set", "stage": 2, "control": "exposure", "setting": endless });
    let (status, text) = edit(&served, 2, set).await;
    assert!(status == 422 && text.contains("expected at most 2000 letters"), "{status}: {text}");
    let reversed = json!({ "do": "use_media", "media": { "id": 1, "name": "x", "path": "x.####.png", "frames": { "first": 5, "last": 1 }, "colour": "srgb" } });
    assert_eq!(edit(&served, 2, reversed).await.0, 422);
    for (width, height, last) in [(32_768, 32_768, 9), (32, 18, i32::MAX)] {
        let frames = json!({ "first": if last > 9 { i32::MIN } else { 1 }, "last": last });
        let picture = json!({ "width": width, "height": height, "fps": 24, "frames": frames });
        let (status, text) =
            served.post("/api/shows/Own/shots", &json!({ "code": "HUGE", "picture": picture })).await;
        assert!((400..500).contains(&status), "{text}");
    }
    let rename = json!({ "do": "rename", "stage": 1, "name": "x".repeat(300) });
    let (status, text) = edit(&served, 2, rename).await;
    assert_eq!(status, 200, "{text}");
    let (status, text) =
        served.post("/api/shots/Own/WALL/render", &json!({ "frames": "1-2", "form": "png" })).await;
    assert_eq!(status, 200, "{text}");
    assert_eq!(served.ask("GET /", &host, b"").await.0, 200);
}

/// A step, or going on from a version, is refused where another window has changed the same since it was last seen.
#[tokio::test(flavor = "multi_thread")]
async fn no_window_takes_back_what_it_has_not_seen() {
    let served = with_a_shot().await;
    let add = json!({ "do": "add", "kind": "grade", "after": null, "into": [1, "main"] });
    assert_eq!(edit(&served, 1, add).await.0, 200);
    assert_eq!(served.post("/api/shots/Own/WALL/versions", &json!({ "name": "" })).await.0, 200);
    let set = json!({ "do": "set", "stage": 2, "control": "exposure", "setting": 1.0 });
    assert_eq!(edit(&served, 2, set).await.0, 200);
    for (path, base, wanted) in [
        ("undo", 2, 409),
        ("versions/1/go-on", 2, 409),
        ("undo", 3, 200),
        ("redo", 3, 409),
        ("redo", 4, 200),
        ("versions/1/go-on", 5, 200),
    ] {
        let (status, text) =
            served.post(&format!("/api/shots/Own/WALL/{path}"), &json!({ "base": base })).await;
        assert_eq!(status, wanted, "{path} on {base}: {text}");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_data_folder_has_one_program_and_what_was_half_written_goes() {
    let mut served = with_a_shot().await;
    let data = served.data.path().to_owned();
    let said = refusal(&["serve", "--listen", "127.0.0.1:0", "--data", &data.display().to_string()]).await;
    assert!(said.contains("used by another"), "{said}");
    let said = refusal(&["serve", "--listen", "127.0.0.1:0", "--data", "/proc/veil"]).await;
    assert!(said.contains("/proc/veil") && said.contains("cannot be written"), "{said}");
    let said = refusal(&["serve", "--listen", "0.0.0.0:0", "--data", &data.display().to_string()]).await;
    assert!(said.contains("--i-know-it-is-open"), "{said}");
    served.cut_off().await;
    let left = [data.join("media/own/.writing-abc"), data.join("renders/.making-def")];
    std::fs::write(&left[0], "half").unwrap();
    std::fs::create_dir(&left[1]).unwrap();
    served.started_where_it_was().await;
    assert!(left.iter().all(|path| !path.exists()), "they are swept");
    assert_eq!(served.get("/api/shows/Own/media").await, json!([]));
}

/// By the Fetch Metadata specification of the W3C, and its Content Security Policy Level 3.
#[tokio::test(flavor = "multi_thread")]
async fn pages_of_other_sites_can_lead_here_and_do_nothing_else() {
    let served = with_a_shot().await;
    let from = async |site: &str, mode: &str, path: &str| {
        let headers = [("host", served.host.as_str()), ("sec-fetch-site", site), ("sec-fetch-mode", mode)];
        served.ask(&format!("GET {path}"), &headers, b"").await
    };
    let picture = "/api/shots/Own/WALL/frame?stage=1&frame=5";
    assert_eq!(from("cross-site", "no-cors", picture).await.0, 403);
    assert_eq!(from("same-site", "cors", picture).await.0, 403);
    assert_eq!(from("same-origin", "cors", picture).await.0, 200);
    assert_eq!(from("none", "navigate", "/").await.0, 200);
    let (status, head) = from("cross-site", "navigate", "/").await;
    assert_eq!(status, 200);
    for said in ["base-uri 'none'", "form-action 'self'", "cross-origin-resource-policy: same-origin"] {
        assert!(head.contains(said), "{said}: {head}");
    }
}

/// Clients that send or read nothing more do not keep the program from ending when it is asked to.
#[tokio::test(flavor = "multi_thread")]
async fn the_program_ends_though_clients_are_slow() {
    let mut served = with_a_shot().await;
    let mut slow = Vec::new();
    for first in [
        "GET / HT",
        "PUT /api/shows/Own/import?path=a.png&size=99&modified=1&at=0 HTTP/1.1\r\nhost: HOST\r\ncontent-length: 99\r\n\r\nab",
    ] {
        let mut stream = TcpStream::connect(&served.host).await.unwrap();
        stream.write_all(first.replace("HOST", &served.host).as_bytes()).await.unwrap();
        slow.push(stream);
    }
    tokio::time::sleep(Duration::from_millis(200)).await;
    served.asked_to_end().await;
    drop(slow);
}

/// What a plate that cannot be read is called in a message, and nothing of where the data folder is.
#[tokio::test(flavor = "multi_thread")]
async fn messages_name_files_and_not_the_machines_folders() {
    let served = with_a_shot().await;
    let data = served.data.path();
    std::fs::create_dir_all(data.join("media/own")).unwrap();
    std::fs::write(data.join("media/own/words.png"), "these are words").unwrap();
    assert!(Command::new("mkfifo").arg(data.join("media/own/pipe.png")).status().await.unwrap().success());
    let (_, scanned) = served.post("/api/shows/Own/scan", &json!({})).await;
    assert!(scanned.contains("words.png") && !scanned.contains("pipe.png"), "{scanned}");
    assert!(!scanned.contains(&data.display().to_string()), "{scanned}");
}

/// Leases on files: whoever opens one waits until its holder lets go, as with a network disk that is gone. Perl is a part of
/// every Debian; the numbers are those of fcntl(2) on Linux: F_SETLEASE, F_WRLCK.
const HELD_UP: &str = r#"$SIG{IO} = "IGNORE"; $| = 1;
for (@ARGV) { open(my $file, "+<", $_) or die "$_: $!"; fcntl($file, 1024, 1) or die "$_: $!"; push @held, $file }
print "held\n"; <STDIN>"#;

#[tokio::test(flavor = "multi_thread")]
async fn a_disk_that_does_not_answer_is_named_and_others_are_answered() {
    let served = with_a_shot().await;
    let folder = served.data.path().join("media/own");
    let mut files = Vec::new();
    for (place, frame) in [("gone", 1), ("gone", 2), ("gone", 3), ("there", 1), ("there", 2), ("there", 3)] {
        let path = folder.join(place).join(format!("x.000{frame}.png"));
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(&path, veil_media::encode_png(&[50 * frame; 32 * 18 * 4], 32, 18).unwrap()).unwrap();
        files.push(path);
    }
    let frames = json!({ "first": 1, "last": 3 });
    for (number, place) in ["gone", "there"].into_iter().enumerate() {
        let media = json!({ "id": 0, "name": place, "path": format!("{place}/x.####.png"), "frames": frames, "colour": "srgb" });
        let commands = [
            json!({ "do": "use_media", "media": media }),
            json!({ "do": "add", "kind": "plate", "after": null, "into": [1, "main"] }),
            json!({ "do": "set", "stage": number + 2, "control": "media", "setting": { "media": number + 1 } }),
        ];
        let (status, text) =
            edit(&served, 1 + number as i64, json!({ "do": "together", "commands": commands })).await;
        assert_eq!(status, 200, "{text}");
    }
    let mut holder = Command::new("perl");
    let mut holder = holder
        .arg("-e")
        .arg(HELD_UP)
        .args(&files[..3])
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .kill_on_drop(true)
        .spawn()
        .unwrap();
    let mut said = String::new();
    let mut out = tokio::io::BufReader::new(holder.stdout.take().unwrap());
    tokio::io::AsyncBufReadExt::read_line(&mut out, &mut said).await.unwrap();
    if said != "held\n" {
        eprintln!("no file can be held up here, so a disk that does not answer is not tried");
        return;
    }
    let host = [("host", served.host.as_str())];
    let ask = async |row: u32, frame: u32| {
        let asked = format!("GET /api/shots/Own/WALL/frame?stage={row}&frame={frame}");
        served.ask(&asked, &host, b"").await
    };
    let stuck = tokio::join!(ask(2, 1), ask(2, 2), ask(2, 3), ask(2, 1), ask(2, 2), ask(3, 1));
    for (status, text) in [&stuck.0, &stuck.1, &stuck.2, &stuck.3, &stuck.4] {
        assert!(
            *status == 200 && text.contains("has not answered"),
            "{status}: {}",
            &text[..text.len().min(600)]
        );
    }
    assert!(stuck.5.0 == 200 && !stuck.5.1.contains("has not answered"));
    let again = Duration::from_secs(5);
    let others = async { (ask(2, 3).await, ask(3, 2).await, ask(3, 3).await) };
    let (left_alone, second, third) =
        tokio::time::timeout(again, others).await.expect("nobody waits once more");
    assert!(left_alone.1.contains("has not answered"));
    assert!(
        [second, third].iter().all(|(status, text)| *status == 200 && !text.contains("has not answered"))
    );
}

/// The value of a header of an answer.
fn header_of(answer: &str, name: &str) -> String {
    let lines = answer.split("\r\n\r\n").next().unwrap_or_default().lines();
    let found =
        lines.filter_map(|line| line.split_once(": ")).find(|(known, _)| known.eq_ignore_ascii_case(name));
    found.map(|(_, value)| value.to_owned()).unwrap_or_default()
}

/// By RFC 9110, sections 8.8.3 and 13.1.2: what a browser has is not sent again, and what has changed is.
#[tokio::test(flavor = "multi_thread")]
async fn nothing_is_sent_twice_and_nothing_stale_is_shown() {
    let served = with_a_shot().await;
    let (_, page) = served.ask("GET /", &[("host", &served.host)], b"").await;
    let style = page.split('"').find(|part| part.ends_with("/veil.css")).unwrap();
    assert_eq!(style.matches('/').count(), 3, "its address holds what it is: {style}");
    let asked = async |path: &str, name: &str, value: &str| {
        served.ask(&format!("GET {path}"), &[("host", &served.host), (name, value)], b"").await
    };
    let (status, plain) = asked(style, "accept", "*/*").await;
    let (_, packed) = asked(style, "accept-encoding", "br, gzip").await;
    assert_eq!((status, header_of(&packed, "content-encoding").as_str()), (200, "gzip"));
    let length = |answer: &str| header_of(answer, "content-length").parse::<usize>().unwrap();
    assert!(length(&packed) * 2 < length(&plain));
    let (status, again) = asked(style, "if-none-match", &header_of(&plain, "etag")).await;
    assert_eq!((status, again.split("\r\n\r\n").nth(1)), (304, Some("")));

    let file = served.data.path().join("media/own/still.png");
    let keep = |value: u8, wide: u32| {
        let pixels = vec![value; wide as usize * 18 * 4];
        std::fs::write(&file, veil_media::encode_png(&pixels, wide, 18).unwrap()).unwrap();
    };
    keep(40, 32);
    served.post("/api/shows/Own/scan", &json!({})).await;
    let picture = "/api/shows/Own/media/1/picture";
    let (status, first) = asked(picture, "accept", "*/*").await;
    assert_eq!(status, 200);
    assert_eq!(asked(picture, "if-none-match", &header_of(&first, "etag")).await.0, 304);
    keep(200, 48);
    let (status, second) = asked(picture, "if-none-match", &header_of(&first, "etag")).await;
    assert!(status == 200 && header_of(&second, "etag") != header_of(&first, "etag"));
}

/// What a plate's colours mean is chosen on the plates page, and reaches each setup that lists the plate as one step.
#[tokio::test(flavor = "multi_thread")]
async fn a_plates_colour_space_reaches_the_setups_that_use_it() {
    let served = with_a_shot().await;
    let file = served.data.path().join("media/own/still.png");
    std::fs::create_dir_all(file.parent().unwrap()).unwrap();
    std::fs::write(&file, veil_media::encode_png(&[90; 32 * 18 * 4], 32, 18).unwrap()).unwrap();
    served.post("/api/shows/Own/scan", &json!({})).await;
    let media = json!({ "id": 0, "name": "still", "path": "still.png", "colour": "srgb" });
    let listed = json!([{ "do": "use_media", "media": media }, { "do": "use_media", "media": media }]);
    assert_eq!(edit(&served, 1, json!({ "do": "together", "commands": listed })).await.0, 200);
    let colours = async || {
        let state = served.get("/api/shots/Own/WALL/state").await;
        state["setup"]["media"]
            .as_array()
            .unwrap()
            .iter()
            .map(|media| media["colour"].clone())
            .collect::<Vec<_>>()
    };
    let choose = json!({ "colour": "linear" });
    assert_eq!(served.post("/api/shows/Own/media/1/colour", &choose).await.0, 200);
    assert_eq!(colours().await, ["linear", "linear"]);
    assert_eq!(served.post("/api/shots/Own/WALL/undo", &json!({ "base": 3 })).await.0, 200);
    assert_eq!(colours().await, ["srgb", "srgb"], "one step takes it back");
}

/// The programs whose command names a file.
fn programs_on(file: &Path) -> usize {
    let processes = std::fs::read_dir("/proc").unwrap().flatten();
    let commands = processes.filter_map(|process| std::fs::read(process.path().join("cmdline")).ok());
    let name = file.as_os_str().as_encoded_bytes();
    commands.filter(|command| command.windows(name.len()).any(|part| part == name)).count()
}

async fn until(what: &str, is: impl Fn() -> bool) {
    let begun = Instant::now();
    while !is() {
        assert!(begun.elapsed() < PATIENCE, "waited in vain for {what}");
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_decoder_ends_when_nobody_waits_and_when_the_program_is_killed() {
    let mut served = Served::empty(&[]).await;
    served.post("/api/shows", &json!({ "name": "Own" })).await;
    let clip = served.data.path().join("media/own/long.mp4");
    let made = std::process::Command::new("ffmpeg")
        .args(["-v", "error", "-f", "lavfi", "-i", "testsrc=size=960x540:rate=25", "-frames:v", "1500"])
        .args(["-preset", "ultrafast", "-pix_fmt", "yuv420p"])
        .arg(&clip)
        .status();
    assert!(made.unwrap().success());
    let ask = |host: String| {
        let kind = "content-type: application/json\r\ncontent-length: 2";
        let first = format!("POST /api/shows/Own/scan HTTP/1.1\r\nhost: {host}\r\n{kind}\r\n\r\n{{}}");
        tokio::spawn(async move {
            let mut stream = TcpStream::connect(host).await.unwrap();
            stream.write_all(first.as_bytes()).await.unwrap();
            let mut answer = Vec::new();
            // Ends with the program.
            let _ = stream.read_to_end(&mut answer).await;
        })
    };
    let hung_up = ask(served.host.clone());
    until("a decoder", || programs_on(&clip) > 0).await;
    hung_up.abort();
    until("the decoder to end", || programs_on(&clip) == 0).await;
    // Windows hear how far it is.
    let mut events = TcpStream::connect(&served.host).await.unwrap();
    let listen = format!("GET /api/events HTTP/1.1\r\nhost: {}\r\n\r\n", served.host);
    events.write_all(listen.as_bytes()).await.unwrap();
    let _waits = ask(served.host.clone());
    let mut heard = String::new();
    let told = async {
        let mut piece = [0; 512];
        while !heard.contains(r#""what":"decoding","show":"Own","file":"long.mp4","frames":"#) {
            let length = events.read(&mut piece).await.unwrap();
            heard.push_str(&String::from_utf8_lossy(&piece[..length]));
        }
    };
    tokio::time::timeout(PATIENCE, told).await.expect("how far it is is told");
    assert!(programs_on(&clip) > 0);
    served.cut_off().await;
    until("no decoder to be left", || programs_on(&clip) == 0).await;
}

/// As `brazen-veil stages | head -1`, and with what goes beside it closed as well.
#[test]
fn who_reads_may_stop_when_it_has_enough() {
    for arguments in [&["stages"][..], &["stages", "--json"], &["schema"], &["--help"]] {
        let mut child = std::process::Command::new(program())
            .args(arguments)
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        drop(child.stdout.take());
        let ended = child.wait_with_output().unwrap();
        let said = String::from_utf8_lossy(&ended.stderr);
        assert!(!said.contains("panicked"), "{arguments:?}: {said}");
    }
}

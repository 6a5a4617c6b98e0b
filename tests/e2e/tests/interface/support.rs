//! A server on a made-up show, a browser, and what a person does with them.

use std::path::{Path, PathBuf};
use std::process::Stdio;
use std::sync::{LazyLock, Mutex};
use std::time::{Duration, Instant};

use fantoccini::actions::{InputSource, KeyAction, KeyActions, MouseActions, PointerAction};
use fantoccini::{Client, ClientBuilder, Locator};
use serde_json::{Value, json};
use tokio::io::{AsyncBufReadExt, AsyncReadExt, AsyncWriteExt, BufReader};
use tokio::net::TcpStream;
use tokio::process::{Child, Command};

/// Frames of each shot that tests use; drawn once for all of them.
const FRAMES: usize = 4;
/// Nothing a person does takes longer than this, on a busy machine whose disc stands still for a minute.
pub(crate) const PATIENCE: Duration = Duration::from_secs(180);

/// The program named in the environment, or the one built with the tests, two folders above their own file.
pub(crate) fn program() -> PathBuf {
    if let Some(named) = std::env::var_os("BRAZEN_VEIL") {
        return named.into();
    }
    let own = std::env::current_exe().unwrap();
    own.parent().unwrap().parent().unwrap().join("brazen-veil")
}

/// A data folder with the demo show in it, made once for all tests. Its footage is kept for later runs.
pub(crate) fn seeded() -> &'static Path {
    static MADE: LazyLock<tempfile::TempDir> = LazyLock::new(|| {
        let footage = program().parent().unwrap().join("e2e-footage");
        let data = tempfile::tempdir().unwrap();
        let media = data.path().join("media/saltglass");
        std::fs::create_dir_all(&footage).unwrap();
        link_all(&footage, &media);
        let made = std::process::Command::new(program())
            .args(["demo", "--make-only", "--first", &FRAMES.to_string(), "--data"])
            .arg(data.path())
            .status()
            .unwrap();
        assert!(made.success(), "the demo show could not be made");
        link_all(&media, &footage);
        data
    });
    MADE.path()
}

fn link_all(from: &Path, to: &Path) {
    std::fs::create_dir_all(to).unwrap();
    for entry in std::fs::read_dir(from).unwrap().map(Result::unwrap) {
        let place = to.join(entry.file_name());
        if place.is_file() {
            continue;
        }
        if entry.file_type().unwrap().is_dir() {
            link_all(&entry.path(), &place);
        } else if std::fs::hard_link(entry.path(), &place).is_err() {
            std::fs::copy(entry.path(), &place).unwrap();
        }
    }
}

/// A started program that ends with the test.
async fn started(mut command: Command, says: &str) -> (Child, String) {
    let mut child =
        command.stdout(Stdio::piped()).stderr(Stdio::inherit()).kill_on_drop(true).spawn().unwrap();
    let mut lines = BufReader::new(child.stdout.take().unwrap()).lines();
    loop {
        let line = lines.next_line().await.unwrap().expect("the program says where it is");
        if let Some((_, rest)) = line.split_once(says) {
            let found = rest.to_owned();
            // What it says later must not fill the pipe.
            tokio::spawn(async move { while let Ok(Some(_)) = lines.next_line().await {} });
            return (child, found);
        }
    }
}

/// A data folder, served.
pub(crate) struct Served {
    /// Host and port.
    pub(crate) host: String,
    pub(crate) data: tempfile::TempDir,
    arguments: Vec<String>,
    server: Child,
}

impl Served {
    /// The demo show, with more arguments than it needs.
    pub(crate) async fn with(arguments: &[&str]) -> Self {
        let data = tempfile::tempdir().unwrap();
        for part in ["media", "renders", "bakes"] {
            link_all(&seeded().join(part), &data.path().join(part));
        }
        // A database is written to in place.
        std::fs::copy(seeded().join("veil.db"), data.path().join("veil.db")).unwrap();
        let first = FRAMES.to_string();
        Self::on(data, &[&["demo", "--first", &first], arguments].concat()).await
    }

    /// Nothing but an empty folder, with more arguments than it needs.
    pub(crate) async fn empty(arguments: &[&str]) -> Self {
        Self::on(tempfile::tempdir().unwrap(), &[&["serve"], arguments].concat()).await
    }

    /// What the program does with a data folder.
    pub(crate) async fn on(data: tempfile::TempDir, arguments: &[&str]) -> Self {
        let arguments: Vec<String> = arguments.iter().copied().map(String::from).collect();
        let (server, host) = Self::start(data.path(), &arguments, "127.0.0.1:0").await;
        Self { host, data, arguments, server }
    }

    async fn start(data: &Path, arguments: &[String], listen: &str) -> (Child, String) {
        let mut server = Command::new(program());
        server.args(arguments).args(["--listen", listen, "--data"]).arg(data);
        let (server, address) = started(server, "Brazen Veil is at http://").await;
        (server, address.trim_end_matches('/').to_owned())
    }

    /// Ends it as a power cut would, and starts it again on what it left.
    pub(crate) async fn cut_off_and_started_again(&mut self) {
        self.cut_off().await;
        (self.server, self.host) = Self::start(self.data.path(), &self.arguments, "127.0.0.1:0").await;
    }

    /// Ends it as a power cut would.
    pub(crate) async fn cut_off(&mut self) {
        self.server.kill().await.unwrap();
    }

    /// Asks it to end, and waits until it has.
    pub(crate) async fn asked_to_end(&mut self) {
        let id = self.server.id().expect("it runs").to_string();
        assert!(Command::new("kill").args(["-TERM", &id]).status().await.unwrap().success());
        let ended = tokio::time::timeout(PATIENCE, self.server.wait()).await;
        assert!(ended.expect("it ends").unwrap().success());
    }

    /// Starts it again where it was.
    pub(crate) async fn started_where_it_was(&mut self) {
        (self.server, self.host) = Self::start(self.data.path(), &self.arguments, &self.host).await;
    }

    /// The show's folder of media.
    pub(crate) fn media(&self) -> PathBuf {
        self.data.path().join("media/saltglass")
    }

    /// One request with these headers; the status and the text that came back.
    pub(crate) async fn ask(&self, first: &str, headers: &[(&str, &str)], body: &[u8]) -> (u16, String) {
        let mut stream = TcpStream::connect(&self.host).await.unwrap();
        let mut head = format!("{first} HTTP/1.1\r\nconnection: close\r\ncontent-length: {}\r\n", body.len());
        for (name, value) in headers {
            head.push_str(&format!("{name}: {value}\r\n"));
        }
        stream.write_all(format!("{head}\r\n").as_bytes()).await.unwrap();
        // A server that refuses may hang up before it has read all of it.
        let _ = stream.write_all(body).await;
        let mut answer = Vec::new();
        let _ = tokio::time::timeout(PATIENCE, stream.read_to_end(&mut answer)).await.unwrap();
        let text = String::from_utf8_lossy(&answer).into_owned();
        let status = text.split(' ').nth(1).and_then(|number| number.parse().ok()).unwrap_or(0);
        (status, text)
    }

    pub(crate) async fn post(&self, path: &str, value: &Value) -> (u16, String) {
        let headers = [("host", self.host.as_str()), ("content-type", "application/json")];
        self.ask(&format!("POST {path}"), &headers, value.to_string().as_bytes()).await
    }

    /// What is told as JSON.
    pub(crate) async fn get(&self, path: &str) -> Value {
        let (status, text) = self.ask(&format!("GET {path}"), &[("host", &self.host)], b"").await;
        assert_eq!(status, 200, "{path}: {text}");
        json_in(&text)
    }
}

/// The JSON of an answer, past its head and its chunk lengths.
pub(crate) fn json_in(answer: &str) -> Value {
    let body = answer.split_once("\r\n\r\n").unwrap().1;
    let start = body.find(['{', '[']).unwrap();
    serde_json::Deserializer::from_str(&body[start..]).into_iter().next().unwrap().unwrap()
}

/// The demo show, served, and a browser on it.
pub(crate) struct Desk {
    pub(crate) browser: Client,
    pub(crate) served: Served,
}

/// Browsers that no test uses now.
static BROWSERS: Mutex<Vec<Client>> = Mutex::new(Vec::new());

/// What browsers are spoken to by; outlives each test's own.
static SPEAKING: LazyLock<tokio::runtime::Runtime> =
    LazyLock::new(|| tokio::runtime::Runtime::new().unwrap());

impl Desk {
    pub(crate) async fn new() -> Self {
        Self::of(Served::with(&[]).await).await
    }

    pub(crate) async fn of(served: Served) -> Self {
        let free = BROWSERS.lock().unwrap().pop();
        let browser = match free {
            Some(browser) => browser,
            None => SPEAKING.spawn(browser()).await.unwrap(),
        };
        browser.set_window_size(WINDOW.0, WINDOW.1).await.unwrap();
        Self { browser, served }
    }

    pub(crate) async fn open(&self, path: &str) {
        self.browser.goto(&format!("http://{}{path}", self.served.host)).await.unwrap();
    }

    /// Opens a shot and waits for its first picture.
    pub(crate) async fn open_shot(&self, code: &str) {
        self.open(&format!("/shots/Saltglass/{code}")).await;
        self.settled().await;
    }

    pub(crate) async fn run(&self, script: &str) -> Value {
        self.browser.execute(script, vec![]).await.unwrap()
    }

    /// The same for one that calls its last argument with what it gives.
    pub(crate) async fn run_async(&self, script: &str) -> Value {
        self.browser.execute_async(script, vec![]).await.unwrap()
    }

    /// Waits until a script gives true.
    pub(crate) async fn until(&self, what: &str, script: &str) {
        let start = Instant::now();
        while self.run(script).await != Value::Bool(true) {
            if start.elapsed() >= PATIENCE {
                panic!("waited in vain for {what}; the page says {}", self.says().await);
            }
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
    }

    /// What a page that is waited for in vain says of itself.
    async fn says(&self) -> Value {
        self.run(
            "const text = id => document.getElementById(id)?.textContent;
             const data = id => ({ ...document.getElementById(id)?.dataset });
             return { at: location.href, ready: document.body.dataset.ready, saved: text('saved'), well: data('well'),
                 picture: data('picture'), told: [...document.querySelectorAll('[role=alert], [role=status]')].map(one => one.textContent) }",
        )
        .await
    }

    /// Clicks what is found; what is drawn anew in between is looked for again.
    pub(crate) async fn click(&self, css: &str) {
        let start = Instant::now();
        loop {
            let found = self.browser.wait().at_most(PATIENCE).for_element(Locator::Css(css)).await;
            let clicked = found.unwrap_or_else(|error| panic!("{css}: {error}")).click().await;
            match clicked {
                Ok(()) => return,
                Err(error) if error.to_string().contains("stale element") && start.elapsed() < PATIENCE => {}
                Err(error) => panic!("{css}: {error}"),
            }
        }
    }

    /// Clicks the row of this name.
    pub(crate) async fn select(&self, name: &str) {
        let id = self.row(name).await;
        self.click(&format!("#row-{id} .name")).await;
    }

    /// Adds a stage below the selected row, by the find list; it is selected then.
    pub(crate) async fn add(&self, name: &str) {
        self.press("#braid", "\u{e009}k\u{e000}").await;
        self.until("the find list", "return document.activeElement.getAttribute('aria-label') === 'find'")
            .await;
        self.browser.active_element().await.unwrap().send_keys(&format!("{name}\u{e007}")).await.unwrap();
        let there = format!("return document.querySelector('#bench-name').textContent === '{name}'");
        self.until(name, &there).await;
        self.settled().await;
    }

    pub(crate) async fn row(&self, name: &str) -> i64 {
        let script = format!(
            "return [...document.querySelectorAll('.row')].find(row => row.querySelector('.name span').textContent === {})?.dataset.id ?? null",
            json!(name)
        );
        let id = self.run(&script).await;
        id.as_str().unwrap_or_else(|| panic!("no row {name}")).parse().unwrap()
    }

    /// Types a value into a control of the bench and waits until it is kept and seen.
    pub(crate) async fn type_value(&self, label: &str, value: &str) {
        let field = self
            .browser
            .find(Locator::Css(&format!("#controls input.num[aria-label='{label}']")))
            .await
            .unwrap();
        field.click().await.unwrap();
        self.run("document.activeElement.select()").await;
        field.send_keys(&format!("{value}\u{e007}")).await.unwrap();
        self.settled().await;
    }

    /// Waits until all edits are kept and the viewer shows what is wanted, at full scale.
    pub(crate) async fn settled(&self) {
        let script = "const [well, canvas] = ['well', 'picture'].map(id => document.getElementById(id));
             return document.body.dataset.ready === 'true' && document.getElementById('saved').textContent === 'saved'
                 && Boolean(canvas.dataset.shows) && canvas.dataset.shows === well.dataset.wanted
                 && document.getElementById('strip').dataset.known !== 'false'";
        self.until("a settled picture", script).await;
    }

    /// The viewer's bytes in a box of the picture, given in shares of its width and height.
    pub(crate) async fn pixels(&self, [x0, y0, x1, y1]: [f64; 4]) -> Vec<i64> {
        let script = format!(
            "const c = document.getElementById('picture'), g = c.getContext('2d');
             const well = document.getElementById('well'), [w, h] = document.getElementById('size').textContent.split('x').map(Number);
             const zoom = Math.max(0.02, Math.min((well.clientWidth - 28) / w, (well.clientHeight - 28) / h));
             const left = Math.round((well.clientWidth - w * zoom) / 2), top = Math.round((well.clientHeight - h * zoom) / 2);
             const x = Math.round(left + {x0} * w * zoom), y = Math.round(top + {y0} * h * zoom);
             return [...g.getImageData(x, y, Math.round({dx} * w * zoom), Math.round({dy} * h * zoom)).data];",
            dx = x1 - x0,
            dy = y1 - y0
        );
        self.run(&script).await.as_array().unwrap().iter().map(|byte| byte.as_i64().unwrap()).collect()
    }

    /// Waits until a box of the picture is settled and no longer as it was.
    pub(crate) async fn seen_to_change(&self, place: [f64; 4], before: &[i64]) {
        let start = Instant::now();
        loop {
            self.settled().await;
            if self.pixels(place).await != before {
                return;
            }
            assert!(start.elapsed() < PATIENCE, "the picture stays as it was");
            tokio::time::sleep(Duration::from_millis(40)).await;
        }
    }

    /// A place of the picture, given in shares of it, in the window.
    pub(crate) async fn at(&self, x: f64, y: f64) -> (i64, i64) {
        let script = format!(
            "const well = document.getElementById('well'), box = well.getBoundingClientRect();
             const [w, h] = document.getElementById('size').textContent.split('x').map(Number);
             const zoom = Math.max(0.02, Math.min((well.clientWidth - 28) / w, (well.clientHeight - 28) / h));
             return [Math.round(box.x + (well.clientWidth - w * zoom) / 2 + {x} * w * zoom), Math.round(box.y + (well.clientHeight - h * zoom) / 2 + {y} * h * zoom)];"
        );
        let found = self.run(&script).await;
        (found[0].as_i64().unwrap(), found[1].as_i64().unwrap())
    }

    /// Where a grip is, in the window.
    pub(crate) async fn grip(&self, name: &str) -> (i64, i64) {
        let script = format!(
            "const b = document.querySelector('[data-grip=\"{name}\"]').getBoundingClientRect(); return [Math.round(b.x + b.width / 2), Math.round(b.y + b.height / 2)]"
        );
        let at = self.run(&script).await;
        (at[0].as_i64().unwrap(), at[1].as_i64().unwrap())
    }

    /// Presses at one place, moves by some pixels in steps, and lets go.
    pub(crate) async fn drag(&self, (x, y): (i64, i64), (dx, dy): (i64, i64)) {
        let go = |x: i64, y: i64| PointerAction::MoveTo {
            duration: Some(Duration::from_millis(60)),
            x: x as f64,
            y: y as f64,
        };
        let mut actions =
            MouseActions::new("mouse".into()).then(go(x, y)).then(PointerAction::Down { button: 0 });
        for step in 1..=5 {
            actions = actions.then(go(x + dx * step / 5, y + dy * step / 5));
        }
        self.browser.perform_actions(actions.then(PointerAction::Up { button: 0 })).await.unwrap();
        self.browser.release_actions().await.unwrap();
    }

    /// Clicks twice at a place.
    pub(crate) async fn double(&self, (x, y): (i64, i64)) {
        let mut actions = MouseActions::new("mouse".into()).then(PointerAction::MoveTo {
            duration: Some(Duration::from_millis(60)),
            x: x as f64,
            y: y as f64,
        });
        for _ in 0..2 {
            actions = actions.then(PointerAction::Down { button: 0 }).then(PointerAction::Up { button: 0 });
        }
        self.browser.perform_actions(actions).await.unwrap();
        self.browser.release_actions().await.unwrap();
    }

    /// The same while a key is held down.
    pub(crate) async fn drag_with(&self, key: char, from: (i64, i64), by: (i64, i64)) {
        let down = KeyActions::new("keys".into()).then(KeyAction::Down { value: key });
        self.browser.perform_actions(down).await.unwrap();
        self.drag(from, by).await;
    }

    /// Presses at one place, moves by some pixels, and holds on.
    pub(crate) async fn hold(&self, (x, y): (i64, i64), (dx, dy): (i64, i64)) {
        let go = |x: i64, y: i64| PointerAction::MoveTo {
            duration: Some(Duration::from_millis(60)),
            x: x as f64,
            y: y as f64,
        };
        let actions = MouseActions::new("mouse".into())
            .then(go(x, y))
            .then(PointerAction::Down { button: 0 })
            .then(go(x + dx / 2, y + dy / 2))
            .then(go(x + dx, y + dy));
        self.browser.perform_actions(actions).await.unwrap();
    }

    /// Moves what is held to a place and lets go.
    pub(crate) async fn release_at(&self, (x, y): (i64, i64)) {
        let go =
            PointerAction::MoveTo { duration: Some(Duration::from_millis(60)), x: x as f64, y: y as f64 };
        let actions = MouseActions::new("mouse".into()).then(go).then(PointerAction::Up { button: 0 });
        self.browser.perform_actions(actions).await.unwrap();
        self.browser.release_actions().await.unwrap();
    }

    pub(crate) async fn press(&self, css: &str, keys: &str) {
        let found = self.browser.wait().at_most(PATIENCE).for_element(Locator::Css(css)).await;
        found.unwrap_or_else(|error| panic!("{css}: {error}")).send_keys(keys).await.unwrap();
    }

    pub(crate) async fn text(&self, css: &str) -> String {
        self.run(&format!("return document.querySelector({}).textContent", json!(css)))
            .await
            .as_str()
            .unwrap()
            .to_owned()
    }

    pub(crate) async fn value(&self, label: &str) -> String {
        let script =
            format!("return document.querySelector('#controls input.num[aria-label=\"{label}\"]').value");
        self.run(&script).await.as_str().unwrap().to_owned()
    }
}

impl Drop for Desk {
    /// The next test goes on with the browser, unless this one ended badly.
    fn drop(&mut self) {
        if !std::thread::panicking() {
            BROWSERS.lock().unwrap().push(self.browser.clone());
        }
    }
}

/// Width and height of a browser's window, with what is round the page.
const WINDOW: (u32, u32) = (1280, 940);

/// A driver with its browsers, which end when this process does: nothing holds their input open then.
const DRIVER: &str = "chromedriver --port=0 & read -r _; kill -TERM 0; sleep 0.3; kill -KILL 0";

async fn browser() -> Client {
    let mut driver = Command::new("setsid");
    driver.args(["sh", "-c", DRIVER]).stdin(Stdio::piped());
    let (mut driver, port) = started(driver, "started successfully on port ").await;
    // Held until the end.
    std::mem::forget(driver.stdin.take());
    std::mem::forget(driver);
    let options = json!({ "goog:chromeOptions": {
        "binary": "/usr/bin/chromium",
        "args": ["--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--hide-scrollbars",
                 "--disable-background-networking", "--disable-component-update", "--disable-sync",
                 format!("--window-size={},{}", WINDOW.0, WINDOW.1)],
    }});
    let Value::Object(options) = options else { unreachable!("written as an object above") };
    let mut builder = ClientBuilder::new(hyper_util::client::legacy::connect::HttpConnector::new());
    builder.capabilities(options);
    builder.connect(&format!("http://127.0.0.1:{}", port.trim_end_matches('.'))).await.unwrap()
}

/// The largest difference of two runs of bytes.
pub(crate) fn difference(a: &[i64], b: &[i64]) -> i64 {
    assert_eq!(a.len(), b.len());
    a.iter().zip(b).map(|(a, b)| (a - b).abs()).max().unwrap_or(0)
}

//! The pages. Each is a template filled with what the store holds.

use askama::Template;
use axum::extract::State;
use axum::response::Html;
use veil_core::control::{Choice, ChoiceOption, MediaSort};
use veil_core::plates::{IdKind, Role};
use veil_core::setup::ColourSpace;
use veil_demo::FRAMES_TO_OPEN;
use veil_pixels::cryptomatte::Id;
use veil_store::{MediaRecord, RenderRecord, RenderState, ShotRecord, Store};

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::setups::{ShotPath, load};

fn html(template: &impl Template) -> Result<Html<String>, WebError> {
    template.render().map(Html).map_err(|error| WebError::Internal(error.to_string()))
}

struct WallShow {
    name: String,
    shots: Vec<WallShot>,
}

struct WallShot {
    code: String,
    title: String,
    address: String,
    picture: String,
    frames: String,
    size: String,
    version: String,
    changed: String,
    render: Option<&'static str>,
    drawn: usize,
    total: usize,
    opens: bool,
}

#[derive(Template)]
#[template(path = "wall.html")]
struct Wall {
    shows: Vec<WallShow>,
}

pub(crate) async fn wall(State(app): State<App>) -> Result<Html<String>, WebError> {
    blocking(move || {
        let renders = app.store.renders()?;
        let mut shows = Vec::new();
        for show in app.store.shows()? {
            let root = app.store.folder().show(&show.folder);
            let shots = app.store.shots(&show.name)?.into_iter().map(|line| {
                let shot = line.shot;
                let is_demo = show.name == veil_demo::SHOW;
                let demo = veil_demo::Shot::ALL.iter().find(|demo| is_demo && demo.plan().code == shot.code);
                let total = shot.setup.picture.frames.count();
                let drawn =
                    demo.map_or(total, |demo| demo.plan().at_most(Some(total)).done_from_start(&root));
                wall_shot(&shot, line.version, &renders, drawn, total)
            });
            shows.push(WallShow { name: show.name.clone(), shots: shots.collect() });
        }
        html(&Wall { shows })
    })
    .await
}

fn wall_shot(
    shot: &ShotRecord,
    version: i32,
    renders: &[RenderRecord],
    drawn: usize,
    total: usize,
) -> WallShot {
    let picture = shot.setup.picture;
    let last = shot.setup.final_id().map_or(0, |id| id.0);
    let middle =
        picture.frames.first + (drawn.saturating_sub(1) as i32).min(picture.frames.count() as i32 / 2);
    let render = renders.iter().find(|render| render.show == shot.show && render.code == shot.code);
    WallShot {
        code: shot.code.clone(),
        title: shot.title.clone(),
        address: format!("/shots/{}/{}", shot.show, shot.code),
        picture: format!(
            "/api/shots/{}/{}/still?stage={last}&frame={middle}&revision={}",
            shot.show, shot.code, shot.revision
        ),
        frames: format!("{}–{}", picture.frames.first, picture.frames.last),
        size: format!("{}x{}", picture.width, picture.height),
        version: if version > 0 { format!("v{version:03}") } else { String::new() },
        changed: ago(shot.changed_at),
        render: render.and_then(|render| match render.state {
            RenderState::Queued | RenderState::Running => Some("rendering"),
            RenderState::Failed => Some("render failed"),
            RenderState::Done | RenderState::Cancelled => None,
        }),
        drawn,
        total,
        opens: drawn >= FRAMES_TO_OPEN.min(total),
    }
}

fn ago(at: i64) -> String {
    let now = std::time::SystemTime::now()
        .duration_since(std::time::UNIX_EPOCH)
        .map_or(0, |time| time.as_secs() as i64);
    match now - at {
        ..60 => "a moment ago".into(),
        seconds @ 60..3600 => format!("{} min ago", seconds / 60),
        seconds @ 3600..86400 => format!("{} h ago", seconds / 3600),
        seconds => format!("{} days ago", seconds / 86400),
    }
}

#[derive(Template)]
#[template(path = "workbench.html")]
struct Workbench {
    show: String,
    code: String,
    title: String,
}

pub(crate) async fn workbench(State(app): State<App>, path: ShotPath) -> Result<Html<String>, WebError> {
    let shot = load(&app, path).await?;
    html(&Workbench { show: shot.show, code: shot.code, title: shot.title })
}

struct PlateShow {
    name: String,
    folder: String,
    /// Whether it works in linear BT.709, not in ACEScg.
    is_usual: bool,
    media: Vec<PlateLine>,
    /// Ids and names of what a layer can be for.
    roles: &'static [ChoiceOption],
}

struct PlateLine {
    id: i32,
    path: String,
    frames: String,
    missing: String,
    size: String,
    data: String,
    layers: Vec<LayerLine>,
    /// Names with their swatches, by kind of Cryptomatte.
    things: Vec<(String, Vec<Swatch>)>,
    /// Whether it is pictures, not a table or a camera.
    is_plate: bool,
    lens: String,
    /// Id, name, and whether it is the one.
    colours: Vec<(&'static str, &'static str, bool)>,
    guessed: bool,
    reference: bool,
}

struct LayerLine {
    /// As the file has it; empty for the plain channels.
    name: String,
    channels: String,
    /// What it is known to be for.
    role: String,
    /// Whether the show was taught that.
    taught: bool,
    /// Whether a role can be taught.
    teachable: bool,
}

struct Swatch {
    name: String,
    colour: String,
}

#[derive(Template)]
#[template(path = "plates.html")]
struct Plates {
    shows: Vec<PlateShow>,
}

pub(crate) async fn plates(State(app): State<App>) -> Result<Html<String>, WebError> {
    blocking(move || {
        let mut shows = Vec::new();
        for show in app.store.shows()? {
            let taught = app.store.aliases(show.id)?;
            let line = |record: &MediaRecord| plate_line(record, &taught);
            let media = app.store.media(show.id)?.iter().map(line).collect();
            let folder = format!("media/{}", show.folder);
            shows.push(PlateShow {
                name: show.name,
                folder,
                is_usual: show.working.is_usual(),
                media,
                roles: Role::OPTIONS,
            });
        }
        html(&Plates { shows })
    })
    .await
}

fn plate_line(record: &MediaRecord, taught: &[(String, Role)]) -> PlateLine {
    let value = &record.inspected;
    let number = |pointer: &str| value.pointer(pointer).and_then(serde_json::Value::as_i64).unwrap_or(0);
    let corner = |which: &str| {
        let at = |end: &str, axis: usize| number(&format!("/{which}/{end}/{axis}"));
        (at("min", 0), at("min", 1), at("max", 0), at("max", 1))
    };
    let (x0, y0, x1, y1) = corner("display");
    let data = corner("data");
    let texts = |key: &str| -> Vec<String> {
        value[key].as_array().map(|list| list.iter().map(text_of).collect()).unwrap_or_default()
    };
    let missing = texts("missing");
    let other = texts("other_size");
    let list = |key: &str| value[key].as_array().map_or(&[][..], Vec::as_slice);
    let layers = list("layers").iter().map(|layer| layer_line(layer, taught)).collect();
    let chosen = crate::setups::media_of(record).colour;
    let sort = MediaSort::of(&record.path);
    let lens = list("texts").iter().find(|pair| pair[0] == "lens").map(|pair| text_of(&pair[1]));
    PlateLine {
        id: record.id,
        path: record.path.clone(),
        frames: match value["frames"].as_object() {
            Some(_) => format!("{}–{}", number("/frames/first"), number("/frames/last")),
            None => if sort == MediaSort::Plate { "still" } else { "" }.into(),
        },
        missing: match (missing.is_empty(), other.is_empty()) {
            (true, true) => String::new(),
            (false, _) => format!("missing: {}", missing.join(", ")),
            (true, false) => format!("other size: {}", other.join(", ")),
        },
        size: if sort == MediaSort::Plate {
            format!("{}x{}", x1 - x0 + 1, y1 - y0 + 1)
        } else {
            text_of(&value["compression"])
        },
        data: if sort != MediaSort::Plate || data == (x0, y0, x1, y1) {
            String::new()
        } else {
            format!("data {} {} to {} {}", data.0, data.1, data.2, data.3)
        },
        layers,
        things: list("things").iter().map(thing_line).collect(),
        is_plate: sort == MediaSort::Plate,
        lens: lens.unwrap_or_default(),
        colours: ColourSpace::all().map(|space| (space.id(), space.name(), space == chosen)).collect(),
        guessed: record.colour.is_none(),
        reference: record.reference,
    }
}

fn text_of(value: &serde_json::Value) -> String {
    value.as_str().map_or_else(|| value.to_string(), str::to_owned)
}

fn layer_line(value: &serde_json::Value, taught: &[(String, Role)]) -> LayerLine {
    let name = value["name"].as_str().unwrap_or_default();
    let channels = value["channels"].as_array().map_or(&[][..], Vec::as_slice);
    let channels: Vec<String> = channels.iter().map(text_of).collect();
    let taught = taught.iter().find(|(layer, _)| layer == name).map(|(_, role)| *role);
    let role = taught.or_else(|| serde_json::from_value(value["role"].clone()).ok());
    let ids: Option<IdKind> = serde_json::from_value(value["ids"].clone()).ok();
    LayerLine {
        name: name.into(),
        channels: channels.join(" "),
        role: match ids {
            Some(_) => "Cryptomatte".into(),
            None => role.map(Role::name).unwrap_or_default().into(),
        },
        taught: taught.is_some(),
        teachable: ids.is_none() && !name.is_empty() && (role.is_none() || taught.is_some()),
    }
}

fn thing_line(value: &serde_json::Value) -> (String, Vec<Swatch>) {
    let names = value["names"].as_array().map_or(&[][..], Vec::as_slice);
    let swatch = |name: &serde_json::Value| {
        let name = text_of(name);
        let [r, g, b] = Id::of(&name).swatch();
        Swatch { name, colour: format!("rgb({r} {g} {b})") }
    };
    (format!("{}s", text_of(&value["of"])), names.iter().map(swatch).collect())
}

struct RackLine {
    id: i32,
    name: String,
    number: u32,
    numbers: String,
    takes: String,
    gives: &'static str,
    faceplate: Vec<String>,
    rows: usize,
    used: Vec<UseLine>,
}

/// A row that a tool is used in.
#[derive(Clone)]
struct UseLine {
    tool: String,
    /// `SG010: Haze`.
    place: String,
    number: u32,
    /// Its shot's address.
    shot: String,
    stage: u32,
    /// Its frame before and after it takes the newest number.
    frame: i32,
    last: u32,
    own: bool,
    older: bool,
}

#[derive(Template)]
#[template(path = "rack.html")]
struct Rack {
    tools: Vec<RackLine>,
}

pub(crate) async fn rack(State(app): State<App>) -> Result<Html<String>, WebError> {
    blocking(move || {
        let used = uses(&app.store)?;
        let tools = app.store.tools()?.into_iter().map(|known| {
            let about = &known.newest.tool.about;
            let numbers: Vec<String> = known.numbers.iter().map(ToString::to_string).collect();
            let inputs: Vec<String> =
                about.inputs.iter().map(|input| format!("{} ({})", input.name, input.kind.word())).collect();
            RackLine {
                id: known.newest.id,
                name: about.name.clone(),
                number: about.number,
                numbers: numbers.join(", "),
                takes: inputs.join(", "),
                gives: about.gives.word(),
                faceplate: about.faceplate.iter().map(|entry| entry.label.clone()).collect(),
                rows: known.newest.tool.stages.len(),
                used: used
                    .iter()
                    .filter(|line| line.tool == about.name)
                    .map(|line| UseLine { older: line.number < about.number, ..line.clone() })
                    .collect(),
            }
        });
        html(&Rack { tools: tools.collect() })
    })
    .await
}

/// Every row that is a tool's, in every shot.
fn uses(store: &Store) -> Result<Vec<UseLine>, WebError> {
    let mut found = Vec::new();
    for show in store.shows()? {
        for line in store.shots(&show.name)? {
            let setup = &line.shot.setup;
            for row in &setup.stages {
                let Some(tool) = &row.tool else { continue };
                let frames = setup.picture.frames;
                found.push(UseLine {
                    tool: tool.name.clone(),
                    place: format!("{}: {}", line.shot.code, row.name),
                    number: tool.number,
                    shot: format!("{}/{}", line.shot.show, line.shot.code),
                    stage: row.id.0,
                    frame: frames.first + (frames.count() / 3) as i32,
                    last: setup.final_id().map_or(row.id.0, |id| id.0),
                    own: tool.own,
                    older: false,
                });
            }
        }
    }
    Ok(found)
}

struct RenderLine {
    id: i32,
    shot: String,
    address: String,
    row: String,
    frames: String,
    first: i32,
    output: String,
    state: RenderState,
    done: i32,
    total: usize,
    percent: usize,
    failed: Vec<String>,
}

impl RenderLine {
    fn word(&self) -> &'static str {
        match self.state {
            RenderState::Queued => "queued",
            RenderState::Running => "running",
            RenderState::Done => "done",
            RenderState::Failed => "failed",
            RenderState::Cancelled => "cancelled",
        }
    }
}

#[derive(Template)]
#[template(path = "renders.html")]
struct Renders {
    renders: Vec<RenderLine>,
}

pub(crate) async fn renders(State(app): State<App>) -> Result<Html<String>, WebError> {
    blocking(move || {
        let line = |render: RenderRecord| RenderLine {
            id: render.id,
            shot: format!("{} / {}", render.show, render.code),
            address: format!("/shots/{}/{}", render.show, render.code),
            row: render.setup.stage(render.stage).map_or_else(String::new, |row| row.name.clone()),
            frames: format!("{}–{}", render.frames.first, render.frames.last),
            first: render.frames.first,
            output: format!("renders/{}", render.output),
            state: render.state,
            done: render.done,
            total: render.frames.count(),
            percent: render.done.max(0) as usize * 100 / render.frames.count().max(1),
            failed: render
                .failed
                .iter()
                .map(|failed| format!("{}: {}", failed.frame, failed.message))
                .collect(),
        };
        html(&Renders { renders: app.store.renders()?.into_iter().map(line).collect() })
    })
    .await
}

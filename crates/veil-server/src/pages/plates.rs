//! The plates page: what a show's footage and files hold.

use askama::Template;
use axum::extract::{Query, State};
use axum::response::Html;
use veil_core::choice::{Choice, ChoiceOption};
use veil_core::controls::MediaSort;
use veil_core::plates::{IdKind, Role};
use veil_core::setup::ColourSpace;
use veil_pixels::key::cryptomatte::Id;
use veil_store::MediaRecord;

use super::head::{Head, ShowQuery, html};
use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;

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
    head: Head,
    /// Whether folders elsewhere may be used.
    elsewhere: bool,
    shows: Vec<PlateShow>,
}

pub(crate) async fn plates(
    State(app): State<App>,
    Query(asked): Query<ShowQuery>,
) -> Result<Html<String>, WebError> {
    blocking(move || {
        let head = Head::of(&app.store, &asked)?;
        let mut shows = Vec::new();
        for show in head.chosen(app.store.shows()?) {
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
        html(&Plates { head, elsewhere: !app.outside.is_empty(), shows })
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
    // A list that was made before runs were told has single numbers.
    let run = |gap: &serde_json::Value| match (gap["first"].as_i64(), gap["last"].as_i64()) {
        (Some(first), Some(last)) if first < last => format!("{first}–{last}"),
        (Some(first), _) => first.to_string(),
        _ => text_of(gap),
    };
    let missing: Vec<String> =
        value["missing"].as_array().map_or_else(Vec::new, |list| list.iter().map(run).collect());
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

//! The demo show: its footage is made in the background, and each shot is set up once it can be opened.

use std::sync::atomic::Ordering;

use serde_json::json;
use veil_core::setup::{ColourSpace, Media, MediaId, PictureFormat, Setting, Setup, StageEntry, StageId};
use veil_demo::{FRAMES_TO_OPEN, SHOW, Shot, ShotPlan};
use veil_store::NewShot;

use crate::App;
use crate::error::ServeError;
use crate::events::Event;

/// Makes show and shots at once, and their footage from now on.
pub(crate) fn start(app: &App, most: Option<usize>) -> Result<(), ServeError> {
    let show = app.store.make_show(SHOW)?;
    for shot in Shot::ALL {
        let plan = shot.plan().at_most(most);
        if app.store.shot(SHOW, plan.code).is_err() {
            let setup = set_up(shot, &plan);
            app.store.make_shot(&NewShot {
                show: SHOW,
                code: plan.code,
                title: plan.title,
                setup: &setup,
            })?;
        }
    }
    let app = app.clone();
    std::thread::Builder::new()
        .name("demo".into())
        .spawn(move || draw_all(&app, show.id, &show.folder, most))
        .map_err(|error| ServeError::Threads(error.to_string()))?;
    Ok(())
}

fn draw_all(app: &App, show: veil_store::Id, folder: &str, most: Option<usize>) {
    let (root, stop) = (app.store.folder().show(folder), app.stopping());
    for shot in Shot::ALL {
        let plan = shot.plan().at_most(most);
        let to_open = FRAMES_TO_OPEN.min(plan.frames.count());
        let mut done = 0;
        let drawn = app.cpu.rest().install(|| {
            veil_demo::draw(shot, plan.frames, &root, &stop, |_| {
                done += 1;
                let opens = done >= to_open;
                app.tell(Event::Demo { code: plan.code.into(), done, total: plan.frames.count(), opens });
                if done == to_open || done == plan.frames.count() {
                    list(app, show, &root, &plan);
                }
            })
        });
        if let Err(error) = drawn {
            tracing::error!(shot = plan.code, %error, "the demo footage could not be made");
            return;
        }
        if stop.load(Ordering::Relaxed) {
            return;
        }
    }
}

fn list(app: &App, show: veil_store::Id, root: &std::path::Path, plan: &ShotPlan) {
    for path in [plan.pattern(), veil_demo::camera_file(plan.code)] {
        let inspected = veil_media::inspect(&root.join(&path)).map_err(|error| error.to_string());
        let listed = inspected.and_then(|inspected| {
            let mut value = json!(inspected);
            value["path"] = json!(path);
            app.store.list_media(show, &path, &value).map_err(|error| error.to_string())
        });
        if let Err(error) = listed {
            tracing::warn!(shot = plan.code, error, "a medium of the demo could not be listed");
        }
    }
}

fn set_up(shot: Shot, plan: &ShotPlan) -> Setup {
    let picture = PictureFormat {
        width: plan.width,
        height: plan.height,
        fps: 24.0,
        frames: plan.frames,
        working: Default::default(),
    };
    let mut setup = Setup::empty(plan.title, picture);
    setup.media.push(Media {
        id: MediaId(1),
        name: plan.title.into(),
        path: plan.pattern(),
        frames: Some(plan.frames),
        colour: ColourSpace::Linear,
        content: None,
    });
    let rows = match shot {
        Shot::KilnYard => haze(),
        Shot::LanternBarge | Shot::LookOut | Shot::Float => vec![plate()],
    };
    let before_final = rows.last().map(|row| row.id);
    setup.stages.splice(0..0, rows);
    if let (Some(last), Some(from)) = (setup.stages.last_mut(), before_final) {
        *last = last.clone().taking("main", from);
    }
    setup
}

const PLATE: StageId = StageId(2);

fn plate() -> StageEntry {
    StageEntry::new(PLATE, "plate", "Plate").with("media", Setting::Media { media: MediaId(1) })
}

/// Bent air over the kiln: how steeply a churning noise rises, raised until the eye can see it, within a soft
/// matte of kiln and chimney and an ellipse above the mouth.
fn haze() -> Vec<StageEntry> {
    let (noise, steep, strong) = (StageId(3), StageId(4), StageId(5));
    let (picked, shape, over) = (StageId(6), StageId(7), StageId(8));
    let pair = |x: f64, y: f64| Setting::Axes {
        axes: vec![veil_core::feed::Feed::Fixed(x), veil_core::feed::Feed::Fixed(y)],
    };
    let number = Setting::number;
    let names = ["kiln", "chimney"].map(String::from).to_vec();
    vec![
        plate(),
        StageEntry::new(noise, "noise", "Noise")
            .with("size", pair(46.0, 34.0))
            .with("churn", number(0.09))
            .with("octaves", number(3.0)),
        StageEntry::new(steep, "steepness_map", "Steepness map").taking("main", noise),
        StageEntry::new(strong, "strength", "Strength")
            .taking("main", steep)
            .with("x", number(60.0))
            .with("y", number(45.0)),
        StageEntry::new(picked, "id_pick", "ID pick")
            .with("media", Setting::Media { media: MediaId(1) })
            .with("names", Setting::Names(names)),
        StageEntry::new(shape, "ellipse", "Ellipse")
            .taking("matte", picked)
            .with("matte_soften", number(16.0))
            .with("centre", pair(620.0, 300.0))
            .with("radii", pair(200.0, 330.0))
            .with("softness", number(160.0)),
        StageEntry::new(over, "displace", "Displace")
            .taking("main", PLATE)
            .taking("map", strong)
            .taking("matte", shape)
            .with("strength_x", number(2.0))
            .with("strength_y", number(2.0))
            .with("softness", number(0.3)),
    ]
}

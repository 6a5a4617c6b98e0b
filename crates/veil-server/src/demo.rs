//! The demo show: its footage is made in the background, and each shot is set up once it can be opened.

use std::sync::atomic::Ordering;

use serde_json::json;
use veil_core::setup::{Command, CommandError, Edit, Setup, Tool};
use veil_demo::{Element, FRAMES_TO_OPEN, SHOW, Shot, ShotPlan};
use veil_store::NewShot;

mod setups;

use crate::App;
use crate::error::{ServeError, WebError};
use crate::events::Event;
use crate::frames::small_picture;
use veil_pixels::Cancel;

/// What a shot of the demo is made of.
#[derive(Clone, Copy)]
enum Subject {
    /// A plate that is drawn.
    Plate(Shot),
    /// Nothing but its setup.
    Element(Element),
}

impl Subject {
    fn plan(self) -> ShotPlan {
        match self {
            Self::Plate(shot) => shot.plan(),
            Self::Element(element) => element.plan(),
        }
    }

    /// In show order.
    fn all() -> Vec<Self> {
        let plates = Shot::ALL.into_iter().map(Self::Plate);
        let mut all: Vec<Self> = plates.chain(Element::ALL.into_iter().map(Self::Element)).collect();
        all.sort_by_key(|subject| subject.plan().code);
        all
    }
}

/// The demo's shots in show order, as they are when all is done to them.
pub fn demo_setups() -> Result<Vec<(ShotPlan, Setup)>, CommandError> {
    let made = |subject: Subject| {
        let plan = subject.plan();
        let setups::Made { mut setup, steps } = setups::made(subject, &plan);
        for setups::Step { commands, .. } in steps {
            setup = Edit::of(&Command::Together { commands }, &setup)?.0;
        }
        Ok((plan, setup))
    };
    Subject::all().into_iter().map(made).collect()
}

/// Makes show and shots at once, and their footage from now on.
pub(crate) fn start(app: &App, most: Option<usize>) -> Result<(), ServeError> {
    let show = app.store.make_show(SHOW)?;
    for subject in Subject::all() {
        let plan = subject.plan().at_most(most);
        if app.store.shot(SHOW, plan.code).is_err() {
            make_shot(app, subject, &plan)?;
        }
    }
    let app = app.clone();
    std::thread::Builder::new()
        .name("demo".into())
        .spawn(move || draw_all(&app, show.id, &show.folder, most))
        .map_err(|error| ServeError::Threads(error.to_string()))?;
    Ok(())
}

/// A shot with its versions, the newest of which is the live setup.
fn make_shot(app: &App, subject: Subject, plan: &ShotPlan) -> Result<(), ServeError> {
    let setups::Made { setup, steps } = setups::made(subject, plan);
    let new = NewShot { show: SHOW, code: plan.code, title: plan.title, setup: &setup };
    let mut record = app.store.make_shot(&new)?;
    for setups::Step { version, commands } in steps {
        if !version.is_empty() {
            app.store.keep_version(record.id, version)?;
        }
        app.store.edit(record.id, record.revision, &Command::Together { commands })?;
        record = app.store.shot_by_id(record.id)?;
    }
    Ok(())
}

/// The tools that a shot's setup was made with, where the rack has none of their names.
fn put_on_rack(app: &App, code: &str) -> Result<(), WebError> {
    let shot = app.store.shot(SHOW, code)?;
    let known: Vec<String> = app.store.tools()?.into_iter().map(|tool| tool.newest.tool.about.name).collect();
    for row in &shot.setup.stages {
        let Some(tool) = Tool::from_row(&shot.setup, row.id) else { continue };
        if !known.contains(&tool.about.name) {
            let picture = small_picture(app, &shot, row.id, &Cancel::new())?;
            app.store.keep_tool(&tool, &picture)?;
        }
    }
    Ok(())
}

fn draw_all(app: &App, show: veil_store::Id, folder: &str, most: Option<usize>) {
    let (root, stop) = (app.store.folder().show(folder), app.stopping());
    for element in Element::ALL {
        if let Err(error) = element.write(&root) {
            tracing::error!(shot = element.plan().code, %error, "what an element is made of could not be written");
        }
        on_rack(app, element.plan().code);
    }
    list(app, show, &root, &[veil_demo::CREST.into()]);
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
                    list(app, show, &root, &[plan.pattern(), veil_demo::camera_file(plan.code)]);
                }
                if done == to_open {
                    on_rack(app, plan.code);
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

fn on_rack(app: &App, code: &str) {
    if let Err(error) = put_on_rack(app, code) {
        tracing::warn!(shot = code, %error, "a tool of the demo could not be kept");
    }
}

fn list(app: &App, show: veil_store::Id, root: &std::path::Path, paths: &[String]) {
    for path in paths {
        let inspected = veil_media::inspect(&root.join(path)).map_err(|error| error.to_string());
        let listed = inspected.and_then(|inspected| {
            let mut value = json!(inspected);
            value["path"] = json!(path);
            app.store.list_media(show, path, &value).map_err(|error| error.to_string())
        });
        if let Err(error) = listed {
            tracing::warn!(path, error, "a medium of the demo could not be listed");
        }
    }
}

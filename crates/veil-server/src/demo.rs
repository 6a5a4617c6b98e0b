//! The demo show: its footage is made in the background, and each shot is set up once it can be opened.

use std::path::Path;
use std::sync::PoisonError;
use std::sync::atomic::Ordering;
use std::thread::JoinHandle;
use std::time::Duration;

use serde_json::json;
use veil_core::setup::{Command, Edit, Frames, Setup};
use veil_demo::{Beside, Element, SHOW, Shot, ShotPlan};
use veil_store::{BinRecord, Binnable, NewShot, NewShow, ShowRecord};

mod making;
mod setups;

use crate::App;
use crate::error::ServeError;
use crate::event::Event;

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
        let plates = Shot::ALL.into_iter().filter(|shot| !shot.is_beside()).map(Self::Plate);
        let mut all: Vec<Self> = plates.chain(Element::ALL.into_iter().map(Self::Element)).collect();
        all.sort_by_key(|subject| subject.plan().code);
        all
    }
}

/// The demo's shots in show order, as they are when all is done to them.
pub fn demo_setups() -> Result<Vec<(ShotPlan, Setup)>, ServeError> {
    let made = |subject: Subject| {
        let plan = subject.plan();
        let making::Made { mut setup, steps } = setups::made(subject, &plan)?;
        for making::Step { commands, .. } in steps {
            setup = Edit::of(&Command::Together { commands }, &setup)?.0;
        }
        Ok((plan, setup))
    };
    Subject::all().into_iter().map(made).collect()
}

impl App {
    /// Makes the demo show where it is missing: show and shots at once, and their footage from now on; at most so many
    /// frames of each shot. What it gives ends when all is made.
    pub fn make_demo(&self, most: Option<usize>) -> Result<JoinHandle<()>, ServeError> {
        let show = show(self)?;
        for subject in Subject::all() {
            let plan = subject.plan().at_most(most);
            if self.store.shot(SHOW, plan.code).is_err() {
                make_shot(self, subject, &plan)?;
            }
        }
        let app = self.clone();
        std::thread::Builder::new()
            .name("demo".into())
            .spawn(move || draw_all(&app, show.id, &show.folder, most))
            .map_err(|error| ServeError::Threads(error.to_string()))
    }
}

/// The demo's show: as it is, out of the bin, or made.
fn show(app: &App) -> Result<ShowRecord, ServeError> {
    if let Ok(known) = app.store.show(SHOW) {
        return Ok(known);
    }
    let is_demo = |record: &BinRecord| record.kind == Binnable::Show && record.name == SHOW;
    if let Some(record) = app.store.bin()?.into_iter().find(is_demo) {
        app.store.put_back(record.id)?;
        return Ok(app.store.show(SHOW)?);
    }
    Ok(app.store.make_show(&NewShow { size: [960, 540], ..NewShow::usual(SHOW) })?)
}

/// A shot with its versions, the newest of which is the live setup.
fn make_shot(app: &App, subject: Subject, plan: &ShotPlan) -> Result<(), ServeError> {
    let making::Made { setup, steps } = setups::made(subject, plan)?;
    let new = NewShot { show: SHOW, code: plan.code, title: plan.title, setup: &setup };
    let mut record = app.store.make_shot(&new)?;
    for making::Step { version, commands } in steps {
        app.store.keep_version(record.id, version)?;
        app.store.edit(record.id, record.revision, &Command::Together { commands })?;
        record = app.store.shot_by_id(record.id)?;
    }
    Ok(())
}

/// Draws what is missing, frame by frame, while nobody waits for a picture.
fn draw_all(app: &App, show: veil_store::Id, folder: &str, most: Option<usize>) {
    // Whoever comes second finds what is missing then.
    let _drawing = app.drawing.lock().unwrap_or_else(PoisonError::into_inner);
    let (root, stop) = (app.store.folder().show(folder), app.stopping());
    for element in Element::ALL {
        if let Err(error) = element.write(&root) {
            tracing::error!(shot = element.plan().code, %error, "what an element is made of could not be written");
        }
    }
    list(app, show, &root, &[veil_demo::CREST.into()]);
    let mut footage: Vec<Footage> =
        Shot::ALL.into_iter().map(|shot| Footage::of(shot, most, &root)).collect();
    for made in footage.iter().filter(|made| made.done > 0) {
        tell(app, show, &root, made);
    }
    while let Some(at) = next(&footage, app.looked_at().as_deref()) {
        // Renders, bakes and tracks use the same threads.
        while app.is_at_work() && !stop.load(Ordering::Relaxed) {
            std::thread::sleep(PAUSE);
        }
        // Nothing is drawn for a show that was taken away.
        let is_there = app.store.shows().is_ok_and(|shows| shows.iter().any(|known| known.id == show));
        if !is_there || stop.load(Ordering::Relaxed) {
            return;
        }
        let made = &mut footage[at];
        let frame = made.plan.frames.first + made.done as i32;
        let one = Frames { first: frame, last: frame };
        let beside = Beside { stop: &stop, turn: &|| app.cpu.wait_until_idle(&stop) };
        let drawn = app.cpu.rest().install(|| veil_demo::draw(made.shot, one, &root, beside, |_| {}));
        if let Err(error) = drawn {
            tracing::error!(shot = made.plan.code, %error, "the demo footage could not be made");
            return;
        }
        if stop.load(Ordering::Relaxed) {
            return;
        }
        made.done = made.plan.done_from_start(&root);
        tell(app, show, &root, made);
    }
}

/// How far a shot's footage is.
struct Footage {
    shot: Shot,
    plan: ShotPlan,
    done: usize,
}

impl Footage {
    fn of(shot: Shot, most: Option<usize>, root: &Path) -> Self {
        let plan = shot.plan().at_most(most);
        Self { shot, done: plan.done_from_start(root), plan }
    }

    /// The first frame of every shot comes first, then what is looked at, then a few frames of each, then the rest.
    fn turn(&self, looked_at: Option<&str>) -> u8 {
        match self.done {
            0 => 0,
            _ if looked_at == Some(self.plan.code) => 1,
            1..A_FEW => 2,
            _ => 3,
        }
    }
}

/// How long drawing looks away from what a person asked for.
const PAUSE: Duration = Duration::from_millis(50);

/// Frames of each shot that are drawn before all of any.
const A_FEW: usize = 8;

/// Which shot's next frame is drawn.
fn next(footage: &[Footage], looked_at: Option<&str>) -> Option<usize> {
    let wanting = (0..footage.len()).filter(|at| footage[*at].done < footage[*at].plan.frames.count());
    wanting.min_by_key(|at| footage[*at].turn(looked_at))
}

/// What is known of a shot's footage once another frame is there.
fn tell(app: &App, show: veil_store::Id, root: &Path, made: &Footage) {
    let (done, total) = (made.done, made.plan.frames.count());
    if done == 1 || done == total {
        list(app, show, root, &[made.plan.pattern(), veil_demo::camera_file(made.plan.code)]);
    }
    app.tell(Event::Demo { code: made.plan.code.into(), done, total });
}

fn list(app: &App, show: veil_store::Id, root: &Path, paths: &[String]) {
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

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    use super::*;

    #[test]
    fn every_shot_can_be_opened_before_any_is_drawn_on_and_an_open_one_goes_first() {
        let mut footage: Vec<Footage> =
            Shot::ALL.into_iter().map(|shot| Footage { shot, plan: shot.plan(), done: 0 }).collect();
        let looked_at = footage[3].plan.code;
        let mut order = Vec::new();
        while let Some(at) = next(&footage, Some(looked_at)) {
            footage[at].done += 1;
            order.push(at);
        }
        let (shots, open) = (footage.len(), footage[3].plan.frames.count());
        assert!((0..shots).all(|shot| order[..shots].contains(&shot)));
        assert!(order[shots..shots + open - 1].iter().all(|at| *at == 3));
        // Of a still there is but one.
        let wanted: Vec<usize> = footage.iter().map(|made| made.plan.frames.count().min(A_FEW)).collect();
        let few = wanted.iter().sum::<usize>() + open - A_FEW;
        let drawn = |shot: usize| order[..few].iter().filter(|at| **at == shot).count();
        assert!((0..shots).all(|shot| drawn(shot) >= wanted[shot]));
        assert_eq!(order.len(), footage.iter().map(|made| made.plan.frames.count()).sum::<usize>());
    }

    /// What a person finds under a tool's name in the demo is what the rack has under it.
    #[test]
    fn the_demo_uses_the_tools_that_ship_and_changes_nothing_inside_them() {
        let shipped: Vec<_> =
            crate::shipped::shipped().unwrap().into_iter().map(|(tool, _)| tool.about).collect();
        for tool in shipped.iter().filter(|tool| tool.main_input().is_some()) {
            // Below an amount of 1 this input is seen, so its name must not promise an element.
            let under = tool.inputs[0].name.as_str();
            assert!(
                ["picture", "background", "plate"].contains(&under),
                "`{}` lies over its `{under}`",
                tool.name
            );
        }
        let mut unused: BTreeSet<String> = shipped.into_iter().map(|tool| tool.name).collect();
        for (plan, setup) in demo_setups().unwrap() {
            for tool in setup.stages.iter().filter_map(|row| row.tool.as_ref()) {
                assert!(!tool.own, "{}: `{}` is changed inside", plan.code, tool.name);
                unused.remove(&tool.name);
            }
        }
        // The yard's haze is set up row by row.
        assert_eq!(unused, BTreeSet::from(["haze".to_owned()]));
    }
}

//! Whether a setup holds together.

use std::collections::{BTreeMap, BTreeSet};

use crate::deep::deep;
use crate::feed::{ControlAxis, Feed};
use crate::setup::{FORMAT, Link, Setting, Setup, Source, StageEntry, StageId};
use crate::shape;
use crate::stages;

/// What is wrong with a setup, and where.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum SetupError {
    /// From a newer program.
    #[error("this setup has format {0}; this program reads up to {FORMAT}")]
    Format(u32),
    /// A size, rate or range that is none.
    #[error("the picture's {what} is not usable")]
    Picture {
        /// Which part.
        what: &'static str,
    },
    /// A range that ends before it begins.
    #[error("the frame range of `{0}` ends before it begins")]
    Media(String),
    /// Two stages with one id.
    #[error("two stages have the id {}", .0.0)]
    TwiceId(StageId),
    /// Two stages with one name.
    #[error("two stages are called `{0}`")]
    TwiceName(String),
    /// A stage without a name.
    #[error("a stage has no name")]
    NoName,
    /// A kind of stage that this program does not have.
    #[error("`{stage}` is of the unknown kind `{kind}`")]
    UnknownKind {
        /// Its name.
        stage: String,
        /// The unknown kind.
        kind: String,
    },
    /// A slot that the kind does not have.
    #[error("`{stage}` has no slot `{slot}`")]
    UnknownSlot {
        /// Its name.
        stage: String,
        /// The unknown slot.
        slot: String,
    },
    /// A link to nothing.
    #[error("`{stage}` takes something in `{slot}` that is not there")]
    NoSource {
        /// The taker.
        stage: String,
        /// Its slot.
        slot: String,
    },
    /// Stages that need each other.
    #[error("a loop: {}", .0.join(" → "))]
    Loop(Vec<String>),
    /// A link of the wrong kind.
    #[error("`{stage}` wants {wanted} in `{slot}`, but `{source_name}` gives a {found}")]
    WrongKind {
        /// The taker.
        stage: String,
        /// Its slot.
        slot: String,
        /// What it wants.
        wanted: &'static str,
        /// Who gives.
        source_name: String,
        /// What it gives.
        found: &'static str,
    },
    /// A control that the kind does not have.
    #[error("`{stage}` has no control `{control}`")]
    UnknownControl {
        /// Its name.
        stage: String,
        /// The unknown control.
        control: String,
    },
    /// A value that does not fit its control.
    #[error("`{control}` of `{stage}` {why}")]
    Value {
        /// The stage.
        stage: String,
        /// The control, as shown.
        control: String,
        /// What is wanted.
        why: String,
    },
    /// A medium that the setup does not list.
    #[error("`{stage}` uses medium {media}, which the setup does not list")]
    NoMedia {
        /// The stage.
        stage: String,
        /// The medium's number.
        media: u32,
    },
    /// A path that leaves the folder.
    #[error("the path `{0}` leads out of the show's folder")]
    Path(String),
    /// A row inside of something that is no tool.
    #[error("`{0}` is inside a row that is no tool")]
    Inside(String),
    /// A control follows what is not there.
    #[error("`{follower}` follows `{followed}`, which is not a number")]
    Followed {
        /// Which control.
        follower: String,
        /// What it follows.
        followed: String,
    },
    /// A control that in the end follows more than can be worked out at every frame.
    #[error("`{0}` follows more than {MOST_FOLLOWED} numbers, one through another")]
    FollowsTooMany(String),
    /// A control of one's own that does not hold together.
    #[error("`{name}` {why}")]
    Own {
        /// Its name.
        name: String,
        /// What is wrong.
        why: String,
    },
    /// A row follows one that is not there, of another kind, or in the end itself.
    #[error("`{0}` follows a row that is not there, is of another kind, or follows it in turn")]
    Copy(String),
    /// The last row is missing, or not last.
    #[error("the final row must be there once, and be the last")]
    Final,
}

/// Most numbers that are worked out for one that follows them, one through another.
const MOST_FOLLOWED: u64 = 100_000;
/// Most pixels of a picture: 8192×8192, a gigabyte of floats.
const MOST_PIXELS: u64 = 1 << 26;
/// The largest picture side.
const LARGEST_SIDE: u32 = 32_768;

impl Setup {
    /// Checks everything; the first fault found is given.
    pub fn check(&self) -> Result<(), SetupError> {
        if self.format == 0 || self.format > FORMAT {
            return Err(SetupError::Format(self.format));
        }
        self.check_picture()?;
        for media in &self.media {
            check_path(&media.path)?;
            if media.frames.is_some_and(|frames| frames.first > frames.last) {
                return Err(SetupError::Media(media.path.clone()));
            }
        }
        self.check_names()?;
        self.check_loops()?;
        for (row, entry) in self.stages.iter().enumerate() {
            self.check_kind(entry)?;
            self.check_links(row, entry)?;
            self.check_copy(entry)?;
            self.check_controls(entry)?;
        }
        self.check_own()?;
        self.check_follows()?;
        let finals = self.stages.iter().filter(|stage| stage.kind.is_final()).count();
        let last = self.stages.last().is_some_and(|stage| stage.kind.is_final());
        if finals == 1 && last { Ok(()) } else { Err(SetupError::Final) }
    }

    fn check_picture(&self) -> Result<(), SetupError> {
        let picture = self.picture;
        let side = |side: u32| (1..=LARGEST_SIDE).contains(&side);
        match () {
            () if !side(picture.width) || !side(picture.height) => Err(SetupError::Picture { what: "size" }),
            () if !(picture.fps > 0.0 && picture.fps <= 1000.0) => Err(SetupError::Picture { what: "rate" }),
            () if !(0.05..=20.0).contains(&picture.aspect) => {
                Err(SetupError::Picture { what: "shape of pixels (0.05 to 20)" })
            }
            () if u64::from(picture.width) * u64::from(picture.height) > MOST_PIXELS => {
                Err(SetupError::Picture { what: "size (more than 67 million pixels)" })
            }
            () if !picture.frames.is_usable() => Err(SetupError::Picture { what: "frame range" }),
            () => Ok(()),
        }
    }

    fn check_names(&self) -> Result<(), SetupError> {
        let (mut ids, mut names) = (BTreeSet::new(), BTreeSet::new());
        for entry in &self.stages {
            if !ids.insert(entry.id) {
                return Err(SetupError::TwiceId(entry.id));
            }
            if entry.name.trim().is_empty() {
                return Err(SetupError::NoName);
            }
            if !names.insert(&entry.name) {
                return Err(SetupError::TwiceName(entry.name.clone()));
            }
        }
        Ok(())
    }

    /// Follows links upwards from every stage; a stage met again on the way is a loop, which is named.
    fn check_loops(&self) -> Result<(), SetupError> {
        let below = |at: usize, id: StageId| self.row(id).is_none_or(|row| row < at);
        if self.stages.iter().enumerate().all(|(at, row)| self.needs(row).into_iter().all(|id| below(at, id)))
        {
            return Ok(());
        }
        let mut done = BTreeSet::new();
        for entry in &self.stages {
            let mut way = vec![entry.id];
            let mut open: Vec<Vec<StageId>> = vec![self.needs(entry)];
            while let Some(branch) = open.last_mut() {
                let Some(next) = branch.pop() else {
                    open.pop();
                    done.extend(way.pop());
                    continue;
                };
                if let Some(start) = way.iter().position(|id| *id == next) {
                    let name =
                        |id: &StageId| self.stage(*id).map_or_else(String::new, |stage| stage.name.clone());
                    let mut names: Vec<String> = way[start..].iter().rev().map(name).collect();
                    names.push(names[0].clone());
                    return Err(SetupError::Loop(names));
                }
                if let Some(stage) = self.stage(next).filter(|_| !done.contains(&next)) {
                    way.push(next);
                    open.push(self.needs(stage));
                }
            }
        }
        Ok(())
    }

    /// The stages that a stage needs: those it takes, and for a tool's row the one that gives its result.
    pub fn needs(&self, entry: &StageEntry) -> Vec<StageId> {
        let linked = entry.links.values().filter_map(|link| match link.from {
            Source::Stage(id) => Some(id),
            Source::Input(_) => None,
        });
        // What a tool takes must stand above the rows inside it, too.
        let outer = entry.inside.and_then(|tool| self.stage(tool)).into_iter().flat_map(|tool| {
            tool.links.values().filter_map(|link| match link.from {
                Source::Stage(id) => Some(id),
                Source::Input(_) => None,
            })
        });
        linked.chain(entry.tool.as_ref().map(|tool| tool.result)).chain(outer).collect()
    }

    fn check_kind(&self, entry: &StageEntry) -> Result<(), SetupError> {
        if entry.kind.is_tool() != entry.tool.is_some()
            || (!entry.kind.is_tool() && stages::find(&entry.kind).is_none())
        {
            return Err(SetupError::UnknownKind { stage: entry.name.clone(), kind: entry.kind.0.clone() });
        }
        let inside_tool = |row: StageId| self.stage(row).is_some_and(|row| row.tool.is_some());
        if entry.inside.is_some_and(|row| !inside_tool(row)) {
            return Err(SetupError::Inside(entry.name.clone()));
        }
        Ok(())
    }

    /// What a control follows is there, and following on from it never leads back.
    fn check_follows(&self) -> Result<(), SetupError> {
        let name = |of: &ControlAxis| {
            if let Some(own) = self.own(of) {
                return own.name.clone();
            }
            let row = self.stage(of.stage);
            let spec = row.and_then(|row| shape::control(row, &of.control));
            let axis = spec.and_then(|spec| spec.kind.follow_names().get(of.axis)).map_or("", |axis| *axis);
            let words = [spec.map_or(of.control.as_str(), |spec| spec.name), axis, "of"];
            let row = row.map_or("a row that is gone", |row| row.name.as_str());
            words.into_iter().chain([row]).filter(|word| !word.is_empty()).collect::<Vec<_>>().join(" ")
        };
        let mut done = BTreeMap::new();
        for start in self.followers() {
            if !done.contains_key(&start) {
                self.check_followed(&mut vec![start], &mut done, &name)?;
            }
        }
        Ok(())
    }

    /// Goes along all that the last control of a way follows; one met again on the way is a loop, which is named. Gives
    /// how many numbers are worked out for it, and notes that in `done`.
    fn check_followed(
        &self,
        way: &mut Vec<ControlAxis>,
        done: &mut BTreeMap<ControlAxis, u64>,
        name: &impl Fn(&ControlAxis) -> String,
    ) -> Result<u64, SetupError> {
        let here = way[way.len() - 1].clone();
        let mut worked_out = 1;
        for next in self.followed_by(&here) {
            if let Some(met) = way.iter().position(|one| *one == next) {
                let mut names: Vec<String> = way[met..].iter().map(name).collect();
                names.push(names[0].clone());
                return Err(SetupError::Loop(names));
            }
            if !self.is_number(&next) {
                return Err(SetupError::Followed { follower: name(&here), followed: name(&next) });
            }
            worked_out += match done.get(&next) {
                Some(known) => *known,
                None => {
                    way.push(next);
                    let found = deep(|| self.check_followed(way, done, name))?;
                    way.pop();
                    found
                }
            };
        }
        if worked_out > MOST_FOLLOWED {
            return Err(SetupError::FollowsTooMany(name(&here)));
        }
        done.insert(here, worked_out);
        Ok(worked_out)
    }

    /// Every number that its row, or whoever owns it, says follows another.
    fn followers(&self) -> Vec<ControlAxis> {
        let own = self.owners().flat_map(|stage| {
            self.own_of(stage).iter().map(move |own| (stage, own.id.as_str(), &own.setting))
        });
        let of_rows = self.stages.iter().flat_map(|row| {
            row.controls.iter().map(|(control, setting)| (row.id, control.as_str(), setting))
        });
        own.chain(of_rows)
            .flat_map(|(stage, control, setting)| {
                let feeds = setting.feeds().iter().enumerate().filter(|(_, feed)| !feed.follows().is_empty());
                let axes: Vec<usize> = feeds.map(|(axis, _)| axis).collect();
                axes.into_iter().map(move |axis| ControlAxis { stage, control: control.to_owned(), axis })
            })
            .collect()
    }

    fn is_number(&self, of: &ControlAxis) -> bool {
        if let Some(own) = self.own(of) {
            return of.axis < own.kind.axes().len();
        }
        let row = self.stage(of.stage);
        row.and_then(|row| shape::control(row, &of.control))
            .is_some_and(|spec| of.axis < spec.kind.follow_names().len())
    }

    /// What one number of a control follows.
    fn followed_by(&self, of: &ControlAxis) -> Vec<ControlAxis> {
        let setting = match self.own(of) {
            Some(own) => Some(&own.setting),
            None => self.stage(of.stage).and_then(|row| self.setting(row, &of.control)),
        };
        let feed = setting.and_then(|setting| setting.feeds().get(of.axis));
        feed.map(|feed| feed.follows().into_iter().cloned().collect()).unwrap_or_default()
    }

    /// Whether the controls of one's own hold together: names, words of their own, and settings that fit.
    fn check_own(&self) -> Result<(), SetupError> {
        for owner in self.owners() {
            let (mut ids, mut words) = (BTreeSet::new(), BTreeSet::new());
            for own in self.own_of(owner) {
                let fault = |why: &str| SetupError::Own { name: own.name.clone(), why: why.into() };
                if own.name.trim().is_empty() || !ids.insert(&own.id) || !words.insert(&own.word) {
                    return Err(fault("needs a name, an id and a word that no other has"));
                }
                if own.setting.feeds().len() != own.kind.axes().len() {
                    return Err(fault("has another number of values than its kind"));
                }
                own.setting.feeds().iter().try_for_each(Feed::check).map_err(fault)?;
            }
        }
        Ok(())
    }

    /// A copy follows a row of its own kind, and in the end one that follows none.
    fn check_copy(&self, entry: &StageEntry) -> Result<(), SetupError> {
        let fault = || SetupError::Copy(entry.name.clone());
        let mut of = entry.copy_of;
        for _ in 0..self.stages.len() {
            let Some(id) = of else { return Ok(()) };
            let original = self.stage(id).filter(|row| row.kind == entry.kind).ok_or_else(fault)?;
            of = original.copy_of;
        }
        Err(fault())
    }

    fn check_links(&self, row: usize, entry: &StageEntry) -> Result<(), SetupError> {
        let slots = shape::slots(entry);
        for (id, link) in &entry.links {
            let unknown = || SetupError::UnknownSlot { stage: entry.name.clone(), slot: id.clone() };
            let slot = slots.iter().find(|slot| slot.id == id).ok_or_else(unknown)?;
            let missing = || SetupError::NoSource { stage: entry.name.clone(), slot: slot.name.clone() };
            let source_name = self.link_name(*link, entry).ok_or_else(missing)?;
            let found = shape::linked_kind(self, *link, entry.inside);
            if !slot.accepts.takes(found) {
                return Err(SetupError::WrongKind {
                    stage: entry.name.clone(),
                    slot: slot.name.clone(),
                    wanted: slot.accepts.word(),
                    source_name,
                    found: found.word(),
                });
            }
        }
        match self.needs(entry).into_iter().find(|need| self.row(*need).is_none_or(|above| above >= row)) {
            None => Ok(()),
            Some(need) => {
                let slot = self.stage(need).map_or_else(|| "result".into(), |stage| stage.name.clone());
                Err(SetupError::NoSource { stage: entry.name.clone(), slot })
            }
        }
    }

    /// What a link's source is called; `None` where there is none.
    pub fn link_name(&self, link: Link, taker: &StageEntry) -> Option<String> {
        match link.from {
            Source::Stage(id) => self.stage(id).map(|stage| stage.name.clone()),
            Source::Input(number) => {
                let tool = self.stage(taker.inside?)?.tool.as_ref()?;
                tool.inputs.get(number).map(|input| input.name.clone())
            }
        }
    }

    fn check_controls(&self, entry: &StageEntry) -> Result<(), SetupError> {
        for (id, setting) in &entry.controls {
            let unknown = || SetupError::UnknownControl { stage: entry.name.clone(), control: id.clone() };
            let spec = shape::control(entry, id).ok_or_else(unknown)?;
            spec.kind.fits(setting).map_err(|why| SetupError::Value {
                stage: entry.name.clone(),
                control: spec.name.into(),
                why,
            })?;
            if let Setting::Media { media } = setting
                && self.medium(*media).is_none()
            {
                return Err(SetupError::NoMedia { stage: entry.name.clone(), media: media.0 });
            }
        }
        Ok(())
    }
}

/// A path must stay within its folder: relative, with `/`, without `..`.
fn check_path(path: &str) -> Result<(), SetupError> {
    let climbs = path.is_empty()
        || path.starts_with('/')
        || path.contains(['\\', '\0', ':'])
        || path.split('/').any(|part| part == ".." || part.is_empty());
    if climbs { Err(SetupError::Path(path.into())) } else { Ok(()) }
}

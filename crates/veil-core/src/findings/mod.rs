//! Faults that nobody should have to hunt for: each points at a row, says one sentence, and offers a mend where one is
//! safe.
//!
//! What can be told from the setup alone is; the rest is looked for at a few frames of the range, at 1/8 scale.

use serde::Serialize;
use veil_pixels::{Cancel, Map, Window, warp::fold};

use crate::engine::{Answer, Engine, EngineError, OnFault, Request, WayTo};
use crate::feed::Feed;
use crate::mattes;
use crate::plates::Plates;
use crate::setup::{Command, Link, Setup, Source, StageEntry, StageId};
use crate::shape;
use crate::signal::{Pixels, Scale, Take};
use crate::spec::{Accepts, MAIN, MATTE};
use crate::stages;
use crate::stages::joining::blend::LAYERS;

mod drawn;
mod footage;
mod holes;
mod outlines;
mod times;
mod tools;

use tools::{goes_on_outside, has_empty_input, told_by_their_cause, unchanged_tool_about};

/// Something to look at.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Finding {
    /// At which row.
    pub stage: StageId,
    /// What kind of fault.
    pub fault: FaultKind,
    /// One sentence.
    pub message: String,
    /// What mends it.
    pub mend: Option<Mend>,
}

/// Kinds of faults that are looked for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum FaultKind {
    /// A row is off.
    Off,
    /// A key stands outside the range.
    KeyOutside,
    /// A row changes nothing.
    Idle,
    /// An input of a tool that others of its rows need is empty.
    EmptyInput,
    /// A matte lets everything through.
    OpenMatte,
    /// A matte lets nothing through.
    ClosedMatte,
    /// A displacement moves the whole picture.
    Drift,
    /// A displacement lays the picture over itself.
    Fold,
    /// An insert ends inside its matte.
    InsertEdge,
    /// Colour where a picture covers nothing.
    NotPremultiplied,
    /// Colour multiplied by its alpha once too often.
    PremultipliedTwice,
    /// A data window far past the frame.
    WideData,
    /// What says where is from before the picture was moved.
    LeftBehind,
    /// Ties of a pair of outlines cross.
    CrossedTies,
    /// An outline of a pair crosses itself.
    CrossesItself,
    /// An outline of a pair goes across a fence.
    AcrossFence,
    /// An outline closes with too few points.
    RoundNothing,
    /// A pair that moves has no ties.
    Untied,
    /// A lattice is pulled at one frame only.
    KeyedOnce,
    /// Parts of a lattice hardly move beside the others.
    Dull,
    /// A row is as quick as it can be, and no better.
    Draft,
    /// A row shows frames that its plate does not have.
    BeyondPlate,
    /// A clean plate has places that no frame sees.
    HolesLeft,
    /// What frames are laid over each other by is not known at all of them.
    TrackEnds,
    /// Footage lacks frames between others.
    FramesMissing,
    /// Footage shows a frame more than once.
    FramesHeld,
    /// What does not move has grain that does not either.
    GrainStill,
}

/// An edit that mends.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Mend {
    /// As shown on the button.
    pub name: String,
    /// What it does.
    pub command: Command,
}

/// How many frames of the range are looked at.
const FRAMES: usize = 5;
/// A change of less than this is none.
const NOTHING: f64 = 1e-6;
/// A mean move of more than this many pixels, and more than this share of how far it moves at all, is a drift.
const DRIFT: (f64, f64) = (0.5, 0.5);
/// A fold of less than this share of the frame is not told.
const LEAST_FOLD: f64 = 0.002;
/// The share of an insert's border that may be seen.
const LEAST_EDGE: f64 = 0.02;
/// One to this many: what is looked at along edges.
const EDGE_SCALE: u32 = 2;
/// A filter softens the last pixels of what it reads: so far inwards an edge is looked for.
const EDGE_DEPTH: i32 = 3;
/// A data window of more than this many times the frame's pixels is far past it.
const WIDE: f64 = 4.0;

/// Looks for every fault. Work stops when it is called off.
pub fn find(
    engine: &Engine,
    setup: &Setup,
    plates: &dyn Plates,
    cancel: &Cancel,
) -> Result<Vec<Finding>, EngineError> {
    let search = Search { engine, setup, plates, cancel };
    let mut found = Vec::new();
    for entry in &setup.stages {
        match unchanged_tool_about(setup, entry) {
            // What is inside is the tool's own affair, but for what waits for something that nobody plugged in.
            Some(tool) if !(entry.on && has_empty_input(setup, tool)) => {}
            Some(_) => found.extend(search.idle(entry)?.map(|idle| told_of(entry, idle))),
            None => {
                found.extend(from_setup(setup, entry));
                found.extend(drawn::of_row(setup, entry).into_iter().map(|told| told_of(entry, told)));
                found.extend(goes_on_outside(setup, entry).map(|told| told_of(entry, told)));
                if entry.on {
                    found.extend(search.of_row(entry)?);
                }
            }
        }
    }
    told_by_their_cause(setup, &mut found);
    let is_inside = |id| setup.stage(id).is_some_and(|entry| unchanged_tool_about(setup, entry).is_some());
    found.retain(|finding| !is_inside(finding.stage));
    found.sort_by_key(|finding| setup.row(finding.stage));
    Ok(found)
}

fn told_of(entry: &StageEntry, (fault, message, mend): Told) -> Finding {
    Finding { stage: entry.id, fault, message, mend }
}

/// What needs no picture.
fn from_setup(setup: &Setup, entry: &StageEntry) -> Vec<Finding> {
    let mut found = Vec::new();
    let told = |fault, message, mend| Finding { stage: entry.id, fault, message, mend };
    if !entry.on {
        let command = Command::Switch { stage: entry.id, on: true };
        let mend = Mend { name: "switch it on".into(), command };
        found.push(told(FaultKind::Off, "is off, and will be off in a render".into(), Some(mend)));
    }
    let (first, last) = (f64::from(setup.picture.frames.first), f64::from(setup.picture.frames.last));
    for (control, setting) in &entry.controls {
        let keys = setting.feeds().iter().filter_map(|feed| match feed {
            Feed::Keys(keys) => Some(keys),
            _ => None,
        });
        if let Some(key) = keys.flat_map(|keys| keys.iter()).find(|key| key.frame < first || key.frame > last)
        {
            let name = shape::control(entry, control).map_or(control.as_str(), |spec| spec.name);
            let message = format!("a key of {name} stands at {}, outside {first}–{last}", key.frame);
            found.push(told(FaultKind::KeyOutside, message, None));
        }
    }
    found.extend(left_behind(setup, entry).map(|message| told(FaultKind::LeftBehind, message, None)));
    found
}

/// A link, the row that it comes from in the end, and which float of its picture is taken.
type Taken = (Link, StageId, Option<Take>);

/// A matte or field of the plate that the picture was made of, from before a warp moved that picture.
fn left_behind(setup: &Setup, entry: &StageEntry) -> Option<String> {
    let above = |id: Option<StageId>| id.and_then(|id| setup.stage(id));
    let taken = |entry: &StageEntry, slot: &str| {
        let (id, _) = setup.outer_source(*entry.links.get(slot)?, entry.inside)?;
        Some(id)
    };
    let strand = |from: Option<StageId>| -> Vec<&StageEntry> {
        std::iter::successors(above(from), |entry| above(taken(entry, MAIN))).collect()
    };
    let media = |rows: &[&StageEntry]| rows.last().and_then(|head| head.controls.get("media").cloned());
    let moves =
        |row: &&StageEntry| row.on && stages::find(&row.kind).is_some_and(|stage| stage.as_warp().is_some());
    let main = strand(taken(entry, MAIN));
    let mover = main.iter().find(|row| moves(row))?;
    let slot = entry.links.keys().map(String::as_str).find(|slot| {
        let side = strand(taken(entry, slot));
        *slot != MAIN && media(&side).is_some() && media(&side) == media(&main) && !side.iter().any(&moves)
    })?;
    Some(format!(
        "what `{slot}` takes stands where the plate has it, but {} moved the picture since",
        mover.name
    ))
}

struct Search<'a> {
    engine: &'a Engine,
    setup: &'a Setup,
    plates: &'a dyn Plates,
    cancel: &'a Cancel,
}

impl Search<'_> {
    fn frames(&self) -> Vec<f64> {
        let frames = self.setup.picture.frames;
        let (first, count) = (f64::from(frames.first), frames.count().max(1));
        let most = FRAMES.min(count);
        let at = |index: usize| first + (index * (count - 1) / (most - 1).max(1)) as f64;
        (0..most).map(at).collect()
    }

    fn request(&self, stage: StageId, frame: f64) -> Option<Request> {
        self.request_at(8, stage, frame)
    }

    fn request_at(&self, divisor: u32, stage: StageId, frame: f64) -> Option<Request> {
        let scale = Scale::one_to(divisor)?;
        Some(Request { scale, on_fault: OnFault::Bypass, ..Request::whole(stage, frame) })
    }

    fn answer(&self, divisor: u32, stage: StageId, frame: f64) -> Result<Option<Answer>, EngineError> {
        let Some(request) = self.request_at(divisor, stage, frame) else { return Ok(None) };
        self.engine.answer(self.setup, self.plates, request, self.cancel).map(Some)
    }

    fn of_row(&self, entry: &StageEntry) -> Result<Vec<Finding>, EngineError> {
        let mut found = Vec::new();
        let told = |told: Told| told_of(entry, told);
        found.extend(self.idle(entry)?.map(told));
        found.extend(self.matte(entry)?.map(told));
        found.extend(self.moved(entry)?.into_iter().map(&told));
        found.extend(self.bent(entry)?.into_iter().map(told));
        found.extend(self.inserted(entry)?.into_iter().map(told));
        found.extend(self.wide(entry)?.map(told));
        found.extend(self.beyond(entry)?.map(told));
        found.extend(self.holes(entry)?.map(told));
        found.extend(self.aligned_by(entry).into_iter().map(told));
        found.extend(self.footage(entry)?.into_iter().map(told));
        found.extend(self.grain_stands_still(entry)?.map(told));
        Ok(found)
    }

    /// A row that hands on what it took at every frame looked at.
    fn idle(&self, entry: &StageEntry) -> Result<Option<Told>, EngineError> {
        if entry.kind.is_final() {
            return Ok(None);
        }
        let frames = self.frames();
        for frame in &frames {
            if !self.is_idle_at(8, entry.id, *frame)? {
                return Ok(None);
            }
        }
        // What works on a few pixels only is not seen at the small scale.
        let middle = frames.get(frames.len() / 2);
        if !middle.map_or(Ok(true), |frame| self.is_idle_at(1, entry.id, *frame))? {
            return Ok(None);
        }
        let looked = frames.len();
        let message = format!("changes nothing at the {looked} frames looked at over the range");
        let mend =
            Mend { name: "switch it off".into(), command: Command::Switch { stage: entry.id, on: false } };
        Ok(Some((FaultKind::Idle, message, Some(mend))))
    }

    fn is_idle_at(&self, divisor: u32, stage: StageId, frame: f64) -> Result<bool, EngineError> {
        let Some(request) = self.request_at(divisor, stage, frame) else { return Ok(false) };
        let effect = self.engine.effect(self.setup, self.plates, request, self.cancel)?;
        Ok(effect.is_some_and(|effect| effect < NOTHING))
    }

    /// A matte that is the same everywhere.
    fn matte(&self, entry: &StageEntry) -> Result<Option<Told>, EngineError> {
        let Some((link, from, take)) = self.taken(entry, MATTE) else { return Ok(None) };
        // Of a list, none alone says what comes of all.
        if mattes::taken(entry).next().is_some() {
            return Ok(None);
        }
        let (mut least, mut most) = (f32::INFINITY, f32::NEG_INFINITY);
        for frame in self.frames() {
            let Some(values) = self.floats(8, from, take, frame)? else { return Ok(None) };
            let (low, high) =
                values.iter().fold((f32::INFINITY, f32::NEG_INFINITY), |(a, b), v| (a.min(*v), b.max(*v)));
            (least, most) = (least.min(low), most.max(high));
        }
        let inverted = matches!(
            entry.controls.get(shape::common::MATTE_INVERT),
            Some(crate::setup::Setting::Switch(true))
        );
        let (least, most) = if inverted { (1.0 - most, 1.0 - least) } else { (least, most) };
        let name = self.setup.stage(from).map_or("it", |row| row.name.as_str());
        let channel = link.take.map_or(String::new(), |take| format!(" (its {})", word(take)));
        if least >= 0.999 {
            let command = Command::Link { stage: entry.id, slot: MATTE.into(), from: None, take: None };
            let mend = Mend { name: "take no matte".into(), command };
            let message = format!("its matte {name}{channel} is fully open over the range");
            return Ok(Some((FaultKind::OpenMatte, message, Some(mend))));
        }
        let closed =
            || format!("its matte {name}{channel} is fully closed over the range, so it does nothing");
        Ok((most <= 0.001).then(|| (FaultKind::ClosedMatte, closed(), None)))
    }

    /// What is bent by what is drawn, and lies on its back somewhere.
    fn bent(&self, entry: &StageEntry) -> Result<Vec<Told>, EngineError> {
        let mut folded = 0.0f64;
        for frame in self.frames() {
            let Some(request) = self.request(entry.id, frame) else { return Ok(Vec::new()) };
            let over = self.engine.folds(self.setup, self.plates, request, self.cancel)?;
            let Some(over) = over else { return Ok(Vec::new()) };
            folded = folded.max(mean(over.pixels().iter().map(|value| f64::from(*value))));
        }
        let message = || format!("lays the picture over itself on {:.2} % of the frame", folded * 100.0);
        Ok(if folded > 0.0 { vec![(FaultKind::Fold, message(), None)] } else { Vec::new() })
    }

    /// A displacement that drifts or folds.
    fn moved(&self, entry: &StageEntry) -> Result<Vec<Told>, EngineError> {
        let by_map = stages::find(&entry.kind).is_some_and(|stage| {
            stage.as_warp().is_some() && stage.spec().slots.iter().any(|slot| slot.accepts == Accepts::Map)
        });
        let main = self.taken(entry, MAIN).map(|(_, from, _)| from);
        let (true, Some(main)) = (by_map, main) else { return Ok(Vec::new()) };
        let (mut folded, mut drift) = (0.0f64, None::<[f64; 2]>);
        let mut drifts = true;
        for frame in self.frames() {
            let Some(request) = self.request(entry.id, frame) else { return Ok(Vec::new()) };
            let to = WayTo::Row(main);
            let Some(places) = self.engine.places(self.setup, self.plates, request, to, self.cancel)? else {
                return Ok(Vec::new());
            };
            let over = fold::folded(&places, self.cancel).map_err(|_| EngineError::Cancelled)?;
            folded = folded.max(mean(over.pixels().iter().map(|value| f64::from(*value))));
            let ([x, y], length) = moves(&places, f64::from(request.scale.divisor()));
            let far = x.hypot(y);
            drifts &= far > DRIFT.0 && far > DRIFT.1 * length;
            if drift.is_none_or(|[dx, dy]| dx.hypot(dy) < far) {
                drift = Some([x, y]);
            }
        }
        let mut found = Vec::new();
        if let (true, Some([x, y])) = (drifts, drift) {
            let message =
                format!("moves the whole picture by {x:.1}, {y:.1} px; its map has no neutral level");
            found.push((FaultKind::Drift, message, None));
        }
        if folded > LEAST_FOLD {
            let message = format!("lays the picture over itself on {:.1} % of the frame", folded * 100.0);
            found.push((FaultKind::Fold, message, None));
        }
        Ok(found)
    }

    /// A layer that is laid on a picture.
    fn inserted(&self, entry: &StageEntry) -> Result<Vec<Told>, EngineError> {
        let mut found = Vec::new();
        if entry.kind.0 != "blend" {
            return Ok(found);
        }
        for (slot, own) in LAYERS {
            if let Some((_, layer, None)) = self.taken(entry, slot) {
                found.extend(self.laid(layer, [self.taken(entry, MATTE), self.taken(entry, own)])?);
            }
        }
        Ok(found)
    }

    /// A layer inside of the mattes that it is laid on by.
    fn laid(&self, layer: StageId, mattes: [Option<Taken>; 2]) -> Result<Vec<Told>, EngineError> {
        let mut found = Vec::new();
        let name = self.setup.stage(layer).map_or("it", |row| row.name.as_str());
        let (mut edge, mut loose, mut dark) = (0.0f64, 0.0f64, 0.0f64);
        for frame in self.frames() {
            let Some(answer) = self.answer(EDGE_SCALE, layer, frame)? else { return Ok(found) };
            let Pixels::Picture(picture) = answer.signal.over(answer.window) else { return Ok(found) };
            let coverages = mattes
                .iter()
                .flatten()
                .map(|(_, from, take)| self.floats(EDGE_SCALE, *from, *take, frame))
                .collect::<Result<Vec<_>, _>>()?;
            let (data, display) = (answer.signal.domain.data, answer.window);
            let seen = |x: i32, y: i32| {
                let at = (y - display.y0) as usize * display.width() + (x - display.x0) as usize;
                let open: f32 =
                    coverages.iter().flatten().map(|values| values.get(at).copied().unwrap_or(0.0)).product();
                open * picture.get(x, y).unwrap_or_default()[3]
            };
            let open = |(x, y, [dx, dy]): &(i32, i32, [i32; 2])| {
                (0..=EDGE_DEPTH).any(|step| seen(x + dx * step, y + dy * step) > 0.05)
            };
            edge = edge.max(mean(border(data, display).iter().map(|at| f64::from(open(at)))));
            let share =
                |is: fn(&[f32; 4]) -> bool| mean(picture.pixels().iter().map(|pixel| f64::from(is(pixel))));
            loose = loose.max(share(|[r, g, b, a]| *a < 0.01 && r.max(*g).max(*b) > 0.02));
            dark = dark.max(twice(&picture));
        }
        if edge > LEAST_EDGE {
            let message = format!(
                "{name} ends where its matte is still open: its edge is seen along {:.0} % of its border",
                edge * 100.0
            );
            found.push((FaultKind::InsertEdge, message, None));
        }
        if loose > 0.01 && self.is_from_files(layer) {
            let message = format!(
                "{name} has colour where its alpha is 0: it is not premultiplied, or is light to be added"
            );
            found.push((FaultKind::NotPremultiplied, message, None));
        }
        if dark > 0.5 {
            let message = format!("{name} is dark along its edge: it may be premultiplied twice");
            found.push((FaultKind::PremultipliedTwice, message, None));
        }
        Ok(found)
    }

    /// Whether a row hands on a plate, moved or graded perhaps, to which nothing added light.
    fn is_from_files(&self, row: StageId) -> bool {
        let above =
            |entry: &&StageEntry| self.taken(entry, MAIN).and_then(|(_, from, _)| self.setup.stage(from));
        let strand: Vec<_> = std::iter::successors(self.setup.stage(row), above).collect();
        let shines = |entry: &&StageEntry| stages::find(&entry.kind).is_none_or(|stage| stage.shines());
        let is_plate = strand.last().is_some_and(|head| head.controls.contains_key("media"));
        is_plate && !strand.iter().any(shines)
    }

    fn wide(&self, entry: &StageEntry) -> Result<Option<Told>, EngineError> {
        let Some(frame) = self.frames().first().copied() else { return Ok(None) };
        let Some(request) = self.request(entry.id, frame) else { return Ok(None) };
        let one = Request { window: Some(Window::new(0, 0, 1, 1)), ..request };
        let domain = self.engine.answer(self.setup, self.plates, one, self.cancel)?.signal.domain;
        let (data, display) = (domain.data.area() as f64, domain.display.area() as f64);
        let divisor = request.scale.divisor() as usize;
        let [wide, high] = [domain.data.width() * divisor, domain.data.height() * divisor];
        let message = format!("its data window has grown to about {wide}x{high}, far past the frame");
        Ok((data > WIDE * display).then_some((FaultKind::WideData, message, None)))
    }

    /// What a slot takes, inputs of tools followed outwards.
    fn taken(&self, entry: &StageEntry, slot: &str) -> Option<Taken> {
        let link = *entry.links.get(slot)?;
        if let Source::Stage(id) = link.from {
            return Some((link, id, link.take));
        }
        let (id, take) = self.setup.outer_source(link, entry.inside)?;
        Some((link, id, take))
    }

    /// The values of a field, or of one float of a picture, over the frame.
    fn floats(
        &self,
        divisor: u32,
        from: StageId,
        take: Option<Take>,
        frame: f64,
    ) -> Result<Option<Vec<f32>>, EngineError> {
        let Some(answer) = self.answer(divisor, from, frame)? else { return Ok(None) };
        let field = match (answer.signal.over(answer.window), take) {
            (Pixels::Field(field), _) => field,
            (Pixels::Picture(picture), Some(take)) => {
                let working = self.setup.picture.working;
                take.apply(&picture, working, self.cancel).map_err(|_| EngineError::Cancelled)?
            }
            _ => return Ok(None),
        };
        Ok(Some(field.pixels().to_vec()))
    }
}

type Told = (FaultKind, String, Option<Mend>);

const fn word(take: Take) -> &'static str {
    match take {
        Take::Luma => "luma",
        Take::Alpha => "alpha",
        Take::Red => "red",
        Take::Green => "green",
        Take::Blue => "blue",
    }
}

fn mean(values: impl Iterator<Item = f64>) -> f64 {
    let (sum, count) = values.fold((0.0, 0u64), |(sum, count), value| (sum + value, count + 1));
    sum / count.max(1) as f64
}

/// The mean move and the mean length of moves, in full-resolution pixels.
fn moves(places: &Map, full: f64) -> ([f64; 2], f64) {
    let window = places.window();
    let each = || {
        let stands = window
            .rows()
            .flat_map(|y| (window.x0..window.x1).map(move |x| [f64::from(x) + 0.5, f64::from(y) + 0.5]));
        places.pixels().iter().zip(stands).map(|(p, s)| [s[0] - f64::from(p[0]), s[1] - f64::from(p[1])])
    };
    let [x, y] = [0, 1].map(|axis| mean(each().map(|way| way[axis])) * full);
    ([x, y], mean(each().map(|way| way[0].hypot(way[1]))) * full)
}

/// The pixels along those sides of a data window that lie inside the frame, each with the way inwards.
fn border(data: Window, display: Window) -> Vec<(i32, i32, [i32; 2])> {
    let seen = data.intersect(display);
    let mut pixels = Vec::new();
    if seen.is_empty() {
        return pixels;
    }
    for (x, way, inside) in [(data.x0, 1, data.x0 > display.x0), (data.x1 - 1, -1, data.x1 < display.x1)] {
        pixels.extend(seen.rows().filter(|_| inside).map(|y| (x, y, [way, 0])));
    }
    for (y, way, inside) in [(data.y0, 1, data.y0 > display.y0), (data.y1 - 1, -1, data.y1 < display.y1)] {
        pixels.extend((seen.x0..seen.x1).filter(|_| inside).map(|x| (x, y, [0, way])));
    }
    pixels
}

/// How much of a picture's half-covered pixels is darker than their alpha alone would make them: beside a full pixel of
/// colour c, one of alpha a has about c·a; where colour was multiplied twice it has c·a².
fn twice(picture: &veil_pixels::Picture) -> f64 {
    let window = picture.window();
    let (mut half, mut dark) = (0.0f64, 0.0f64);
    for y in window.rows() {
        for x in window.x0..window.x1 {
            let pixel = picture.get(x, y).unwrap_or_default();
            let alpha = pixel[3];
            if !(0.25..0.75).contains(&alpha) {
                continue;
            }
            let full = [(-1, 0), (1, 0), (0, -1), (0, 1)].into_iter();
            let full = full.filter_map(|(dx, dy)| picture.get(x + dx, y + dy)).find(|next| next[3] > 0.98);
            let Some(next) = full.filter(|next| next[1] > 0.02) else { continue };
            half += 1.0;
            dark += f64::from((pixel[1] / (next[1] * alpha) - alpha).abs() < 0.12);
        }
    }
    if half < 8.0 { 0.0 } else { dark / half }
}

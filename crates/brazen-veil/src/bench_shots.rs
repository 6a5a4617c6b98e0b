//! The demo shots' setups, frame after frame, as fast as two threads make them.

use std::collections::BTreeMap;
use std::hint::black_box;
use std::path::Path;
use std::sync::atomic::{AtomicBool, AtomicI32, Ordering};
use std::time::{Duration, Instant};

use veil_core::engine::{Answer, Engine, Request, Spent};
use veil_core::setup::{Frames, Setup, StageId};
use veil_core::signal::Scale;
use veil_core::view::{Screens, View, bytes};
use veil_demo::{Beside, Element, Shot, ShotPlan};
use veil_media::FilePlates;
use veil_pixels::Cancel;

use crate::Done;
use crate::error::ProgramError;
use crate::out::{mention, say, write_out};

/// Something happens in every shot here.
const MEASURED: Frames = Frames { first: 1016, last: 1023 };
/// So many frames before them are not counted: memory for held results is full for most of a day's work.
const WARM_UP: i32 = 8;

/// All that are made.
const fn made() -> Frames {
    Frames { first: MEASURED.first - WARM_UP, last: MEASURED.last }
}

/// Each is measured so often, and the best counts: what else the machine does can only slow it down.
const TRIES: usize = 3;

/// Megabytes for held results at full scale; smaller ones get as many less as they are, so that memory is full once the
/// frames before are made.
const MEMORY: u64 = 512;

/// Kinds of rows that read files.
const READING: [&str; 3] = ["plate", "id_pick", "pass"];

/// Draws what is missing of the demo's plates into a folder, then makes a line of Markdown for each shot that has
/// `only` in its code. Where one is asked for, a line for each of its rows says what it took.
pub(crate) fn shots(folder: &Path, only: &str) -> Done {
    let setups = veil_server::demo_setups().map_err(|error| ProgramError::Bad(error.to_string()))?;
    draw(folder, &setups)?;
    say!(
        "| shot | size | frames a second, to be 12 | half scale | from files | half scale, from files, to be 24 |"
    );
    say!("|---|---|---|---|---|---|");
    for (plan, setup) in setups.into_iter().filter(|(plan, _)| plan.code.contains(only)) {
        write_out(format_args!("| {} {} | {}x{} |", plan.code, plan.title, plan.width, plan.height));
        let mut costs = Vec::new();
        for held in [Held::Plates, Held::Nothing] {
            for scale in [1, 2] {
                let best = best(&setup, folder, scale, held)?;
                write_out(format_args!(" {:.1} |", best.rate()));
                costs.push(best);
            }
        }
        say!("");
        if !only.is_empty() {
            rows(&setup, &costs);
        }
    }
    Ok(())
}

/// Milliseconds a frame of each row, in the order of the columns of the shot's own line, and the megapixels that it made
/// of a frame for the first of them.
fn rows(setup: &Setup, costs: &[Pace]) {
    for row in &setup.stages {
        let taken: Vec<(f64, f64)> = costs.iter().map(|pace| pace.of(row.id)).collect();
        if taken.iter().any(|(ms, _)| *ms >= 0.05) {
            let cells: Vec<String> = taken.iter().map(|(ms, _)| format!("{ms:8.2}")).collect();
            say!("{} {:6.2} Mpx  {:<20} {}", cells.join(""), taken[0].1, row.kind.0, row.name);
        }
    }
}

/// What is there of a frame before it is counted.
#[derive(Clone, Copy, PartialEq)]
enum Held {
    /// What is read from files.
    Plates,
    Nothing,
}

/// Kinds of rows that look at frames from all over the shot.
const LOOK_ABOUT: [&str; 1] = ["clean_plate"];

fn draw(folder: &Path, setups: &[(ShotPlan, Setup)]) -> Done {
    for shot in Shot::ALL {
        let ShotPlan { code, frames, .. } = shot.plan();
        mention!("plates of {code}");
        let own = setups.iter().filter(|(plan, _)| plan.code == code).flat_map(|(_, setup)| &setup.stages);
        let played = if own.into_iter().any(|row| LOOK_ABOUT.contains(&row.kind.0.as_str())) {
            frames
        } else {
            // A still has none of those that are measured, and is wanted all the same.
            Frames { first: made().first.min(frames.last), last: made().last.min(frames.last) }
        };
        veil_demo::draw(shot, played, folder, Beside::nothing(&AtomicBool::new(false)), |_| {})?;
    }
    for element in Element::ALL {
        element.write(folder)?;
    }
    Ok(())
}

/// What the frames of a shot took.
#[derive(Default)]
struct Pace {
    frames: usize,
    all: Duration,
    /// Milliseconds of each row's own work and pixels that it made, over all frames.
    rows: BTreeMap<StageId, (f64, usize)>,
}

impl Pace {
    /// Frames a second.
    fn rate(&self) -> f64 {
        self.frames as f64 / self.all.as_secs_f64()
    }

    fn add(&mut self, spent: Vec<Spent>) {
        self.frames += 1;
        for row in spent {
            let (ms, pixels) = self.rows.entry(row.stage).or_default();
            *ms += row.ms;
            *pixels += row.pixels;
        }
    }

    /// Milliseconds and megapixels a frame.
    fn of(&self, row: StageId) -> (f64, f64) {
        let (ms, pixels) = self.rows.get(&row).copied().unwrap_or_default();
        (ms / self.frames as f64, pixels as f64 / self.frames as f64 / 1e6)
    }
}

/// The best of some tries.
fn best(setup: &Setup, folder: &Path, scale: u32, held: Held) -> Result<Pace, ProgramError> {
    let mut best = pace(setup, folder, scale, held)?;
    for _ in 1..TRIES {
        let again = pace(setup, folder, scale, held)?;
        if again.rate() > best.rate() {
            best = again;
        }
    }
    Ok(best)
}

/// Frames to the bytes of a screen; nothing but plates is held of a frame beforehand. Those that are read from files are
/// asked for two at once, as the page does while it plays.
fn pace(setup: &Setup, folder: &Path, scale: u32, held: Held) -> Result<Pace, ProgramError> {
    let shot = Opened::new(setup, folder, scale)?;
    for frame in made().first..MEASURED.first {
        shot.seen(frame)?;
    }
    match held {
        Held::Plates => shot.pace_from_memory(),
        Held::Nothing => shot.pace_from_files(),
    }
}

/// A shot with what works on it.
struct Opened<'a> {
    setup: &'a Setup,
    last: StageId,
    scale: Scale,
    plates: FilePlates,
    engine: Engine,
    screens: Screens,
}

impl<'a> Opened<'a> {
    fn new(setup: &'a Setup, folder: &Path, scale: u32) -> Result<Self, ProgramError> {
        let (Some(last), Some(scale)) = (setup.final_id(), Scale::one_to(scale)) else {
            return Err(ProgramError::Bad("the setup has no final row".into()));
        };
        let engine = Engine::new((MEMORY << 20) / u64::from(scale.divisor().pow(2)));
        let plates = FilePlates::new(folder.to_path_buf());
        Ok(Self { setup, last, scale, plates, engine, screens: Screens::new() })
    }

    fn answer(&self, stage: StageId, frame: i32) -> Result<Answer, ProgramError> {
        let request = Request { scale: self.scale, ..Request::whole(stage, f64::from(frame)) };
        let answer = self.engine.answer(self.setup, &self.plates, request, &Cancel::new());
        answer.map_err(|error| ProgramError::Bad(format!("{}: {error}", self.setup.name)))
    }

    /// A frame as a screen has it, and what its rows took.
    fn seen(&self, frame: i32) -> Result<Vec<Spent>, ProgramError> {
        let answer = self.answer(self.last, frame)?;
        let view = View { working: self.setup.picture.working, ..View::default() };
        black_box(bytes(&answer.signal.over(answer.window), view, &self.screens));
        Ok(answer.spent)
    }

    fn pace_from_memory(&self) -> Result<Pace, ProgramError> {
        let mut pace = Pace::default();
        for frame in MEASURED.first..=MEASURED.last {
            for row in self.setup.stages.iter().filter(|row| READING.contains(&row.kind.0.as_str())) {
                self.answer(row.id, frame)?;
            }
            let start = Instant::now();
            pace.add(self.seen(frame)?);
            pace.all += start.elapsed();
        }
        Ok(pace)
    }

    fn pace_from_files(&self) -> Result<Pace, ProgramError> {
        let (start, next) = (Instant::now(), AtomicI32::new(MEASURED.first));
        let asker = || -> Result<Vec<Vec<Spent>>, ProgramError> {
            let mut all = Vec::new();
            loop {
                match next.fetch_add(1, Ordering::Relaxed) {
                    frame if frame <= MEASURED.last => all.push(self.seen(frame)?),
                    _ => return Ok(all),
                }
            }
        };
        let (one, other) = rayon::join(asker, asker);
        let mut pace = Pace { all: start.elapsed(), ..Pace::default() };
        one?.into_iter().chain(other?).for_each(|spent| pace.add(spent));
        Ok(pace)
    }
}

//! The demo shots' setups, frame after frame, as fast as two threads make them.

use std::hint::black_box;
use std::path::Path;
use std::sync::atomic::AtomicBool;
use std::time::{Duration, Instant};

use veil_core::engine::{Engine, Request};
use veil_core::setup::{Frames, Setup, StageId};
use veil_core::signal::Scale;
use veil_core::view::{Screens, View, bytes};
use veil_demo::{Beside, Element, Shot, ShotPlan};
use veil_media::FilePlates;
use veil_pixels::Cancel;

use crate::Done;
use crate::error::ProgramError;
use crate::out::{mention, say, write_out};

/// Something happens in every shot here; the first of them is not counted.
const MEASURED: Frames = Frames { first: 1015, last: 1023 };
/// Megabytes for held results.
const MEMORY: u64 = 512;

/// Kinds of rows that read files.
const READING: [&str; 3] = ["plate", "id_pick", "pass"];

/// Draws what is missing of the demo's plates into a folder, then makes a line of Markdown for each shot.
pub(crate) fn shots(folder: &Path) -> Done {
    draw(folder)?;
    say!("| shot | size | frames a second | half scale, to be 8 | from files | half scale, from files |");
    say!("|---|---|---|---|---|---|");
    for (plan, setup) in veil_server::demo_setups().map_err(|error| ProgramError::Bad(error.to_string()))? {
        write_out(format_args!("| {} {} | {}x{} |", plan.code, plan.title, plan.width, plan.height));
        for held in [Held::Plates, Held::Nothing] {
            for scale in [1, 2] {
                write_out(format_args!(" {:.1} |", rate(&setup, folder, scale, held)?));
            }
        }
        say!("");
    }
    Ok(())
}

/// What is there of a frame before it is counted.
#[derive(Clone, Copy, PartialEq)]
enum Held {
    /// What is read from files.
    Plates,
    Nothing,
}

fn draw(folder: &Path) -> Done {
    for shot in Shot::ALL {
        let ShotPlan { code, .. } = shot.plan();
        mention!("plates of {code}");
        veil_demo::draw(shot, MEASURED, folder, Beside::nothing(&AtomicBool::new(false)), |_| {})?;
    }
    for element in Element::ALL {
        element.write(folder)?;
    }
    Ok(())
}

/// Frames a second, to the bytes of a screen; nothing but plates is held of a frame beforehand.
fn rate(setup: &Setup, folder: &Path, scale: u32, held: Held) -> Result<f64, ProgramError> {
    let engine = Engine::new(MEMORY << 20);
    let (plates, screens) = (FilePlates::new(folder.to_path_buf()), Screens::new());
    let (Some(last), Some(scale)) = (setup.final_id(), Scale::one_to(scale)) else {
        return Err(ProgramError::Bad("the setup has no final row".into()));
    };
    let answer = |stage: StageId, frame: i32| {
        let request = Request { scale, ..Request::whole(stage, f64::from(frame)) };
        let answer = engine.answer(setup, &plates, request, &Cancel::new());
        answer.map_err(|error| ProgramError::Bad(format!("{}: {error}", setup.name)))
    };
    let mut spent = Duration::ZERO;
    for frame in MEASURED.first..=MEASURED.last {
        if held == Held::Plates {
            for row in setup.stages.iter().filter(|row| READING.contains(&row.kind.0.as_str())) {
                answer(row.id, frame)?;
            }
        }
        let start = Instant::now();
        let answer = answer(last, frame)?;
        let view = View { working: setup.picture.working, ..View::default() };
        black_box(bytes(&answer.signal.over(answer.window), view, &screens));
        if frame > MEASURED.first {
            spent += start.elapsed();
        }
    }
    Ok((MEASURED.count() - 1) as f64 / spent.as_secs_f64())
}

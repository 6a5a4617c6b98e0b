//! The demo shots' setups, frame after frame, as fast as two threads make them.

use std::hint::black_box;
use std::path::Path;
use std::sync::atomic::AtomicBool;
use std::time::Instant;

use veil_core::engine::{Engine, Request};
use veil_core::setup::{Frames, Setup};
use veil_core::signal::Scale;
use veil_core::view::{Screens, View, bytes};
use veil_demo::{Element, Shot, ShotPlan};
use veil_media::FilePlates;
use veil_pixels::Cancel;

use crate::Done;
use crate::error::ProgramError;

/// Something happens in every shot here; the first of them is not counted.
const MEASURED: Frames = Frames { first: 1015, last: 1023 };
/// Megabytes for held results.
const HELD: u64 = 512;

/// Draws what is missing of the demo's plates into a folder, then makes a line of Markdown for each shot.
pub(crate) fn shots(folder: &Path) -> Done {
    draw(folder)?;
    println!("| shot | size | frames a second | at half scale (to be at least 8) |\n|---|---|---|---|");
    for (plan, setup) in veil_server::demo_setups().map_err(|error| ProgramError::Bad(error.to_string()))? {
        let [full, half] = [1, 2].map(|scale| rate(&setup, folder, scale));
        let (full, half) = (full?, half?);
        println!("| {} {} | {}x{} | {full:.1} | {half:.1} |", plan.code, plan.title, plan.width, plan.height);
    }
    Ok(())
}

fn draw(folder: &Path) -> Done {
    for shot in Shot::ALL {
        let ShotPlan { code, .. } = shot.plan();
        eprintln!("plates of {code}");
        veil_demo::draw(shot, MEASURED, folder, &AtomicBool::new(false), |_| {})?;
    }
    for element in Element::ALL {
        element.write(folder)?;
    }
    Ok(())
}

/// Frames a second from the files on the disc to the bytes of a screen; nothing is held of a frame beforehand.
fn rate(setup: &Setup, folder: &Path, scale: u32) -> Result<f64, ProgramError> {
    let (engine, plates, screens) =
        (Engine::new(HELD << 20), FilePlates::new(folder.to_path_buf()), Screens::new());
    let (Some(stage), Some(scale)) = (setup.final_id(), Scale::one_to(scale)) else {
        return Err(ProgramError::Bad("the setup has no final row".into()));
    };
    let mut start = Instant::now();
    for frame in MEASURED.first..=MEASURED.last {
        if frame == MEASURED.first + 1 {
            start = Instant::now();
        }
        let request = Request { scale, ..Request::whole(stage, f64::from(frame)) };
        let answer = engine
            .answer(setup, &plates, request, &Cancel::new())
            .map_err(|error| ProgramError::Bad(format!("{}: {error}", setup.name)))?;
        let view = View { working: setup.picture.working, ..View::default() };
        black_box(bytes(&answer.signal.over(answer.window), view, &screens));
    }
    Ok((MEASURED.count() - 1) as f64 / start.elapsed().as_secs_f64())
}

//! How what comes in moves from one frame to another, as the picture itself has it.

use veil_pixels::flow::{Fineness, flow};
use veil_pixels::{Field, Map, Window};

use crate::key::Key;
use crate::signal::{Domain, Pixels};
use crate::spec::MAIN;
use crate::stage::{Context, StageError};
use crate::tracks::image;

/// What is seen of the main input at a frame, in levels of 256 over a window.
fn seen(context: &Context<'_>, frame: f64, window: Window) -> Result<Field, StageError> {
    const LEVELS: f32 = 255.0;
    let Some(signal) = context.signal_at(MAIN, frame, window)? else { return Ok(Field::clear(window)) };
    let image = image(&signal.over(window), context.working(), context.cancel())?;
    Ok(image.map(context.cancel(), |value: f32| value * LEVELS)?)
}

/// The moves of the main input from one frame to another that the stage looks at, in pixels of this scale; worked out once.
pub(super) fn motion(context: &Context<'_>, frames: [f64; 2], domain: Domain) -> Result<Map, StageError> {
    motion_as(context, frames, Fineness::Fine, domain)
}

/// The same as finely as is said.
pub(super) fn motion_as(
    context: &Context<'_>,
    [from, to]: [f64; 2],
    fineness: Fineness,
    domain: Domain,
) -> Result<Map, StageError> {
    let prints = [context.print_at(MAIN, from)?, context.print_at(MAIN, to)?];
    let sort = match fineness {
        Fineness::Fine => "motion",
        Fineness::Quick => "quick motion",
    };
    let key = Key::of(sort).with(&prints[0]).with(&prints[1]);
    let kept = context.kept(key, domain, &mut || {
        let [from, to] = [seen(context, from, domain.data)?, seen(context, to, domain.data)?];
        Ok(Pixels::Map(flow(&from, &to, fineness, context.cancel())?))
    })?;
    match kept.over(domain.data) {
        Pixels::Map(map) => Ok(map),
        _ => Ok(Map::clear(domain.data)),
    }
}

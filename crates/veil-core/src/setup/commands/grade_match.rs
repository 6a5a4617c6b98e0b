//! A grade set so that picks of an element become those of a plate.

use veil_pixels::colour::grade_match::{Picks, matched};

use crate::setup::commands::entry::entry;
use crate::setup::{CommandError, Setting, Setup, StageId};

/// The controls that stand in the way of lift, gamma and gain; they go back to where they do nothing.
const OTHERS: [&str; 6] = ["exposure", "temperature", "offset", "contrast", "pivot", "saturation"];

pub(in crate::setup) fn match_grade(
    setup: &mut Setup,
    stage: StageId,
    element: &Picks,
    plate: &Picks,
) -> Result<(), CommandError> {
    let row = entry(setup, stage)?;
    if row.kind.0 != "grade" {
        return Err(CommandError::NoControl { stage: row.name.clone(), control: "lift".into() });
    }
    let found = matched(element, plate).ok_or_else(|| CommandError::NoMatch(row.name.clone()))?;
    for control in OTHERS {
        row.controls.remove(control);
    }
    for (control, values) in [("lift", found.lift), ("gamma", found.gamma), ("gain", found.gain)] {
        row.controls.insert(control.into(), Setting::numbers(&values.map(f64::from)));
    }
    Ok(())
}

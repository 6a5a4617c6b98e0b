//! Entries of a row's lists that change places.

use crate::feed::ControlAxis;
use crate::lists;
use crate::setup::commands::entry::entry;
use crate::setup::{CommandError, Setup, StageId};

/// Two entries of a list change places; what follows a number of one goes on following it.
pub(in crate::setup) fn swap_entries(
    setup: &mut Setup,
    id: StageId,
    slot: &str,
    with: &str,
) -> Result<(), CommandError> {
    let row = entry(setup, id)?;
    let both = |list: &lists::List| [slot, with].iter().all(|one| list.slots.contains(one));
    if !lists::lists(row).iter().any(both) {
        return Err(CommandError::NothingTaken { stage: row.name.clone(), slot: slot.into() });
    }
    lists::swap(row, slot, with);
    let renamed =
        |stage: StageId, control: &str| (stage == id).then(|| lists::swapped(control, slot, with)).flatten();
    let instead = |of: &ControlAxis| match renamed(of.stage, &of.control) {
        Some(control) => ControlAxis { control, ..of.clone() },
        None => of.clone(),
    };
    for feed in setup.own.iter_mut().flat_map(|own| own.setting.feeds_mut()) {
        feed.follow_instead(&instead);
    }
    for row in &mut setup.stages {
        row.follow_instead(instead);
        for shown in row.tool.iter_mut().flat_map(|tool| &mut tool.faceplate) {
            if let Some(control) = renamed(shown.stage, &shown.control) {
                shown.control = control;
            }
        }
    }
    Ok(())
}

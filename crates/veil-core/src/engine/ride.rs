//! Passes that travel with a picture.
//!
//! They are pulled as pixels are: from a row upwards to the plate, through every warp on the way. What must not be
//! averaged (depth, places, IDs) is read at single pixels; a matte of picked IDs moves as coverage does.

use std::sync::Arc;

use veil_pixels::blend::mix::seen_more;
use veil_pixels::{Field, Window};

use super::asking::Asking;
use super::look::{Evaluation, stage_error};
use super::node::{Node, StageWork, ToolWork, Work};
use crate::bakes::Baked;
use crate::deep::deep;
use crate::key::Key;
use crate::plates::Role;
use crate::setup::{StageEntry, StageId};
use crate::signal::{Pixels, Signal};
use crate::spec::{MAIN, Passes};
use crate::stage::Ride;
use crate::stage::StageError;

/// What became of the passes of a plate on the way to a row.
#[derive(Clone, Debug, PartialEq, Eq, serde::Serialize)]
pub struct Travelled {
    /// The plate's row.
    pub plate: StageId,
    /// What it brings.
    pub roles: Vec<Role>,
    /// Rows that moved them, from the plate down.
    pub moved_by: Vec<StageId>,
    /// The row that dropped them.
    pub dropped_by: Option<StageId>,
}

impl<'a> Evaluation<'a> {
    /// What travels with a row's picture, for at least a window as far as it exists.
    pub(super) fn ride(&self, id: StageId, ride: &Ride, window: Window) -> Result<Arc<Signal>, StageError> {
        let node = self.node(id).map_err(stage_error)?;
        let wanted = window.intersect(node.domain.data);
        let hash = Key::of("ride").with(&node.hash).with(ride).hash();
        if let Work::Pass(Some((from, None)), _) = &node.work {
            return deep(|| self.ride(*from, ride, wanted));
        }
        self.once(hash, wanted, || {
            let pixels = self.carried(id, &node, ride, wanted)?;
            Ok(Arc::new(Signal { domain: node.domain, pixels }))
        })
    }

    fn carried(&self, id: StageId, node: &Node, ride: &Ride, wanted: Window) -> Result<Pixels, StageError> {
        let entry = self.entry(id).map_err(stage_error)?;
        let baked = match (node.baked, ride) {
            (Some(file), Ride::Pass(role)) => self.read_bake(file, Baked::Pass(*role), wanted)?,
            _ => None,
        };
        if let Some(pixels) = baked {
            return Ok(pixels);
        }
        match &node.work {
            Work::Pass(..) => Err(nothing(entry)),
            Work::Tool(tool) => deep(|| self.tool_ride(tool, ride, wanted)),
            Work::Stage(work) => deep(|| self.stage_ride(entry, work, ride, wanted)),
        }
    }

    fn stage_ride(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
        ride: &Ride,
        wanted: Window,
    ) -> Result<Pixels, StageError> {
        let main = || {
            let (from, _) = work.inputs.get(MAIN).ok_or_else(|| nothing(entry))?;
            // What a mean of several moments brings along is that of the first of them.
            let looks = Asking::new(self, entry, work).context().looks(MAIN)?;
            let look = self.at_frame(looks.first().copied().unwrap_or(self.frame));
            Ok::<_, StageError>(look.ride(*from, ride, wanted)?.over(wanted))
        };
        match work.stage.spec().passes {
            Passes::Brings => work.stage.bring(&Asking::new(self, entry, work).context(), ride, wanted),
            Passes::Joins => {
                let joined = work.stage.bring(&Asking::new(self, entry, work).context(), ride, wanted)?;
                self.mixed_ride(work, joined, &main, wanted)
            }
            Passes::Keeps => main(),
            Passes::Drops => Err(StageError::Fault(format!("`{}` drops the passes", entry.name))),
            Passes::Moves => {
                let moved = self.warped(entry, work, wanted, Some(ride))?;
                self.mixed_ride(work, moved, &main, wanted)
            }
        }
    }

    /// What a row made of the passes, where it is seen more of than what came in.
    fn mixed_ride(
        &self,
        work: &StageWork,
        made: Pixels,
        main: &dyn Fn() -> Result<Pixels, StageError>,
        wanted: Window,
    ) -> Result<Pixels, StageError> {
        let mixed = work.share().is_some();
        match mixed.then(|| self.matte(&work.mixing, wanted)).transpose()?.flatten() {
            Some(matte) => self.chosen(&main()?, &made, &matte),
            None => Ok(made),
        }
    }

    fn tool_ride(&self, tool: &ToolWork, ride: &Ride, wanted: Window) -> Result<Pixels, StageError> {
        let result = self.ride(tool.result, ride, wanted)?.over(wanted);
        match (tool.main, self.matte(&tool.mixing, wanted)?) {
            (Some((main, None)), Some(matte)) => {
                self.chosen(&self.ride(main, ride, wanted)?.over(wanted), &result, &matte)
            }
            _ => Ok(result),
        }
    }

    /// Values are not mixed: each pixel has the one that is seen more of.
    fn chosen(&self, from: &Pixels, to: &Pixels, matte: &Field) -> Result<Pixels, StageError> {
        let (matte, cancel) = (Some(matte), self.cancel);
        Ok(match (from, to) {
            (Pixels::Picture(from), Pixels::Picture(to)) => {
                Pixels::Picture(seen_more(from, to, 1.0, matte, cancel)?)
            }
            (Pixels::Field(from), Pixels::Field(to)) => {
                Pixels::Field(seen_more(from, to, 1.0, matte, cancel)?)
            }
            (Pixels::Map(from), Pixels::Map(to)) => Pixels::Map(seen_more(from, to, 1.0, matte, cancel)?),
            _ => to.clone(),
        })
    }

    /// What the file of the plate at the head of a row's strand says of itself in words.
    pub(super) fn words(&self, id: StageId) -> Result<Vec<(String, String)>, StageError> {
        let Some(Travelled { plate, .. }) = self.travelled(id)? else { return Ok(Vec::new()) };
        let entry = self.entry(plate).map_err(stage_error)?;
        match self.node(plate).map_err(stage_error)?.work {
            Work::Stage(work) => work.stage.words(&Asking::new(self, entry, &work).context()),
            _ => Ok(Vec::new()),
        }
    }

    /// What became of the passes on the way to a row; none where no plate is at its head.
    pub(super) fn travelled(&self, id: StageId) -> Result<Option<Travelled>, StageError> {
        let Node { work, .. } = self.node(id).map_err(stage_error)?;
        let entry = self.entry(id).map_err(stage_error)?;
        let from = match &work {
            Work::Pass(Some((from, None)), _) => return deep(|| self.travelled(*from)),
            Work::Pass(..) => return Ok(None),
            Work::Tool(tool) => return deep(|| self.travelled(tool.result)),
            Work::Stage(work) => match work.stage.spec().passes {
                Passes::Brings => {
                    let roles = work.stage.brings(&Asking::new(self, entry, work).context())?;
                    return Ok(Some(Travelled { plate: id, roles, moved_by: Vec::new(), dropped_by: None }));
                }
                Passes::Keeps | Passes::Moves | Passes::Joins | Passes::Drops => {
                    match work.inputs.get(MAIN) {
                        Some((from, None)) => {
                            let looks = Asking::new(self, entry, work).context().looks(MAIN)?;
                            let look = self.at_frame(looks.first().copied().unwrap_or(self.frame));
                            deep(|| look.travelled(*from))?
                        }
                        _ => None,
                    }
                }
            },
        };
        Ok(from.map(|mut travelled| {
            if let Work::Stage(work) = &work {
                match work.stage.spec().passes {
                    Passes::Moves | Passes::Joins if travelled.dropped_by.is_none() => {
                        travelled.moved_by.push(id)
                    }
                    Passes::Drops => travelled.dropped_by = travelled.dropped_by.or(Some(id)),
                    _ => {}
                }
            }
            travelled
        }))
    }
}

fn nothing(entry: &StageEntry) -> StageError {
    StageError::Fault(format!("no passes come with `{}`", entry.name))
}

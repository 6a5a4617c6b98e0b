//! What stages share that move colour channels apart.

use veil_pixels::colour::channels::{AlphaOf, Apart};
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::perspective::{Carried, Homography};
use veil_pixels::{Edge, Field, Picture, Window};

use crate::choice;
use crate::controls::{ChoiceSpec, ControlSpec};
use crate::signal::{Domain, Pixels};
use crate::spec::MAIN;
use crate::stage::{Context, StageError};

choice! {
    AlphaOf {
        Largest = "largest", "the largest";
        Own = "own", "as it was";
    }
}

pub(super) fn alpha() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("alpha", AlphaOf::Largest).help(
        "Of the coverages that the channels brought along the largest, or that of the picture as it was.",
    )
}

/// The main picture carried by a matrix between full-resolution places, over a window, as one channel is to be; none where
/// it stays.
pub(super) fn carried(
    context: &Context<'_>,
    forth: Homography,
    edge: Edge,
    within: Option<Field>,
    wanted: Window,
) -> Result<Option<Apart>, StageError> {
    if forth == Homography::IDENTITY {
        return Ok(None);
    }
    let back =
        context.at_scale(forth).inverse().ok_or_else(|| context.fault("has a scale that leaves nothing"))?;
    let carried = Carried { back, filter: Filter::Cubic, edge };
    let data = context.main_domain().map_or(Window::EMPTY, |main| main.data);
    let source = context.signal(MAIN, carried.reads(wanted, data))?;
    let picture = match source.as_ref().map(|signal| &signal.pixels) {
        Some(Pixels::Picture(picture)) => carried.apply(picture, data, wanted, context.cancel())?,
        _ => Picture::clear(wanted),
    };
    Ok(Some(Apart { picture, within }))
}

/// Where a picture exists of which channels were carried.
pub(super) fn domain(context: &Context<'_>, ways: &[Homography], edge: Edge) -> Domain {
    let main = context.main_domain().unwrap_or(Domain { data: Window::EMPTY, ..context.everywhere() });
    if main.data.is_empty() {
        return main;
    }
    if edge != Edge::Clear {
        return Domain { data: main.data.union(main.display), ..main };
    }
    let reach = Filter::Cubic.reach() + 1;
    let moved = ways.iter().map(|forth| context.at_scale(*forth).window(main.data).grow(reach, reach));
    Domain { data: moved.fold(main.data, Window::union), ..main }
}

//! Lays a signal on a plane in space.

use veil_pixels::Edge;
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::perspective::Homography;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Grip, Space, Unit};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Bend, Context, Reading, Shutter, Stage, StageError, WarpStage};
use crate::stages::shutter;

use super::rings;

controls! {
    struct PlaneControls {
        place: Space = ControlSpec::space("place").flat().grip(Grip::Drawn)
            .help("Where the plane is: in pixels from the middle of the frame, x right, y up and z toward the eye."),
        view: f64 = ControlSpec::number("angle of view", 40.0, (5.0, 120.0)).within(1.0, 170.0)
            .unit(Unit::Degrees).grip(Grip::View)
            .help("Across the frame: the wider, the more what is near grows and what is far shrinks."),
        outside: Edge = ControlSpec::choice("outside", Edge::Clear).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels; made smaller, it is read as softly as it needs."),
        rings: bool = rings(),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

impl PlaneControls {
    /// From places of the picture to where they are seen.
    ///
    /// Source: the image of a plane, Hartley and Zisserman, "Multiple View Geometry", 2004, section 8.1.
    fn forth(&self, [width, height]: [f64; 2]) -> Homography {
        let (right, down) = (width / 2.0, height / 2.0);
        let eye = right / (self.view.to_radians() / 2.0).tan();
        let middle = self.place.placed([0.0; 3]);
        let along = |own: [f64; 3]| {
            let end = self.place.placed(own);
            [0, 1, 2].map(|axis| end[axis] - middle[axis])
        };
        let columns =
            [along([1.0, 0.0, 0.0]), along([0.0, 1.0, 0.0]), [middle[0], middle[1], middle[2] - eye]];
        let seen = columns.map(|[x, y, z]| [eye * x - right * z, -eye * y - down * z, -z]);
        let rows = [0, 1, 2].map(|row| seen.map(|column| column[row]));
        // In the plane's own places y runs up from its middle.
        Homography::shift(-right, -down).then(Homography::scale(1.0, -1.0)).then(Homography::from_rows(rows))
    }
}

pub(super) struct PlaneInSpace {
    spec: StageSpec,
}

impl PlaneInSpace {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "plane_in_space",
                name: "Plane in space",
                family: Family::Warp,
                help: "Lays what comes in on a plane that is moved, turned and scaled in space before an eye.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Moves,
                controls: PlaneControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for PlaneInSpace {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: PlaneControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

impl WarpStage for PlaneInSpace {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: PlaneControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let controls: PlaneControls = context.controls()?;
        let forth = controls.forth(context.size());
        if forth.inverse().is_none() {
            return Err(context.fault("is seen edge on, or scaled to nothing"));
        }
        Ok(Bend::Matrix(context.at_scale(forth)))
    }
}

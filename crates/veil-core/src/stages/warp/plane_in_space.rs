//! Lays a signal on a plane in space.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Edge, Field, Window};

use crate::camera::CameraAt;
use crate::controls::{ControlSet, ControlSpec, Grip, Space, Unit};
use crate::ids::MediaId;
use crate::key::Key;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Bend, Context, HOLDOUT, HOLDOUT_DEPTH, Reading, Shutter, Stage, StageError, WarpStage};
use crate::stages::camera::{self, CameraFrom, Chosen};
use crate::stages::depth::{self, DepthIs, DepthPass};
use crate::stages::shutter;
use crate::{choice, controls};

use super::card::{self, Card};
use super::rings;

controls! {
    struct PlaneControls {
        camera: SeenBy = ControlSpec::choice("seen by", SeenBy::Eye).help("An eye of its own before the frame, or a camera in the world."),
        place: Space = ControlSpec::space("place").flat().grip(Grip::Drawn).when("camera", &["eye"])
            .help("Where the plane is: in pixels from the middle of the frame, x right, y up and z toward the eye."),
        view: f64 = ControlSpec::number("angle of view", 40.0, (5.0, 120.0)).within(1.0, 170.0)
            .unit(Unit::Degrees).grip(Grip::View).when("camera", &["eye"])
            .help("Across the frame: the wider, the more what is near grows and what is far shrinks."),
        camera_file: Option<MediaId> = camera::file(),
        camera_shift: f64 = camera::shift(),
        by_hand: CameraAt = camera::by_hand(),
        stand: Space = card::stand(),
        width: f64 = card::width(),
        slide_x: f64 = card::slide("slide x"),
        slide_y: f64 = card::slide("slide y"),
        spin: f64 = card::spin(),
        size: f64 = card::size(),
        depth_is: DepthIs = depth::counts().when("camera", &["file", "hand"]),
        near: f64 = depth::near(),
        far: f64 = depth::far(),
        soft: f64 = ControlSpec::number("hidden over", 0.0, (0.0, 1.0)).within(0.0, 1.0e6).unit(Unit::Metres)
            .under("depth pass").when("camera", &["file", "hand"])
            .help("Over how much depth behind a thing the plane vanishes; 0 cuts it at each pixel."),
        outside: Edge = ControlSpec::choice("outside", Edge::Clear).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels; made smaller, it is read as softly as it needs."),
        rings: bool = rings(),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

/// What the plane is seen by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum SeenBy {
    Eye,
    File,
    Hand,
}

choice! {
    SeenBy {
        Eye = "eye", "its own eye";
        File = "file", "a camera's file";
        Hand = "hand", "a camera by hand";
    }
}

impl PlaneControls {
    /// The camera; none for its own eye.
    fn chosen(&self) -> Option<Chosen> {
        let from = match self.camera {
            SeenBy::Eye => return None,
            SeenBy::File => CameraFrom::File,
            SeenBy::Hand => CameraFrom::Hand,
        };
        Some(Chosen { from, file: self.camera_file, shift: self.camera_shift, by_hand: self.by_hand })
    }

    /// From places of the picture to where they are seen.
    fn way(&self, context: &Context<'_>) -> Result<Homography, StageError> {
        let size = context.size();
        let seen = match self.chosen() {
            None => Some(self.forth(size)),
            Some(chosen) => self.card().seen(&chosen.now(context)?, size),
        };
        let seen = seen.filter(|forth| forth.inverse().is_some());
        seen.ok_or_else(|| context.fault("is seen edge on, or scaled to nothing"))
    }

    const fn card(&self) -> Card {
        Card {
            stand: self.stand,
            width: self.width,
            slide: [self.slide_x, self.slide_y],
            spin: self.spin,
            size: self.size,
        }
    }

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
                help: "Lays what comes in on a plane that stands in space before an eye of its own or a camera.",
                main: Some(Accepts::Any),
                slots: vec![SlotSpec::new(HOLDOUT, "holdout", Accepts::Field), depth::slot()],
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

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: PlaneControls = context.controls()?;
        controls.chosen().map_or(Ok(()), |chosen| chosen.key(context, key))
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
        let forth = controls.way(context)?;
        Ok(Bend::Matrix(context.at_scale(forth)))
    }

    fn shows(&self, context: &Context<'_>, window: Window) -> Result<Option<Field>, StageError> {
        let controls: PlaneControls = context.controls()?;
        let cancel = context.cancel();
        let mut shown = match context.coverage(HOLDOUT, window)? {
            Some(hidden) => Some(hidden.map(cancel, |hidden: f32| 1.0 - hidden)?),
            None => None,
        };
        let Some(chosen) = controls.chosen().filter(|_| context.domain_of(HOLDOUT_DEPTH).is_some()) else {
            return Ok(shown);
        };
        let camera = chosen.now(context)?;
        let pass = DepthPass { is: controls.depth_is, near: controls.near, far: controls.far };
        let Some(before) = pass.over(context, Some(&camera), window)? else { return Ok(shown) };
        let Some(back) = context.at_scale(controls.way(context)?).inverse() else { return Ok(shown) };
        let soft = controls.soft as f32;
        let mut all = match shown.take() {
            Some(shown) => shown,
            None => Field::flat(window, 1.0),
        };
        all.fill_rows(cancel, |y, row| {
            for ((x, shown), before) in (window.x0..).zip(row).zip(before.row(y)) {
                let beyond = depth_at(back, [x, y]) - before;
                let hidden = if soft > 0.0 {
                    (beyond / soft).clamp(0.0, 1.0)
                } else {
                    f32::from(u8::from(beyond > 0.0))
                };
                // Where nothing is known of either, nothing hides.
                if hidden > 0.0 {
                    *shown *= 1.0 - hidden;
                }
            }
        })?;
        Ok(Some(all))
    }
}

/// How far before the camera a plane is at a pixel, of which the inverse of how it is seen is given: its last row is one over
/// the depth.
fn depth_at(back: Homography, pixel: [i32; 2]) -> f32 {
    let [x, y] = pixel.map(|at| f64::from(at) + 0.5);
    let [across, down, rest] = back.rows()[2];
    (1.0 / (across * x + down * y + rest)) as f32
}

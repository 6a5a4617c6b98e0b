//! Depth passes, whatever they count.

use veil_pixels::{Edge, Field, Window};

use crate::camera::CameraAt;
use crate::choice;
use crate::controls::{ChoiceSpec, ControlSpec, NumberSpec, Unit};
use crate::plates::Role;
use crate::signal::Pixels;
use crate::spec::{Accepts, MAIN, SlotSpec};
use crate::stage::{Context, Ride, StageError};

/// What a depth pass counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum DepthIs {
    Axis,
    Ray,
    Inverse,
    Share,
}

choice! {
    DepthIs {
        Axis = "axis", "along the view axis";
        Ray = "ray", "along each ray";
        Inverse = "inverse", "one over the depth";
        Share = "share", "0 near to 1 far";
    }
}

/// The slot of a depth pass that does not come with the picture.
pub(super) const DEPTH: &str = "depth";

pub(super) const fn slot() -> SlotSpec {
    SlotSpec::new(DEPTH, "depth", Accepts::Field)
}

pub(super) fn counts() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("depth is", DepthIs::Axis)
        .under("depth pass")
        .help("What the pass counts: the way along the camera's view, or along each pixel's own ray, one over it, or a share between two depths.")
}

pub(super) const fn near() -> ControlSpec<NumberSpec> {
    ControlSpec::number("near", 0.1, (0.0, 10.0))
        .within(0.0, 1e9)
        .unit(Unit::Metres)
        .under("depth pass")
        .when("depth_is", &["share"])
        .help("The depth that 0 stands for.")
}

pub(super) const fn far() -> ControlSpec<NumberSpec> {
    ControlSpec::number("far", 100.0, (0.0, 1000.0))
        .within(0.0, 1e9)
        .unit(Unit::Metres)
        .under("depth pass")
        .when("depth_is", &["share"])
        .help("The depth that 1 stands for.")
}

/// What is said where there is no depth pass.
pub(super) fn missing(context: &Context<'_>) -> Option<String> {
    let rides = || context.ride(MAIN, &Ride::Pass(Role::Depth), Window::EMPTY);
    (context.domain_of(DEPTH).is_none() && !matches!(rides(), Ok(Some(_)))).then(|| {
        "does nothing without a depth pass: none is plugged in, and none comes with the picture".into()
    })
}

/// A depth pass as a stage's controls say it.
#[derive(Clone, Copy)]
pub(super) struct DepthPass {
    pub(super) is: DepthIs,
    pub(super) near: f64,
    pub(super) far: f64,
}

impl DepthPass {
    /// Depths along the view axis over a window, infinite where there is nothing: of the pass that is plugged in, else of the
    /// one that comes with the main picture; none where there is neither. Rays are those of a camera; without one, a pass along
    /// rays is taken as it is.
    pub(super) fn over(
        self,
        context: &Context<'_>,
        camera: Option<&CameraAt>,
        window: Window,
    ) -> Result<Option<Field>, StageError> {
        let plugged = context.field(DEPTH, window, Edge::Clear)?;
        let found = match plugged {
            Some((field, domain)) => Some(field.extended(window, domain.data, Edge::Clear)),
            None => match context.ride(MAIN, &Ride::Pass(Role::Depth), window)? {
                Some(Pixels::Field(field)) => Some(field),
                _ => None,
            },
        };
        let Some(mut depths) = found else { return Ok(None) };
        let (size, divisor) = (context.size(), f64::from(context.scale().divisor()));
        let rays = camera.filter(|_| self.is == DepthIs::Ray);
        depths.fill_rows(context.cancel(), |y, row| {
            for (x, depth) in (window.x0..).zip(row) {
                let along = rays.map_or(1.0, |camera| {
                    let at = [x, y].map(|at| (f64::from(at) + 0.5) * divisor);
                    camera.ray(at, size).map(|part| part * part).iter().sum::<f64>().sqrt()
                });
                *depth = self.along_axis(*depth, along as f32);
            }
        })?;
        Ok(Some(depths))
    }

    /// A depth along the view axis, where a ray is so many times as long; infinite where the pass says 0, less, or no number.
    fn along_axis(self, told: f32, ray: f32) -> f32 {
        let is_there = if self.is == DepthIs::Share { told.is_finite() } else { told > 0.0 };
        if !is_there {
            return f32::INFINITY;
        }
        match self.is {
            DepthIs::Axis => told,
            DepthIs::Ray => told / ray,
            DepthIs::Inverse => 1.0 / told,
            DepthIs::Share => (self.near + f64::from(told) * (self.far - self.near)) as f32,
        }
    }
}

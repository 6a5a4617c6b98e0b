//! Throws a picture from a camera onto a card or onto what a position pass shows.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Edge, Map, Raster, Window};

use crate::camera::CameraAt;
use crate::controls::{ControlSet, ControlSpec, MediaSort, Space, Unit};
use crate::ids::MediaId;
use crate::key::Key;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Bend, Context, Reading, Shutter, Stage, StageError, WarpStage};
use crate::stages::camera::{self, CameraFrom, Chosen};
use crate::stages::shutter;
use crate::{choice, controls};

use super::card::{self, Card};
use super::{MOST_MOVE, rings};

/// The slot of the position pass.
const PLACES: &str = "position";

controls! {
    struct ProjectorControls {
        camera: CameraFrom = camera::from(),
        camera_file: Option<MediaId> = camera::file(),
        camera_shift: f64 = camera::shift(),
        by_hand: CameraAt = camera::by_hand(),
        thrower: Thrower = ControlSpec::choice("thrown by", Thrower::Held).under("thrown")
            .help("The camera that sees it, as it was at a frame, or another."),
        frame: f64 = ControlSpec::number("thrown at", 1.0, (1.0, 100.0)).unit(Unit::Frames).under("thrown")
            .when("thrower", &["held", "other_file"])
            .help("The frame of the shot at which the picture is as that camera saw it."),
        thrower_file: Option<MediaId> = ControlSpec::media("thrower's file", MediaSort::Camera).under("thrown")
            .when("thrower", &["other_file"]).help("Which camera throws it."),
        thrown_by: CameraAt = ControlSpec::camera("thrower").under("thrown").when("thrower", &["other_hand"])
            .help("Where it is thrown from."),
        onto: Onto = ControlSpec::choice("onto", Onto::Places).under("onto")
            .help("What a position pass shows, or a card."),
        stand: Space = card::stand().when("onto", &["card"]),
        outside: Edge = ControlSpec::choice("outside", Edge::Clear).under("reading")
            .help("What is thrown from beyond the picture's border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels."),
        rings: bool = rings(),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

/// Who throws the picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Thrower {
    Held,
    OtherFile,
    OtherHand,
}

choice! {
    Thrower {
        Held = "held", "the same camera at a frame";
        OtherFile = "other_file", "another camera's file";
        OtherHand = "other_hand", "another by hand";
    }
}

/// What it is thrown onto.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Onto {
    Places,
    Card,
}

choice! {
    Onto {
        Places = "places", "a position pass";
        Card = "card", "a card";
    }
}

impl ProjectorControls {
    const fn seer(&self) -> Chosen {
        Chosen { from: self.camera, file: self.camera_file, shift: self.camera_shift, by_hand: self.by_hand }
    }

    /// What throws the picture.
    fn thrower(&self, context: &Context<'_>) -> Result<CameraAt, StageError> {
        match self.thrower {
            Thrower::OtherHand => Ok(self.thrown_by),
            Thrower::OtherFile => context.camera(self.thrower_file, self.frame, 0.0),
            Thrower::Held => match self.camera {
                CameraFrom::File => context.camera(self.camera_file, self.frame, self.camera_shift),
                CameraFrom::Hand => Ok(context.controls_at::<Self>(self.frame)?.by_hand),
            },
        }
    }
}

pub(super) struct Projector {
    spec: StageSpec,
}

impl Projector {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "projector",
                name: "Projector",
                family: Family::Warp,
                help: "Throws a picture from a camera onto a card or onto what a position pass shows, so that a still lives under a moving camera.",
                main: Some(Accepts::Any),
                slots: vec![SlotSpec::new(PLACES, "position", Accepts::Picture)],
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Moves,
                controls: ProjectorControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for Projector {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: ProjectorControls = context.controls()?;
        controls.seer().key(context, key)?;
        key.add(&controls.thrower(context)?);
        Ok(())
    }

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: ProjectorControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        let controls: ProjectorControls = context.controls().ok()?;
        (controls.onto == Onto::Places && context.domain_of(PLACES).is_none())
            .then(|| "throws nothing: no position pass is plugged in to throw onto".into())
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

impl WarpStage for Projector {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: ProjectorControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let controls: ProjectorControls = context.controls()?;
        if controls.onto == Onto::Places {
            let is_plugged = context.domain_of(PLACES).is_some();
            let within = if is_plugged { context.everywhere().data } else { Window::EMPTY };
            return Ok(Bend::Map { softness: 0.0, within });
        }
        let (size, camera) = (context.size(), controls.seer().now(context)?);
        let card = Card::at(controls.stand);
        let thrown = card.seen(&controls.thrower(context)?, size).and_then(Homography::inverse);
        let way = thrown.zip(card.seen(&camera, size)).map(|(thrown, seen)| thrown.then(seen));
        match way.filter(|way| way.inverse().is_some()) {
            Some(way) => Ok(Bend::Matrix(context.at_scale(way))),
            None => Err(context.fault("has a card that is seen edge on, or scaled to nothing")),
        }
    }

    fn moves(&self, context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        let controls: ProjectorControls = context.controls()?;
        if context.domain_of(PLACES).is_none() {
            return Ok(Moves::new(Map::clear(window)));
        }
        let (size, thrower) = (context.size(), controls.thrower(context)?);
        let places = context.picture(PLACES, window)?;
        let small = 1.0 / f64::from(context.scale().divisor());
        let moves = Raster::written(window, context.cancel(), |y, row: &mut [[f32; 2]]| {
            for ((x, out), [px, py, pz, alpha]) in (window.x0..).zip(row).zip(places.row(y)) {
                // Where the pass has no alpha there is nothing to throw onto.
                let world = [*px, *py, *pz].map(f64::from);
                let seen =
                    thrower.project(world, size).filter(|(at, _)| at.iter().all(|part| part.is_finite()));
                *out = match seen {
                    Some((at, _)) if *alpha > 0.0 => {
                        let move_of = |pixel: i32, at: f64| (f64::from(pixel) + 0.5 - at * small) as f32;
                        [move_of(x, at[0]), move_of(y, at[1])].map(|part| part.clamp(-MOST_MOVE, MOST_MOVE))
                    }
                    _ => [MOST_MOVE; 2],
                };
            }
        })?;
        Ok(Moves::new(moves))
    }
}

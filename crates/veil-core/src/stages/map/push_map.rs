//! A field as the length of a move.

use veil_pixels::warp::push::{Direction, push};
use veil_pixels::{Edge, Window};

use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

use super::Still;

const ALONG: &str = "along";

controls! {
    struct PushControls {
        way: Way = ControlSpec::choice("way", Way::Angle).help("Which way it pushes: all the same, away from a point, or as another map points."),
        angle: f64 = ControlSpec::angle("angle", 90.0).grip(Grip::Turn).when("way", &["angle"])
            .help("The way it pushes, counter-clockwise from the right; 90 is up."),
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).when("way", &["outward"])
            .help("What it pushes away from."),
        turned: f64 = ControlSpec::angle("turned", 0.0).when("way", &["outward", "along"])
            .help("How far each push is turned from there; at 90 it goes around."),
        strength: f64 = ControlSpec::number("strength", 1.0, (0.0, 400.0))
            .help("How many pixels a value of 1 moves the picture."),
        still: Still = ControlSpec::choice("no move at", Still::Zero).under("neutral")
            .help("Which value moves nothing: what is above it goes one way, what is below it the other."),
        value: f64 = ControlSpec::number("value", 0.5, (0.0, 1.0)).under("neutral").when("still", &["number"])
            .help("The value that moves nothing."),
    }
}

/// Which way it pushes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Way {
    Angle,
    Outward,
    Along,
}

choice! {
    Way {
        Angle = "angle", "at an angle";
        Outward = "outward", "away from a point";
        Along = "along", "along a map";
    }
}

pub(super) struct PushMap {
    spec: StageSpec,
}

impl PushMap {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "push_map",
                name: "Push map",
                family: Family::Map,
                help: "A field times a direction: value times strength is how many pixels the picture moves.",
                main: Some(Accepts::Field),
                slots: vec![SlotSpec::new(ALONG, "along", Accepts::Map)],
                gives: Gives::Always(SignalKind::Map),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: PushControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for PushMap {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("up and down", &[("angle", 90.0), ("strength", 120.0)]).choosing("still", "half"),
            Preset::of("outward", &[("strength", 30.0)]).choosing("way", "outward"),
            Preset::of("around", &[("strength", 30.0), ("turned", 90.0)]).choosing("way", "outward"),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or(Domain { data: Window::EMPTY, ..context.everywhere() }))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: PushControls = context.controls()?;
        let Some((field, _)) = context.field(MAIN, wanted, Edge::Clear)? else {
            return Ok(Pixels::clear(SignalKind::Map, wanted));
        };
        let turned = controls.turned.to_radians() as f32;
        let along = context.map(ALONG, wanted)?;
        let direction = match controls.way {
            Way::Angle => Direction::Angle(controls.angle.to_radians() as f32),
            Way::Outward => Direction::Outward(controls.centre.map(|at| context.scale().length(at)), turned),
            Way::Along => Direction::Along(&along, turned),
        };
        let still = controls.still.value(controls.value) as f32;
        let mut map = push(&field, still, &direction, wanted, context.cancel())?;
        let strength = controls.strength as f32;
        map.change(context.cancel(), |way| way.map(|along| along * strength))?;
        Ok(Pixels::Map(map))
    }
}

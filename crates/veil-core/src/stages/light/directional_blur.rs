//! Blur along a line, or along the moves of a map.

use veil_pixels::filter::along::{along, reach};
use veil_pixels::filter::streak::Streak;
use veil_pixels::{Edge, Map, Window};

use crate::controls::{ControlSet, ControlSpec, Grip, Unit};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls, each_kind};

/// The slot of the map.
const MOVES: &str = "moves";

use super::blur::{main_within, spread};

controls! {
    struct DirectionalBlurControls {
        way: Way = ControlSpec::choice("along", Way::Line).help("Whether all is smeared one way, or each pixel its own."),
        length: f64 = ControlSpec::length("length", 20.0, 200.0).grip(Grip::Length).within(0.0, 2000.0).when("way", &["line"])
            .help("From one end of a smeared dot to the other."),
        angle: f64 = ControlSpec::angle("angle", 0.0).grip(Grip::Turn).when("way", &["line"])
            .help("Which way it is smeared, counter-clockwise as seen."),
        open: f64 = ControlSpec::number("open for", 180.0, (0.0, 360.0)).within(0.0, 3600.0).unit(Unit::Degrees).when("way", &["map"])
            .help("How much of a frame's move is seen: 360 is the whole, half of it before and half of it after."),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).help("What lies beyond the border."),
    }
}

/// Which way it is smeared.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Way {
    Line,
    Map,
}

choice! {
    Way {
        Line = "line", "one line";
        Map = "map", "the map's moves";
    }
}

/// How far each pixel moves while it is seen, in pixels of this scale.
fn ways(
    controls: &DirectionalBlurControls,
    context: &Context<'_>,
    wanted: Window,
) -> Result<Map, StageError> {
    if context.domain_of(MOVES).is_none() {
        return Err(context.fault("smears along a map, but none is plugged"));
    }
    let share = (controls.open / 360.0) as f32 / context.scale().divisor() as f32;
    let moves = context.map(MOVES, wanted)?;
    Ok(moves.map(context.cancel(), |way: [f32; 2]| way.map(|length| length * share))?)
}

fn streak(controls: &DirectionalBlurControls, context: &Context<'_>) -> Streak {
    Streak { length: context.scale().length(controls.length), angle: controls.angle.to_radians() as f32 }
}

pub(super) struct DirectionalBlur {
    spec: StageSpec,
}

impl DirectionalBlur {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "directional_blur",
                name: "Directional blur",
                family: Family::Light,
                help: "Smears every pixel along a straight line, or along its own move: the blur that footage lacks.",
                main: Some(Accepts::Any),
                slots: vec![SlotSpec::new(MOVES, "moves", Accepts::Map)],
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: DirectionalBlurControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl Stage for DirectionalBlur {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("nudge", &[("length", 8.0)]),
            Preset::of("rain", &[("length", 60.0), ("angle", 80.0)]),
            Preset::of("rush", &[("length", 180.0)]),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: DirectionalBlurControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(match (controls.way, controls.outside) {
            (Way::Line, _) => spread(main, streak(&controls, context).reach(), controls.outside),
            // How far it is smeared shows only when the map is worked out.
            (Way::Map, Edge::Clear) => Domain { data: main.data.union(main.display), ..main },
            (Way::Map, _) => main,
        })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: DirectionalBlurControls = context.controls()?;
        let edge = controls.outside;
        if controls.way == Way::Map {
            let ways = ways(&controls, context, wanted)?;
            let (main, data) = main_within(context, reach(&ways), edge, wanted)?;
            return Ok(
                each_kind!(&main.pixels, raster => along(raster, data, edge, &ways, context.cancel())?),
            );
        }
        let streak = streak(&controls, context);
        let (main, data) = main_within(context, streak.reach(), edge, wanted)?;
        Ok(each_kind!(&main.pixels, raster => streak.apply(raster, data, edge, wanted, context.cancel())?))
    }
}

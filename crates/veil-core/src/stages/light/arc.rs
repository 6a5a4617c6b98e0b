//! An electric arc between places.

use veil_pixels::shape::arc::{Arc, Branches, chance};
use veil_pixels::shape::strokes::Strokes;
use veil_pixels::{Field, Window};

use crate::controls::{ControlSet, ControlSpec, Grip, PointSpec};
use crate::key::Key;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

const fn place(name: &'static str, share: [f64; 2]) -> ControlSpec<PointSpec> {
    ControlSpec::point(name, share).grip(Grip::Point)
}

controls! {
    struct ArcControls {
        from: [f64; 2] = place("from", [0.2, 0.5]).help("Where it leaps from."),
        to: [f64; 2] = place("to", [0.8, 0.5]).help("Where it strikes."),
        via: Via = ControlSpec::choice("by way of", Via::Nothing).help("How many places it goes through on its way."),
        via1: [f64; 2] = place("first place", [0.4, 0.35]).when("via", &["one", "two", "three"]).help("The first place it goes through."),
        via2: [f64; 2] = place("second place", [0.5, 0.6]).when("via", &["two", "three"]).help("The second place it goes through."),
        via3: [f64; 2] = place("third place", [0.65, 0.4]).when("via", &["three"]).help("The third place it goes through."),
        roughness: f64 = ControlSpec::number("roughness", 0.16, (0.0, 0.6)).within(0.0, 10.0).under("way")
            .help("How far the middle of each piece strays for each pixel of its length."),
        detail: f64 = ControlSpec::length("finest", 4.0, 40.0).within(0.5, 2000.0).under("way").help("The length of its shortest pieces."),
        seed: i32 = ControlSpec::whole("seed", 1, 0, 9999).under("way").help("Which of the ways."),
        width: f64 = ControlSpec::length("width", 3.0, 30.0).under("stroke").help("How wide it is where it leaps from."),
        taper: f64 = ControlSpec::number("taper", 0.5, (0.0, 1.0)).within(0.0, 10.0).under("stroke").help("The share of the width that is left where it strikes."),
        softness: f64 = ControlSpec::length("softness", 0.0, 30.0).under("stroke").help("Length over which its edge goes from full to none."),
        light: f64 = ControlSpec::number("light", 4.0, (0.0, 20.0)).within(0.0, 1000.0).under("stroke").help("How bright it is; above 1 it burns out, and glows."),
        colour: [f64; 3] = ControlSpec::colours("colour", [0.75, 0.88, 1.0], (0.0, 2.0)).under("stroke").help("The colour of its light."),
        branches: i32 = ControlSpec::whole("branches", 7, 0, 40).under("branches").help("How many leave the main way."),
        reach: f64 = ControlSpec::number("reach", 0.5, (0.0, 1.0)).within(0.0, 4.0).under("branches").help("How far they go, as a share of the way that is left."),
        spread: f64 = ControlSpec::number("spread", 28.0, (0.0, 90.0)).within(0.0, 180.0).under("branches").help("The mean angle that they leave at, in degrees."),
        decay: f64 = ControlSpec::number("decay", 0.55, (0.0, 1.0)).within(0.0, 1.0).under("branches").help("Times width and light for each generation."),
        generations: i32 = ControlSpec::whole("generations", 2, 0, 4).under("branches").help("How many times branches branch."),
        every: i32 = ControlSpec::whole("strikes every", 4, 0, 240).under("time").help("So many frames one way holds before it strikes anew; 0 for ever the same."),
        churn: f64 = ControlSpec::number("churn", 0.05, (0.0, 1.0)).within(0.0, 100.0).under("time").help("How fast it crawls each frame; one unit is a wholly new way."),
        dims: f64 = ControlSpec::number("dims", 0.2, (0.0, 1.0)).within(0.0, 1.0).under("time").help("The share of its light that a strike loses with each frame."),
        flicker: f64 = ControlSpec::number("flicker", 0.3, (0.0, 1.0)).within(0.0, 1.0).under("time").help("How uneven its light is from frame to frame."),
    }
}

/// How many places there are between its ends.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Via {
    Nothing,
    One,
    Two,
    Three,
}

choice! {
    Via {
        Nothing = "nothing", "nothing";
        One = "one", "one place";
        Two = "two", "two places";
        Three = "three", "three places";
    }
}

/// A frame within its strike.
struct Strike {
    number: i64,
    /// Frames since it struck.
    age: f64,
}

impl ArcControls {
    fn through(&self) -> Vec<[f64; 2]> {
        let between: &[[f64; 2]] = match self.via {
            Via::Nothing => &[],
            Via::One => &[self.via1],
            Via::Two => &[self.via1, self.via2],
            Via::Three => &[self.via1, self.via2, self.via3],
        };
        [&[self.from], between, &[self.to]].concat()
    }

    fn strike(&self, since: f64) -> Strike {
        match self.every {
            0 => Strike { number: 0, age: 0.0 },
            every => {
                let every = f64::from(every);
                let number = (since / every).floor();
                Strike { number: number as i64, age: since - number * every }
            }
        }
    }

    /// Whether it looks another at another frame.
    fn changes(&self) -> bool {
        self.every > 0 || self.churn != 0.0 || self.flicker > 0.0
    }

    fn arc(&self, since: f64) -> Arc {
        let strike = self.strike(since);
        let seed =
            (self.seed as u32).wrapping_mul(0x9e37_79b9) ^ (strike.number as u32).wrapping_mul(0x85eb_ca6b);
        // Each frame has one chance of its own, however finely it is looked at.
        let uneven = 1.0 - self.flicker * chance(self.seed as u32, since.floor() as i64 as u32);
        Arc {
            through: self.through(),
            roughness: self.roughness,
            detail: self.detail,
            seed,
            // Away from a whole number, where the noise has no slope of its own.
            depth: 0.37 + self.churn * since,
            width: self.width,
            taper: self.taper,
            softness: self.softness,
            light: self.light * (1.0 - self.dims).powf(strike.age) * uneven,
            branches: Branches {
                count: self.branches as u32,
                reach: self.reach,
                spread: self.spread.to_radians(),
                decay: self.decay,
                generations: self.generations as u32,
            },
        }
    }
}

fn strokes(controls: &ArcControls, context: &Context<'_>) -> Strokes {
    let arc = controls.arc(context.since());
    Strokes::new(
        &arc.strokes(f64::from(context.scale().divisor())),
        context.scale().length(controls.softness),
    )
}

pub(super) struct ArcStage {
    spec: StageSpec,
}

impl ArcStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "arc",
                name: "Arc",
                family: Family::Light,
                help: "A bolt between two places or through more, with branches; it strikes anew, crawls and flickers.",
                main: None,
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: ArcControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for ArcStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn shines(&self) -> bool {
        true
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("bolt", &[("branches", 9.0), ("roughness", 0.18), ("every", 5.0)]),
            Preset::of(
                "crawling",
                &[("branches", 3.0), ("every", 0.0), ("churn", 0.35), ("dims", 0.0), ("roughness", 0.22)],
            ),
            Preset::of("spark", &[("branches", 0.0), ("every", 1.0), ("width", 1.5), ("roughness", 0.3)]),
            Preset::of("tree", &[("branches", 18.0), ("generations", 3.0), ("reach", 0.8), ("spread", 36.0)]),
        ]
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: ArcControls = context.controls()?;
        if controls.changes() {
            key.add(&context.since());
        }
        Ok(())
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let everywhere = context.everywhere();
        let data = strokes(&context.controls()?, context).window().intersect(everywhere.display);
        Ok(Domain { data, ..everywhere })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: ArcControls = context.controls()?;
        let light: Field = strokes(&controls, context).over(wanted, context.cancel())?;
        let [r, g, b] = controls.colour.map(|value| value as f32);
        Ok(Pixels::Picture(
            light.map(context.cancel(), |light: f32| [r * light, g * light, b * light, light.min(1.0)])?,
        ))
    }
}

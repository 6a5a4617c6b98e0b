//! What a person writes, worked out for each pixel.

use veil_pixels::program::Given;
use veil_pixels::{Raster, Window};

use crate::controls::{ControlSet, ControlSpec, Value};
use crate::feed::{INPUTS, PixelFormula};
use crate::key::Key;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

const SLOTS: [&str; INPUTS] = ["in1", "in2", "in3", "in4"];

/// How many lines count.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Lines {
    One,
    Two,
    Four,
}

choice!(Lines {
    One = "field", "a field";
    Two = "map", "a map";
    Four = "picture", "a picture";
});

controls! {
    struct FormulaControls {
        gives: Lines = ControlSpec::choice("gives", Lines::One)
            .help("A field of the first line, a map of two, a picture of four."),
        first: PixelFormula = ControlSpec::formula("value, x or red", "0.5 + 0.5 * sin(length(px - wide / 2, py - high / 2) / 12)")
            .help("Of px, py, wide, high, in1.r … in4.a, now, since and secs."),
        second: PixelFormula = ControlSpec::formula("y or green", "0").help("Of the same names; for a map and a picture."),
        third: PixelFormula = ControlSpec::formula("blue", "0").help("Of the same names; for a picture."),
        fourth: PixelFormula = ControlSpec::formula("alpha", "1").help("Of the same names; for a picture."),
    }
}

impl FormulaControls {
    fn lines(&self) -> Vec<&PixelFormula> {
        let all = [&self.first, &self.second, &self.third, &self.fourth];
        let count = match self.gives {
            Lines::One => 1,
            Lines::Two => 2,
            Lines::Four => 4,
        };
        all[..count].to_vec()
    }
}

fn given(values: &[Value]) -> SignalKind {
    match FormulaControls::read(values).map(|controls| controls.gives) {
        Some(Lines::Two) => SignalKind::Map,
        Some(Lines::Four) => SignalKind::Picture,
        _ => SignalKind::Field,
    }
}

pub(super) struct FormulaStage {
    spec: StageSpec,
}

impl FormulaStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "formula",
                name: "Formula",
                family: Family::Field,
                help: "Works out every pixel by a formula that you write: one line for a field, two for a map, four for a picture.",
                main: None,
                slots: SLOTS.iter().map(|id| SlotSpec::new(id, id, Accepts::Any)).collect(),
                gives: Gives::ByControls(given),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: FormulaControls::specs(),
                proxy_tolerance: 0.12,
            },
        }
    }
}

impl Stage for FormulaStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: FormulaControls = context.controls()?;
        controls.lines().iter().for_each(|line| key.add(&line.times(context.moment())));
        Ok(())
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.everywhere())
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: FormulaControls = context.controls()?;
        let lines = controls.lines();
        let mut taken = Vec::new();
        for (number, slot) in SLOTS.iter().enumerate() {
            if lines.iter().any(|line| line.names(number))
                && let Some(signal) = context.signal(slot, wanted)?
            {
                taken.push((number, signal.over(wanted)));
            }
        }
        let scale = f32::from(context.scale().divisor() as u16);
        let columns: Vec<f32> = (wanted.x0..wanted.x1).map(|x| (x as f32 + 0.5) * scale).collect();
        let display = context.everywhere().display;
        let (wide, high) = (display.width() as f32 * scale, display.height() as f32 * scale);
        let row = |y: i32| {
            let mut given = vec![Given::Same(0.0); PixelFormula::input(INPUTS)];
            let [px, py, width, height] = PixelFormula::PLACE;
            given[px] = Given::Floats { floats: &columns, first: 0, step: 1 };
            (given[py], given[width], given[height]) =
                (Given::Same((y as f32 + 0.5) * scale), Given::Same(wide), Given::Same(high));
            for (number, pixels) in &taken {
                let (floats, step) = floats_of(pixels, y);
                for channel in 0..step {
                    given[PixelFormula::input(*number) + channel] =
                        Given::Floats { floats, first: channel, step };
                }
            }
            given
        };
        let programs: Vec<_> = lines.iter().map(|line| line.program(context.moment())).collect();
        let flaws = std::sync::atomic::AtomicUsize::new(0);
        let run = |line: usize, y: i32, out: &mut [f32]| {
            let bad = programs[line].run(&row(y), out);
            flaws.fetch_add(bad, std::sync::atomic::Ordering::Relaxed);
        };
        let field = |line: usize| Raster::written(wanted, context.cancel(), |y, out| run(line, y, out));
        let made = match controls.gives {
            Lines::One => Pixels::Field(field(0)?),
            Lines::Two => {
                let (x, y) = (field(0)?, field(1)?);
                Pixels::Map(interleaved(wanted, context, |at, row| [x.row(row)[at], y.row(row)[at]])?)
            }
            Lines::Four => {
                let [r, g, b, a] = [field(0)?, field(1)?, field(2)?, field(3)?];
                let of = |at: usize, row: i32| [&r, &g, &b, &a].map(|channel| channel.row(row)[at]);
                Pixels::Picture(interleaved(wanted, context, of)?)
            }
        };
        context.note_flaws(flaws.into_inner());
        Ok(made)
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        match context.noted_flaws() {
            0 => None,
            1 => Some("one value of the formula is no number or infinite; it is 0 here".into()),
            count => {
                Some(format!("{count} values of the formula are no numbers or infinite; they are 0 here"))
            }
        }
    }
}

fn interleaved<P: veil_pixels::Pixel>(
    window: Window,
    context: &Context<'_>,
    of: impl Fn(usize, i32) -> P + Sync,
) -> Result<Raster<P>, StageError> {
    Ok(Raster::written(window, context.cancel(), |y, out| {
        for (at, out) in out.iter_mut().enumerate() {
            *out = of(at, y);
        }
    })?)
}

/// A row's floats, and how many a pixel has.
fn floats_of(pixels: &Pixels, y: i32) -> (&[f32], usize) {
    match pixels {
        Pixels::Picture(raster) => (raster.row(y).as_flattened(), 4),
        Pixels::Map(raster) => (raster.row(y).as_flattened(), 2),
        Pixels::Field(raster) => (raster.row(y), 1),
    }
}

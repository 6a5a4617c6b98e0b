//! The values of a field as colours.

use veil_pixels::shape::gradient::{Gradient, Spread};
use veil_pixels::{Raster, Window, colour};

use crate::controls;
use crate::controls::Setting;
use crate::controls::{ControlSet, ControlSpec, Stops};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct FieldToColourControls {
        low: f64 = ControlSpec::number("low", 0.0, (0.0, 1.0)).help("The value that gets the first colour."),
        high: f64 = ControlSpec::number("high", 1.0, (0.0, 1.0)).help("The value that gets the last colour."),
        stops: Stops = ControlSpec::stops("stops").under("colours").help("The colours from low to high: click the bar for another, drag one to move it."),
        spread: Spread = ControlSpec::choice("beyond", Spread::Hold).under("colours").help("What values beyond low and high get."),
    }
}

pub(super) struct FieldToColour {
    spec: StageSpec,
}

impl FieldToColour {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "field_to_colour",
                name: "Field to colour",
                family: Family::Colour,
                help: "Gives each value of a field, or each luma of a picture, a colour from a run of colours.",
                main: Some(Accepts::PictureOrField),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: FieldToColourControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for FieldToColour {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        let stop = |(at, colour, alpha): (f64, [f64; 3], f64)| crate::controls::Stop {
            at,
            colour,
            alpha,
            smooth: false,
        };
        let of = |name, stops: &[(f64, [f64; 3], f64)]| {
            let mut preset = Preset::of(name, &[]);
            preset
                .settings
                .push(("stops", Setting::Stops { stops: stops.iter().copied().map(stop).collect() }));
            preset
        };
        vec![
            of(
                "fire",
                &[
                    (0.0, [0.0; 3], 0.0),
                    (0.35, [0.4, 0.03, 0.0], 0.6),
                    (0.6, [1.6, 0.4, 0.04], 1.0),
                    (0.85, [3.0, 1.6, 0.3], 1.0),
                    (1.0, [5.0, 4.2, 2.6], 1.0),
                ],
            ),
            of(
                "verdigris",
                &[
                    (0.0, [0.16, 0.09, 0.05], 1.0),
                    (0.5, [0.1, 0.22, 0.18], 1.0),
                    (1.0, [0.3, 0.55, 0.47], 1.0),
                ],
            ),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or(Domain { data: Window::EMPTY, ..context.everywhere() }))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: FieldToColourControls = context.controls()?;
        let colours =
            Gradient::new(controls.stops.iter().map(|stop| (*stop).into()).collect(), controls.spread);
        let span = controls.high - controls.low;
        let place = |value: f32| {
            let share = (f64::from(value) - controls.low) / span;
            // Where low and high meet, a value is on one side or the other.
            if share.is_nan() { 0.0 } else { share.clamp(-1.0e6, 1.0e6) as f32 }
        };
        let weights = context.working().luma();
        let main = context.main(wanted)?;
        Ok(Pixels::Picture(match main.over(wanted) {
            Pixels::Field(field) => {
                let begin = || vec![0.0; wanted.width()];
                Raster::written_with(wanted, context.cancel(), begin, |places, y, row| {
                    let values = places.iter_mut().zip(field.row(y));
                    values.for_each(|(to, value)| *to = place(*value));
                    colours.row(places, row);
                })?
            }
            Pixels::Picture(picture) => picture.map(context.cancel(), |pixel| {
                let bare = colour::unpremultiplied(pixel);
                colours.at(place(colour::luma(bare, weights))).map(|value| value * pixel[3])
            })?,
            Pixels::Map(_) => return Err(context.fault("wants a field or a picture")),
        }))
    }
}

//! Each channel from where one likes.

use veil_pixels::{Picture, Rgba, Window, colour};

use crate::controls::{ChoiceSpec, ControlSet, ControlSpec};
use crate::signal::{Domain, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};
use crate::{choice, controls};

const OTHERS: [&str; 3] = ["second", "third", "fourth"];

/// Which picture a channel is taken of.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Of {
    Main,
    Second,
    Third,
    Fourth,
}

choice! {
    Of {
        Main = "main", "main input";
        Second = "second", "second";
        Third = "third", "third";
        Fourth = "fourth", "fourth";
    }
}

/// Which part of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Part {
    Red,
    Green,
    Blue,
    Alpha,
    Luma,
    Nothing,
    Full,
}

choice! {
    Part {
        Red = "red", "red";
        Green = "green", "green";
        Blue = "blue", "blue";
        Alpha = "alpha", "alpha";
        Luma = "luma", "luma";
        Nothing = "nothing", "nothing";
        Full = "full", "full";
    }
}

impl Part {
    fn of(self, pixel: Rgba, weights: [f32; 3]) -> f32 {
        match self {
            Self::Red => pixel[0],
            Self::Green => pixel[1],
            Self::Blue => pixel[2],
            Self::Alpha => pixel[3],
            Self::Luma => colour::luma(pixel, weights),
            Self::Nothing => 0.0,
            Self::Full => 1.0,
        }
    }
}

fn of(name: &'static str) -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice(name, Of::Main).help("Which picture this channel is taken of.")
}

controls! {
    struct ChannelRouteControls {
        red_of: Of = of("red of").under("red"),
        red_is: Part = ControlSpec::choice("red is", Part::Red).under("red").help("Which part of that picture becomes red."),
        green_of: Of = of("green of").under("green"),
        green_is: Part = ControlSpec::choice("green is", Part::Green).under("green").help("Which part of that picture becomes green."),
        blue_of: Of = of("blue of").under("blue"),
        blue_is: Part = ControlSpec::choice("blue is", Part::Blue).under("blue").help("Which part of that picture becomes blue."),
        alpha_of: Of = of("alpha of").under("alpha"),
        alpha_is: Part = ControlSpec::choice("alpha is", Part::Alpha).under("alpha").help("Which part of that picture becomes alpha."),
    }
}

impl ChannelRouteControls {
    const fn routes(&self) -> [(Of, Part); 4] {
        [
            (self.red_of, self.red_is),
            (self.green_of, self.green_is),
            (self.blue_of, self.blue_is),
            (self.alpha_of, self.alpha_is),
        ]
    }
}

pub(super) struct ChannelRoute {
    spec: StageSpec,
}

impl ChannelRoute {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "channel_route",
                name: "Channel route",
                family: Family::Joining,
                help: "Takes each channel of the result from a channel of one of four pictures, as it is, premultiplied.",
                main: Some(Accepts::Picture),
                slots: vec![
                    SlotSpec::new(OTHERS[0], "second", Accepts::Picture),
                    SlotSpec::new(OTHERS[1], "third", Accepts::Picture),
                    SlotSpec::new(OTHERS[2], "fourth", Accepts::Picture),
                ],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: ChannelRouteControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for ChannelRoute {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        let all = |name, part: &str| {
            Preset::of(name, &[])
                .choosing("red_is", part)
                .choosing("green_is", part)
                .choosing("blue_is", part)
        };
        vec![
            Preset::of("red alone", &[]).choosing("green_is", "nothing").choosing("blue_is", "nothing"),
            Preset::of("green alone", &[]).choosing("red_is", "nothing").choosing("blue_is", "nothing"),
            Preset::of("blue alone", &[]).choosing("red_is", "nothing").choosing("green_is", "nothing"),
            all("luma", "luma"),
            all("alpha as grey", "alpha"),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: ChannelRouteControls = context.controls()?;
        let everywhere = context.everywhere();
        if controls.routes().iter().any(|(_, part)| *part == Part::Full) {
            return Ok(everywhere);
        }
        let all = std::iter::once(MAIN).chain(OTHERS).filter_map(|slot| context.domain_of(slot));
        Ok(Domain { data: all.fold(Window::EMPTY, |all, domain| all.union(domain.data)), ..everywhere })
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: ChannelRouteControls = context.controls()?;
        let routes = controls.routes();
        let weights = context.working().luma();
        let mut others: [Option<Picture>; 3] = [const { None }; 3];
        for ((of, slot), other) in
            [Of::Second, Of::Third, Of::Fourth].into_iter().zip(OTHERS).zip(&mut others)
        {
            if routes.iter().any(|(taken, _)| *taken == of) {
                *other = Some(context.picture(slot, wanted)?);
            }
        }
        let [second, third, fourth] = others;
        Ok(Some(EachPixel::rows_at(move |[x0, y], row| {
            let start = (x0 - wanted.x0) as usize;
            let run = |other: &Option<Picture>, at: usize| {
                other.as_ref().and_then(|other| other.row(y).get(start + at).copied()).unwrap_or_default()
            };
            for (at, pixel) in row.iter_mut().enumerate() {
                let main = *pixel;
                for (out, (of, part)) in pixel.iter_mut().zip(routes) {
                    let from = match of {
                        Of::Main => main,
                        Of::Second => run(&second, at),
                        Of::Third => run(&third, at),
                        Of::Fourth => run(&fourth, at),
                    };
                    *out = part.of(from, weights);
                }
            }
        })))
    }
}

//! One field for x, one for y.

use veil_pixels::warp::push::pair;
use veil_pixels::{Edge, Field, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};

use super::Still;

const X: &str = "x";
const Y: &str = "y";

controls! {
    struct PairControls {
        strength_x: f64 = ControlSpec::number("strength x", 1.0, (0.0, 400.0)).help("How many pixels a value of 1 moves the picture to the right."),
        strength_y: f64 = ControlSpec::number("strength y", 1.0, (0.0, 400.0)).help("How many pixels a value of 1 moves the picture down."),
        swap: bool = ControlSpec::switch("swap", false).under("axes").help("Each field moves along the other axis."),
        flip_x: bool = ControlSpec::switch("flip x", false).under("axes").help("High values move to the left."),
        flip_y: bool = ControlSpec::switch("flip y", false).under("axes").help("High values move up."),
        still: Still = ControlSpec::choice("no move at", Still::Zero).under("neutral").help("Which value of either field moves nothing."),
        value: f64 = ControlSpec::number("value", 0.5, (0.0, 1.0)).under("neutral").when("still", &["number"])
            .help("The value that moves nothing."),
    }
}

pub(super) struct PairMap {
    spec: StageSpec,
}

impl PairMap {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "pair_map",
                name: "Pair map",
                family: Family::Map,
                help: "One field moves the picture sideways, another up and down; either may be empty.",
                main: None,
                slots: vec![SlotSpec::new(X, "x", Accepts::Field), SlotSpec::new(Y, "y", Accepts::Field)],
                gives: Gives::Always(SignalKind::Map),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: PairControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for PairMap {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let data = [X, Y].into_iter().filter_map(|slot| context.domain_of(slot));
        let data = data.fold(Window::EMPTY, |all, domain| all.union(domain.data));
        Ok(Domain { data, ..context.everywhere() })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: PairControls = context.controls()?;
        let still = controls.still.value(controls.value) as f32;
        let field = |slot: &str, strength: f64, flip: bool| -> Result<Option<Field>, StageError> {
            let Some((field, _)) = context.field(slot, wanted, Edge::Clear)? else { return Ok(None) };
            let strength = if flip { -strength } else { strength } as f32;
            let field = field.extended(wanted, field.window(), Edge::Clear);
            Ok(Some(field.map(context.cancel(), |value: f32| (value - still) * strength)?))
        };
        let (across, down) = if controls.swap { (Y, X) } else { (X, Y) };
        let x = field(across, controls.strength_x, controls.flip_x)?;
        let y = field(down, controls.strength_y, controls.flip_y)?;
        Ok(Pixels::Map(pair(x.as_ref(), y.as_ref(), wanted, context.cancel())?))
    }
}

//! Several fields as one.

use veil_pixels::Window;

use crate::controls::{ChoiceSpec, ControlSet, ControlSpec, NumberSpec, SwitchSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Belongs, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};
use crate::{choice, controls};

/// How a field meets those before it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Meet {
    Maximum,
    Minimum,
    Multiply,
    Add,
    Subtract,
    Difference,
    Screen,
}

choice! {
    Meet {
        Maximum = "maximum", "maximum";
        Minimum = "minimum", "minimum";
        Multiply = "multiply", "multiply";
        Add = "add", "add";
        Subtract = "subtract", "subtract";
        Difference = "difference", "difference";
        Screen = "screen", "screen";
    }
}

impl Meet {
    /// Screen as W3C Compositing and Blending Level 1 has it.
    fn of(self, before: f32, this: f32) -> f32 {
        match self {
            Self::Maximum => before.max(this),
            Self::Minimum => before.min(this),
            Self::Multiply => before * this,
            Self::Add => before + this,
            Self::Subtract => before - this,
            Self::Difference => (before - this).abs(),
            Self::Screen => before + this - before * this,
        }
    }
}

/// The slots of the list after the first field, which is the main input.
pub(crate) const LIST: [&str; 5] = ["field2", "field3", "field4", "field5", "field6"];
const NAMES: [&str; 5] = ["field 2", "field 3", "field 4", "field 5", "field 6"];

fn meets() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("meets by", Meet::Maximum).help("How this field meets those above it.")
}

fn share() -> ControlSpec<NumberSpec> {
    ControlSpec::number("by", 1.0, (0.0, 1.0))
        .within(0.0, 1.0)
        .help("How much of this field's effect is seen.")
}

fn inverted() -> ControlSpec<SwitchSpec> {
    ControlSpec::switch("inverted", false).help("This field counts as 1 minus its value.")
}

fn counts() -> ControlSpec<SwitchSpec> {
    ControlSpec::switch("counts", true).help("Whether this field counts.")
}

controls! {
    struct CombineControls {
        invert: bool = ControlSpec::switch("invert first", false).help("The first field counts as 1 minus its value."),
        field2_meet: Meet = meets(),
        field2_amount: f64 = share(),
        field2_invert: bool = inverted(),
        field2_counts: bool = counts(),
        field3_meet: Meet = meets(),
        field3_amount: f64 = share(),
        field3_invert: bool = inverted(),
        field3_counts: bool = counts(),
        field4_meet: Meet = meets(),
        field4_amount: f64 = share(),
        field4_invert: bool = inverted(),
        field4_counts: bool = counts(),
        field5_meet: Meet = meets(),
        field5_amount: f64 = share(),
        field5_invert: bool = inverted(),
        field5_counts: bool = counts(),
        field6_meet: Meet = meets(),
        field6_amount: f64 = share(),
        field6_invert: bool = inverted(),
        field6_counts: bool = counts(),
    }
}

impl CombineControls {
    /// How each field of the list meets, in its order.
    fn list(&self) -> [(Meet, f32, bool); 5] {
        let share = |counts: bool, amount: f64| if counts { amount as f32 } else { 0.0 };
        [
            (self.field2_meet, share(self.field2_counts, self.field2_amount), self.field2_invert),
            (self.field3_meet, share(self.field3_counts, self.field3_amount), self.field3_invert),
            (self.field4_meet, share(self.field4_counts, self.field4_amount), self.field4_invert),
            (self.field5_meet, share(self.field5_counts, self.field5_amount), self.field5_invert),
            (self.field6_meet, share(self.field6_counts, self.field6_amount), self.field6_invert),
        ]
    }
}

pub(super) struct CombineFields {
    spec: StageSpec,
}

impl CombineFields {
    pub(super) fn new() -> Self {
        let slot = |(id, name)| SlotSpec::new(id, name, Accepts::Field).belongs(Belongs::ToList("fields"));
        Self {
            spec: StageSpec {
                id: "combine_fields",
                name: "Combine fields",
                family: Family::Field,
                help: "Fields met one after the other: the larger, the smaller, where both are, added, cut away.",
                main: Some(Accepts::Field),
                slots: LIST.into_iter().zip(NAMES).map(slot).collect(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: CombineControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl Stage for CombineFields {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        // A field that is turned inside out, or screened with one, is something everywhere.
        Ok(context.everywhere())
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: CombineControls = context.controls()?;
        let turned = |value: f32, invert: bool| if invert { 1.0 - value } else { value };
        let mut list = Vec::new();
        for (slot, (meet, amount, invert)) in LIST.iter().zip(controls.list()) {
            if let Some(Pixels::Field(field)) =
                context.signal(slot, wanted)?.map(|signal| signal.over(wanted))
                && amount > 0.0
            {
                list.push((field, meet, amount, invert));
            }
        }
        Ok(Some(EachPixel::field_rows_at(move |[x0, y], row| {
            row.iter_mut().for_each(|value| *value = turned(*value, controls.invert));
            for (field, meet, amount, invert) in &list {
                for (out, value) in row.iter_mut().zip(&field.row(y)[(x0 - wanted.x0) as usize..]) {
                    *out += (meet.of(*out, turned(*value, *invert)) - *out) * amount;
                }
            }
        })))
    }
}

//! Several maps as one.

use veil_pixels::Window;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, NumberSpec, SwitchSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Belongs, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};

/// The slots of the list after the first map, which is the main input.
const LIST: [&str; 5] = ["map2", "map3", "map4", "map5", "map6"];
const NAMES: [&str; 5] = ["map 2", "map 3", "map 4", "map 5", "map 6"];

fn share() -> ControlSpec<NumberSpec> {
    ControlSpec::number("by", 1.0, (-2.0, 2.0))
        .help("How many times this map is added; below 0 it is taken away.")
}

fn counts() -> ControlSpec<SwitchSpec> {
    ControlSpec::switch("counts", true).help("Whether this map counts.")
}

controls! {
    struct AddMapsControls {
        map2_amount: f64 = share(),
        map2_counts: bool = counts(),
        map3_amount: f64 = share(),
        map3_counts: bool = counts(),
        map4_amount: f64 = share(),
        map4_counts: bool = counts(),
        map5_amount: f64 = share(),
        map5_counts: bool = counts(),
        map6_amount: f64 = share(),
        map6_counts: bool = counts(),
    }
}

impl AddMapsControls {
    /// How many times each map of the list is added, in its order.
    fn list(&self) -> [f32; 5] {
        let share = |counts: bool, amount: f64| if counts { amount as f32 } else { 0.0 };
        [
            share(self.map2_counts, self.map2_amount),
            share(self.map3_counts, self.map3_amount),
            share(self.map4_counts, self.map4_amount),
            share(self.map5_counts, self.map5_amount),
            share(self.map6_counts, self.map6_amount),
        ]
    }
}

pub(super) struct AddMaps {
    spec: StageSpec,
}

impl AddMaps {
    pub(super) fn new() -> Self {
        let slot = |(id, name)| SlotSpec::new(id, name, Accepts::Map).belongs(Belongs::ToList("maps"));
        Self {
            spec: StageSpec {
                id: "add_maps",
                name: "Add maps",
                family: Family::Map,
                help: "Adds up the moves of several maps, each as many times as it says.",
                main: Some(Accepts::Map),
                slots: LIST.into_iter().zip(NAMES).map(slot).collect(),
                gives: Gives::Always(SignalKind::Map),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: AddMapsControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for AddMaps {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let all = std::iter::once(&MAIN).chain(&LIST).filter_map(|slot| context.domain_of(slot));
        let data = all.fold(Window::EMPTY, |all, domain| all.union(domain.data));
        Ok(Domain { data, ..context.everywhere() })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: AddMapsControls = context.controls()?;
        let mut sum = context.map(MAIN, wanted)?;
        for (slot, by) in LIST.iter().zip(controls.list()).filter(|(_, by)| *by != 0.0) {
            if context.domain_of(slot).is_none() {
                continue;
            }
            let map = context.map(slot, wanted)?;
            sum.fill_rows(context.cancel(), |y, row| {
                for (sum, moved) in row.iter_mut().zip(map.row(y)) {
                    *sum = [sum[0] + moved[0] * by, sum[1] + moved[1] * by];
                }
            })?;
        }
        Ok(Pixels::Map(sum))
    }
}

//! The last row.

use veil_pixels::Window;

use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};

pub(super) struct Final {
    spec: StageSpec,
}

impl Final {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "final",
                name: "Final",
                family: Family::Joining,
                help: "What a render takes by default.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::None,
                passes: Passes::Keeps,
                controls: Vec::new(),
                proxy_tolerance: 1e-6,
            },
        }
    }
}

impl Stage for Final {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or(Domain { data: Window::EMPTY, ..context.everywhere() }))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        Ok(context.main(wanted)?.over(wanted))
    }
}

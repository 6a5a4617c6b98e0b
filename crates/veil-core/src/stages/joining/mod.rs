//! Stages that bring signals together.

mod alpha;
pub(crate) mod blend;
mod channel_route;
mod cut_out;
mod r#final;
mod wipe;

use crate::stage::Stage;

/// In the order that they are listed in.
pub(super) fn all() -> Vec<Box<dyn Stage>> {
    vec![
        Box::new(blend::Blend::new()),
        Box::new(channel_route::ChannelRoute::new()),
        Box::new(wipe::Wipe::new()),
        Box::new(cut_out::CutOutStage::new()),
        Box::new(alpha::AlphaStage::new()),
        Box::new(r#final::Final::new()),
    ]
}

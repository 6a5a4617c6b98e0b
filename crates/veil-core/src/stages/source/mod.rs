//! Stages that make a signal from nothing or from files.

mod figure;
mod fill;
mod gradient;
mod painted;
mod pass;
mod plate;
mod text;

use crate::stage::Stage;

/// In the order that they are listed in.
pub(super) fn all() -> Vec<Box<dyn Stage>> {
    vec![
        Box::new(plate::Plate::new()),
        Box::new(pass::PassStage::new()),
        Box::new(fill::Fill::new()),
        Box::new(gradient::GradientStage::new()),
        Box::new(text::TextStage::new()),
        Box::new(figure::FigureStage::new()),
    ]
}

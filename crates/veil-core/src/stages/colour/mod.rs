//! Stages that change colour.

mod colour_space;
mod field_to_colour;
mod grade;
mod hsv;
mod hue_shift;
mod lut;
mod roll_off;
mod steps;
mod tint;
mod tone_curve;

use crate::stage::Stage;

/// In the order that they are listed in.
pub(super) fn all() -> Vec<Box<dyn Stage>> {
    vec![
        Box::new(grade::GradeStage::new()),
        Box::new(tone_curve::ToneCurve::new()),
        Box::new(steps::Steps::new()),
        Box::new(tint::Tint::new()),
        Box::new(field_to_colour::FieldToColour::new()),
        Box::new(roll_off::HighlightRollOff::new()),
        Box::new(hue_shift::HueShift::new()),
        Box::new(hsv::Hsv::new()),
        Box::new(colour_space::ColourSpaceStage::new()),
        Box::new(lut::LutStage::new()),
    ]
}

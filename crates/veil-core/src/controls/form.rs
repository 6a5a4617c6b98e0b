//! What a form of setting holds.

use super::points::KeyedPoints;
use crate::feed::{Feed, KeyMove};

/// What a form of setting holds that others work on.
pub(super) trait Form {
    /// Numbers that are fed.
    fn feeds(&self) -> &[Feed] {
        &[]
    }

    /// The same, to be changed.
    fn feeds_mut(&mut self) -> &mut [Feed] {
        &mut []
    }

    /// Points that are keyed together, a list of them each.
    fn drawn(&self) -> Vec<&KeyedPoints> {
        Vec::new()
    }

    /// The same, to be changed.
    fn drawn_mut(&mut self) -> Vec<&mut KeyedPoints> {
        Vec::new()
    }

    /// What is drawn becomes that of a picture so many times as large.
    fn scale_drawn(&mut self, factor: f64) {
        self.drawn_mut().into_iter().for_each(|points| points.scale(factor));
    }

    /// What is drawn keeps step with keys that are moved.
    fn retime_drawn(&mut self, by: KeyMove) {
        self.drawn_mut().into_iter().for_each(|points| points.retime(by));
    }

    /// A few words on what it is.
    fn words(&self) -> String;
}

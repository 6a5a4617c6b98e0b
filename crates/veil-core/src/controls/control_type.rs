//! What a type of control answers.

use serde_json::Value as Json;

use crate::feed::{Feed, Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// A type of control. What it is set to always has one form; a setting that does not fit is never kept, and one of a broken
/// file counts as the default.
pub trait ControlType {
    /// What it is at a moment.
    type Value;
    /// What it is set to, as it stands in a setup.
    type Set;

    /// Where it starts on a picture.
    fn start(&self, picture: PictureFormat) -> Self::Value;

    /// What it is set to where it starts.
    fn start_set(&self, picture: PictureFormat) -> Self::Set;

    /// Whether where it starts depends on the picture's size.
    fn is_relative(&self) -> bool {
        false
    }

    /// What is said of a setting of another form.
    fn wanted(&self) -> String;

    /// Whether what it is set to fits: its bounds, its choices. `Err` says what is wanted.
    fn fits(&self, set: &Self::Set) -> Result<(), String>;

    /// The value at a moment; none where what it is set to does not fit.
    fn at(&self, set: &Self::Set, moment: Moment, others: &dyn Others) -> Option<Self::Value>;

    /// How the numbers are called that are fed; one without a name where there is only one, none where it is not fed.
    fn axes(&self) -> &'static [&'static str] {
        &[]
    }

    /// How one of the fed numbers is called.
    fn axis_name(&self, _set: &Self::Set, axis: usize) -> Option<String> {
        self.axes().get(axis).map(|name| (*name).to_owned())
    }

    /// How the numbers are called that other controls can follow.
    fn follow_names(&self) -> &'static [&'static str] {
        self.axes()
    }

    /// A fed number, as the control takes it.
    fn held(&self, number: f64) -> f64 {
        number
    }

    /// A number that can be followed and is not fed.
    fn own_number(
        &self,
        _set: &Self::Set,
        _axis: usize,
        _moment: Moment,
        _others: &dyn Others,
    ) -> Option<f64> {
        None
    }

    /// Whether its numbers are lengths or places, which grow with the picture.
    fn is_length(&self) -> bool {
        false
    }

    /// What it says of itself in a row's line, by the control's name.
    fn line(&self, name: &str, _value: &Self::Value, _media: &[Media]) -> String {
        name.to_owned()
    }

    /// What it is set to by one word of a command line. `Err` says what is wanted.
    fn written(&self, _text: &str) -> Result<Self::Set, &'static str> {
        Err("it is set in the setup")
    }

    /// What it is set to after a deed that only this type knows. `Err` says what is wanted.
    fn altered(&self, _set: &Self::Set, _deed: &Json) -> Result<Self::Set, String> {
        Err("is not changed in this way".into())
    }

    /// The JSON Schema of its settings.
    fn schema(&self) -> Json;

    /// What it is, in a few words: its range, its entries, where it starts.
    fn told(&self) -> String;
}

/// The schema of a setting that holds a field of this name.
pub(super) fn holding(field: &str) -> Json {
    serde_json::json!({ "allOf": [{ "$ref": "#/$defs/Setting" }], "type": "object", "required": [field] })
}

/// The schema of so many numbers, each fed.
pub(super) fn fed(count: usize) -> Json {
    let mut told = holding("axes");
    told["properties"] = serde_json::json!({ "axes": { "minItems": count, "maxItems": count } });
    told
}

/// What is said of a setting that is no numbers, or not so many.
pub(super) fn numbers_wanted(of: &impl ControlType) -> String {
    format!("wants {} numbers", of.axes().len())
}

/// Whether there are as many numbers as the control takes, each a feed that holds together.
pub(super) fn axes_fit(of: &impl ControlType, axes: &[Feed]) -> Result<(), String> {
    if axes.len() != of.axes().len() {
        return Err(numbers_wanted(of));
    }
    axes.iter().try_for_each(Feed::check).map_err(str::to_owned)
}

/// As many numbers as there are axes, as the control takes them.
pub(super) fn numbers<const N: usize>(
    of: &impl ControlType,
    axes: &[Feed],
    moment: Moment,
    others: &dyn Others,
) -> Option<[f64; N]> {
    let axes: &[Feed; N] = axes.try_into().ok()?;
    Some(axes.each_ref().map(|feed| of.held(feed.at(moment, others))))
}

/// Plain numbers, one a feed.
pub(super) fn plain(numbers: &[f64]) -> Vec<Feed> {
    numbers.iter().copied().map(Feed::Fixed).collect()
}

/// Numbers written one after the other with commas.
pub(super) fn numbers_written(text: &str) -> Result<Vec<Feed>, &'static str> {
    let numbers: Result<Vec<f64>, _> = text.split(',').map(|part| part.trim().parse()).collect();
    numbers.map(|numbers| plain(&numbers)).map_err(|_| "the values are not numbers")
}

/// At most two places, none where it is whole.
pub(super) fn short(number: f64) -> String {
    let text = format!("{number:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

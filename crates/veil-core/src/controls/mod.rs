//! What a stage can be told: the declared controls, each of a type, and their values at a moment.
//!
//! A type of control is one file here, and a line in the list below.

mod choice;
mod colour;
mod curve;
mod formula;
mod lattice;
mod media;
mod names;
mod number;
mod pairs;
mod point;
mod points;
mod set;
mod setting;
mod shapes;
mod size;
mod space;
mod spec;
mod stops;
mod switch;
mod text;

use std::ops::Deref;

use serde::Serialize;
use serde_json::Value as Json;

pub use choice::ChoiceSpec;
pub use colour::ColourSpec;
pub use curve::{Curve, CurveSpec};
pub use formula::FormulaSpec;
pub use lattice::{LaidLattice, Lattice, LatticeSpec};
pub use media::{MediaSort, MediaSpec};
pub use names::NamesSpec;
pub use number::{NumberSpec, Unit};
pub use pairs::{Fence, LaidFence, LaidPair, LaidPairs, Pair, PairSet, PairsSpec};
pub use point::PointSpec;
pub use points::{CarriedBy, KeyedPoints, PointsKey, PointsWay, ShapePoint};
pub use set::{ControlSet, FromValue};
pub use setting::Setting;
pub use shapes::{Drawn, Joins, Laid, Shapes, ShapesSpec, Side};
pub use size::SizeSpec;
pub use space::{Space, SpaceSpec};
pub use spec::{ControlSpec, Grip, When};
pub use stops::{Stop, Stops, StopsSpec};
pub use switch::SwitchSpec;
pub use text::TextSpec;

use crate::feed::{Feed, Moment, Others, PixelFormula};
use crate::ids::MediaId;
use crate::key::{Key, Keyed};
use crate::media::Media;
use crate::picture::PictureFormat;

/// What a type of control answers. A setting that does not fit is never kept; one of a broken file counts as the default.
pub trait ControlType {
    /// Where it starts on a picture.
    fn start(&self, picture: PictureFormat) -> Value;

    /// The setting that stands for where it starts.
    fn start_setting(&self, picture: PictureFormat) -> Setting;

    /// Whether where it starts depends on the picture's size.
    fn is_relative(&self) -> bool {
        false
    }

    /// Whether a setting fits: its form, its bounds, its choices. `Err` says what is wanted.
    fn fits(&self, setting: &Setting) -> Result<(), String>;

    /// The value at a moment; none where the setting does not fit.
    fn at(&self, setting: &Setting, moment: Moment, others: &dyn Others) -> Option<Value>;

    /// How the numbers are called that are fed; one without a name where there is only one, none where it is not fed.
    fn axes(&self) -> &'static [&'static str] {
        &[]
    }

    /// How one of the fed numbers of a setting is called.
    fn axis_name(&self, _setting: &Setting, axis: usize) -> Option<String> {
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

    /// One of the numbers that can be followed, alone, since another may follow it.
    fn number(&self, setting: &Setting, axis: usize, moment: Moment, others: &dyn Others) -> Option<f64> {
        setting.feeds().get(axis).map(|feed| self.held(feed.at(moment, others)))
    }

    /// Whether its numbers are lengths or places, which grow with the picture.
    fn is_length(&self) -> bool {
        false
    }

    /// What it says of itself in a row's line, by the control's name.
    fn line(&self, name: &str, _value: &Value, _media: &[Media]) -> String {
        name.to_owned()
    }

    /// A setting written as one word of a command line. `Err` says what is wanted.
    fn written(&self, _text: &str) -> Result<Setting, &'static str> {
        Err("it is set in the setup")
    }

    /// The setting after a deed that only this type knows. `Err` says what is wanted.
    fn altered(&self, _setting: &Setting, _deed: &Json) -> Result<Setting, String> {
        Err("is not changed in this way".into())
    }

    /// The JSON Schema of its settings.
    fn schema(&self) -> Json;

    /// What it is, in a few words: its range, its entries, where it starts.
    fn told(&self) -> String;
}

/// The schema of a setting that holds a field of this name.
fn holding(field: &str) -> Json {
    serde_json::json!({ "allOf": [{ "$ref": "#/$defs/Setting" }], "type": "object", "required": [field] })
}

/// The schema of so many numbers, each fed.
fn fed(count: usize) -> Json {
    let mut told = holding("axes");
    told["properties"] = serde_json::json!({ "axes": { "minItems": count, "maxItems": count } });
    told
}

/// Whether a setting is so many numbers, each of which is a feed that holds together.
fn axes_fit(setting: &Setting, count: usize) -> Result<(), String> {
    match setting {
        Setting::Axes { axes } if axes.len() == count => {
            axes.iter().try_for_each(Feed::check).map_err(str::to_owned)
        }
        _ => Err(format!("wants {count} numbers")),
    }
}

/// The numbers of a setting that has so many, as the control takes them.
fn numbers<const N: usize>(
    of: &impl ControlType,
    setting: &Setting,
    moment: Moment,
    others: &dyn Others,
) -> Option<[f64; N]> {
    let Setting::Axes { axes } = setting else { return None };
    let axes: &[Feed; N] = axes.as_slice().try_into().ok()?;
    Some(axes.each_ref().map(|feed| of.held(feed.at(moment, others))))
}

/// Numbers written one after the other with commas.
fn numbers_written(text: &str) -> Result<Setting, &'static str> {
    let numbers: Result<Vec<f64>, _> = text.split(',').map(|part| part.trim().parse()).collect();
    numbers.map(|numbers| Setting::numbers(&numbers)).map_err(|_| "the values are not numbers")
}

/// At most two places, none where it is whole.
fn short(number: f64) -> String {
    let text = format!("{number:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

macro_rules! control_types {
    ($($(#[$said:meta])+ $name:ident($spec:ty) = $value:ty;)+) => {
        /// The type of a control.
        #[derive(Clone, Debug, PartialEq, Serialize)]
        #[serde(tag = "type", rename_all = "lowercase")]
        pub enum ControlKind {
            $($(#[$said])+ $name($spec),)+
        }

        impl Deref for ControlKind {
            type Target = dyn ControlType;

            fn deref(&self) -> &Self::Target {
                match self {
                    $(Self::$name(spec) => spec,)+
                }
            }
        }

        /// A control's value at a moment.
        #[derive(Clone, Debug, PartialEq)]
        pub enum Value {
            $($(#[$said])+ $name($value),)+
        }

        /// Values of one control are always of one type.
        impl Keyed for Value {
            fn key(&self, key: &mut Key) {
                match self {
                    $(Self::$name(value) => key.add(value),)+
                }
            }
        }
    };
}

control_types! {
    /// A number, whole number or angle.
    Number(NumberSpec) = f64;
    /// On or off.
    Switch(SwitchSpec) = bool;
    /// One of a few, by its index.
    Choice(ChoiceSpec) = usize;
    /// Red, green and blue, each a number.
    Colour(ColourSpec) = [f64; 3];
    /// A place on the picture, x and y in full-resolution pixels.
    Point(PointSpec) = [f64; 2];
    /// A length along each axis, in full-resolution pixels.
    Size(SizeSpec) = [f64; 2];
    /// A place in space.
    Space(SpaceSpec) = Space;
    /// One of the setup's media; none to start with.
    Media(MediaSpec) = Option<MediaId>;
    /// Names, none to start with.
    Names(NamesSpec) = Vec<String>;
    /// Words, of one line or more.
    Text(TextSpec) = String;
    /// A formula of a pixel.
    Formula(FormulaSpec) = PixelFormula;
    /// The stops of a gradient; from black to white to start with.
    Stops(StopsSpec) = Stops;
    /// The points of a tone curve; straight to start with.
    Curve(CurveSpec) = Curve;
    /// Outlines drawn on the picture; none to start with.
    Shapes(ShapesSpec) = Vec<Laid>;
    /// Rows and columns of places, and where each has moved.
    Lattice(LatticeSpec) = LaidLattice;
    /// Outlines as they are and as they shall be; none to start with.
    Pairs(PairsSpec) = LaidPairs;
}

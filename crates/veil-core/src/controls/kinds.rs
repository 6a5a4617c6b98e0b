//! The types of control there are: what one is declared as, and what it is at a moment.

use serde::Serialize;
use serde_json::Value as Json;

use super::camera::CameraSpec;
use super::choice::ChoiceSpec;
use super::colour::ColourSpec;
use super::control_type::ControlType;
use super::curve::{Curve, CurveSpec};
use super::formula::FormulaSpec;
use super::lattice::{LaidLattice, LatticeSpec};
use super::media::MediaSpec;
use super::names::NamesSpec;
use super::number::NumberSpec;
use super::pairs::{LaidPairs, PairsSpec};
use super::point::PointSpec;
use super::setting::{Setting, Settled};
use super::shapes::{Laid, ShapesSpec};
use super::size::SizeSpec;
use super::space::{Space, SpaceSpec};
use super::spec::ControlSpec;
use super::stops::{Stops, StopsSpec};
use super::switch::SwitchSpec;
use super::text::TextSpec;
use crate::camera::CameraAt;
use crate::choice::Choice;
use crate::feed::{Moment, Others, PixelFormula};
use crate::ids::MediaId;
use crate::key::{Key, Keyed};
use crate::media::Media;
use crate::picture::PictureFormat;

/// A control of any type, as a stage declares it.
pub type AnyControl = ControlSpec<ControlKind>;

impl<K: Into<ControlKind>> ControlSpec<K> {
    /// The same among controls of other types.
    pub fn any(self) -> AnyControl {
        let Self { id, name, group, help, kind, grip, when } = self;
        ControlSpec { id, name, group, help, kind: kind.into(), grip, when }
    }
}

/// A type that a control's value can be read as.
pub trait FromValue: Sized {
    /// `None` when the value is of another type.
    fn from_value(value: &Value) -> Option<Self>;
}

/// Reads a value of one type as what it is.
macro_rules! read_as {
    (itself $name:ident $value:ty) => {
        impl FromValue for $value {
            fn from_value(value: &Value) -> Option<Self> {
                match value {
                    Value::$name(value) => Some(Clone::clone(value)),
                    _ => None,
                }
            }
        }
    };
}

macro_rules! control_types {
    ($($(#[$said:meta])+ $name:ident($spec:ty) = $value:ty $(as $itself:ident)?;)+) => {
        /// The type of a control.
        #[derive(Clone, Debug, PartialEq, Serialize)]
        #[serde(tag = "type", rename_all = "lowercase")]
        pub enum ControlKind {
            $($(#[$said])+ $name($spec),)+
        }

        /// A control's value at a moment.
        #[derive(Clone, Debug, PartialEq)]
        pub enum Value {
            $($(#[$said])+ $name($value),)+
        }

        $(impl From<$spec> for ControlKind {
            fn from(spec: $spec) -> Self {
                Self::$name(spec)
            }
        })+

        $($(read_as!($itself $name $value);)?)+

        /// Values of one control are always of one type.
        impl Keyed for Value {
            fn key(&self, key: &mut Key) {
                match self {
                    $(Self::$name(value) => key.add(value),)+
                }
            }
        }

        /// What its type answers ([`ControlType`]), of settings and values of any form.
        impl ControlKind {
            /// Where it starts on a picture.
            pub fn start(&self, picture: PictureFormat) -> Value {
                match self {
                    $(Self::$name(spec) => Value::$name(spec.start(picture)),)+
                }
            }

            /// The setting that stands for where it starts.
            pub fn start_setting(&self, picture: PictureFormat) -> Setting {
                match self {
                    $(Self::$name(spec) => spec.start_set(picture).setting(),)+
                }
            }

            /// Whether a setting fits: its form, its bounds, its choices. `Err` says what is wanted.
            pub fn fits(&self, setting: &Setting) -> Result<(), String> {
                match self {
                    $(Self::$name(spec) => spec.fits(Settled::of(setting).ok_or_else(|| spec.wanted())?),)+
                }
            }

            /// The value at a moment; none where the setting does not fit.
            pub fn at(&self, setting: &Setting, moment: Moment, others: &dyn Others) -> Option<Value> {
                match self {
                    $(Self::$name(spec) => spec.at(Settled::of(setting)?, moment, others).map(Value::$name),)+
                }
            }

            /// How one of the fed numbers of a setting is called.
            pub fn axis_name(&self, setting: &Setting, axis: usize) -> Option<String> {
                match self {
                    $(Self::$name(spec) => spec.axis_name(Settled::of(setting)?, axis),)+
                }
            }

            /// A number that can be followed and is not fed.
            fn own_number(
                &self,
                setting: &Setting,
                axis: usize,
                moment: Moment,
                others: &dyn Others,
            ) -> Option<f64> {
                match self {
                    $(Self::$name(spec) => spec.own_number(Settled::of(setting)?, axis, moment, others),)+
                }
            }

            /// What it says of itself in a row's line, by the control's name.
            pub fn line(&self, name: &str, value: &Value, media: &[Media]) -> String {
                match (self, value) {
                    $((Self::$name(spec), Value::$name(value)) => spec.line(name, value, media),)+
                    _ => String::new(),
                }
            }

            /// A setting written as one word of a command line. `Err` says what is wanted.
            pub fn written(&self, text: &str) -> Result<Setting, &'static str> {
                match self {
                    $(Self::$name(spec) => spec.written(text).map(Settled::setting),)+
                }
            }

            /// The setting after a deed that only this type knows. `Err` says what is wanted.
            pub fn altered(&self, setting: &Setting, deed: &Json) -> Result<Setting, String> {
                match self {
                    $(Self::$name(spec) => {
                        let set = Settled::of(setting).ok_or_else(|| spec.wanted())?;
                        spec.altered(set, deed).map(Settled::setting)
                    })+
                }
            }

            /// Whether where it starts depends on the picture's size.
            pub fn is_relative(&self) -> bool {
                match self {
                    $(Self::$name(spec) => spec.is_relative(),)+
                }
            }

            /// How the numbers are called that are fed; one without a name where there is only one, none where it is not fed.
            pub fn axes(&self) -> &'static [&'static str] {
                match self {
                    $(Self::$name(spec) => spec.axes(),)+
                }
            }

            /// How the numbers are called that other controls can follow.
            pub fn follow_names(&self) -> &'static [&'static str] {
                match self {
                    $(Self::$name(spec) => spec.follow_names(),)+
                }
            }

            /// A fed number, as the control takes it.
            pub fn held(&self, number: f64) -> f64 {
                match self {
                    $(Self::$name(spec) => spec.held(number),)+
                }
            }

            /// Whether its numbers are lengths or places, which grow with the picture.
            pub fn is_length(&self) -> bool {
                match self {
                    $(Self::$name(spec) => spec.is_length(),)+
                }
            }

            /// The JSON Schema of its settings.
            pub fn schema(&self) -> Json {
                match self {
                    $(Self::$name(spec) => spec.schema(),)+
                }
            }

            /// What it is, in a few words: its range, its entries, where it starts.
            pub fn told(&self) -> String {
                match self {
                    $(Self::$name(spec) => spec.told(),)+
                }
            }
        }
    };
}

control_types! {
    /// A number, whole number or angle.
    Number(NumberSpec) = f64 as itself;
    /// On or off.
    Switch(SwitchSpec) = bool as itself;
    /// One of a few, by its index.
    Choice(ChoiceSpec) = usize;
    /// Red, green and blue, each a number.
    Colour(ColourSpec) = [f64; 3] as itself;
    /// A place on the picture, x and y in full-resolution pixels.
    Point(PointSpec) = [f64; 2];
    /// A length along each axis, in full-resolution pixels.
    Size(SizeSpec) = [f64; 2];
    /// A place in space.
    Space(SpaceSpec) = Space as itself;
    /// A camera by hand.
    Camera(CameraSpec) = CameraAt as itself;
    /// One of the setup's media; none to start with.
    Media(MediaSpec) = Option<MediaId> as itself;
    /// Names, none to start with.
    Names(NamesSpec) = Vec<String> as itself;
    /// Words, of one line or more.
    Text(TextSpec) = String as itself;
    /// A formula of a pixel.
    Formula(FormulaSpec) = PixelFormula as itself;
    /// The stops of a gradient; from black to white to start with.
    Stops(StopsSpec) = Stops as itself;
    /// The points of a tone curve; straight to start with.
    Curve(CurveSpec) = Curve as itself;
    /// Outlines drawn on the picture; none to start with.
    Shapes(ShapesSpec) = Vec<Laid> as itself;
    /// Rows and columns of places, and where each has moved.
    Lattice(LatticeSpec) = LaidLattice as itself;
    /// Outlines as they are and as they shall be; none to start with.
    Pairs(PairsSpec) = LaidPairs as itself;
}

impl ControlKind {
    /// One of the numbers that can be followed, alone, since another may follow it.
    pub fn number(&self, setting: &Setting, axis: usize, moment: Moment, others: &dyn Others) -> Option<f64> {
        let fed = || setting.feeds().get(axis).map(|feed| self.held(feed.at(moment, others)));
        self.own_number(setting, axis, moment, others).or_else(fed)
    }
}

/// A whole number.
impl FromValue for i32 {
    fn from_value(value: &Value) -> Option<Self> {
        f64::from_value(value).map(|number| number.round() as Self)
    }
}

/// A place, or two lengths.
impl FromValue for [f64; 2] {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Point(pair) | Value::Size(pair) => Some(*pair),
            _ => None,
        }
    }
}

impl<C: Choice> FromValue for C {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Choice(index) => C::ALL.get(*index).copied(),
            _ => None,
        }
    }
}

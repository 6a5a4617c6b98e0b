//! What a stage can be told: the declared controls, and their values at a frame.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::drawn::Laid;
use crate::feed::PixelFormula;
use crate::key::{Key, Keyed, keyed_by_fields};
use crate::setup::MediaId;

/// What a number counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Unit {
    /// A plain number.
    None,
    /// Full-resolution pixels.
    Px,
    /// Degrees, counter-clockwise as seen.
    Degrees,
    /// Frames.
    Frames,
    /// Stops of exposure.
    Stops,
    /// Kelvin of colour temperature.
    Kelvin,
}

/// A number's default, hard bounds and the run of its slider.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct NumberSpec {
    /// Where it starts.
    pub default: f64,
    /// No value below this is taken.
    pub least: f64,
    /// No value above this is taken.
    pub most: f64,
    /// What the slider covers; typed values may lie beyond.
    pub slider: (f64, f64),
    /// What it counts.
    pub unit: Unit,
    /// Whole numbers only.
    pub whole: bool,
}

/// What a medium holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum MediaSort {
    /// Pictures.
    Plate,
    /// A lookup table.
    Lut,
    /// A camera.
    Camera,
    /// A drawing of filled shapes.
    Figure,
    /// A font.
    Font,
}

impl MediaSort {
    /// By the ending of a medium's path.
    pub fn of(path: &str) -> Self {
        let path = path.to_lowercase();
        match path.rsplit('.').next() {
            Some("cube") => Self::Lut,
            Some("svg") => Self::Figure,
            Some("ttf" | "otf") => Self::Font,
            Some("gltf" | "glb" | "csv") => Self::Camera,
            _ => Self::Plate,
        }
    }
}

/// One entry of a choice.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct ChoiceOption {
    /// Stable, in files.
    pub id: &'static str,
    /// As shown.
    pub name: &'static str,
}

/// The type of a control.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[serde(tag = "type", rename_all = "lowercase")]
pub enum ControlKind {
    /// A number, whole number or angle.
    Number(NumberSpec),
    /// On or off.
    Switch {
        /// Where it starts.
        default: bool,
    },
    /// One of a few.
    Choice {
        /// Index of the one it starts with.
        default: usize,
        /// All there are.
        options: &'static [ChoiceOption],
    },
    /// Red, green and blue, each a number.
    Colour {
        /// Where each starts.
        default: [f64; 3],
        /// The run of the sliders.
        slider: (f64, f64),
    },
    /// A place on the picture, x and y in full-resolution pixels.
    Point {
        /// Where it starts, as a share of the picture's width and height.
        default_share: [f64; 2],
    },
    /// A length along each axis, in full-resolution pixels.
    Size {
        /// Where it starts, as a share of the picture's height on both axes.
        default_share: [f64; 2],
    },
    /// One of the setup's media; none to start with.
    Media {
        /// Which it offers.
        of: MediaSort,
    },
    /// Names, none to start with.
    Names,
    /// Words, of one line or more.
    Text {
        /// What it starts as.
        default: &'static str,
    },
    /// A formula of a pixel.
    Formula {
        /// What it starts as.
        default: &'static str,
    },
    /// The stops of a gradient; from black to white to start with.
    Stops,
    /// The points of a tone curve; straight to start with.
    Curve,
    /// Outlines drawn on the picture; none to start with.
    Shapes,
}

/// The points of a tone curve: what a value is, and what it becomes.
pub type Curve = Vec<[f64; 2]>;

/// A stop of a gradient.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Stop {
    /// Where on the run, 0–1.
    pub at: f64,
    /// Red, green and blue, not premultiplied.
    pub colour: [f64; 3],
    /// 0–1.
    pub alpha: f64,
    /// Whether the way to the next stop is eased.
    #[serde(default)]
    pub smooth: bool,
}

impl From<Stop> for veil_pixels::gradient::Stop {
    fn from(stop: Stop) -> Self {
        Self {
            at: stop.at as f32,
            colour: stop.colour.map(|value| value as f32),
            alpha: stop.alpha as f32,
            smooth: stop.smooth,
        }
    }
}

/// The stops of a gradient, in any order.
pub type Stops = Vec<Stop>;

impl ControlKind {
    /// How many feeds it takes; 0 where it cannot be fed.
    pub const fn axes(&self) -> usize {
        match self {
            Self::Number(_) => 1,
            Self::Point { .. } | Self::Size { .. } => 2,
            Self::Colour { .. } => 3,
            Self::Switch { .. }
            | Self::Choice { .. }
            | Self::Media { .. }
            | Self::Names
            | Self::Stops
            | Self::Curve
            | Self::Shapes
            | Self::Text { .. }
            | Self::Formula { .. } => 0,
        }
    }

    /// How its axes are called.
    pub const fn axis_names(&self) -> &'static [&'static str] {
        match self {
            Self::Point { .. } | Self::Size { .. } => &["x", "y"],
            Self::Colour { .. } => &["red", "green", "blue"],
            _ => &[""],
        }
    }
}

impl ControlKind {
    /// How the numbers are called that other controls can follow.
    pub const fn follow_names(&self) -> &'static [&'static str] {
        match self {
            Self::Shapes => &["centre x", "centre y", "size", "turn"],
            _ if self.axes() == 0 => &[],
            _ => self.axis_names(),
        }
    }
}

/// What of a control can be dragged on the picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Grip {
    /// Nothing.
    None,
    /// A point.
    Point,
    /// The two half axes of an ellipse about the stage's point.
    Radii,
    /// The half width and half height of a box about the stage's point.
    Sides,
    /// The turn about the stage's point.
    Turn,
    /// The length of a soft edge.
    Softness,
    /// The way to the right of a vector from the stage's point, or from the middle of the frame.
    Right,
    /// The way down of that vector.
    Down,
    /// One of four corners.
    Corner,
    /// All points of drawn outlines.
    Shapes,
    /// The end of a line from the stage's point.
    End,
    /// The radius of a circle about the stage's point.
    Reach,
    /// The length of a vector that points as the stage turns, from its point or from the middle of the frame.
    Length,
}

/// A control as a stage declares it.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ControlSpec {
    /// Stable, in files.
    pub id: &'static str,
    /// As shown.
    pub name: &'static str,
    /// The heading it stands under; empty for none.
    pub group: &'static str,
    /// One sentence.
    pub help: &'static str,
    /// Its type.
    pub kind: ControlKind,
    /// What can be dragged.
    pub grip: Grip,
    /// When it counts.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub when: Option<When>,
}

/// A control counts only while a choice is one of some.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct When {
    /// The choice's id.
    pub control: &'static str,
    /// Ids of its entries.
    pub is: &'static [&'static str],
}

/// Longest length that a control takes, in pixels: beyond it a blur is flat and an edge has no shape.
const LONGEST: f64 = 2000.0;

impl ControlSpec {
    const fn of(name: &'static str, kind: ControlKind) -> Self {
        Self { id: "", name, group: "", help: "", kind, grip: Grip::None, when: None }
    }

    /// A number without bounds.
    pub const fn number(name: &'static str, default: f64, slider: (f64, f64)) -> Self {
        let most = 1.0e6;
        Self::of(
            name,
            ControlKind::Number(NumberSpec {
                default,
                least: -most,
                most,
                slider,
                unit: Unit::None,
                whole: false,
            }),
        )
    }

    /// A length in pixels, not negative.
    pub const fn length(name: &'static str, default: f64, slider_to: f64) -> Self {
        Self::number(name, default, (0.0, slider_to)).within(0.0, LONGEST).unit(Unit::Px)
    }

    /// An angle in degrees.
    pub const fn angle(name: &'static str, default: f64) -> Self {
        Self::number(name, default, (-180.0, 180.0)).unit(Unit::Degrees)
    }

    /// A whole number.
    pub const fn whole(name: &'static str, default: i32, least: i32, most: i32) -> Self {
        let mut made = Self::number(name, default as f64, (least as f64, most as f64));
        if let ControlKind::Number(spec) = &mut made.kind {
            spec.whole = true;
        }
        made.within(least as f64, most as f64)
    }

    /// On or off.
    pub const fn switch(name: &'static str, default: bool) -> Self {
        Self::of(name, ControlKind::Switch { default })
    }

    /// One of the entries of a [`Choice`].
    pub fn choice<C: Choice>(name: &'static str, default: C) -> Self {
        let default = C::ALL.iter().position(|one| *one == default).unwrap_or(0);
        Self::of(name, ControlKind::Choice { default, options: C::OPTIONS })
    }

    /// Red, green and blue.
    pub const fn colour(name: &'static str, default: f64, slider: (f64, f64)) -> Self {
        Self::colours(name, [default; 3], slider)
    }

    /// Red, green and blue that start apart.
    pub const fn colours(name: &'static str, default: [f64; 3], slider: (f64, f64)) -> Self {
        Self::of(name, ControlKind::Colour { default, slider })
    }

    /// A place, as a share of the picture to start with.
    pub const fn point(name: &'static str, default_share: [f64; 2]) -> Self {
        Self::of(name, ControlKind::Point { default_share })
    }

    /// Two lengths, as a share of the picture's height to start with.
    pub const fn size(name: &'static str, default_share: [f64; 2]) -> Self {
        Self::of(name, ControlKind::Size { default_share })
    }

    /// One of the setup's media.
    pub const fn media(name: &'static str, of: MediaSort) -> Self {
        Self::of(name, ControlKind::Media { of })
    }

    /// A list of names.
    pub const fn names(name: &'static str) -> Self {
        Self::of(name, ControlKind::Names)
    }

    /// Whether it is a length or a place, which grows with the picture.
    pub const fn is_length(&self) -> bool {
        match &self.kind {
            ControlKind::Number(number) => matches!(number.unit, Unit::Px),
            ControlKind::Point { .. } | ControlKind::Size { .. } => true,
            _ => false,
        }
    }

    /// A formula of a pixel.
    pub const fn formula(name: &'static str, default: &'static str) -> Self {
        Self::of(name, ControlKind::Formula { default })
    }

    /// Words.
    pub const fn text(name: &'static str, default: &'static str) -> Self {
        Self::of(name, ControlKind::Text { default })
    }

    /// The stops of a gradient.
    pub const fn stops(name: &'static str) -> Self {
        Self::of(name, ControlKind::Stops)
    }

    /// Outlines drawn on the picture.
    pub const fn shapes(name: &'static str) -> Self {
        Self::of(name, ControlKind::Shapes)
    }

    /// A tone curve.
    pub const fn curve(name: &'static str) -> Self {
        Self::of(name, ControlKind::Curve)
    }

    /// The same, counting only while a choice of the stage is one of some.
    pub const fn when(mut self, control: &'static str, is: &'static [&'static str]) -> Self {
        self.when = Some(When { control, is });
        self
    }

    /// The same under a heading.
    pub const fn under(mut self, group: &'static str) -> Self {
        self.group = group;
        self
    }

    /// The same with its sentence of help.
    pub const fn help(mut self, help: &'static str) -> Self {
        self.help = help;
        self
    }

    /// The same with a grip.
    pub const fn grip(mut self, grip: Grip) -> Self {
        self.grip = grip;
        self
    }

    /// The same number within hard bounds, which its slider keeps to.
    pub const fn within(mut self, least: f64, most: f64) -> Self {
        if let ControlKind::Number(spec) = &mut self.kind {
            spec.least = least;
            spec.most = most;
            spec.slider = (spec.slider.0.max(least), spec.slider.1.min(most));
        }
        self
    }

    /// The same number with a unit.
    pub const fn unit(mut self, unit: Unit) -> Self {
        if let ControlKind::Number(spec) = &mut self.kind {
            spec.unit = unit;
        }
        self
    }

    /// The same with an id.
    pub const fn with_id(mut self, id: &'static str) -> Self {
        self.id = id;
        self
    }
}

/// A control's value at a frame.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// Of a number.
    Number(f64),
    /// Of a point or size.
    Pair([f64; 2]),
    /// Of a colour.
    Colour([f64; 3]),
    /// Of a switch.
    Switch(bool),
    /// Of a choice: the index of its entry.
    Choice(usize),
    /// Of a media control.
    Media(Option<MediaId>),
    /// Of a list of names.
    Names(Vec<String>),
    /// Of a text.
    Text(String),
    /// Of a formula.
    Formula(PixelFormula),
    /// Of a gradient's stops.
    Stops(Stops),
    /// Of a tone curve.
    Curve(Curve),
    /// Of drawn outlines, as those that count stand.
    Shapes(Vec<Laid>),
}

keyed_by_fields! {
    Stop { at, colour, alpha, smooth }
}

/// What is not a medium, which is told by its file: values of one control are always of one type.
impl Keyed for Value {
    fn key(&self, key: &mut Key) {
        match self {
            Self::Number(number) => key.add(number),
            Self::Pair(pair) => key.add(pair),
            Self::Colour(colour) => key.add(colour),
            Self::Switch(on) => key.add(on),
            Self::Choice(index) => key.add(index),
            Self::Media(medium) => key.add(&medium.is_some()),
            Self::Names(names) => key.add(names),
            Self::Text(text) => key.add(text),
            Self::Formula(formula) => key.add(formula),
            Self::Stops(stops) => key.add(stops),
            Self::Curve(points) => key.add(points),
            Self::Shapes(shapes) => key.add(shapes),
        }
    }
}

/// An enum that a choice control offers.
pub trait Choice: Copy + PartialEq + 'static {
    /// All entries, in order.
    const ALL: &'static [Self];
    /// Their ids and names, in the same order.
    const OPTIONS: &'static [ChoiceOption];
}

/// Declares which ids and names the entries of an enum go by in a choice control.
#[macro_export]
macro_rules! choice {
    ($type:ty { $($entry:ident = $id:literal, $name:literal;)+ }) => {
        impl $crate::control::Choice for $type {
            const ALL: &'static [Self] = &[$(Self::$entry),+];
            const OPTIONS: &'static [$crate::control::ChoiceOption] =
                &[$($crate::control::ChoiceOption { id: $id, name: $name }),+];
        }
    };
}

/// A type that a control's value can be read as.
pub trait FromValue: Sized {
    /// `None` when the value is of another type.
    fn from_value(value: &Value) -> Option<Self>;
}

macro_rules! from_value {
    ($($type:ty = $variant:ident;)+) => {
        $(impl FromValue for $type {
            fn from_value(value: &Value) -> Option<Self> {
                match value {
                    Value::$variant(inner) => Some(inner.clone()),
                    _ => None,
                }
            }
        })+
    };
}
from_value! {
    f64 = Number;
    [f64; 2] = Pair;
    [f64; 3] = Colour;
    bool = Switch;
    Option<MediaId> = Media;
    Vec<String> = Names;
    String = Text;
    PixelFormula = Formula;
    Stops = Stops;
    Curve = Curve;
    Vec<Laid> = Shapes;
}

/// A whole number.
impl FromValue for i32 {
    fn from_value(value: &Value) -> Option<Self> {
        f64::from_value(value).map(|number| number.round() as Self)
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

/// A struct of a stage's controls: each field is a control, its type what it is read as.
pub trait ControlSet: Sized {
    /// The declared controls, in order.
    fn specs() -> Vec<ControlSpec>;
    /// From values in the same order; `None` when one is missing or of another type.
    fn read(values: &[Value]) -> Option<Self>;
}

/// Declares the controls of a stage as a struct with a typed field for each.
///
/// ```ignore
/// controls! {
///     struct BlurControls {
///         size: [f64; 2] = ControlSpec::size("size", [0.01, 0.01]).help("…"),
///     }
/// }
/// ```
#[macro_export]
macro_rules! controls {
    ($(#[$meta:meta])* struct $name:ident { $($field:ident: $type:ty = $spec:expr,)* }) => {
        $(#[$meta])*
        struct $name { $($field: $type,)* }

        impl $crate::control::ControlSet for $name {
            fn specs() -> Vec<$crate::control::ControlSpec> {
                vec![$($spec.with_id(stringify!($field)),)*]
            }
            fn read(values: &[$crate::control::Value]) -> Option<Self> {
                let mut values = values.iter();
                Some(Self {
                    $($field: <$type as $crate::control::FromValue>::from_value(values.next()?)?,)*
                })
            }
        }
    };
}

#[doc(hidden)]
pub use crate::{choice, controls};

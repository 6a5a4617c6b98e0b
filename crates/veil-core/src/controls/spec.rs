//! A control as a stage declares it.

use serde::Serialize;

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
    /// All that the control's own type draws on the picture.
    Drawn,
    /// The angle of view, across the frame, that a place in space is seen in.
    View,
    /// The end of a line from the stage's point.
    End,
    /// The radius of a circle about the stage's point.
    Reach,
    /// The length of a vector that points as the stage turns, from its point or from the middle of the frame.
    Length,
}

/// A control of one type, as a stage declares it.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct ControlSpec<K> {
    /// Stable, in files.
    pub id: &'static str,
    /// As shown.
    pub name: &'static str,
    /// The heading it stands under; empty for none.
    pub group: &'static str,
    /// One sentence.
    pub help: &'static str,
    /// Its type.
    pub kind: K,
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

impl<K> ControlSpec<K> {
    pub(super) const fn of(name: &'static str, kind: K) -> Self {
        Self { id: "", name, group: "", help: "", kind, grip: Grip::None, when: None }
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

    /// The same with an id.
    pub const fn with_id(mut self, id: &'static str) -> Self {
        self.id = id;
        self
    }
}

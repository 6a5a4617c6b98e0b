//! Enums whose entries a control offers.

use serde::Serialize;

/// One entry of a choice.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct ChoiceOption {
    /// Stable, in files.
    pub id: &'static str,
    /// As shown.
    pub name: &'static str,
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
        impl $crate::choice::Choice for $type {
            const ALL: &'static [Self] = &[$(Self::$entry),+];
            const OPTIONS: &'static [$crate::choice::ChoiceOption] =
                &[$($crate::choice::ChoiceOption { id: $id, name: $name }),+];
        }
    };
}

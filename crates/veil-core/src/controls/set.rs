//! A stage's controls as a struct with a typed field for each.

use super::kinds::{AnyControl, Value};

/// A struct of a stage's controls: each field is a control, its type what it is read as.
pub trait ControlSet: Sized {
    /// The declared controls, in order.
    fn specs() -> Vec<AnyControl>;
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

        impl $crate::controls::ControlSet for $name {
            fn specs() -> Vec<$crate::controls::AnyControl> {
                vec![$($spec.with_id(stringify!($field)).any(),)*]
            }
            fn read(values: &[$crate::controls::Value]) -> Option<Self> {
                let mut values = values.iter();
                Some(Self {
                    $($field: <$type as $crate::controls::FromValue>::from_value(values.next()?)?,)*
                })
            }
        }
    };
}

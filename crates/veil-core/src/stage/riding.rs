//! What travels with a picture.

use crate::key::{Key, Keyed};
use crate::plates::{IdKind, Role};

/// What travels.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Ride {
    /// A pass by its role.
    Pass(Role),
    /// Coverage of things by name, from the Cryptomatte of a kind.
    Things(IdKind, Vec<String>),
}

impl Ride {
    /// Whether its values must not be averaged.
    pub(crate) const fn is_data(&self) -> bool {
        match self {
            Self::Pass(role) => !role.averages(),
            Self::Things(..) => false,
        }
    }
}

impl Keyed for Ride {
    fn key(&self, key: &mut Key) {
        match self {
            Self::Pass(role) => {
                key.add(&0u8);
                key.add(role);
            }
            Self::Things(kind, names) => {
                key.add(&1u8);
                key.add(kind);
                key.add(names);
            }
        }
    }
}

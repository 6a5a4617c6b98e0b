//! What pixels are known by: everything that changes them, and nothing else.
//!
//! A type says by [`Keyed`] what of it counts. Names, locks, keys of other frames and numbers that only mean something in
//! one setup do not, so that what is the same is found under the same hash, in whichever setup and at whichever frame.

use blake3::Hasher;
use veil_pixels::Window;

/// What a signal is found by: equal hashes mean equal pixels.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct ContentHash([u8; 16]);

impl ContentHash {
    /// Its first bits.
    pub(crate) fn short(self) -> u64 {
        u64::from_le_bytes(self.0[..8].try_into().unwrap_or_default())
    }
}

impl std::fmt::Display for ContentHash {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        self.0.iter().try_for_each(|byte| write!(f, "{byte:02x}"))
    }
}

/// Parts of a hash, gathered one after the other. Equal parts in the same order give the same.
pub struct Key(Hasher);

impl Key {
    /// For things of a sort, which are never taken for those of another.
    pub fn of(sort: &str) -> Self {
        let mut key = Self(Hasher::new());
        sort.key(&mut key);
        key
    }

    /// Takes in a part.
    pub fn add(&mut self, part: &(impl Keyed + ?Sized)) {
        part.key(self);
    }

    /// The same with a part.
    #[must_use]
    pub fn with(mut self, part: &(impl Keyed + ?Sized)) -> Self {
        part.key(&mut self);
        self
    }

    /// The hash of all parts.
    pub fn hash(self) -> ContentHash {
        let mut short = [0; 16];
        short.copy_from_slice(&self.0.finalize().as_bytes()[..16]);
        ContentHash(short)
    }

    fn bytes(&mut self, bytes: &[u8]) {
        self.0.update(bytes);
    }
}

/// A thing that pixels may depend on.
pub trait Keyed {
    /// Writes what changes pixels, and as much as tells where it ends.
    fn key(&self, key: &mut Key);
}

macro_rules! keyed_numbers {
    ($($type:ty),+) => {
        $(impl Keyed for $type {
            fn key(&self, key: &mut Key) {
                key.bytes(&self.to_le_bytes());
            }
        })+
    };
}
keyed_numbers!(u8, u32, i32, u64, usize, f32, f64);

impl Keyed for bool {
    fn key(&self, key: &mut Key) {
        u8::from(*self).key(key);
    }
}

impl Keyed for str {
    fn key(&self, key: &mut Key) {
        self.len().key(key);
        key.bytes(self.as_bytes());
    }
}

impl Keyed for String {
    fn key(&self, key: &mut Key) {
        self.as_str().key(key);
    }
}

impl<T: Keyed + ?Sized> Keyed for &T {
    fn key(&self, key: &mut Key) {
        (**self).key(key);
    }
}

impl<T: Keyed> Keyed for [T] {
    fn key(&self, key: &mut Key) {
        self.len().key(key);
        self.iter().for_each(|part| part.key(key));
    }
}

impl<T: Keyed, const N: usize> Keyed for [T; N] {
    fn key(&self, key: &mut Key) {
        self.iter().for_each(|part| part.key(key));
    }
}

impl<T: Keyed> Keyed for Vec<T> {
    fn key(&self, key: &mut Key) {
        self.as_slice().key(key);
    }
}

impl<T: Keyed> Keyed for Option<T> {
    fn key(&self, key: &mut Key) {
        self.is_some().key(key);
        if let Some(part) = self {
            part.key(key);
        }
    }
}

impl<A: Keyed, B: Keyed> Keyed for (A, B) {
    fn key(&self, key: &mut Key) {
        self.0.key(key);
        self.1.key(key);
    }
}

impl Keyed for ContentHash {
    fn key(&self, key: &mut Key) {
        key.bytes(&self.0);
    }
}

impl Keyed for Window {
    fn key(&self, key: &mut Key) {
        let Self { x0, y0, x1, y1 } = self;
        [x0, y0, x1, y1].key(key);
    }
}

/// Enums without fields, by the number of their variant.
macro_rules! keyed_by_number {
    ($($type:ty),+ $(,)?) => {
        $(impl $crate::key::Keyed for $type {
            fn key(&self, key: &mut $crate::key::Key) {
                $crate::key::Keyed::key(&(*self as u8), key);
            }
        })+
    };
}
pub(crate) use keyed_by_number;

/// Structs of which every field counts.
macro_rules! keyed_by_fields {
    ($($type:ty { $($field:ident),+ $(,)? })+) => {
        $(impl $crate::key::Keyed for $type {
            fn key(&self, key: &mut $crate::key::Key) {
                let Self { $($field),+ } = self;
                $($crate::key::Keyed::key($field, key);)+
            }
        })+
    };
}
pub(crate) use keyed_by_fields;

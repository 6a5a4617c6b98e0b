//! The rows of a setup, found by their ids.

use std::borrow::Cow;
use std::collections::HashMap;
use std::ops::{Deref, DerefMut};
use std::sync::OnceLock;

use schemars::{JsonSchema, Schema, SchemaGenerator};
use serde::{Deserialize, Serialize};

use crate::setup::{Source, StageEntry, StageId};
use crate::signal::SignalKind;

/// A list of rows that remembers where each stands, who takes it and what it gives, until somebody may have changed it.
#[derive(Default)]
pub struct Rows {
    list: Vec<StageEntry>,
    known: OnceLock<Known>,
}

/// What is found out once of an unchanged list.
struct Known {
    places: HashMap<StageId, usize>,
    /// Rows that take a row, from the top.
    takers: HashMap<StageId, Vec<usize>>,
    kinds: Vec<OnceLock<SignalKind>>,
}

impl Rows {
    fn known(&self) -> &Known {
        self.known.get_or_init(|| {
            let mut places = HashMap::with_capacity(self.list.len());
            let mut takers: HashMap<StageId, Vec<usize>> = HashMap::new();
            for (at, row) in self.list.iter().enumerate() {
                places.entry(row.id).or_insert(at);
                for link in row.links.values() {
                    let Source::Stage(from) = link.from else { continue };
                    let taking = takers.entry(from).or_default();
                    if taking.last() != Some(&at) {
                        taking.push(at);
                    }
                }
            }
            let kinds = self.list.iter().map(|_| OnceLock::new()).collect();
            Known { places, takers, kinds }
        })
    }

    /// Where a row stands, from the top; the first of two with one id.
    pub fn place(&self, id: StageId) -> Option<usize> {
        self.known().places.get(&id).copied()
    }

    /// A row.
    pub fn with_id(&self, id: StageId) -> Option<&StageEntry> {
        self.list.get(self.place(id)?)
    }

    /// The rows that take a row in some slot, from the top.
    pub fn taking(&self, id: StageId) -> impl Iterator<Item = &StageEntry> {
        self.known().takers.get(&id).into_iter().flatten().map(|at| &self.list[*at])
    }

    /// What a row gives, where that was found out since the list was last changed.
    pub(crate) fn kind(&self, id: StageId) -> Option<SignalKind> {
        self.known().kinds.get(self.place(id)?)?.get().copied()
    }

    /// Notes what a row gives.
    pub(crate) fn note_kind(&self, id: StageId, kind: SignalKind) {
        if let Some(known) = self.place(id).and_then(|at| self.known().kinds.get(at)) {
            // Whoever was first found the same.
            let _ = known.set(kind);
        }
    }
}

impl Deref for Rows {
    type Target = Vec<StageEntry>;
    fn deref(&self) -> &Vec<StageEntry> {
        &self.list
    }
}

impl DerefMut for Rows {
    fn deref_mut(&mut self) -> &mut Vec<StageEntry> {
        self.known.take();
        &mut self.list
    }
}

impl From<Vec<StageEntry>> for Rows {
    fn from(list: Vec<StageEntry>) -> Self {
        Self { list, known: OnceLock::new() }
    }
}

impl<'a> IntoIterator for &'a Rows {
    type Item = &'a StageEntry;
    type IntoIter = std::slice::Iter<'a, StageEntry>;
    fn into_iter(self) -> Self::IntoIter {
        self.list.iter()
    }
}

impl<'a> IntoIterator for &'a mut Rows {
    type Item = &'a mut StageEntry;
    type IntoIter = std::slice::IterMut<'a, StageEntry>;
    fn into_iter(self) -> Self::IntoIter {
        self.deref_mut().iter_mut()
    }
}

impl IntoIterator for Rows {
    type Item = StageEntry;
    type IntoIter = std::vec::IntoIter<StageEntry>;
    fn into_iter(self) -> Self::IntoIter {
        self.list.into_iter()
    }
}

impl Clone for Rows {
    fn clone(&self) -> Self {
        self.list.clone().into()
    }
}

impl PartialEq for Rows {
    fn eq(&self, other: &Self) -> bool {
        self.list == other.list
    }
}

impl std::fmt::Debug for Rows {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        self.list.fmt(f)
    }
}

impl Serialize for Rows {
    fn serialize<S: serde::Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        self.list.serialize(to)
    }
}

impl<'de> Deserialize<'de> for Rows {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        Vec::deserialize(from).map(Self::from)
    }
}

impl JsonSchema for Rows {
    fn inline_schema() -> bool {
        true
    }
    fn schema_name() -> Cow<'static, str> {
        "Rows".into()
    }
    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        Vec::<StageEntry>::json_schema(generator)
    }
}

//! Ordered lists of slots: mattes, fields, layers.
//!
//! Each entry is a slot (`layer2`) with controls and slots of its own named after it (`layer2_mode`, `layer2_matte`),
//! so that keys, copies, tools and undo treat them as any other. An entry's own on/off is its control `…_counts`.

use crate::mattes;
use crate::setup::StageEntry;
use crate::shape;
use crate::spec::{AmountRule, Belongs, MATTE};
use crate::stages;

/// A list of a row.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct List {
    /// As shown, of several: `layers`.
    pub name: &'static str,
    /// Its slots in their order.
    pub slots: Vec<&'static str>,
}

/// What the list of mattes is called.
pub const MATTES: &str = "mattes";

/// The lists that a row has, taken or not; the mattes last.
pub fn lists(entry: &StageEntry) -> Vec<List> {
    let mut lists: Vec<List> = Vec::new();
    let own = if entry.tool.is_some() { None } else { stages::find(&entry.kind) };
    for slot in own.iter().flat_map(|stage| &stage.spec().slots) {
        let Belongs::ToList(name) = slot.belongs else { continue };
        match lists.iter_mut().find(|list| list.name == name) {
            Some(list) => list.slots.push(slot.id),
            None => lists.push(List { name, slots: vec![slot.id] }),
        }
    }
    if shape::amount_rule(entry) != AmountRule::None {
        let slots = std::iter::once(MATTE).chain(mattes::MORE).collect();
        lists.push(List { name: MATTES, slots });
    }
    lists
}

impl List {
    /// The entries that take something.
    pub fn taken<'a>(&'a self, entry: &'a StageEntry) -> impl Iterator<Item = &'static str> + 'a {
        self.slots.iter().copied().filter(|slot| entry.links.contains_key(*slot))
    }

    /// The first that takes nothing; none where all do.
    pub fn free(&self, entry: &StageEntry) -> Option<&'static str> {
        self.slots.iter().copied().find(|slot| !entry.links.contains_key(*slot))
    }
}

/// Whether a control is of an entry that takes nothing, and so does nothing.
pub fn is_idle(entry: &StageEntry, control: &str) -> bool {
    let of = |slot: &str| control.strip_prefix(slot).is_some_and(|rest| rest.starts_with('_'));
    lists(entry).iter().flat_map(|list| &list.slots).any(|slot| of(slot) && !entry.links.contains_key(*slot))
}

/// Moves the entries up that stand below an empty place, with all that is theirs.
pub fn close_up(entry: &mut StageEntry) {
    for list in lists(entry) {
        let taken: Vec<&str> = list.taken(entry).collect();
        for (from, to) in taken.iter().zip(&list.slots) {
            if from != to {
                swap(entry, from, to);
            }
        }
        // What an empty place is set to would come back with what is put there next. The first matte stands for
        // the slot itself, and keeps what it is set to.
        for empty in list.slots.iter().skip(taken.len()).filter(|slot| **slot != MATTE) {
            let own = format!("{empty}_");
            entry.controls.retain(|id, _| !id.starts_with(&own));
            entry.links.retain(|id, _| !id.starts_with(&own));
        }
    }
}

/// What a control or slot is called once two entries have changed places; none where it is of neither.
pub fn swapped(id: &str, a: &str, b: &str) -> Option<String> {
    let end = |of: &str, to: &str| {
        let rest = id.strip_prefix(of)?;
        (rest.is_empty() || rest.starts_with('_')).then(|| format!("{to}{rest}"))
    };
    end(a, b).or_else(|| end(b, a))
}

/// Two entries of a list change places. What one is set to and the other has no control for is left out.
pub fn swap(entry: &mut StageEntry, a: &str, b: &str) {
    let links = std::mem::take(&mut entry.links);
    entry.links = links.into_iter().map(|(id, link)| (swapped(&id, a, b).unwrap_or(id), link)).collect();
    let controls = std::mem::take(&mut entry.controls);
    for (id, setting) in controls {
        match swapped(&id, a, b) {
            Some(new) if shape::control(entry, &new).is_some() => entry.controls.insert(new, setting),
            Some(_) => None,
            None => entry.controls.insert(id, setting),
        };
    }
}

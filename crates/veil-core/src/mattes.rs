//! The matte slot's short list: further mattes, each with how it meets those before it.
//!
//! The first matte is the slot `matte` itself, with the controls that every row has. Each further one is a slot
//! (`matte2` …) with controls of its own (`matte2_way` …), so that keys, copies, tools and undo treat them as any other.

use std::sync::LazyLock;

use crate::controls::{AnyControl, ControlSpec, Unit};
use crate::matte_way::MatteWay;
use crate::setup::StageEntry;

/// Slots of the mattes after the first.
pub const MORE: [&str; 5] = ["matte2", "matte3", "matte4", "matte5", "matte6"];

/// The controls of one further matte.
pub struct MatteControls {
    /// How it meets those before it.
    pub way: AnyControl,
    /// Whether it is turned inside out.
    pub invert: AnyControl,
    /// How far its edge is softened.
    pub soften: AnyControl,
    /// Whether it counts.
    pub counts: AnyControl,
}

impl MatteControls {
    /// In the order they are shown.
    pub fn all(&self) -> [&AnyControl; 4] {
        [&self.way, &self.invert, &self.soften, &self.counts]
    }
}

static CONTROLS: LazyLock<Vec<MatteControls>> =
    LazyLock::new(|| MORE.iter().map(|slot| controls_of(slot)).collect());

fn controls_of(slot: &'static str) -> MatteControls {
    // There are five slots; their names are made once.
    let id = |end: &str| -> &'static str { Box::leak(format!("{slot}_{end}").into_boxed_str()) };
    MatteControls {
        way: ControlSpec::choice("way", MatteWay::default())
            .help("How this matte meets those above it: added, cut out of them, or only where both are.")
            .with_id(id("way"))
            .any(),
        invert: ControlSpec::switch("invert", false)
            .help("This matte counts where it is not.")
            .with_id(id("invert"))
            .any(),
        soften: ControlSpec::number("soften", 0.0, (0.0, 60.0))
            .within(0.0, 2000.0)
            .unit(Unit::Px)
            .help("Standard deviation of the blur on this matte.")
            .with_id(id("soften"))
            .any(),
        counts: ControlSpec::switch("counts", true)
            .help("Whether this matte counts.")
            .with_id(id("counts"))
            .any(),
    }
}

/// The controls of a further matte, by its place in [`MORE`].
pub fn controls(number: usize) -> &'static MatteControls {
    &CONTROLS[number.min(MORE.len() - 1)]
}

/// The further mattes that a row takes, by their places in [`MORE`].
pub fn taken(entry: &StageEntry) -> impl Iterator<Item = usize> {
    (0..MORE.len()).filter(|number| entry.links.contains_key(MORE[*number]))
}

/// Any control of any further matte.
pub fn control(id: &str) -> Option<&'static AnyControl> {
    CONTROLS.iter().flat_map(MatteControls::all).find(|spec| spec.id == id)
}

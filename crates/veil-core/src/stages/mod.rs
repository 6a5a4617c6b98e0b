//! The stages, one file each, in a folder for each family. A new one is a file and a line in the `mod.rs` of its family; what
//! it must say is in [`crate::stage`].

mod camera;
mod colour;
mod depth;
mod drawing;
pub(crate) mod field;
pub(crate) mod joining;
pub(crate) mod light;
mod map;
mod matte;
mod outside;
pub(crate) mod shutter;
mod source;
pub(crate) mod time;
pub(crate) mod warp;

use std::collections::HashMap;
use std::sync::LazyLock;

use crate::ids::StageKind;
use crate::stage::Stage;

static ALL: LazyLock<Vec<Box<dyn Stage>>> = LazyLock::new(|| {
    let families = [
        source::all(),
        time::all(),
        matte::all(),
        field::all(),
        map::all(),
        warp::all(),
        light::all(),
        colour::all(),
        joining::all(),
    ];
    families.into_iter().flatten().collect()
});

/// Every stage, in the order they are listed.
pub fn all() -> impl Iterator<Item = &'static dyn Stage> {
    ALL.iter().map(|stage| &**stage)
}

/// The stage of a kind; `None` for a tool's row and for unknown kinds.
pub fn find(kind: &StageKind) -> Option<&'static dyn Stage> {
    static BY_ID: LazyLock<HashMap<&'static str, &'static dyn Stage>> =
        LazyLock::new(|| all().map(|stage| (stage.spec().id, stage)).collect());
    BY_ID.get(kind.0.as_str()).copied()
}

//! What a stage's work is asked of: one row of a setup, at one moment and scale.

use std::sync::Arc;

use veil_pixels::{Cancel, Field, Window};

use super::faulty::Faulty;
use super::{Ride, StageError};
use crate::controls::Value;
use crate::feed::Moment;
use crate::ids::MediaId;
use crate::key::{ContentHash, Key};
use crate::media::Media;
use crate::picture::PictureFormat;
use crate::plates::Plates;
use crate::signal::{Domain, Pixels, Scale, Signal, SignalKind, Take};

/// A row as its stage sees it. Slots are named by their ids; a slot that nothing is plugged into is not `plugged`.
pub trait Asked {
    /// The row's name.
    fn name(&self) -> &str;

    /// The values of the stage's own controls.
    fn values(&self) -> &[Value];

    /// The values of the stage's own controls at another frame.
    fn values_at(&self, frame: f64) -> Vec<Value>;

    /// Calls `see` with the values at each moment that the row is seen in.
    fn over_shutter(&self, see: &mut dyn FnMut(&[Value]));

    /// Whether a control of the row was set, to its default or anything else.
    fn is_set(&self, control: &str) -> bool;

    /// The moment.
    fn moment(&self) -> Moment;

    /// The proxy scale.
    fn scale(&self) -> Scale;

    /// Size, rate and range of the shot.
    fn shot(&self) -> &PictureFormat;

    /// To be checked in long work.
    fn cancel(&self) -> &Cancel;

    /// The frame of the shot, at this scale.
    fn display(&self) -> Window;

    /// Which float of it a slot takes of what is plugged there.
    fn plugged(&self, slot: &str) -> Option<Option<Take>>;

    /// The kind that a slot's link brings, though nothing be plugged.
    fn kind_in(&self, slot: &str) -> Option<SignalKind>;

    /// Where what is plugged in a slot exists at a frame.
    fn domain(&self, slot: &str, frame: f64) -> Option<Domain>;

    /// What is plugged in a slot at a frame, for at least a window as far as it exists.
    fn signal(&self, slot: &str, frame: f64, window: Window) -> Result<Option<Arc<Signal>>, StageError>;

    /// What travels with what is plugged in a slot at a frame, over a window.
    fn ride(&self, slot: &str, frame: f64, ride: &Ride, window: Window)
    -> Result<Option<Pixels>, StageError>;

    /// Amount of the row.
    fn amount(&self) -> f64;

    /// Matte of the row over a window; none where none counts.
    fn matte(&self, window: Window) -> Result<Option<Field>, StageError>;

    /// Equal as long as what is plugged in a slot is the same at a frame.
    fn print_at(&self, slot: &str, frame: f64) -> Result<Option<ContentHash>, StageError>;

    /// Equal as long as what is plugged in a slot is the same all over the shot.
    fn print_of_shot(&self, slot: &str) -> Result<Option<ContentHash>, StageError>;

    /// The mean of what is plugged in a slot, a map, over its pixels and the shot.
    fn mean_over_shot(&self, slot: &str) -> Result<Option<[f32; 2]>, StageError>;

    /// A medium of the setup.
    fn medium(&self, id: MediaId) -> Option<&Media>;

    /// The first camera among the setup's media.
    fn camera(&self) -> Option<&Media>;

    /// The files.
    fn plates(&self) -> &dyn Plates;

    /// What `read` gives, kept for the next request by its key.
    fn kept(
        &self,
        key: Key,
        domain: Domain,
        read: &mut dyn FnMut() -> Result<Pixels, StageError>,
    ) -> Result<Arc<Signal>, StageError>;

    /// Remembers how many values of a file were faulty.
    fn note_flaws_of(&self, print: u64, found: Faulty);

    /// How many values of a file were faulty; none until it has been read.
    fn flaws_of(&self, print: u64) -> Faulty;

    /// Remembers how many numbers of the row's result were none.
    fn note_flaws(&self, count: usize);

    /// What [`Self::note_flaws`] was told of this result; of its regions, the most.
    fn noted_flaws(&self) -> usize;
}

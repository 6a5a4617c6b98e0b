//! The colour channels of a picture, each moved apart from the others.
//!
//! - Shape: premultiplied pictures of one window, and perhaps a matte for each channel.
//! - Where a channel is not moved, or its matte is 0, it is the picture's own, bit for bit; so channels that are taken apart
//!   and added again give the picture back.
//! - Alpha: each channel brings its own coverage along. The result's is the largest of the three, so that light that was
//!   moved off the picture's edge stays visible, or the picture's own.

use crate::{Cancel, Cancelled, Field, Picture, Raster};

/// Which coverage the result has.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum AlphaOf {
    /// The largest of those of the moved channels.
    #[default]
    Largest,
    /// That of the picture before anything was moved.
    Own,
}

/// A channel that has been moved: the whole picture moved as it was, and where that counts.
pub struct Apart {
    /// All of the picture, moved.
    pub picture: Picture,
    /// Where it counts; everywhere if there is none.
    pub within: Option<Field>,
}

/// The picture whose red, green and blue come from pictures that were moved as they were; none for one that was not.
pub fn together(
    picture: &Picture,
    apart: &[Option<Apart>; 3],
    alpha: AlphaOf,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    Raster::written(picture.window(), cancel, |y, row| {
        row.copy_from_slice(picture.row(y));
        let own = picture.row(y);
        let mut largest: Vec<f32> = vec![f32::MIN; row.len()];
        for (channel, apart) in apart.iter().enumerate() {
            let Some(Apart { picture, within }) = apart else {
                largest.iter_mut().zip(own).for_each(|(most, pixel)| *most = most.max(pixel[3]));
                continue;
            };
            let shares = within.as_ref().map(|within| within.row(y));
            for (at, (out, moved)) in row.iter_mut().zip(picture.row(y)).enumerate() {
                let share = shares.map_or(1.0, |shares| shares[at]);
                let mixed = |from: f32, to: f32| if share == 1.0 { to } else { from + (to - from) * share };
                out[channel] = mixed(own[at][channel], moved[channel]);
                largest[at] = largest[at].max(mixed(own[at][3], moved[3]));
            }
        }
        if alpha == AlphaOf::Largest {
            row.iter_mut().zip(&largest).for_each(|(out, alpha)| out[3] = *alpha);
        }
    })
}

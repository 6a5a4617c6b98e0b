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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn picture(shift: i32) -> Picture {
        Raster::from_fn(Window::sized(30, 4), move |x, y| {
            if (8 + shift..20 + shift).contains(&x) {
                let value = (x - shift + y) as f32 * 0.137;
                [value, value * 0.3, 1.0 - value, 1.0]
            } else {
                [0.0; 4]
            }
        })
    }

    /// Common practice: the channels taken apart and added together again give the picture back exactly, alpha once.
    #[test]
    fn channels_taken_apart_and_added_give_the_picture_back_bit_for_bit() {
        let cancel = Cancel::new();
        let whole = together(&picture(0), &[None, None, None], AlphaOf::Largest, &cancel).unwrap();
        assert_eq!(whole, picture(0));
        let unmoved = || Some(Apart { picture: picture(0), within: None });
        let whole =
            together(&picture(0), &[unmoved(), unmoved(), unmoved()], AlphaOf::Largest, &cancel).unwrap();
        assert_eq!(whole, picture(0));
        let only = |channel: usize| {
            picture(0).map(&cancel, |pixel| {
                std::array::from_fn(|at| if at == channel || at == 3 { pixel[at] } else { 0.0 })
            })
        };
        let parts: [Picture; 3] = [0, 1, 2].map(|channel| only(channel).unwrap());
        for (at, pixel) in picture(0).pixels().iter().enumerate() {
            let sum: [f32; 3] =
                std::array::from_fn(|channel| parts.iter().map(|part| part.pixels()[at][channel]).sum());
            assert_eq!([sum[0], sum[1], sum[2], parts[0].pixels()[at][3]], *pixel);
        }
    }

    #[test]
    fn a_moved_channel_brings_its_coverage_along_within_its_matte() {
        let (cancel, window) = (Cancel::new(), Window::sized(30, 4));
        let red = || Apart { picture: picture(5), within: None };
        let moved = together(&picture(0), &[Some(red()), None, None], AlphaOf::Largest, &cancel).unwrap();
        // Beyond the old edge there is red alone, and it covers.
        let beyond = moved.get(22, 1).unwrap();
        assert!(beyond[0] > 0.0 && beyond[1] == 0.0 && beyond[3] == 1.0, "{beyond:?}");
        let own = together(&picture(0), &[Some(red()), None, None], AlphaOf::Own, &cancel).unwrap();
        assert_eq!(own.get(22, 1).unwrap()[3], 0.0);
        let upper = Raster::from_fn(window, |_, y| if y < 2 { 1.0 } else { 0.0 });
        let part = Apart { within: Some(upper), ..red() };
        let part = together(&picture(0), &[Some(part), None, None], AlphaOf::Largest, &cancel).unwrap();
        assert_eq!(part.row(1), moved.row(1));
        assert_eq!(part.row(3), picture(0).row(3));
    }
}

//! Where a plate stands in the frame of a shot.
//!
//! - Units: full-resolution pixels. A file's are counted from the corner of its display window, a shot's from its own.
//! - A plate as large as the shot, of pixels as wide, stands where the shot is, whichever way is chosen.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::perspective::{Carried, Homography};
use veil_pixels::{Cancel, Cancelled, Edge, Window};

use crate::choice::Choice;
use crate::picture::PictureFormat;
use crate::plates::About;
use crate::signal::{Domain, Pixels, Scale};
use crate::{choice, each_kind};

/// How a plate of another size than the shot stands in it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Placing {
    /// Pixel for pixel, from the top left corner.
    #[default]
    TopLeft,
    /// Pixel for pixel, in the middle.
    Centre,
    /// As large as all of it can be seen, with the shape that its pixels give it.
    Fit,
    /// As small as it covers all of the frame, with the shape that its pixels give it.
    Fill,
}

choice! {
    Placing {
        TopLeft = "top_left", "pixel for pixel, at the top left";
        Centre = "centre", "pixel for pixel, in the middle";
        Fit = "fit", "fitted in";
        Fill = "fill", "filling the frame";
    }
}

/// A plate in the frame of a shot: its places times `scale`, and then by `offset`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Placed {
    scale: [f64; 2],
    offset: [f64; 2],
    /// Where the file's pixels are, by its own count.
    data: Window,
}

impl Placed {
    /// A file in a shot.
    pub fn of(placing: Placing, file: Domain, about: About, shot: &PictureFormat) -> Self {
        let size = [file.display.width() as f64, file.display.height() as f64];
        let frame = [f64::from(shot.width), f64::from(shot.height)];
        // How much wider the file's pixels are than the shot's.
        let wider = if shot.aspect > 0.0 { about.aspect / shot.aspect } else { 1.0 };
        let shares = [frame[0] / (size[0] * wider).max(1.0), frame[1] / size[1].max(1.0)];
        let scale = match placing {
            Placing::TopLeft | Placing::Centre => [1.0; 2],
            Placing::Fit => [wider, 1.0].map(|side| side * shares[0].min(shares[1])),
            Placing::Fill => [wider, 1.0].map(|side| side * shares[0].max(shares[1])),
        };
        let left = |axis: usize| match placing {
            Placing::TopLeft => 0.0,
            Placing::Centre => ((frame[axis] - size[axis]) / 2.0).floor(),
            Placing::Fit | Placing::Fill => (frame[axis] - size[axis] * scale[axis]) / 2.0,
        };
        let corner = [f64::from(file.display.x0), f64::from(file.display.y0)];
        let offset = [0, 1].map(|axis| left(axis) - corner[axis] * scale[axis]);
        Self { scale, offset, data: file.data }
    }

    /// How far the plate is moved, where no pixel of it is changed by that.
    fn shift(self) -> Option<[i32; 2]> {
        let whole = self.scale == [1.0; 2] && self.offset.iter().all(|offset| offset.fract() == 0.0);
        whole.then(|| self.offset.map(|offset| offset as i32))
    }

    /// The same in pixels of a proxy scale, where whole ones of it are moved.
    pub fn shift_at(self, scale: Scale) -> Option<[i32; 2]> {
        let divisor = scale.divisor() as i32;
        let shift = self.shift().filter(|_| divisor > 1)?;
        let is_whole = shift.iter().all(|along| along % divisor == 0);
        is_whole.then(|| shift.map(|along| along / divisor))
    }

    /// The file's place that is seen at a place of the shot.
    pub fn back(self, place: [f64; 2]) -> [f64; 2] {
        [0, 1].map(|axis| (place[axis] - self.offset[axis]) / self.scale[axis])
    }

    /// Where the plate's pixels are in the shot.
    pub fn window(self) -> Window {
        if let Some([x, y]) = self.shift() {
            return self.data.shifted(x, y);
        }
        let at = |axis: usize, value: i32| f64::from(value) * self.scale[axis] + self.offset[axis];
        let Window { x0, y0, x1, y1 } = self.data;
        // A pixel's hundredth is rounding.
        let (low, high) =
            (|value: f64| (value + 0.01).floor() as i32, |value: f64| (value - 0.01).ceil() as i32);
        Window::new(low(at(0, x0)), low(at(1, y0)), high(at(0, x1)), high(at(1, y1)))
    }

    /// A window of the shot, from what `file` gives of a window of the file.
    pub fn pixels<E: From<Cancelled>>(
        self,
        wanted: Window,
        averages: bool,
        cancel: &Cancel,
        file: impl FnOnce(Window) -> Result<Pixels, E>,
    ) -> Result<Pixels, E> {
        if let Some([x, y]) = self.shift() {
            let part = file(wanted.shifted(-x, -y))?;
            return Ok(each_kind!(part, raster => raster.shifted(x, y)));
        }
        let [[wide, high], [left, top]] = [self.scale, self.offset];
        let back = Homography::shift(-left, -top).then(Homography::scale(1.0 / wide, 1.0 / high));
        let filter = if averages { Filter::Cubic } else { Filter::Nearest };
        let carried = Carried { back, filter, edge: Edge::Hold };
        let wanted = wanted.intersect(self.window());
        if wanted.is_empty() {
            return file(Window::EMPTY);
        }
        let part = file(carried.reads(wanted, self.data))?;
        Ok(each_kind!(&part, raster => carried.apply(raster, self.data, wanted, cancel)?))
    }
}

/// What a plate of another size than the shot is told by.
pub fn told_of_size(
    placing: Placing,
    name: &str,
    file: Domain,
    about: About,
    shot: &PictureFormat,
) -> Option<String> {
    let [wide, high] = [file.display.width(), file.display.height()];
    let same = [wide, high] == [shot.width as usize, shot.height as usize];
    if same && about.aspect == shot.aspect {
        return None;
    }
    let how = Placing::OPTIONS.get(Placing::ALL.iter().position(|known| *known == placing)?)?.name;
    let pixels =
        |aspect: f64| if aspect == 1.0 { String::new() } else { format!(" of pixels {aspect:.3} wide") };
    Some(format!(
        "`{name}` is {wide}x{high}{}, the shot {}x{}{}; it stands in it {how}; set `placed` if that is meant",
        pixels(about.aspect),
        shot.width,
        shot.height,
        pixels(shot.aspect)
    ))
}

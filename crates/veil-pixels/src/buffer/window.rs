//! Rectangles of whole pixels.

/// A half-open rectangle of pixels: `x0 ≤ x < x1`, `y0 ≤ y < y1`. Any corner may be negative.
///
/// A window whose far side is not beyond its near side is empty; all empty windows behave alike.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Window {
    /// Left column.
    pub x0: i32,
    /// Top row.
    pub y0: i32,
    /// One beyond the right column.
    pub x1: i32,
    /// One beyond the bottom row.
    pub y1: i32,
}

impl Window {
    /// The window with nothing in it.
    pub const EMPTY: Self = Self::new(0, 0, 0, 0);

    /// From its corners.
    pub const fn new(x0: i32, y0: i32, x1: i32, y1: i32) -> Self {
        Self { x0, y0, x1, y1 }
    }

    /// From the origin.
    pub const fn sized(width: u32, height: u32) -> Self {
        Self::new(0, 0, width as i32, height as i32)
    }

    /// Columns; 0 where empty.
    pub const fn width(self) -> usize {
        if self.x1 > self.x0 { (self.x1 as i64 - self.x0 as i64) as usize } else { 0 }
    }

    /// Rows; 0 where empty.
    pub const fn height(self) -> usize {
        if self.y1 > self.y0 { (self.y1 as i64 - self.y0 as i64) as usize } else { 0 }
    }

    /// Its rows' numbers, from the top.
    pub const fn rows(self) -> std::ops::Range<i32> {
        self.y0..self.y1
    }

    /// Pixels in it.
    pub const fn area(self) -> usize {
        self.width() * self.height()
    }

    /// Whether it holds no pixel.
    pub const fn is_empty(self) -> bool {
        self.area() == 0
    }

    /// Whether the pixel lies in it.
    pub const fn holds(self, x: i32, y: i32) -> bool {
        x >= self.x0 && x < self.x1 && y >= self.y0 && y < self.y1
    }

    /// Whether every pixel of `other` lies in it. An empty window lies in any.
    pub fn contains(self, other: Self) -> bool {
        other.is_empty()
            || (self.x0 <= other.x0 && self.y0 <= other.y0 && self.x1 >= other.x1 && self.y1 >= other.y1)
    }

    /// The pixels in both.
    pub fn intersect(self, other: Self) -> Self {
        let both = Self::new(
            self.x0.max(other.x0),
            self.y0.max(other.y0),
            self.x1.min(other.x1),
            self.y1.min(other.y1),
        );
        if both.is_empty() { Self::EMPTY } else { both }
    }

    /// The smallest window that contains both.
    pub fn union(self, other: Self) -> Self {
        if self.is_empty() {
            return other;
        }
        if other.is_empty() {
            return self;
        }
        Self::new(self.x0.min(other.x0), self.y0.min(other.y0), self.x1.max(other.x1), self.y1.max(other.y1))
    }

    /// Moved to the right and down, as far as numbers go.
    pub const fn shifted(self, x: i32, y: i32) -> Self {
        Self {
            x0: self.x0.saturating_add(x),
            y0: self.y0.saturating_add(y),
            x1: self.x1.saturating_add(x),
            y1: self.y1.saturating_add(y),
        }
    }

    /// Grown by `x` columns on either side and `y` rows above and below. An empty window stays empty.
    pub fn grow(self, x: i32, y: i32) -> Self {
        if self.is_empty() {
            return self;
        }
        Self::new(
            self.x0.saturating_sub(x),
            self.y0.saturating_sub(y),
            self.x1.saturating_add(x),
            self.y1.saturating_add(y),
        )
    }

    /// The full-resolution pixels that a window of proxy pixels stands for, `divisor` to one.
    pub const fn scaled_up(self, divisor: u32) -> Self {
        let d = divisor as i32;
        Self::new(
            self.x0.saturating_mul(d),
            self.y0.saturating_mul(d),
            self.x1.saturating_mul(d),
            self.y1.saturating_mul(d),
        )
    }

    /// The proxy pixels that a window of full-resolution pixels touches, `divisor` to one.
    pub fn scaled_down(self, divisor: u32) -> Self {
        let d = divisor as i32;
        let ceil = |v: i32| -((-v).div_euclid(d));
        Self::new(self.x0.div_euclid(d), self.y0.div_euclid(d), ceil(self.x1), ceil(self.y1))
    }
}

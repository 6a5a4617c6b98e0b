//! What lies outside a window.

use crate::Window;

/// How a signal goes on outside its data window.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Edge {
    /// Nothing: zero, transparent.
    Clear,
    /// The border pixel repeats.
    #[default]
    Hold,
    /// Reflected at the border, the border pixel twice: `… b a | a b c | c b …`.
    Mirror,
    /// Tiled: `… b c | a b c | a b …`.
    Repeat,
}

impl Edge {
    /// Where to read instead of `index` on an axis that runs `from..to`; `None` where there is nothing.
    ///
    /// `from < to` is required; an index inside is returned as it is.
    pub fn index(self, index: i32, from: i32, to: i32) -> Option<i32> {
        debug_assert!(from < to, "an edge of an empty axis");
        if index >= from && index < to {
            return Some(index);
        }
        let length = to - from;
        match self {
            Self::Clear => None,
            Self::Hold => Some(index.clamp(from, to - 1)),
            Self::Repeat => Some(from + (index - from).rem_euclid(length)),
            Self::Mirror => {
                let place = (index - from).rem_euclid(2 * length);
                Some(from + if place < length { place } else { 2 * length - 1 - place })
            }
        }
    }

    /// Where to read instead of a place between pixels, for a signal whose border is blurred: beyond `fades` outside
    /// of `from..to` it no longer changes. `None` where there is nothing.
    pub(crate) fn place(self, place: f32, from: f32, to: f32, fades: f32) -> Option<f32> {
        let length = to - from;
        match self {
            Self::Clear => (from - fades..to + fades).contains(&place).then_some(place),
            Self::Hold => Some(place.max(from - fades).min(to + fades)),
            Self::Repeat => Some(from + (place - from).rem_euclid(length)),
            Self::Mirror => {
                let turned = (place - from).rem_euclid(2.0 * length);
                Some(from + turned.min(2.0 * length - turned))
            }
        }
    }

    /// The run of an axis `from..to` that reading `wanted` touches, for a data axis of that run.
    ///
    /// May be larger than what is strictly read, never smaller; empty when nothing is read.
    pub fn reads(self, wanted: (i32, i32), from: i32, to: i32) -> (i32, i32) {
        if wanted.0 >= wanted.1 || from >= to {
            return (from, from);
        }
        let inside = (wanted.0.max(from), wanted.1.min(to));
        if inside == wanted {
            return wanted;
        }
        match self {
            Self::Clear if inside.0 < inside.1 => inside,
            Self::Clear => (from, from),
            Self::Hold => (wanted.0.clamp(from, to - 1), wanted.1.clamp(from + 1, to)),
            Self::Repeat => (from, to),
            Self::Mirror => {
                let (before, beyond) = ((from - wanted.0).max(0), (wanted.1 - to).max(0));
                if before >= to - from || beyond >= to - from || inside.0 >= inside.1 {
                    return (from, to);
                }
                let mut run = inside;
                if before > 0 {
                    run = (from, run.1.max(from + before));
                }
                if beyond > 0 {
                    run = (run.0.min(to - beyond), to);
                }
                run
            }
        }
    }

    /// The part of `data` that reading `wanted` touches; [`Self::reads`] on both axes.
    pub fn reads_window(self, wanted: Window, data: Window) -> Window {
        if wanted.is_empty() || data.is_empty() {
            return Window::EMPTY;
        }
        let (x0, x1) = self.reads((wanted.x0, wanted.x1), data.x0, data.x1);
        let (y0, y1) = self.reads((wanted.y0, wanted.y1), data.y0, data.y1);
        Window::new(x0, y0, x1, y1)
    }
}

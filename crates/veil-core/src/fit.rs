//! What a row takes, laid on a box: the frame, or where a matte is.

use serde::Deserialize;
use veil_pixels::{Field, Window};

use crate::feed::Feed;
use crate::setup::{Command, Setting, Setup, StageId};

/// How it is laid on the box.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FitWay {
    /// As large as it can be with all of it inside.
    Inside,
    /// As small as it can be with all of the box covered.
    Over,
    /// Width and height each as the box has them.
    Stretch,
}

/// Why a row lays nothing on a box.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum FitError {
    /// The row is not one that lays what it takes somewhere.
    #[error("only Transform and Corner pin lay what they take on a box")]
    NotPlacing,
    /// What it takes is nowhere.
    #[error("what it takes has no pixels at this frame")]
    Nothing,
    /// The matte is nowhere.
    #[error("the matte covers nothing at this frame")]
    NoBox,
}

/// Coverage from which on a place belongs to a matte's box.
const COVERED: f32 = 0.5;

/// The smallest window that holds what a matte covers by half and more.
pub fn box_of(matte: &Field) -> Window {
    let window = matte.window();
    let mut found = Window::EMPTY;
    for y in window.y0..window.y1 {
        let row = matte.row(y);
        let covered = |value: &f32| *value >= COVERED;
        if let (Some(first), Some(last)) = (row.iter().position(covered), row.iter().rposition(covered)) {
            found = found.union(Window::new(window.x0 + first as i32, y, window.x0 + last as i32 + 1, y + 1));
        }
    }
    found
}

/// The edit that lays what a row takes, which lies in `from`, on a box.
pub fn fit(setup: &Setup, row: StageId, from: Window, to: Window, way: FitWay) -> Result<Command, FitError> {
    let kind = setup.stage(row).map(|row| row.kind.0.as_str());
    if from.is_empty() {
        return Err(FitError::Nothing);
    }
    if to.is_empty() {
        return Err(FitError::NoBox);
    }
    let (wide, high) = (to.width() as f64 / from.width() as f64, to.height() as f64 / from.height() as f64);
    let (wide, high) = match way {
        FitWay::Inside => (wide.min(high), wide.min(high)),
        FitWay::Over => (wide.max(high), wide.max(high)),
        FitWay::Stretch => (wide, high),
    };
    let middle =
        |window: Window| [f64::from(window.x0 + window.x1) / 2.0, f64::from(window.y0 + window.y1) / 2.0];
    let (pivot, goal) = (middle(from), middle(to));
    let number = |control: &str, value: f64| (control.to_owned(), Setting::number(value));
    let point = |control: &str, at: [f64; 2]| {
        (control.to_owned(), Setting::Axes { axes: at.map(Feed::Fixed).into() })
    };
    let settings = match kind {
        Some("transform") => vec![
            point("pivot", pivot),
            number("move_x", goal[0] - pivot[0]),
            number("move_y", goal[1] - pivot[1]),
            number("scale_x", wide),
            number("scale_y", high),
            number("angle", 0.0),
            number("shear", 0.0),
        ],
        Some("corner_pin") => {
            let half = [from.width() as f64 / 2.0 * wide, from.height() as f64 / 2.0 * high];
            let corner = |x: f64, y: f64| [goal[0] + x * half[0], goal[1] + y * half[1]];
            let [left, top, right, bottom] = [from.x0, from.y0, from.x1, from.y1].map(f64::from);
            vec![
                point("from_top_left", [left, top]),
                point("from_top_right", [right, top]),
                point("from_bottom_right", [right, bottom]),
                point("from_bottom_left", [left, bottom]),
                point("top_left", corner(-1.0, -1.0)),
                point("top_right", corner(1.0, -1.0)),
                point("bottom_right", corner(1.0, 1.0)),
                point("bottom_left", corner(-1.0, 1.0)),
            ]
        }
        _ => return Err(FitError::NotPlacing),
    };
    let set =
        |(control, setting): (String, Setting)| Command::Set { stage: row, control, setting: Some(setting) };
    Ok(Command::Together { commands: settings.into_iter().map(set).collect() })
}

//! A card in the world that a picture is laid on.

use glam::DVec3;
use veil_pixels::warp::perspective::Homography;

use crate::camera::CameraAt;
use crate::controls::{ControlSpec, Grip, NumberSpec, Space, SpaceSpec, Unit};

/// The sine of the angle from which less a card is seen edge on: a frame that is no pixel high.
const EDGE_ON: f64 = 1e-6;
/// When a stage's camera counts that has one of its own besides.
const WHEN: (&str, &[&str]) = ("camera", &["file", "hand"]);

pub(super) const fn stand() -> ControlSpec<SpaceSpec> {
    ControlSpec::space("stand")
        .flat()
        .metres()
        .grip(Grip::Drawn)
        .when(WHEN.0, WHEN.1)
        .under("card")
        .help("Where the middle of the card is in the world, in metres, and how it is turned; unturned it faces toward +z.")
}

pub(super) const fn width() -> ControlSpec<NumberSpec> {
    ControlSpec::number("card width", 1.0, (0.1, 10.0))
        .within(1e-4, 1.0e6)
        .unit(Unit::Metres)
        .when(WHEN.0, WHEN.1)
        .under("card")
        .help("How wide a whole frame is on it.")
}

pub(super) const fn slide(name: &'static str) -> ControlSpec<NumberSpec> {
    ControlSpec::number(name, 0.0, (-1000.0, 1000.0))
        .unit(Unit::Px)
        .when(WHEN.0, WHEN.1)
        .under("on the card")
        .help("How far the picture is moved along the card, in its own pixels, right and up.")
}

pub(super) const fn spin() -> ControlSpec<NumberSpec> {
    ControlSpec::angle("spin", 0.0)
        .when(WHEN.0, WHEN.1)
        .under("on the card")
        .help("How far the picture is turned on the card, counter-clockwise.")
}

pub(super) const fn size() -> ControlSpec<NumberSpec> {
    ControlSpec::number("size", 1.0, (0.1, 4.0))
        .within(1e-3, 1000.0)
        .when(WHEN.0, WHEN.1)
        .under("on the card")
        .help("How many times as large the picture is on the card.")
}

/// A card, and how a picture lies on it.
pub(super) struct Card {
    pub(super) stand: Space,
    /// Metres that a frame of the shot is wide.
    pub(super) width: f64,
    /// Pixels that the picture is moved on the card, right and up.
    pub(super) slide: [f64; 2],
    /// Degrees that it is turned there, counter-clockwise.
    pub(super) spin: f64,
    /// How many times as large it is there.
    pub(super) size: f64,
}

impl Card {
    /// A card a metre wide, on which a picture lies as it comes.
    pub(super) const fn at(stand: Space) -> Self {
        Self { stand, width: 1.0, slide: [0.0; 2], spin: 0.0, size: 1.0 }
    }

    /// From places of the picture, which is as large as the frame of the shot, to where a camera sees them.
    /// None where it is seen edge on, or is of no size.
    pub(super) fn seen(&self, camera: &CameraAt, size: [f64; 2]) -> Option<Homography> {
        let metres = self.width / size[0];
        let on_card = Homography::shift(-size[0] / 2.0, -size[1] / 2.0)
            .then(Homography::scale(1.0, -1.0))
            .then(Homography::scale(self.size, self.size))
            // A turn as y runs up.
            .then(Homography::turn(-self.spin.to_radians()))
            .then(Homography::shift(self.slide[0], self.slide[1]))
            .then(Homography::scale(metres, metres));
        let middle = self.stand.placed([0.0; 3]);
        let along = |own: [f64; 3]| {
            let end = self.stand.placed(own);
            std::array::from_fn(|axis| end[axis] - middle[axis])
        };
        let axes = [along([1.0, 0.0, 0.0]), along([0.0, 1.0, 0.0])];
        let [across, upward] = axes.map(DVec3::from);
        let (normal, toward) = (across.cross(upward), DVec3::from(middle) - DVec3::from(camera.place));
        let is_seen =
            normal.dot(toward).abs() > EDGE_ON * across.length() * upward.length() * toward.length();
        is_seen.then(|| on_card.then(camera.plane(middle, axes, size)))
    }
}

//! The light of a lamp on a surface.
//!
//! - Shape: numbers; a place, the direction it faces in, and where it is seen from.
//! - Units: any lengths, the same for places and falloff; directions of length 1; angles as cosines.
//! - Range: no light where the surface faces away from the lamp or from the eye.
//! - Formula: a matt surface by the cosine (Lambert), a gloss by the half-way vector raised to a power (Blinn, "Models of Light
//!   Reflection for Computer Synthesized Pictures", 1977), normalised by `(n + 8) / 8` so that a sharper gloss is as bright in all
//!   (Akenine-Möller, Haines and Hoffman, "Real-Time Rendering", 2008, section 7.6). Light falls off as one over the distance to a
//!   power, and is as strong as said at the reach.

/// Where light comes from.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Lamp {
    /// From infinitely far, all in one direction: the way toward it.
    Sun {
        /// Of length 1.
        toward: [f32; 3],
    },
    /// From a place.
    Point {
        /// Where it is.
        place: [f32; 3],
        /// The distance at which it is as strong as said.
        reach: f32,
        /// The power of the distance by which it falls off; 2 is nature's.
        falloff: f32,
        /// The cone that it shines in.
        cone: Option<Cone>,
    },
}

/// A cone of light.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Cone {
    /// Where it points; of length 1.
    pub along: [f32; 3],
    /// Cosines of the angles from its axis within which it is whole, and beyond which there is nothing.
    pub cosines: [f32; 2],
}

/// What a surface does with light.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Surface {
    /// Times the matt light.
    pub matt: f32,
    /// Times the gloss.
    pub gloss: f32,
    /// The power of the gloss; the higher, the smaller its lights.
    pub sharpness: f32,
}

fn dot(a: [f32; 3], b: [f32; 3]) -> f32 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

fn less(a: [f32; 3], b: [f32; 3]) -> [f32; 3] {
    std::array::from_fn(|axis| a[axis] - b[axis])
}

/// Of length 1; nothing where it is none.
pub fn unit(way: [f32; 3]) -> Option<[f32; 3]> {
    let length = dot(way, way).sqrt();
    (length.is_finite() && length > 1e-20).then(|| way.map(|part| part / length))
}

impl Lamp {
    /// The way toward it from a place, and how strong it is there.
    fn toward(&self, at: [f32; 3]) -> Option<([f32; 3], f32)> {
        match *self {
            Self::Sun { toward } => Some((toward, 1.0)),
            Self::Point { place, reach, falloff, cone } => {
                let way = less(place, at);
                let toward = unit(way)?;
                // Within a hundredth of its reach it gets no stronger.
                let far = dot(way, way).sqrt().max(reach * 0.01);
                let strong = (reach / far).powf(falloff);
                let within = cone.map_or(1.0, |cone| {
                    let [whole, none] = cone.cosines;
                    let cosine = -dot(toward, cone.along);
                    let share = ((cosine - none) / (whole - none).max(1e-6)).clamp(0.0, 1.0);
                    share * share * (3.0 - 2.0 * share)
                });
                Some((toward, strong * within))
            }
        }
    }

    /// Matt light and gloss, each in parts of the lamp's own, from a surface at a place that faces along `normal` and is seen along
    /// the way `to_eye`.
    pub fn on(&self, surface: Surface, at: [f32; 3], normal: [f32; 3], to_eye: [f32; 3]) -> [f32; 2] {
        let Some((toward, strong)) = self.toward(at) else { return [0.0; 2] };
        let facing = dot(normal, toward);
        if facing <= 0.0 || strong <= 0.0 {
            return [0.0; 2];
        }
        let half = unit(std::array::from_fn(|axis| toward[axis] + to_eye[axis]));
        let shine = half.map_or(0.0, |half| dot(normal, half).max(0.0).powf(surface.sharpness));
        let whole = (surface.sharpness + 8.0) / 8.0;
        [surface.matt * facing * strong, surface.gloss * whole * shine * facing * strong]
    }
}

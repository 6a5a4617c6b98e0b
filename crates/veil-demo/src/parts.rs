//! What a scene is made of: things, what they are made of, and their shapes.

use glam::Vec3;

use crate::ball::Ball;

/// Four places in the world that lie in one plane, in order round it.
pub(crate) type Plane = [Vec3; 4];

/// A surface in cells: rows and columns of them, and where their corners are, row by row, with the way out of it there.
pub(crate) struct Surface {
    pub(crate) cells: [usize; 2],
    pub(crate) corners: Vec<(Vec3, Vec3)>,
}

/// Which named thing a surface belongs to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) enum Thing {
    Kiln,
    Chimney,
    Yard,
    Walls,
    Lamps,
    Barge,
    Lantern,
    Water,
    Shore,
    Caretaker,
    Sheet,
    Float,
    Net,
    Masts,
    Pier,
    Hut,
    Rope,
    Bell,
    Beam,
    Frame,
    Glass,
    Quay,
    Buoy,
    Kelp,
    Sand,
    Sea,
    Sail,
    Spars,
    Causeway,
    Sky,
}

impl Thing {
    pub(crate) const fn name(self) -> &'static str {
        match self {
            Self::Kiln => "kiln",
            Self::Chimney => "chimney",
            Self::Yard => "yard",
            Self::Walls => "walls",
            Self::Lamps => "lamps",
            Self::Barge => "barge",
            Self::Lantern => "lantern",
            Self::Water => "water",
            Self::Shore => "shore",
            Self::Caretaker => "caretaker",
            Self::Sheet => "sheet",
            Self::Float => "float",
            Self::Net => "net",
            Self::Masts => "masts",
            Self::Pier => "pier",
            Self::Hut => "hut",
            Self::Rope => "rope",
            Self::Bell => "bell",
            Self::Beam => "beam",
            Self::Frame => "frame",
            Self::Glass => "glass",
            Self::Quay => "quay",
            Self::Buoy => "buoy",
            Self::Kelp => "kelp",
            Self::Sand => "sand",
            Self::Sea => "sea",
            Self::Sail => "sail",
            Self::Spars => "spars",
            Self::Causeway => "causeway",
            Self::Sky => "sky",
        }
    }
}

/// What a surface is made of.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Stuff {
    Brick {
        row: f32,
        seed: u32,
    },
    WetStone,
    Plaster {
        tint: Vec3,
        seed: u32,
    },
    Wood {
        tint: Vec3,
    },
    Copper,
    /// Cast, gone green where rain runs down from above a middle.
    Bronze {
        middle: Vec3,
        seed: u32,
    },
    /// Hammered and engraved, about a middle where it rests, turned about the upright by radians, and so many more a frame.
    Brass {
        middle: Vec3,
        turn: f32,
        pace: f32,
    },
    /// Coloured glass in lead about a middle, before a lamp of this brightness.
    Signal {
        middle: Vec3,
        light: f32,
    },
    /// Painted boards, the paint coming off.
    Peeling {
        tint: Vec3,
        seed: u32,
    },
    /// Woven, in folds.
    Cloth {
        tint: Vec3,
        seed: u32,
    },
    /// Dark glass with streaks and bubbles, about a middle where it rests, turned about the upright by radians.
    Glass {
        tint: Vec3,
        middle: Vec3,
        turn: f32,
    },
    Water,
    /// Coal under an arch that stands on `foot`; brightness in scene-linear units.
    Fire {
        light: Vec3,
        foot: Vec3,
    },
    /// Gives off light; brightness in scene-linear units.
    Glow {
        light: Vec3,
    },
}

#[derive(Clone, Copy, Debug)]
pub(crate) enum Shape {
    /// The level plane at a height.
    Level {
        y: f32,
    },
    /// A box, turned about the upright axis by an angle with this sine and cosine.
    Block {
        middle: Vec3,
        half: Vec3,
        turn: (f32, f32),
    },
    /// An upright round frustum.
    Frustum {
        foot: Vec3,
        height: f32,
        low: f32,
        high: f32,
    },
    Ball {
        middle: Vec3,
        radius: f32,
    },
    /// Round and thin, from one end to the other, its ends open.
    Rod {
        from: Vec3,
        to: Vec3,
        radius: f32,
    },
}

#[derive(Clone, Copy, Debug)]
pub(crate) struct Part {
    pub(crate) shape: Shape,
    pub(crate) stuff: Stuff,
    pub(crate) thing: Thing,
    /// How far it goes in a frame, for motion.
    pub(crate) velocity: Vec3,
    /// How far it is from where its texture rests.
    pub(crate) moved: Vec3,
}

impl Part {
    pub(crate) const fn still(thing: Thing, stuff: Stuff, shape: Shape) -> Self {
        Self { shape, stuff, thing, velocity: Vec3::ZERO, moved: Vec3::ZERO }
    }
}

/// What is thinner than this throws no shadow that could be seen, in metres.
const THIN: f32 = 0.003;

impl Part {
    /// How far what is at a place of it goes in a frame.
    pub(crate) fn goes(&self, place: Vec3) -> Vec3 {
        match self.stuff {
            Stuff::Brass { middle, pace, .. } => {
                let from = place - self.moved - middle;
                self.velocity + about_upright(from, pace) - from
            }
            _ => self.velocity,
        }
    }

    /// Whether it keeps light off others.
    pub(crate) fn shades(&self) -> bool {
        let thin = matches!(self.shape, Shape::Rod { radius, .. } if radius < THIN);
        // All lights and all that they fall on are above the ground.
        let ground = matches!(self.shape, Shape::Level { .. });
        !thin && !ground && !matches!(self.stuff, Stuff::Glow { .. } | Stuff::Fire { .. } | Stuff::Water)
    }
}

/// Turned about the upright by radians, counter-clockwise as seen from above.
pub(crate) fn about_upright(at: Vec3, by: f32) -> Vec3 {
    let (sin, cos) = by.sin_cos();
    Vec3::new(at.x * cos + at.z * sin, at.y, at.z * cos - at.x * sin)
}

impl Shape {
    /// A ball that holds it; none for what has no end.
    pub(crate) fn ball(&self) -> Option<Ball> {
        let ball = |middle: Vec3, radius: f32| Some(Ball { middle, radius });
        match *self {
            Self::Level { .. } => None,
            Self::Block { middle, half, .. } => ball(middle, half.length()),
            Self::Ball { middle, radius } => ball(middle, radius),
            Self::Rod { from, to, radius } => ball((from + to) * 0.5, (to - from).length() * 0.5 + radius),
            Self::Frustum { foot, height, low, high } => {
                ball(foot + Vec3::Y * height * 0.5, (height * 0.5).hypot(low.max(high)))
            }
        }
    }
}

/// How large a shape is.
pub(crate) struct Extent {
    pub(crate) middle: Vec3,
    /// Of the ball that holds it.
    pub(crate) radius: f32,
    /// Half of how thick it is where that is least.
    pub(crate) narrowest: f32,
}

impl Shape {
    /// None for what has no end.
    pub(crate) fn extent(&self) -> Option<Extent> {
        let Ball { middle, radius } = self.ball()?;
        let narrowest = match *self {
            Self::Level { .. } => return None,
            Self::Block { half, .. } => half.min_element(),
            Self::Frustum { height, low, high, .. } => low.max(high).min(height * 0.5),
            Self::Ball { radius, .. } | Self::Rod { radius, .. } => radius,
        };
        Some(Extent { middle, radius, narrowest })
    }
}

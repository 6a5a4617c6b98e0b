//! A lamp in space on a render or on a rounded matte.

use veil_pixels::light::lamp::{Cone, Lamp, Surface, unit};
use veil_pixels::{Picture, Raster, Window};

use crate::camera::CameraAt;
use crate::controls::{ControlSet, ControlSpec, Grip, NumberSpec, Unit};
use crate::ids::MediaId;
use crate::key::Key;
use crate::plates::Role;
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Ride, Stage, StageError};
use crate::stages::camera::{self, Chosen, MaybeFrom};
use crate::stages::outside::Directions;
use crate::{choice, controls};

use super::body::{self, By, Form};

const POSITION: &str = "position";
const NORMALS: &str = "normals";

controls! {
    struct RelightControls {
        on: On = ControlSpec::choice("on", On::Passes).help("A render, by the normal and position passes of its world, or a picture, by a body in it."),
        sort: Sort = ControlSpec::choice("lamp", Sort::Point).help("At a place, shining all about or in a cone, or so far away that all its light comes one way."),
        colour: [f64; 3] = ControlSpec::colour("colour", 1.0, (0.0, 2.0)).help("Of its light."),
        strength: f64 = ControlSpec::number("strength", 1.0, (0.0, 10.0)).within(0.0, 1e5).help("Times its light, on a white surface that faces it within its reach."),
        x: f64 = world("x", 0.0),
        y: f64 = world("y", 2.0),
        z: f64 = world("z", 2.0),
        reach: f64 = ControlSpec::number("reach", 2.0, (0.1, 20.0)).within(1e-3, 1e6).unit(Unit::Metres).when("on", &["passes"]).help("The distance at which it is as strong as said."),
        place: [f64; 2] = ControlSpec::point("place", [0.5, 0.3]).grip(Grip::Point).when("on", &["body"]).help("Where it is before the picture."),
        before: f64 = ControlSpec::length("before it", 200.0, 1000.0).when("on", &["body"]).help("How far before the picture it is."),
        near: f64 = ControlSpec::length("reaches", 300.0, 2000.0).within(1.0, 1e6).when("on", &["body"]).help("The distance at which it is as strong as said."),
        falloff: f64 = ControlSpec::number("falloff", 2.0, (0.0, 4.0)).within(0.0, 8.0).help("The power of the distance by which it falls off; 2 is nature's, 0 is none."),
        pan: f64 = aim("pan", "How far it is turned to its left from pointing along -z; a sun or a cone."),
        tilt: f64 = aim("tilt", "How far it is tilted up from level; a sun or a cone."),
        cone: f64 = ControlSpec::number("cone", 40.0, (1.0, 170.0)).within(0.1, 179.0).unit(Unit::Degrees).when("sort", &["spot"]).help("How wide its cone is, from side to side."),
        soft: f64 = ControlSpec::number("cone softness", 0.3, (0.0, 1.0)).within(0.0, 1.0).when("sort", &["spot"]).help("How much of the cone it takes to end."),
        matt: f64 = ControlSpec::number("matt", 1.0, (0.0, 2.0)).within(0.0, 100.0).under("surface").help("How much of it matt surfaces throw back, in the picture's own colours."),
        gloss: f64 = ControlSpec::number("gloss", 0.2, (0.0, 2.0)).within(0.0, 100.0).under("surface").help("How much of it shines back in its own colour."),
        sharpness: f64 = ControlSpec::number("sharpness", 30.0, (1.0, 200.0)).within(1.0, 10_000.0).under("surface").help("How small and sharp its shine is."),
        by: By = body::by().when("on", &["body"]),
        round: f64 = body::round(),
        height: f64 = body::height(),
        range: Directions = ControlSpec::choice("range", Directions::Signed).under("form").help("How a normal pass writes directions: from -1 to 1, or from 0 to 1 with a half for none."),
        camera: MaybeFrom = camera::maybe(),
        camera_file: Option<MediaId> = camera::file(),
        camera_shift: f64 = camera::shift(),
        by_hand: CameraAt = camera::by_hand(),
    }
}

const fn world(name: &'static str, start: f64) -> ControlSpec<NumberSpec> {
    ControlSpec::number(name, start, (-20.0, 20.0))
        .unit(Unit::Metres)
        .when("on", &["passes"])
        .help("Where it is in the world of the position pass.")
}

const fn aim(name: &'static str, help: &'static str) -> ControlSpec<NumberSpec> {
    ControlSpec::angle(name, 0.0).when("sort", &["sun", "spot"]).help(help)
}

/// What is lit.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum On {
    Passes,
    Body,
}

choice! {
    On {
        Passes = "passes", "a render, by passes";
        Body = "body", "a picture, by a body";
    }
}

/// What a lamp is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Sort {
    Point,
    Sun,
    Spot,
}

choice! {
    Sort {
        Point = "point", "point";
        Sun = "sun", "sun";
        Spot = "spot", "spot";
    }
}

impl RelightControls {
    fn camera(&self, context: &Context<'_>) -> Result<Option<CameraAt>, StageError> {
        let chosen = self.camera.camera().filter(|_| self.on == On::Passes).map(|from| Chosen {
            from,
            file: self.camera_file,
            shift: self.camera_shift,
            by_hand: self.by_hand,
        });
        chosen.map(|chosen| chosen.now(context)).transpose()
    }

    /// The lamp, by the axes of what is lit: of the world, or of the picture at its scale with y down and z toward the eye.
    fn lamp(&self, context: &Context<'_>) -> Lamp {
        let (pan, tilt) = (self.pan.to_radians(), self.tilt.to_radians());
        let along = [-pan.sin() * tilt.cos(), tilt.sin(), -pan.cos() * tilt.cos()].map(|part| part as f32);
        let length = |length: f64| context.scale().length(length);
        let (along, place, reach) = match self.on {
            On::Passes => (along, [self.x, self.y, self.z].map(|part| part as f32), self.reach as f32),
            On::Body => {
                let [x, y] = self.place.map(length);
                ([along[0], -along[1], along[2]], [x, y, length(self.before)], length(self.near))
            }
        };
        let half = (self.cone / 2.0).to_radians();
        let cone = (self.sort == Sort::Spot)
            .then(|| Cone { along, cosines: [(half * (1.0 - self.soft)).cos() as f32, half.cos() as f32] });
        match self.sort {
            Sort::Sun => Lamp::Sun { toward: along.map(|part| -part) },
            Sort::Point | Sort::Spot => Lamp::Point { place, reach, falloff: self.falloff as f32, cone },
        }
    }
}

pub(super) struct Relight {
    spec: StageSpec,
}

impl Relight {
    pub(super) fn new() -> Self {
        let mut slots = vec![SlotSpec::new(POSITION, "position", Accepts::Picture)];
        slots.extend(body::slots());
        Self {
            spec: StageSpec {
                id: "relight",
                name: "Relight",
                family: Family::Light,
                help: "Adds the light of a lamp in space, on a render by its normal and position passes, or on a picture by a body in it.",
                main: Some(Accepts::Picture),
                slots,
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: RelightControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for Relight {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("lantern", &[("falloff", 2.0)]).axes("colour", &[1.0, 0.6, 0.3]),
            Preset::of("moon", &[("tilt", -50.0), ("strength", 0.3)])
                .choosing("sort", "sun")
                .axes("colour", &[0.6, 0.75, 1.0]),
        ]
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: RelightControls = context.controls()?;
        key.add(&controls.camera(context)?);
        Ok(())
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        let controls: RelightControls = context.controls().ok()?;
        let lit = || Lit::of_passes(context, &controls, Window::EMPTY);
        (controls.on == On::Passes && matches!(lit(), Ok(None))).then(|| {
            "adds nothing: it wants a normal and a position pass, plugged in or with the picture".into()
        })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: RelightControls = context.controls()?;
        let mut made = context.picture(MAIN, wanted)?;
        let lit = match controls.on {
            On::Passes => Lit::of_passes(context, &controls, wanted)?,
            On::Body => Lit::of_body(context, &controls, wanted)?,
        };
        let Some(lit) = lit else { return Ok(Pixels::Picture(made)) };
        let lamp = controls.lamp(context);
        let surface = Surface {
            matt: controls.matt as f32,
            gloss: controls.gloss as f32,
            sharpness: controls.sharpness as f32,
        };
        let colour = controls.colour.map(|part| (part * controls.strength) as f32);
        made.fill_rows(context.cancel(), |y, row| {
            let facts = lit.facing.row(y).iter().zip(lit.places.row(y));
            for (pixel, (facing, place)) in row.iter_mut().zip(facts) {
                let [nx, ny, nz, covers] = *facing;
                let Some(normal) = unit([nx, ny, nz]).filter(|_| covers > 0.0 && pixel[3] > 0.0) else {
                    continue;
                };
                let at = [place[0], place[1], place[2]];
                let to_eye = match lit.eye {
                    Some(eye) => unit(std::array::from_fn(|axis| eye[axis] - at[axis])).unwrap_or(normal),
                    None => [0.0, 0.0, 1.0],
                };
                let [matt, gloss] = lamp.on(surface, at, normal, to_eye).map(|light| light * covers);
                (0..3).for_each(|channel| {
                    pixel[channel] += colour[channel] * (pixel[channel] * matt + gloss * pixel[3])
                });
            }
        })?;
        Ok(Pixels::Picture(made))
    }
}

/// What of a picture is lit: where each pixel is, and the direction that it faces in with its coverage.
struct Lit {
    facing: Picture,
    places: Picture,
    /// Where it is seen from; without one from along z, infinitely far.
    eye: Option<[f32; 3]>,
}

impl Lit {
    fn of_passes(
        context: &Context<'_>,
        controls: &RelightControls,
        wanted: Window,
    ) -> Result<Option<Self>, StageError> {
        let find = |slot: &str, role: Role| match context.domain_of(slot) {
            Some(_) => context.picture(slot, wanted).map(Some),
            None => Ok(match context.ride(MAIN, &Ride::Pass(role), wanted)? {
                Some(Pixels::Picture(pass)) => Some(pass),
                _ => None,
            }),
        };
        let Some(mut facing) = find(NORMALS, Role::Normal)? else { return Ok(None) };
        if controls.range == Directions::Shifted {
            facing.change(context.cancel(), |[x, y, z, alpha]: [f32; 4]| {
                [x * 2.0 - 1.0, y * 2.0 - 1.0, z * 2.0 - 1.0, alpha]
            })?;
        }
        let places = match find(POSITION, Role::Position)? {
            Some(places) => places,
            // Light that comes one way needs no places.
            None if controls.sort == Sort::Sun => Picture::clear(wanted),
            None => return Ok(None),
        };
        let eye = controls.camera(context)?.map(|camera| camera.place.map(|part| part as f32));
        Ok(Some(Self { facing, places, eye }))
    }

    fn of_body(
        context: &Context<'_>,
        controls: &RelightControls,
        wanted: Window,
    ) -> Result<Option<Self>, StageError> {
        let form =
            Form { by: controls.by, round: controls.round, height: controls.height, range: controls.range };
        let facing = form.facing(context, wanted)?;
        let places = Raster::written(wanted, context.cancel(), |y, row: &mut [[f32; 4]]| {
            for (x, out) in (wanted.x0..).zip(row) {
                *out = [x as f32 + 0.5, y as f32 + 0.5, 0.0, 1.0];
            }
        })?;
        Ok(Some(Self { facing, places, eye: None }))
    }
}

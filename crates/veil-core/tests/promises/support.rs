//! A made-up plate in memory, and setups on it.

use std::sync::Arc;

use veil_core::camera::{Camera, CameraAt, CameraFrame, Lens};
use veil_core::controls::ControlKind;
use veil_core::engine::{Answer, Engine, OnFault, Request};
use veil_core::figure::{Figure, FilledShape, Tracing};
use veil_core::plates::{IdKind, Named, PlateError, Plates, Role, Things};
use veil_core::setup::{
    ColourSpace, Command, Edit, Frames, Media, MediaId, PictureFormat, Setting, Setup, StageEntry, StageId,
};
use veil_core::signal::{Domain, Pixels, Scale, SignalKind};
use veil_core::spec::{Accepts, MAIN, MATTE};
use veil_core::stages;
use veil_pixels::colour::lut::{Entries, Lut};
use veil_pixels::key::cryptomatte::Id;
use veil_pixels::sample::resize::block_means;
use veil_pixels::{Cancel, Field, Raster, Window};

pub(crate) const WIDTH: u32 = 96;
pub(crate) const HEIGHT: u32 = 64;

/// What a made-up plate gives for a role; none leaves it to the smooth one.
type Passes = fn(Role) -> Option<Pixels>;

/// A plate in memory.
pub(crate) struct MadeUp {
    /// Tells it from others.
    print: u64,
    passes: Passes,
    /// Where the first of its two things is; the second is everywhere else.
    is_kiln: fn(i32, i32) -> bool,
}

/// Smooth in place, so that a proxy of it means something: no detail finer than about eight pixels.
pub(crate) const SMOOTH: MadeUp = MadeUp::of(0, |_| None);

impl MadeUp {
    pub(crate) const fn of(print: u64, passes: Passes) -> Self {
        Self { print, passes, is_kiln: |x, _| x < 40 }
    }

    pub(crate) const fn with_kiln(self, is_kiln: fn(i32, i32) -> bool) -> Self {
        Self { is_kiln, ..self }
    }
}

fn wave(x: i32, y: i32, frame: i32, seed: f32) -> f32 {
    let (x, y, t) = (x as f32, y as f32, frame as f32);
    0.5 + 0.22 * (x * 0.11 + seed + t * 0.3).sin() + 0.22 * (y * 0.13 + seed * 2.0).cos()
}

pub(crate) fn smooth(role: Role, frame: i32) -> Pixels {
    let window = Window::sized(WIDTH, HEIGHT);
    match role.kind() {
        SignalKind::Picture => Pixels::Picture(Raster::from_fn(window, |x, y| {
            [wave(x, y, frame, 0.0), wave(x, y, frame, 1.3), wave(x, y, frame, 2.1), 1.0]
        })),
        SignalKind::Field => Pixels::Field(Raster::from_fn(window, |x, y| wave(x, y, frame, 0.7))),
        SignalKind::Map => {
            Pixels::Map(Raster::from_fn(window, |x, y| [wave(x, y, frame, 0.2), -wave(x, y, frame, 0.9)]))
        }
    }
}

/// A camera that walks to the right and looks at what is about the world's middle.
pub(crate) fn walking(frame: i32) -> CameraFrame {
    let along = f64::from(frame - 1001);
    let lens = Lens::Focal { focal_mm: 40.0, sensor_width_mm: 36.0 };
    let camera = CameraAt::standing([0.4 + 0.02 * along, 0.5, 2.5], [0.6 * along, -1.0, 2.0], lens);
    CameraFrame { frame, camera }
}

impl Plates for MadeUp {
    fn fingerprint(&self, _: &Media, frame: i32, _: &Cancel) -> Result<u64, PlateError> {
        Ok(self.print << 32 | frame as u64)
    }

    fn domain(&self, _: &Media, _: i32, _: &Cancel) -> Result<Domain, PlateError> {
        let window = Window::sized(WIDTH, HEIGHT);
        Ok(Domain { display: window, data: window })
    }

    fn pass(&self, _: &Media, frame: i32, role: Role, _: &Cancel) -> Result<Pixels, PlateError> {
        Ok((self.passes)(role).unwrap_or_else(|| smooth(role, frame)))
    }

    fn figure(&self, _: &Media) -> Result<Arc<Figure>, PlateError> {
        let mut square = Tracing::default();
        square.begin([1.0, 1.0]);
        [[9.0, 2.0], [8.0, 9.0], [2.0, 8.0]].into_iter().for_each(|corner| square.line(corner));
        let shape = FilledShape { outlines: square.finish(), colour: [0.9, 0.5, 0.2], alpha: 0.8 };
        Ok(Arc::new(Figure { size: [10.0, 10.0], shapes: vec![shape] }))
    }

    fn lut(&self, _: &Media) -> Result<Arc<Lut>, PlateError> {
        let corner = |index: usize| [index & 1, index >> 1 & 1, index >> 2].map(|bit| 0.8 * bit as f32 + 0.1);
        let entries = Entries::Cube { side: 2, colours: (0..8).map(corner).collect() };
        Ok(Arc::new(Lut { low: [0.0; 3], high: [1.0; 3], entries }))
    }

    fn camera(&self, _: &Media, _: f64) -> Result<Arc<Camera>, PlateError> {
        Ok(Arc::new(Camera { name: "made up".into(), frames: (1001..=1010).map(walking).collect() }))
    }

    fn words(&self, _: &Media, _: i32) -> Result<Vec<(String, String)>, PlateError> {
        Ok(Vec::new())
    }

    fn roles(&self, _: &Media, _: i32) -> Result<Vec<Role>, PlateError> {
        Ok(vec![Role::Depth, Role::Motion])
    }

    fn things(&self, _: &Media, _: i32, _: IdKind) -> Result<Things, PlateError> {
        let named = |name: &str| Named { name: name.into(), id: Id::of(name) };
        Ok(Things(vec![named("kiln"), named("yard")]))
    }

    fn coverage(
        &self,
        _: &Media,
        _: i32,
        _: IdKind,
        ids: &[Id],
        divisor: u32,
        cancel: &Cancel,
    ) -> Result<Field, PlateError> {
        let thing = |x, y| Id::of(if (self.is_kiln)(x, y) { "kiln" } else { "yard" });
        let covered = |x, y| if ids.contains(&thing(x, y)) { 1.0 } else { 0.0 };
        Ok(block_means(&Raster::from_fn(Window::sized(WIDTH, HEIGHT), covered), divisor, cancel)?)
    }
}

pub(crate) const PLATE: StageId = StageId(2);
pub(crate) const FIELD: StageId = StageId(3);
pub(crate) const MAP: StageId = StageId(4);
pub(crate) const SHAPE: StageId = StageId(5);
pub(crate) const OTHER: StageId = StageId(7);
pub(crate) const TESTED: StageId = StageId(9);

pub(crate) fn pair(x: f64, y: f64) -> Setting {
    Setting::numbers(&[x, y])
}

/// A plate, another picture, a field, a map and a matte, and below them one stage of a kind with everything plugged.
///
/// `main` is what it takes as main input, where it takes any.
pub(crate) fn setup_with(kind: &str, main: StageId) -> Setup {
    let picture = PictureFormat {
        width: WIDTH,
        height: HEIGHT,
        fps: 24.0,
        aspect: 1.0,
        frames: Frames { first: 1001, last: 1010 },
        working: Default::default(),
    };
    let mut setup = Setup::empty("test", picture);
    setup.media.push(Media {
        id: MediaId(1),
        name: "plate".into(),
        path: "plate.####.exr".into(),
        frames: Some(picture.frames),
        colour: ColourSpace::Linear,
        content: None,
    });
    let media = Setting::Media { media: MediaId(1) };
    let stage = stages::all().find(|stage| stage.spec().id == kind).unwrap();
    let spec = stage.spec();
    if spec.controls.iter().any(|control| matches!(control.kind, ControlKind::Camera(_))) {
        let camera = Media {
            id: MediaId(2),
            name: "camera".into(),
            path: "camera.gltf".into(),
            ..setup.media[0].clone()
        };
        setup.media.push(camera);
    }
    let mut tested = StageEntry::new(TESTED, kind, "Tested").taking(MATTE, SHAPE);
    if spec.main.is_some() {
        tested = tested.taking(MAIN, main);
    }
    for slot in &spec.slots {
        let from = match slot.accepts {
            Accepts::Map => MAP,
            Accepts::Field => FIELD,
            Accepts::Picture => OTHER,
            Accepts::Any | Accepts::PictureOrField => PLATE,
        };
        tested = tested.taking(slot.id, from);
    }
    for control in &spec.controls {
        match control.id {
            "media" => tested = tested.with("media", media.clone()),
            "names" => tested = tested.with("names", Setting::Names(vec!["kiln".into()])),
            _ => {}
        }
    }
    let rows = vec![
        StageEntry::new(PLATE, "plate", "Plate").with("media", media),
        StageEntry::new(FIELD, "noise", "Field")
            .with("size", pair(30.0, 24.0))
            .with("octaves", Setting::number(1.0)),
        StageEntry::new(StageId(6), "steepness_map", "Slope").taking(MAIN, FIELD),
        StageEntry::new(MAP, "strength", "Map")
            .taking(MAIN, StageId(6))
            .with("x", Setting::number(60.0))
            .with("y", Setting::number(60.0)),
        StageEntry::new(SHAPE, "ellipse", "Shape").with("softness", Setting::number(12.0)),
        StageEntry::new(OTHER, "blur", "Softer").taking(MAIN, PLATE).with("size_x", Setting::number(6.0)),
        tested,
    ];
    setup.stages.splice(0..0, rows);
    setup.check().unwrap();
    setup
}

/// Every kind of stage, with each kind of main input it takes.
pub(crate) fn every_stage() -> Vec<(&'static str, StageId)> {
    let mut all = Vec::new();
    for stage in stages::all().filter(|stage| stage.spec().id != "final") {
        let spec = stage.spec();
        let kinds = [(PLATE, Accepts::Picture), (FIELD, Accepts::Field), (MAP, Accepts::Map)];
        match spec.main {
            None => all.push((spec.id, PLATE)),
            Some(Accepts::Any) => all.extend(kinds.iter().map(|(id, _)| (spec.id, *id))),
            Some(Accepts::PictureOrField) => all.extend([(spec.id, PLATE), (spec.id, FIELD)]),
            Some(accepts) => {
                all.extend(kinds.iter().filter(|(_, kind)| *kind == accepts).map(|(id, _)| (spec.id, *id)))
            }
        }
    }
    all
}

/// As [`ask`], where a row that cannot work hands on its bypass.
pub(crate) fn ask_anyhow(setup: &Setup, stage: StageId, window: Option<Window>) -> Answer {
    let request = Request { window, on_fault: OnFault::Bypass, ..Request::whole(stage, 1004.0) };
    Engine::new(1 << 28).answer(setup, &SMOOTH, request, &Cancel::new()).unwrap()
}

pub(crate) fn ask(setup: &Setup, stage: StageId, scale: u32, window: Option<Window>) -> Answer {
    ask_of(&SMOOTH, setup, stage, scale, window)
}

pub(crate) fn ask_of(
    plates: &dyn Plates,
    setup: &Setup,
    stage: StageId,
    scale: u32,
    window: Option<Window>,
) -> Answer {
    let request = Request { scale: Scale::one_to(scale).unwrap(), window, ..Request::whole(stage, 1004.0) };
    Engine::new(1 << 28).answer(setup, plates, request, &Cancel::new()).unwrap()
}

/// The pixels of a request's whole window.
pub(crate) fn pixels(setup: &Setup, stage: StageId, scale: u32) -> Pixels {
    let answer = ask(setup, stage, scale, None);
    answer.signal.over(answer.window)
}

/// Detail of a few pixels that is nowhere the same.
pub(crate) fn detail([x, y]: [f64; 2]) -> f64 {
    let wave = |a: f64, b: f64, c: f64| (x * a + y * b + c).sin();
    0.5 + 0.12
        * (wave(0.31, 0.17, 0.0) + wave(-0.23, 0.41, 1.0) + wave(0.67, -0.53, 2.0) + wave(0.11, 0.07, 4.0))
}

/// The setup with a command done, and what takes it back.
pub(crate) fn done(setup: &Setup, command: &Command) -> (Setup, Edit) {
    Edit::of(command, setup).unwrap()
}

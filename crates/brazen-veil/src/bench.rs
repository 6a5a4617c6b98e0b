//! `bench`: each kernel and a whole setup at 1920x1080, on two threads.

use std::hint::black_box;
use std::io::Write;
use std::path::PathBuf;
use std::time::{Duration, Instant};

use clap::Args;
use rayon::prelude::*;
use serde_json::json;
use veil_core::engine::{Engine, Request};
use veil_core::feed::{Moment, PixelFormula};
use veil_core::plates::{PlateError, Plates, Role};
use veil_core::setup::{
    ColourSpace, Frames, Media, MediaId, PictureFormat, Setting, Setup, StageEntry, StageId,
};
use veil_core::signal::{Domain, Pixels, Scale, Signal};
use veil_media::{FilePlates, MediaError, OutputPattern, write_frame, write_whole};
use veil_pixels::blend::{Mode, blend_row};
use veil_pixels::colour::lut::Lut;
use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::filter::steepness::steepness;
use veil_pixels::key::screen_key::{
    Before, Despill, Edges, Method, Noise as ScreenNoise, Places, Screen, cleaned, figure, fitted, matte,
    unmixed,
};
use veil_pixels::light::glow::{FallOff, GlowGives, Spread, lay, source};
use veil_pixels::noise::{Fold, Noise};
use veil_pixels::program::Given;
use veil_pixels::sample::resample::Filter;
use veil_pixels::shape::arc::{Arc, Branches};
use veil_pixels::shape::strokes::Strokes;
use veil_pixels::track::{PointSettings, PointTracker, corners};
use veil_pixels::warp::displace::{Displacement, Moves};
use veil_pixels::warp::perspective::{Carried, Homography};
use veil_pixels::{Cancel, Cancelled, Edge, Field, Picture, Raster, Window};

use crate::Done;
use crate::bench_bent;
use crate::bench_chain::{chain, chains, planned};
use crate::bench_flow::motion;
use crate::bench_shots::shots;
use crate::bench_space;
use crate::bench_time;
use crate::error::ProgramError;
use crate::out::say;
use crate::timed::{HEIGHT, WIDTH, median};

#[derive(Args)]
pub(crate) struct BenchArguments {
    /// As JSON: a list of name, ms, width, height and megapixels a second.
    #[arg(long)]
    json: bool,
    /// How often each is measured; the median counts.
    #[arg(long, default_value_t = 9)]
    times: usize,
    /// Writes the haze as a setup file beside `plate.exr`, instead of measuring.
    #[arg(long)]
    haze_setup: Option<PathBuf>,
    /// Measures the demo's shots instead; their plates are drawn below this folder where they are missing.
    #[arg(long)]
    shots: Option<PathBuf>,
    /// Finds the motion from `from` to `to` in this folder instead, raw floats of the bench's size, and writes `moves`.
    #[arg(long)]
    flow: Option<PathBuf>,
    /// Only what has this in its name; of a shot also what each of its rows takes.
    #[arg(long, default_value = "")]
    only: String,
}

const THREADS: usize = 2;
/// Frames after which the engine's memory is full, as it is for most of a day's work.
const WARM_UP: usize = 12;

pub(crate) fn bench(arguments: &BenchArguments) -> Done {
    if let Some(file) = &arguments.haze_setup {
        let text = serde_json::to_string_pretty(&haze_setup())
            .map_err(|error| ProgramError::Bad(error.to_string()))?;
        let io = |source| MediaError::Io { path: file.clone(), source };
        return Ok(write_whole(file, |out| out.write_all(text.as_bytes()).map_err(io))?);
    }
    let pool = rayon::ThreadPoolBuilder::new().num_threads(THREADS).build();
    let pool = pool.map_err(|error| ProgramError::Bad(error.to_string()))?;
    if let Some(folder) = &arguments.shots {
        return pool.install(|| shots(folder, &arguments.only));
    }
    if let Some(folder) = &arguments.flow {
        return pool.install(|| motion(folder, arguments.times.max(1)));
    }
    let measured = pool.install(|| measure_all(arguments.times.max(1), &arguments.only));
    if arguments.json {
        let listed: Vec<_> = measured
            .iter()
            .map(|(name, ms)| {
                let megapixels = f64::from(WIDTH * HEIGHT) / 1e3 / ms;
                json!({ "name": name, "ms": ms, "width": WIDTH, "height": HEIGHT, "megapixels_a_second": megapixels })
            })
            .collect();
        say!("{:#}", json!(listed));
    } else {
        for (name, ms) in measured {
            say!("{name:<24}{ms:>10.2} ms");
        }
    }
    Ok(())
}

pub(crate) fn picture() -> Picture {
    Raster::from_fn(Window::sized(WIDTH, HEIGHT), |x, y| {
        let (u, v) = (x as f32 / 97.0, y as f32 / 61.0);
        [0.5 + 0.4 * u.sin() * v.cos(), 0.5 + 0.4 * (u * 1.7).cos(), 0.5 + 0.3 * (v * 2.3).sin(), 1.0]
    })
}

/// A bolt across the frame, of about two thousand pieces with its branches.
fn arc() -> Arc {
    Arc {
        through: vec![[200.0, 420.0], [1720.0, 640.0]],
        roughness: 0.16,
        detail: 3.0,
        seed: 1,
        depth: 0.4,
        width: 3.0,
        taper: 0.5,
        softness: 0.0,
        light: 4.0,
        branches: Branches { count: 8, reach: 0.5, spread: 0.5, decay: 0.55, generations: 2 },
    }
}

/// Points that are followed to and fro between two frames.
struct Points {
    frames: [Field; 2],
    trackers: Vec<PointTracker>,
    steps: usize,
}

impl Points {
    fn new(noise: &Noise, first: &Field, window: Window, cancel: &Cancel) -> Self {
        let moved = Noise { offset: [noise.offset[0] + 6.3, noise.offset[1] - 4.7], ..*noise };
        let next = moved.over(window, 1.0, cancel).unwrap_or_else(|_| Raster::clear(window));
        let at = corners(first, 100, 30.0, |_, _| true, cancel).unwrap_or_default();
        // A pattern of 31 pixels each, looked for over 61.
        let settings = PointSettings::default();
        let tracker = |at: &[f64; 2]| PointTracker::new(first, *at, settings);
        Self { trackers: at.iter().filter_map(tracker).collect(), frames: [next, first.clone()], steps: 0 }
    }

    fn follow(&mut self) {
        let frame = &self.frames[self.steps % 2];
        self.steps += 1;
        self.trackers.par_iter_mut().for_each(|tracker| {
            black_box(tracker.step(frame));
        });
    }
}

/// As places of a picture are carried. The last shows much of it smaller, which is read as softly as it needs.
const PERSPECTIVES: [(&str, [[f64; 3]; 3]); 4] = [
    ("perspective_gentle", [[1.02, 0.05, -40.0], [-0.03, 0.98, 30.0], [2e-5, -1e-5, 1.0]]),
    ("perspective_strong", [[2.4, 0.5, -500.0], [0.3, 2.5, -450.0], [3.5e-4, 2.0e-4, 1.0]]),
    ("perspective_turned", [[0.866, 0.5, -141.0], [-0.5, 0.866, 552.0], [0.0, 0.0, 1.0]]),
    ("perspective_smaller", [[1.1, 0.25, -160.0], [0.08, 1.05, -60.0], [2.2e-4, 1.4e-4, 1.0]]),
];

fn measure_all(times: usize, only: &str) -> Vec<(String, f64)> {
    let window = Window::sized(WIDTH, HEIGHT);
    let picture = picture();
    let cancel = Cancel::new();
    let mut measured: Vec<(String, f64)> = Vec::new();
    let mut note = |name: &str, work: &mut dyn FnMut()| {
        if name.contains(only) {
            measured.push((name.to_owned(), median(times, work)));
        }
    };
    for sigma in [2.0, 10.0, 30.0, 100.0] {
        note(&format!("gaussian_{sigma}"), &mut || {
            black_box(gaussian(&picture, window, Edge::Hold, Sigma::round(sigma), window, &cancel).is_ok());
        });
    }
    let spread = Spread { size: 100.0, fall_off: FallOff::Gaussian, octaves: 1, gain: 1.0 };
    note("glow_100", &mut || {
        let shining = source(&picture, None, 0.5, [0.2126, 0.7152, 0.0722], &cancel);
        let glow = shining.and_then(|shining| spread.apply(&shining, window, window, &cancel));
        let laid = glow.and_then(|glow| lay(&picture, &glow, [1.0; 3], GlowGives::Added, &cancel));
        black_box(laid.is_ok());
    });
    note("arc_2000_segments", &mut || {
        let strokes = Strokes::new(&arc().strokes(1.0), 0.0);
        black_box((strokes.count(), strokes.over(window, &cancel).is_ok()));
    });
    let noise = Noise {
        basis: veil_pixels::noise::Basis::Gradient,
        seed: 1,
        size: [60.0, 60.0],
        offset: [0.0; 2],
        angle: 0.0,
        depth: Some(0.37),
        period: None,
        octaves: 6,
        lacunarity: 2.0,
        gain: 0.5,
        fold: Fold::Plain,
    };
    note("noise_6_octaves_3d", &mut || {
        black_box(noise.over(window, 1.0, &cancel).is_ok());
    });
    let turned = Noise { angle: 0.3, ..noise };
    note("noise_6_octaves_turned", &mut || {
        black_box(turned.over(window, 1.0, &cancel).is_ok());
    });
    let field = noise.over(window, 1.0, &cancel).unwrap_or_else(|_| Raster::clear(window));
    note("steepness", &mut || {
        black_box(steepness(&field, window, 1.0, 1.0, window, &cancel).is_ok());
    });
    let mut points = Points::new(&noise, &field, window, &cancel);
    note("track_100_points", &mut || points.follow());
    let moves = Moves::new(Raster::from_fn(window, |x, y| {
        [3.0 * (y as f32 * 0.05).sin(), 3.0 * (x as f32 * 0.03).cos()]
    }));
    for (name, filter) in [("remap_bilinear", Filter::Linear), ("remap_bicubic", Filter::Cubic)] {
        let how = Displacement { softness: 0.0, filter, edge: Edge::Mirror };
        note(name, &mut || {
            black_box(how.apply(&picture, window, &moves, &cancel).is_ok());
        });
    }
    for (name, forth) in PERSPECTIVES {
        let back = Homography::from_rows(forth).inverse().unwrap_or(Homography::IDENTITY);
        let carried = Carried { back, filter: Filter::Linear, edge: Edge::Clear };
        note(name, &mut || {
            black_box(carried.apply(&picture, window, window, &cancel).is_ok());
        });
    }
    // A moment and a formula that stand for any: ten operations, one of them a sine.
    let ten = "0.5 + 0.5 * sin(length(px - wide / 2, py - high / 2) / 12)";
    if let Ok(formula) = PixelFormula::parse(ten) {
        let program = formula.program(Moment { now: 1.0, since: 0.0, secs: 0.0 });
        let columns: Vec<f32> = (0..window.x1).map(|x| x as f32 + 0.5).collect();
        note("formula_10_ops", &mut || {
            let made = Raster::<f32>::written(window, &cancel, |y, row| {
                let place = Given::Floats { floats: &columns, first: 0, step: 1 };
                let size = [window.width() as f32, window.height() as f32].map(Given::Same);
                black_box(program.run(&[place, Given::Same(y as f32 + 0.5), size[0], size[1]], row));
            });
            black_box(made.is_ok());
        });
    }
    let layer = Picture::from_fn(window, |x, y| [x as f32 * 2e-4, y as f32 * 3e-4, 0.2, 0.6]);
    note("over", &mut || {
        let over = Raster::written(window, &cancel, |y, row| {
            blend_row(Mode::Over, picture.row(y), layer.row(y), 0.5, None, row);
        });
        black_box(over.is_ok());
    });
    for (name, scale) in [("haze_full", Scale::FULL), ("haze_half", Scale::one_to(2).unwrap_or(Scale::FULL))]
    {
        if !name.contains(only) {
            continue;
        }
        let mut render = haze(scale);
        for _ in 0..WARM_UP {
            render();
        }
        note(name, &mut render);
    }
    for (name, rows) in chains().into_iter().filter(|(name, _)| name.contains(only)) {
        let mut work = chain(&rows);
        for _ in 0..WARM_UP {
            work();
        }
        measured.push((name, median(times, &mut work)));
    }
    if "plan_200_rows".contains(only) {
        measured.push(("plan_200_rows".into(), median(times, &mut planned(200))));
    }
    measured.extend(measure_key(times, only));
    measured.extend(bench_bent::measure(times, &picture, only));
    measured.extend(bench_time::measure(times, &picture, only));
    measured.extend(bench_space::measure(times, &picture, only));
    measured.extend(measure_files(times, &picture, only));
    if "stop_worst".contains(only) {
        measured.push(("stop_worst".into(), worst_stop()));
    }
    measured
}

/// How often work is called off, each time a little later in it.
const STOPS: u64 = 40;

/// The longest time, in milliseconds, that a frame of the haze or a wide blur went on after it was called off.
fn worst_stop() -> f64 {
    let mut worst = 0.0f64;
    let (picture, mut frame) = (picture(), haze_at(Scale::FULL));
    let window = picture.window();
    for stop in 0..STOPS {
        let cancel = Cancel::new();
        let late = std::thread::scope(|scope| {
            let caller = scope.spawn(|| {
                std::thread::sleep(Duration::from_millis(2 + 3 * stop));
                cancel.set();
                Instant::now()
            });
            if stop % 2 == 0 {
                frame(&cancel);
            } else {
                black_box(
                    gaussian(&picture, window, Edge::Hold, Sigma::round(100.0), window, &cancel).is_ok(),
                );
            }
            let done = Instant::now();
            caller.join().map_or(0.0, |called| done.saturating_duration_since(called).as_secs_f64() * 1e3)
        });
        worst = worst.max(late);
    }
    worst
}

/// A figure before an uneven screen, at the size that it is often keyed at while working, and all of its key.
fn measure_key(times: usize, only: &str) -> Option<(String, f64)> {
    let name = "screen_key_960x540";
    if !name.contains(only) {
        return None;
    }
    let cancel = Cancel::new();
    let plate: Picture = Raster::from_fn(Window::sized(960, 540), |x, y| {
        let far = (x as f32 - 480.0).hypot(y as f32 - 290.0);
        let covers = ((210.0 + 30.0 * (y as f32 / 17.0).sin() - far) / 4.0).clamp(0.0, 1.0);
        let light = 1.0 - x as f32 / 3000.0;
        let noise = ((x * 7919 + y * 104_729) % 1000) as f32 * 1e-5;
        let own = if (x / 40 + y / 40) % 2 == 0 { [0.42, 0.3, 0.22] } else { [0.05, 0.06, 0.09] };
        let at = |own: f32, screen: f32| own * covers + screen * light * (1.0 - covers) + noise;
        [at(own[0], 0.06), at(own[1], 0.42), at(own[2], 0.09), 1.0]
    });
    let key = || -> Result<Picture, Cancelled> {
        let behind = fitted(&plate, [0.06, 0.42, 0.09], Screen::Green, &cancel)?;
        let before = Before { picture: &plate, behind: &behind, screen: Screen::Green };
        let alone = matte(before, Method::Difference, &cancel)?;
        let noise = ScreenNoise::of(before, &alone);
        let places = Places::of(&alone, noise, 0.08, 8.0, &cancel)?;
        let edges = Edges { refine: 1.0, solid: 0.5 };
        let found = unmixed(before, &alone, &places, noise, edges, &cancel)?;
        let matte = cleaned(&found, &places, noise, 0.08, 8.0, &cancel)?;
        let despill = Despill { amount: 1.0, back: 0.5, tight: 1.0, width: 8.0 };
        figure(before, &matte, &places, despill, None, |_, _| [1.0; 3], &cancel)
    };
    let taken = median(times, &mut || {
        black_box(key().is_ok());
    });
    Some((name.to_owned(), taken))
}

/// A picture written as half-float OpenEXR with ZIP, and read again. Nothing where no file can be written.
fn measure_files(times: usize, picture: &Picture, only: &str) -> Vec<(String, f64)> {
    let (write, read) = ("exr_half_zip_write", "exr_half_zip_read");
    let Ok(folder) = tempfile::tempdir() else { return Vec::new() };
    let Ok(pattern) = folder.path().join("x.####.exr").to_string_lossy().parse::<OutputPattern>() else {
        return Vec::new();
    };
    let window = picture.window();
    let domain = Domain { display: window, data: window };
    let signal = Signal { domain, pixels: Pixels::Picture(picture.clone()) };
    let shot = PictureFormat::plain(WIDTH, HEIGHT, Frames { first: 1, last: 1 });
    let mut measured = Vec::new();
    let mut note = |name: &str, work: &mut dyn FnMut()| {
        // Reading needs what writing leaves.
        if name.contains(only) || read.contains(only) {
            measured.push((name.to_owned(), median(times, work)));
        }
    };
    note(write, &mut || {
        black_box(write_frame(&pattern, 1, &signal, &shot, &[]).is_ok());
    });
    let media = Media { frames: Some(Frames { first: 1, last: 1 }), ..plate("x.####.exr") };
    note(read, &mut || {
        let plates = FilePlates::new(folder.path());
        black_box(plates.pass(&media, 1, Role::Beauty, &Cancel::new()).is_ok());
    });
    measured
}

/// One picture in memory, for every frame.
pub(crate) struct OnePicture(pub(crate) Picture);

impl Plates for OnePicture {
    fn fingerprint(&self, _: &Media, _: i32, _: &Cancel) -> Result<u64, PlateError> {
        Ok(1)
    }
    fn domain(&self, _: &Media, _: i32, _: &Cancel) -> Result<Domain, PlateError> {
        Ok(Domain { display: self.0.window(), data: self.0.window() })
    }
    fn pass(&self, _: &Media, _: i32, _: Role, _: &Cancel) -> Result<Pixels, PlateError> {
        Ok(Pixels::Picture(self.0.clone()))
    }
    fn lut(&self, media: &Media) -> Result<std::sync::Arc<Lut>, PlateError> {
        Err(PlateError::File(format!("`{}` is no table", media.name)))
    }

    fn words(&self, _: &Media, _: i32) -> Result<Vec<(String, String)>, PlateError> {
        Ok(Vec::new())
    }

    fn roles(&self, _: &Media, _: i32) -> Result<Vec<Role>, PlateError> {
        Ok(Vec::new())
    }
}

fn plate(path: &str) -> Media {
    Media {
        id: MediaId(1),
        name: "plate".into(),
        path: path.into(),
        frames: None,
        colour: ColourSpace::Linear,
        content: None,
    }
}

/// A setup of the measured size with a plate, row 2, and its last.
pub(crate) fn plate_setup(name: &str) -> Setup {
    let picture = PictureFormat {
        width: WIDTH,
        height: HEIGHT,
        fps: 24.0,
        aspect: 1.0,
        frames: Frames { first: 1, last: 100_000 },
        working: Default::default(),
    };
    let mut setup = Setup::empty(name, picture);
    setup.media.push(plate("plate.exr"));
    let row =
        StageEntry::new(StageId(2), "plate", "Plate").with("media", Setting::Media { media: MediaId(1) });
    setup.stages.insert(0, row);
    setup
}

/// The haze: noise of three octaves, its steepness, its strength, an ellipse as matte, and the displacement
/// with softness. The same as `bench/haze.py`.
fn haze_setup() -> Setup {
    let mut setup = plate_setup("haze");
    let pair = |x: f64, y: f64| Setting::numbers(&[x, y]);
    let id = StageId;
    let rows = vec![
        StageEntry::new(id(3), "noise", "Noise")
            .with("size", pair(60.0, 60.0))
            .with("octaves", Setting::number(3.0))
            .with("churn", Setting::number(0.05)),
        StageEntry::new(id(4), "steepness_map", "Steepness map").taking("main", id(3)),
        StageEntry::new(id(5), "strength", "Strength")
            .taking("main", id(4))
            .with("x", Setting::number(150.0))
            .with("y", Setting::number(150.0)),
        StageEntry::new(id(6), "ellipse", "Ellipse")
            .with("centre", pair(960.0, 480.0))
            .with("radii", pair(420.0, 380.0))
            .with("softness", Setting::number(240.0)),
        StageEntry::new(id(7), "displace", "Displace")
            .taking("main", id(2))
            .taking("map", id(5))
            .taking("matte", id(6))
            .with("softness", Setting::number(0.5)),
    ];
    setup.stages.splice(1..1, rows);
    let last = setup.stages.len() - 1;
    setup.stages[last] = setup.stages[last].clone().taking("main", id(7));
    setup
}

/// Uncached but for the plate itself: every run is another frame, so the noise and all below it are new.
fn haze(scale: Scale) -> impl FnMut() {
    let mut render = haze_at(scale);
    move || render(&Cancel::new())
}

/// The next frame of the haze with each call, until it is called off.
fn haze_at(scale: Scale) -> impl FnMut(&Cancel) {
    let setup = haze_setup();
    let engine = Engine::new(512 << 20);
    let plates = OnePicture(picture());
    let mut frame = 0;
    move |cancel| {
        frame += 1;
        let request = Request { scale, ..Request::whole(StageId(1), f64::from(frame)) };
        black_box(engine.answer(&setup, &plates, request, cancel).is_ok());
    }
}

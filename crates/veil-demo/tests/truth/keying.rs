//! The figure before the green sheet, keyed, against what is known of it.

use std::sync::Arc;

use veil_core::engine::{Engine, Request};
use veil_core::plates::{PlateError, Plates, Role};
use veil_core::setup::{
    ColourSpace, Frames, Media, MediaId, PictureFormat, Setting, Setup, StageEntry, StageId,
};
use veil_core::signal::{Domain, Pixels};
use veil_demo::{Shot, drawn_part};
use veil_pixels::colour::lut::Lut;
use veil_pixels::filter::distance::{Side, distance};
use veil_pixels::{Cancel, Picture, Window};

/// One drawn frame as a plate.
struct Drawn(Picture);

impl Plates for Drawn {
    fn fingerprint(&self, _: &Media, frame: i32, _: &Cancel) -> Result<u64, PlateError> {
        Ok(frame as u64)
    }

    fn domain(&self, _: &Media, _: i32, _: &Cancel) -> Result<Domain, PlateError> {
        Ok(Domain { display: self.0.window(), data: self.0.window() })
    }

    fn pass(&self, _: &Media, _: i32, _: Role, _: &Cancel) -> Result<Pixels, PlateError> {
        Ok(Pixels::Picture(self.0.clone()))
    }

    fn lut(&self, media: &Media) -> Result<Arc<Lut>, PlateError> {
        Err(none(media))
    }

    fn words(&self, _: &Media, _: i32) -> Result<Vec<(String, String)>, PlateError> {
        Ok(Vec::new())
    }

    fn roles(&self, _: &Media, _: i32) -> Result<Vec<Role>, PlateError> {
        Ok(Vec::new())
    }
}

fn none(media: &Media) -> PlateError {
    PlateError::File(format!("`{}` was drawn without", media.name))
}

/// Part of the sheet that the figure never comes to, from which its colour is taken as a person would.
const SHEET: Window = Window { x0: 120, y0: 150, x1: 260, y1: 300 };

/// The figure alone, with what the screen's folds leave cleaned up as far as is said, or as far as it is by itself.
fn keyed(plate: &Picture, clean: Option<f64>) -> Picture {
    let sheet = (SHEET.y0..SHEET.y1).flat_map(|y| (SHEET.x0..SHEET.x1).map(move |x| (x, y)));
    let mean = |channel: usize| {
        let values = sheet.clone().map(|(x, y)| f64::from(plate.get(x, y).unwrap()[channel]));
        values.sum::<f64>() / SHEET.area() as f64
    };
    let mut said = vec![("colour", Setting::numbers(&[mean(0), mean(1), mean(2)]))];
    said.extend(clean.map(|clean| ("clean", Setting::number(clean))));
    match through_key(plate, &said) {
        Pixels::Picture(picture) => picture,
        other => panic!("{other:?}"),
    }
}

/// What the key gives of a plate, with some controls as said.
pub(super) fn through_key(plate: &Picture, said: &[(&str, Setting)]) -> Pixels {
    through_key_before(plate, [0.0; 3], said)
}

/// As [`through_key`], where an even colour will be behind the figure.
pub(super) fn through_key_before(plate: &Picture, background: [f64; 3], said: &[(&str, Setting)]) -> Pixels {
    let frame = 1;
    let picture = PictureFormat {
        width: plate.window().width() as u32,
        height: plate.window().height() as u32,
        fps: 24.0,
        aspect: 1.0,
        frames: Frames { first: frame, last: frame },
        working: Default::default(),
    };
    let mut setup = Setup::empty("key", picture);
    setup.media.push(Media {
        id: MediaId(1),
        name: "plate".into(),
        path: "plate.exr".into(),
        frames: Some(picture.frames),
        colour: ColourSpace::Linear,
        content: None,
    });
    let (plate_row, key, behind) = (StageId(2), StageId(3), StageId(4));
    let mut row = StageEntry::new(key, "screen_key", "Screen key")
        .taking("main", plate_row)
        .taking("background", behind);
    let even = StageEntry::new(behind, "grade", "Behind")
        .taking("main", plate_row)
        .with("gain", Setting::numbers(&[0.0; 3]))
        .with("offset", Setting::numbers(&background));
    for (control, setting) in said {
        row.controls.insert((*control).into(), setting.clone());
    }
    let media = Setting::Media { media: MediaId(1) };
    let first = StageEntry::new(plate_row, "plate", "Plate").with("media", media);
    setup.stages.splice(0..0, [first, even, row]);
    let request = Request::whole(key, f64::from(frame));
    let answer = Engine::new(1 << 30).answer(&setup, &Drawn(plate.clone()), request, &Cancel::new()).unwrap();
    answer.signal.over(plate.window())
}

fn mean(values: impl Iterator<Item = f32>) -> f64 {
    let (sum, count) = values.fold((0.0, 0.0), |(sum, count), value| (sum + f64::from(value), count + 1.0));
    sum / count
}

/// At rest, and while the arm is thrown up.
#[test]
fn a_figure_is_keyed_to_a_hundredth_of_its_alpha_and_to_two_hundredths_of_its_colour() {
    let plan = Shot::LookOut.plan();
    for frame in [plan.frames.first + 3, plan.frames.first + 15] {
        let drawn = drawn_part(Shot::LookOut, frame, Window::sized(plan.width, plan.height));
        let keyed = keyed(&drawn.plate, None);
        let pairs = || keyed.pixels().iter().zip(drawn.figure.pixels());
        let count = keyed.pixels().len() as f64;
        let alpha = pairs().map(|(found, known)| f64::from((found[3] - known[3]).abs())).sum::<f64>() / count;
        let seen: Vec<_> = pairs().filter(|(_, known)| known[3] > 0.1).collect();
        let off = |(found, known): &(&[f32; 4], &[f32; 4])| {
            (0..3).map(|channel| f64::from((found[channel] - known[channel]).abs())).fold(0.0, f64::max)
        };
        let colour = seen.iter().map(off).sum::<f64>() / seen.len() as f64;
        let far = seen.iter().filter(|pair| off(pair) > 0.02).count() as f64 / seen.len() as f64;
        println!("{frame}: alpha {alpha:.4}, colour {colour:.4}, far {far:.4}");
        assert!(alpha <= 0.01, "{frame}: alpha is off by {alpha:.4} in the mean");
        assert!(colour <= 0.02, "{frame}: colour is off by {colour:.4} in the mean");
        // Noise, and what is blurred by its motion, leaves a few.
        assert!(far <= 0.03, "{frame}: {:.1} % of the colours are off by more", far * 100.0);
    }
}

/// Folds of the sheet are seen through the picture behind the figure unless they are cleaned up, which must not cost hair.
#[test]
fn cleaning_up_leaves_nothing_of_the_folds_and_the_figure_as_it_is() {
    let plan = Shot::LookOut.plan();
    let frame = plan.frames.first;
    let drawn = drawn_part(Shot::LookOut, frame, Window::sized(plan.width, plan.height));
    let known = drawn.figure.map(&Cancel::new(), |pixel| pixel[3]).unwrap();
    let near = known.map(&Cancel::new(), |alpha| f32::from(u8::from(alpha > 0.0))).unwrap();
    let window = near.window();
    let away = distance(&near, window, Side::Matte, 12.0, window, &Cancel::new()).unwrap();
    // How much of the screen is left, and of hair and edges.
    let told = |clean: f64| {
        let keyed = keyed(&drawn.plate, Some(clean));
        let pairs = || keyed.pixels().iter().map(|pixel| pixel[3]).zip(known.pixels().iter().copied());
        let screen = || pairs().zip(away.pixels()).filter(|(_, away)| **away > 11.5).map(|(pair, _)| pair);
        let left = mean(screen().map(|(found, _)| f32::from(u8::from(found > 0.02))));
        let fine = || pairs().filter(|(_, known)| *known > 0.05 && *known < 0.6);
        (left, mean(fine().map(|(found, _)| found)))
    };
    let (plain, cleaned) = (told(0.0), told(0.2));
    println!("left of the screen and of hair and edges: {plain:?}, cleaned up {cleaned:?}");
    assert!(plain.0 > 0.1, "{plain:?}: there is nothing to clean up");
    assert!(cleaned.0 <= 1e-3, "{cleaned:?}");
    assert!(cleaned.1 >= 0.99 * plain.1, "{plain:?} {cleaned:?}");
}

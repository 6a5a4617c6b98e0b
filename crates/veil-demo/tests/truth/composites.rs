//! Figures cut from photographs before an uneven screen, keyed, against the coverage that they were laid on with.
//!
//! The pictures are made by `bench/key_composites.py` from photographs that come with scikit-image.

use std::fs::File;
use std::io::BufReader;
use std::path::{Path, PathBuf};

use veil_core::setup::Setting;
use veil_core::signal::Pixels;
use veil_pixels::colour::linear_from_srgb;
use veil_pixels::{Picture, Raster, Rgba, Window};

use super::keying::{through_key, through_key_before};

pub(super) const TEXTURES: [&str; 8] = [
    "chelsea",
    "coffee",
    "rocket",
    "hubble_deep_field",
    "immunohistochemistry",
    "retina",
    "stereo_motorcycle",
    "gravel",
];
const KINDS: [&str; 3] = ["clean", "spill", "moving"];

/// A picture of 8 or 16 bits as its codes, 0–1; whole in alpha where it has none.
pub(super) fn codes(path: &Path) -> Picture {
    let mut reader = png::Decoder::new(BufReader::new(File::open(path).unwrap())).read_info().unwrap();
    let mut bytes = vec![0; reader.output_buffer_size().unwrap()];
    let frame = reader.next_frame(&mut bytes).unwrap();
    let wide = if frame.bit_depth == png::BitDepth::Sixteen { 2 } else { 1 };
    let channels = frame.color_type.samples();
    let sample = |index: usize| match &bytes[index * wide..][..wide] {
        [byte] => f32::from(*byte) / 255.0,
        bytes => f32::from(u16::from_be_bytes([bytes[0], bytes[1]])) / 65_535.0,
    };
    let width = frame.width as usize;
    Raster::from_fn(Window::sized(frame.width, frame.height), |x, y| {
        let first = (y as usize * width + x as usize) * channels;
        std::array::from_fn(|at| if at < channels { sample(first + at) } else { 1.0 })
    })
}

fn light(codes: Rgba) -> Rgba {
    let [r, g, b, _] = codes.map(linear_from_srgb);
    [r, g, b, 1.0]
}

/// The colour difference with the screen's true colour, by its definition (US patent 4,100,569).
fn plain([r, g, b, _]: Rgba, [behind_r, behind_g, behind_b, _]: Rgba, green: bool) -> f32 {
    let excess = |r: f32, g: f32, b: f32| if green { g - r.max(b) } else { b - r.max(g) };
    (1.0 - excess(r, g, b) / excess(behind_r, behind_g, behind_b)).clamp(0.0, 1.0)
}

/// Mean errors of the coverage, of the colour difference and of the key, and the key's where the figure is whole.
struct Errors {
    plain: f64,
    key: f64,
    inside: f64,
}

fn errors(folder: &Path, name: &str, green: bool) -> Errors {
    let (seen, behind) = (codes(&folder.join(format!("{name}.png"))), codes(&folder.join("screen.png")));
    let window = seen.window();
    let plate = Raster::from_fn(window, |x, y| light(seen.get(x, y).unwrap()));
    let middle = light(behind.get(20, 20).unwrap());
    let said = [
        ("gives", Setting::Choice("matte".into())),
        ("screen", Setting::Choice(if green { "green" } else { "blue" }.into())),
        ("colour", Setting::numbers(&[0, 1, 2].map(|channel| f64::from(middle[channel])))),
    ];
    let Pixels::Field(matte) = through_key(&plate, &said) else { panic!("{name}: no matte") };
    let mut errors = Errors { plain: 0.0, key: 0.0, inside: 0.0 };
    let mut whole = 0.0;
    for (at, pixel) in seen.pixels().iter().enumerate() {
        let (known, found) = (pixel[3], matte.pixels()[at]);
        let by_difference = plain(plate.pixels()[at], light(behind.pixels()[at]), green);
        errors.plain += f64::from((by_difference - known).abs());
        errors.key += f64::from((found - known).abs());
        if known >= 0.999 {
            errors.inside += f64::from((found - known).abs());
            whole += 1.0;
        }
    }
    let all = seen.pixels().len() as f64;
    Errors { plain: errors.plain / all, key: errors.key / all, inside: errors.inside / whole }
}

#[test]
fn photographs_are_keyed_far_better_than_by_colour_difference_with_the_true_screen() {
    let folder = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/truth/composites");
    for screen in ["green", "blue"] {
        let mut ratios = Vec::new();
        for texture in TEXTURES {
            for kind in KINDS {
                let errors = errors(&folder.join(screen), &format!("{texture}_{kind}"), screen == "green");
                let Errors { plain, key, inside } = errors;
                println!(
                    "| {screen} {texture} {kind} | {plain:.4} | {key:.4} | {:.2} | {inside:.4} |",
                    key / plain
                );
                assert!(key <= 1.05 * plain, "{screen} {texture} {kind}: {key} of {plain}");
                assert!(inside <= 0.002, "{screen} {texture} {kind}: {inside} inside");
                ratios.push(key / plain);
            }
        }
        let mean = ratios.iter().sum::<f64>() / ratios.len() as f64;
        println!("| {screen}, mean | | | {mean:.2} | |");
        assert!(mean <= 0.7, "{screen}: {mean}");
    }
}

/// Colours along edges: how far their light and their colour are off, and how much of the colour is left, where 1 is all
/// and less is grey.
#[derive(Default)]
struct Rim {
    light: f64,
    off: f64,
    kept: f64,
    known: f64,
}

fn grey(pixel: Rgba) -> f32 {
    (pixel[0] + pixel[1] + pixel[2]) / 3.0
}

fn less_grey(pixel: Rgba) -> [f32; 3] {
    [0, 1, 2].map(|at| pixel[at] - grey(pixel))
}

impl Rim {
    fn add(&mut self, found: Rgba, known: Rgba) {
        self.light += f64::from((grey(found) - grey(known)).abs());
        let (found, known) = (less_grey(found), less_grey(known));
        for (found, known) in found.into_iter().zip(known).map(|(a, b)| (f64::from(a), f64::from(b))) {
            self.off += (found - known).abs();
            self.kept += found * known;
            self.known += known * known;
        }
    }

    fn share_kept(&self) -> f64 {
        self.kept / self.known
    }
}

/// What lies over a background of an even colour.
fn laid_over(pixel: Rgba, background: [f32; 3]) -> Rgba {
    let [r, g, b] = [0, 1, 2].map(|at| pixel[at] + (1.0 - pixel[3]) * background[at]);
    [r, g, b, 1.0]
}

/// The rims of one figure by the colour difference with the true screen, its excess taken off, and by the key.
fn rims(folder: &Path, name: &str, figure: &str, green: bool, as_background: bool) -> [Rim; 2] {
    let screen = folder.join(if green { "green" } else { "blue" });
    let (seen, behind) = (codes(&screen.join(format!("{name}.png"))), codes(&screen.join("screen.png")));
    let own = codes(&folder.join("figures").join(format!("{figure}.png")));
    let window = seen.window();
    let plate = Raster::from_fn(window, |x, y| light(seen.get(x, y).unwrap()));
    let middle = light(behind.get(20, 20).unwrap());
    let background = [0.5, 0.35, 0.25];
    let mut said = vec![
        ("screen", Setting::Choice(if green { "green" } else { "blue" }.into())),
        ("colour", Setting::numbers(&[0, 1, 2].map(|channel| f64::from(middle[channel])))),
    ];
    if as_background {
        said.push(("toward", Setting::Choice("background".into())));
    }
    let Pixels::Picture(keyed) = through_key_before(&plate, background, &said) else { panic!("no picture") };
    let (own_channel, other) = if green { (1, 2) } else { (2, 1) };
    let difference = |at: usize| {
        let (pixel, behind) = (plate.pixels()[at], light(behind.pixels()[at]));
        let alpha = plain(pixel, behind, green);
        let mut figure: Rgba = std::array::from_fn(|at| (pixel[at] - (1.0 - alpha) * behind[at]).max(0.0));
        figure[own_channel] = figure[own_channel].min(figure[0].max(figure[other]));
        figure[3] = alpha;
        figure
    };
    let mut rims = [Rim::default(), Rim::default()];
    let behind = background.map(|value| value as f32);
    for (at, pixel) in seen.pixels().iter().enumerate().filter(|(_, pixel)| (0.02..0.98).contains(&pixel[3]))
    {
        let [r, mut g, mut b, _] = light(own.pixels()[at]);
        if !green {
            (g, b) = (b, g);
        }
        let known = laid_over([r * pixel[3], g * pixel[3], b * pixel[3], pixel[3]], behind);
        for (rim, found) in rims.iter_mut().zip([difference(at), keyed.pixels()[at]]) {
            rim.add(laid_over(found, behind), known);
        }
    }
    rims
}

/// Over a warm background, a grey or a tinted rim would be seen at once (common practice).
#[test]
fn edges_of_photographs_keep_their_colour_when_the_screens_light_is_taken_off() {
    let folder = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/truth/composites");
    for (green, as_background) in [(true, false), (false, false), (true, true), (false, true)] {
        for kind in KINDS {
            let (mut off, mut light, mut kept) = ([0.0; 2], [0.0; 2], 0.0);
            for texture in TEXTURES {
                let figure = format!("{texture}_{}", if kind == "spill" { "clean" } else { kind });
                let found = rims(&folder, &format!("{texture}_{kind}"), &figure, green, as_background);
                for (at, rim) in found.iter().enumerate() {
                    off[at] += rim.off;
                    light[at] += rim.light;
                }
                kept += found[1].share_kept() / TEXTURES.len() as f64;
            }
            let [ratio, light] = [off, light].map(|[by_difference, by_key]| by_key / by_difference);
            let (screen, toward) =
                (["blue", "green"][usize::from(green)], ["grey", "background"][usize::from(as_background)]);
            println!("| {screen}, {kind}, {toward} | {ratio:.2} | {light:.2} | {kept:.3} |");
            assert!(ratio <= 0.8, "{screen}, {kind}, {toward}: {ratio:.2} of the colour difference's error");
            assert!(light <= 1.0, "{screen}, {kind}, {toward}: {light:.2} of its error of light");
            assert!((0.9..1.1).contains(&kept), "{screen}, {kind}, {toward}: {kept:.3} of the colour");
        }
    }
}

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

use super::keying::through_key;

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

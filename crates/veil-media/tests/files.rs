//! Files of other programs read, ours read back, and broken ones refused.

use std::path::{Path, PathBuf};

use proptest::prelude::*;
use veil_core::plates::{Plates, Role};
use veil_core::setup::{ColourSpace, Media, MediaId};
use veil_core::signal::{Domain, Pixels, Signal};
use veil_media::{FilePlates, OutputPattern, inspect, write_frame};
use veil_pixels::{Cancel, Picture, Raster, Window};

fn fixtures() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures")
}

fn still(path: &str) -> Media {
    Media {
        id: MediaId(1),
        name: path.into(),
        path: path.into(),
        frames: None,
        colour: ColourSpace::Linear,
        content: None,
    }
}

fn beauty(folder: &Path, path: &str) -> Result<Picture, String> {
    match FilePlates::new(folder).pass(&still(path), 0, Role::Beauty, &Cancel::new()) {
        Ok(Pixels::Picture(picture)) => Ok(picture),
        Ok(other) => panic!("a beauty pass is a picture, not a {:?}", other.kind()),
        Err(error) => Err(error.to_string()),
    }
}

/// Written by OpenEXR's own library, see `fixtures/make.py`; half and float hold the rule's values exactly.
#[test]
fn files_of_the_reference_library_are_read_exactly_in_every_compression_and_window() {
    for (name, origin) in [
        ("zip_half.exr", (0, 0)),
        ("zips_float.exr", (0, 0)),
        ("piz_half.exr", (0, 0)),
        ("rle_half.exr", (0, 0)),
        ("none_float.exr", (0, 0)),
        ("negative_origin.exr", (-5, -3)),
        ("tiled.exr", (0, 0)),
    ] {
        let picture = beauty(&fixtures(), name).unwrap();
        let (x0, y0) = origin;
        assert_eq!(picture.window(), Window::new(x0, y0, x0 + 37, y0 + 21), "{name}");
        let display = FilePlates::new(fixtures()).domain(&still(name), 0).unwrap().display;
        assert_eq!(display, Window::sized(40, 24), "{name}");
        for y in y0..y0 + 21 {
            for x in x0..x0 + 37 {
                let expected = [0, 1, 2, 3].map(|c| (x * 7 + y * 13 + c * 5).rem_euclid(64) as f32 / 16.0);
                assert_eq!(picture.get(x, y), Some(expected), "{name} at {x}, {y}");
            }
        }
    }
}

/// Written by OpenCV, see `fixtures/make.py`.
#[test]
fn pngs_of_eight_and_sixteen_bits_are_read_to_the_last_bit() {
    for (name, most) in [("sixteen.png", 65535.0f32), ("eight.png", 255.0)] {
        let picture = beauty(&fixtures(), name).unwrap();
        for (x, y) in [(0, 0), (13, 8), (5, 3)] {
            let expected = [0, 1, 2].map(|c| {
                let value = (x * 4000 + y * 100 + c * 7) % 65536;
                (if most < 256.0 { value / 257 } else { value }) as f32 / most
            });
            assert_eq!(picture.get(x, y).unwrap()[..3], expected, "{name} at {x}, {y}");
        }
    }
}

fn signal(data: Window) -> Signal {
    let picture = Raster::from_fn(data, |x, y| [x as f32 * 0.25, -(y as f32), 1e-3, 0.5]);
    Signal { domain: Domain { display: Window::sized(16, 9), data }, pixels: Pixels::Picture(picture) }
}

#[test]
fn what_is_written_comes_back_with_its_windows_and_half_values() {
    let folder = tempfile::tempdir().unwrap();
    let output: OutputPattern = folder.path().join("deep/out.####.exr").to_string_lossy().parse().unwrap();
    for data in [Window::new(-2, 1, 7, 8), Window::sized(16, 9)] {
        let written = signal(data);
        write_frame(&output, 12, &written).unwrap();
        let plates = FilePlates::new(folder.path());
        assert_eq!(plates.domain(&still("deep/out.0012.exr"), 0).unwrap(), written.domain);
        let picture = beauty(folder.path(), "deep/out.0012.exr").unwrap();
        let Pixels::Picture(expected) = &written.pixels else { unreachable!("made as a picture") };
        for (got, expected) in picture.pixels().iter().zip(expected.pixels()) {
            let halves = expected.map(|value| half::f16::from_f32(value).to_f32());
            assert_eq!(*got, halves);
        }
    }
    let names: Vec<_> =
        std::fs::read_dir(folder.path().join("deep")).unwrap().map(|e| e.unwrap().file_name()).collect();
    assert_eq!(names, ["out.0012.exr"], "nothing half-written is left");
}

/// IEC 61966-2-1: linear 0.18 is 0.461356 in sRGB; sixteen bits hold it within a half step.
#[test]
fn a_png_is_written_in_srgb_and_reads_back_so() {
    let folder = tempfile::tempdir().unwrap();
    let output: OutputPattern = folder.path().join("x.####.png").to_string_lossy().parse().unwrap();
    let window = Window::sized(3, 2);
    let pixels = Pixels::Picture(Raster::flat(window, [0.18, 0.5, 2.0, 1.0]));
    write_frame(&output, 1, &Signal { domain: Domain { display: window, data: window }, pixels }).unwrap();
    let [r, g, b, a] = beauty(folder.path(), "x.0001.png").unwrap().get(1, 1).unwrap();
    assert!((r - 0.461_356).abs() < 1e-5 && (g - 0.735_357).abs() < 1e-5, "{r} {g}");
    assert_eq!((b, a), (1.0, 1.0));
}

#[test]
fn a_sequence_with_a_gap_or_a_changed_size_is_told() {
    let folder = tempfile::tempdir().unwrap();
    let output: OutputPattern = folder.path().join("y.####.exr").to_string_lossy().parse().unwrap();
    for frame in [1001, 1002, 1005] {
        write_frame(&output, frame, &signal(Window::sized(16, 9))).unwrap();
    }
    std::fs::copy(fixtures().join("zip_half.exr"), folder.path().join("y.1004.exr")).unwrap();
    let found = inspect(&folder.path().join("y.####.exr")).unwrap();
    assert_eq!((found.missing, found.other_size), (vec![1003], vec![1004]));
}

#[test]
fn a_truncated_file_or_one_that_is_no_picture_is_refused_by_name() {
    let folder = tempfile::tempdir().unwrap();
    for name in ["zip_half.exr", "tiled.exr", "sixteen.png"] {
        let bytes = std::fs::read(fixtures().join(name)).unwrap();
        std::fs::write(folder.path().join(name), &bytes[..bytes.len() * 2 / 3]).unwrap();
        let error = beauty(folder.path(), name).unwrap_err();
        assert!(error.contains(name), "{error}");
    }
    std::fs::write(folder.path().join("words.exr"), "not a picture at all").unwrap();
    assert!(beauty(folder.path(), "words.exr").unwrap_err().contains("words.exr"));
    assert!(beauty(folder.path(), "absent.exr").unwrap_err().contains("absent.exr"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    /// Hostile files: any bytes changed anywhere give an error or a picture, never a crash.
    #[test]
    fn a_mutated_file_gives_an_error_or_a_picture(
        which in 0usize..5, changes in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..12)
    ) {
        let name = ["zip_half.exr", "piz_half.exr", "rle_half.exr", "tiled.exr", "sixteen.png"][which];
        let mut bytes = std::fs::read(fixtures().join(name)).unwrap();
        for (at, byte) in changes {
            let at = at.index(bytes.len());
            bytes[at] = byte;
        }
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join(name), bytes).unwrap();
        let _ = beauty(folder.path(), name);
        let _ = inspect(&folder.path().join(name));
    }
}

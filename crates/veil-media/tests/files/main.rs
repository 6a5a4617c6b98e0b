//! Files of other programs read, ours read back, and broken ones refused.
#![expect(clippy::unwrap_used, reason = "a test that cannot go on says where")]

mod cryptomatte;
mod mutated;
mod written;

use std::path::{Path, PathBuf};

use veil_core::engine::Engine;
use veil_core::plates::{Plates, Role};
use veil_core::setup::{
    ColourSpace, Frames, Media, MediaId, PictureFormat, Setting, Setup, StageEntry, StageId, Working,
};
use veil_core::signal::{Domain, Pixels, Scale, Signal};
use veil_media::{Bits, FilePlates, OutputPattern, RenderJob, inspect};
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
    let (plates, media) = (FilePlates::new(folder), still(path));
    match plates.pass(&media, 0, Role::Beauty, &Cancel::new()) {
        Ok(Pixels::Picture(picture)) => {
            let alpha = plates.about(&media, 0, &Cancel::new()).map_err(|error| error.to_string())?.alpha;
            Ok(alpha.premultiplied(picture, &Cancel::new()).expect("nobody calls it off"))
        }
        Ok(other) => panic!("a beauty pass is a picture, not a {:?}", other.kind()),
        Err(error) => Err(error.to_string()),
    }
}

fn write_frame(output: &OutputPattern, frame: i32, signal: &Signal) -> PathBuf {
    let shot = PictureFormat::plain(16, 9, Frames { first: frame, last: frame });
    let written = veil_media::write_frame(output, frame, signal, &shot, &[]);
    written.expect("a frame of a fresh folder can be written").file
}

/// Written by OpenEXR's own library, see `fixtures/make.py`; half and float hold the rule's values exactly.
#[test]
fn files_of_the_reference_library_are_read_exactly_in_every_compression_and_window() {
    for (name, origin) in [
        ("zip_half.exr", (0, 0)),
        ("zips_float.exr", (0, 0)),
        ("piz_half.exr", (0, 0)),
        ("rle_half.exr", (0, 0)),
        ("pxr24_half.exr", (0, 0)),
        ("none_float.exr", (0, 0)),
        ("negative_origin.exr", (-5, -3)),
        ("tiled.exr", (0, 0)),
    ] {
        let picture = beauty(&fixtures(), name).unwrap();
        let (x0, y0) = origin;
        assert_eq!(picture.window(), Window::new(x0, y0, x0 + 37, y0 + 21), "{name}");
        let display = FilePlates::new(fixtures()).domain(&still(name), 0, &Cancel::new()).unwrap().display;
        assert_eq!(display, Window::sized(40, 24), "{name}");
        for y in y0..y0 + 21 {
            for x in x0..x0 + 37 {
                let expected = [0, 1, 2, 3].map(|c| (x * 7 + y * 13 + c * 5).rem_euclid(64) as f32 / 16.0);
                assert_eq!(picture.get(x, y), Some(expected), "{name} at {x}, {y}");
            }
        }
    }
}

/// A plate that is read small is the plate in means of blocks of its changed values, whatever the blocks' place in what is stored together.
#[test]
fn a_plate_is_read_smaller_as_the_means_of_its_blocks() {
    let held = |run: &mut [f32]| run.iter_mut().for_each(|value| *value = value.min(1.5));
    for name in ["zip_half.exr", "zips_float.exr", "none_float.exr", "negative_origin.exr", "tiled.exr"] {
        let whole = beauty(&fixtures(), name).unwrap();
        for divisor in [2, 3, 4, 8] {
            let plates = FilePlates::new(fixtures());
            let read = plates.smaller(&still(name), 0, divisor, &held, &Cancel::new()).unwrap();
            assert_eq!(read.window(), whole.window().scaled_down(divisor), "{name}");
            let step = divisor as i32;
            for (x, y) in [(0, 0), (1, 2), (read.window().x1 - 1, read.window().y1 - 1)] {
                let block = Window::new(x * step, y * step, (x + 1) * step, (y + 1) * step);
                let part = whole.cropped(block);
                let sum: f32 = part.pixels().iter().map(|pixel| pixel[0].min(1.5)).sum();
                let mean = sum / part.pixels().len() as f32;
                let got = read.get(x, y).unwrap()[0];
                assert!((got - mean).abs() < 1e-5, "{name} by {divisor} at {x}, {y}: {got} {mean}");
            }
        }
    }
}

/// B44 keeps about four bits of a block's range, DWA what the eye sees at its usual level of 45; OpenEXR's documentation
/// of its methods.
#[test]
fn lossy_methods_are_read_nearly() {
    for name in ["b44_half.exr", "dwaa_half.exr"] {
        let picture = beauty(&fixtures(), name).unwrap();
        let off: f32 = (0..21)
            .flat_map(|y| (0..37).map(move |x| (x, y)))
            .map(|(x, y)| {
                (picture.get(x, y).unwrap()[0] - (x * 7 + y * 13).rem_euclid(64) as f32 / 16.0).abs()
            })
            .sum();
        assert!(off / (37.0 * 21.0) < 0.1, "{name}: {off}");
    }
}

/// What a plate's file says of itself stands in what is rendered of it.
#[test]
fn the_words_of_a_plate_are_kept_in_what_is_rendered_of_it() {
    let folder = tempfile::tempdir().unwrap();
    let picture = PictureFormat {
        width: 40,
        height: 24,
        fps: 24.0,
        aspect: 1.0,
        frames: Frames { first: 1, last: 1 },
        working: Working::Bt709,
    };
    let mut setup = Setup::empty("words", picture);
    setup.media.push(still("parts.exr"));
    let plate =
        StageEntry::new(StageId(2), "plate", "Plate").with("media", Setting::Media { media: MediaId(1) });
    setup.stages.insert(0, plate);
    setup.stages[1] = setup.stages[1].clone().taking("main", StageId(2));
    let output: OutputPattern = folder.path().join("x.####.exr").to_string_lossy().parse().unwrap();
    let job = RenderJob { setup, stage: StageId(1), scale: Scale::FULL, output };
    let file = job.frame(&Engine::new(1 << 20), &FilePlates::new(fixtures()), 1, &Cancel::new()).unwrap();
    let found = inspect(&file.file).unwrap();
    assert!(found.texts.contains(&("owner".into(), "kiln".into())), "{:?}", found.texts);
}

/// Written by OpenEXR's own library: two parts of different windows, in ACEScg.
#[test]
fn parts_are_read_by_role_with_their_windows_colours_and_words() {
    let found = inspect(&fixtures().join("parts.exr")).unwrap();
    assert_eq!(found.colour, ColourSpace::AcesCg);
    assert!(found.texts.contains(&("owner".into(), "kiln".into())), "{:?}", found.texts);
    let plates = FilePlates::new(fixtures());
    let depth = plates.pass(&still("parts.exr"), 0, Role::Depth, &Cancel::new()).unwrap();
    let Pixels::Field(depth) = depth else { panic!("depth is a field") };
    assert_eq!(depth.window(), Window::new(4, 6, 14, 14));
    assert_eq!(depth.get(5, 9), Some(((5 * 7 + 9 * 13 + 3 * 5) % 64) as f32 / 16.0));
    assert_eq!(beauty(&fixtures(), "parts.exr").unwrap().window(), Window::sized(37, 21));
}

/// Written by OpenCV, see `fixtures/make.py`: floats, a shared exponent of 8 bits, bytes without loss, and JPEG.
#[test]
fn plain_pictures_of_every_form_are_read_as_they_stand() {
    let whole = |x: i32, y: i32, c: i32| (x * 4000 + y * 100 + c * 7) % 65536;
    let floats = |x: i32, y: i32, c: i32| whole(x, y, c) as f32 / 16384.0 - 1.0;
    type Rule<'a> = &'a dyn Fn(i32, i32, i32) -> f32;
    let cases: [(&str, ColourSpace, f32, Rule<'_>); 6] = [
        ("sixteen.tif", ColourSpace::Srgb, 0.0, &|x, y, c| whole(x, y, c) as f32 / 65535.0),
        ("eight.tif", ColourSpace::Srgb, 0.0, &|x, y, c| (whole(x, y, c) / 257) as f32 / 255.0),
        ("eight.webp", ColourSpace::Srgb, 0.0, &|x, y, c| (whole(x, y, c) / 257) as f32 / 255.0),
        ("floats.tif", ColourSpace::Linear, 0.0, &floats),
        ("light.hdr", ColourSpace::Linear, 0.016, &|x, y, c| floats(x, y, c).max(0.0)),
        ("smooth.jpg", ColourSpace::Srgb, 0.02, &|x, _, c| (x * 9 + c * 20) as f32 / 255.0),
    ];
    for (name, colour, tolerance, rule) in cases {
        assert_eq!(inspect(&fixtures().join(name)).unwrap().colour, colour, "{name}");
        let picture = beauty(&fixtures(), name).unwrap();
        assert_eq!(picture.window(), Window::sized(14, 9), "{name}");
        for (x, y) in [(0, 0), (13, 8), (5, 3), (9, 0)] {
            let got = picture.get(x, y).unwrap();
            for c in 0..3 {
                let off = (got[c as usize] - rule(x, y, c)).abs();
                assert!(off <= tolerance, "{name} at {x}, {y}: {got:?}, off {off}");
            }
        }
    }
}

/// What a viewer shows is alpha × colour + (1 − alpha) × background: W3C, Portable Network Graphics (Third Edition), of how
/// alpha is to be processed. So a cut-out still has no ghost of what was cut off.
#[test]
fn a_colour_under_clear_alpha_is_not_seen() {
    let folder = tempfile::tempdir().unwrap();
    let straight = [[200, 100, 50, 0], [200, 100, 50, 51], [200, 100, 50, 255]];
    let png = veil_media::encode_png(&straight.concat(), 3, 1).unwrap();
    std::fs::write(folder.path().join("cut-out.png"), png).unwrap();
    let read = beauty(folder.path(), "cut-out.png").unwrap();
    for (got, [.., alpha]) in read.pixels().iter().zip(straight) {
        let alpha = f32::from(alpha) / 255.0;
        let wanted = [200.0, 100.0, 50.0].map(|value| value / 255.0 * alpha);
        assert!((0..3).all(|c| (got[c] - wanted[c]).abs() < 1e-6) && got[3] == alpha, "{got:?}");
    }
}

#[test]
fn what_is_written_as_a_plain_picture_comes_back() {
    let folder = tempfile::tempdir().unwrap();
    let window = Window::sized(16, 9);
    let picture = Raster::from_fn(window, |x, y| [x as f32 / 15.0, y as f32 / 8.0, 0.25, 1.0]);
    let signal =
        Signal { domain: Domain { display: window, data: window }, pixels: Pixels::Picture(picture.clone()) };
    for (name, bits, tolerance) in [
        // Half a step of 255, times the steepest that the sRGB curve's inverse is.
        ("a.####.png", Some(Bits::Eight), 4.6e-3),
        ("b.####.tif", Some(Bits::Eight), 4.6e-3),
        ("c.####.tif", Some(Bits::Sixteen), 2e-5),
        ("d.####.tif", None, 0.0),
        // A mantissa of 8 bits below the largest channel, cut off.
        ("e.####.hdr", None, 8e-3),
        ("f.####.jpg", None, 0.05),
    ] {
        let output: OutputPattern = folder.path().join(name).to_string_lossy().parse().unwrap();
        let output = bits.map_or(output.clone(), |bits| output.with_bits(bits).unwrap());
        let file = write_frame(&output, 1, &signal);
        let space = output.colour(Working::Bt709).space();
        let read = beauty(folder.path(), &file.file_name().unwrap().to_string_lossy()).unwrap();
        let read = space.converted(ColourSpace::Linear.space(), &read, &Cancel::new()).unwrap();
        for (got, wanted) in read.pixels().iter().zip(picture.pixels()) {
            let off = (0..4).map(|c| (got[c] - wanted[c]).abs()).fold(0.0, f32::max);
            assert!(off <= tolerance, "{name}: {got:?} {wanted:?}");
        }
    }
}

/// The ffmpeg program is the reference: it makes the clip, and its own words tell what was made.
/// A second of grey as a clip.
fn short_clip(folder: &Path, name: &str) -> PathBuf {
    let window = Window::sized(64, 36);
    let path = folder.join(name);
    let output: OutputPattern = path.to_string_lossy().parse().unwrap();
    for frame in 1..=24 {
        let pixels = Pixels::Picture(Raster::flat(window, [frame as f32 / 30.0; 4]));
        write_frame(&output, frame, &Signal { domain: Domain { display: window, data: window }, pixels });
    }
    output.finish(Frames { first: 1, last: 24 }, 24.0, &Cancel::new()).unwrap();
    path
}

/// Four ask at once for one clip: it is decoded once. Touched, it is decoded anew, and the frames of before go; given up,
/// nothing is left of it, nor of the program that reads it.
#[test]
fn frames_of_a_clip_are_held_once_and_go_with_it() {
    let folder = tempfile::tempdir().unwrap();
    let path = short_clip(folder.path(), "walk.mp4");
    let plates = FilePlates::new(folder.path());
    let held = || -> Vec<_> {
        let folders = std::fs::read_dir(folder.path().join(".held")).into_iter().flatten();
        folders.map(|entry| entry.unwrap().file_name().to_string_lossy().into_owned()).collect()
    };
    let given_up = Cancel::new();
    given_up.set();
    assert!(plates.fingerprint(&still("walk.mp4"), 1, &given_up).is_err());
    assert_eq!(held(), Vec::<String>::new(), "nothing is left");
    let ask = || plates.fingerprint(&still("walk.mp4"), 1, &Cancel::new()).unwrap();
    std::thread::scope(|scope| {
        let askers: Vec<_> = (0..4).map(|_| scope.spawn(ask)).collect();
        let prints: Vec<u64> = askers.into_iter().map(|asker| asker.join().unwrap()).collect();
        assert!(prints.iter().all(|print| *print == prints[0]));
    });
    let first = held();
    assert_eq!(first.len(), 1);
    let touched = std::fs::File::options().append(true).open(&path).unwrap();
    touched.set_modified(std::time::SystemTime::UNIX_EPOCH).unwrap();
    ask();
    let second = held();
    assert!(second.len() == 1 && second != first, "{first:?} {second:?}");
    veil_media::forget_held(&path);
    assert_eq!(held(), Vec::<String>::new());
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
        write_frame(&output, 12, &written);
        let plates = FilePlates::new(folder.path());
        assert_eq!(plates.domain(&still("deep/out.0012.exr"), 0, &Cancel::new()).unwrap(), written.domain);
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
    write_frame(&output, 1, &Signal { domain: Domain { display: window, data: window }, pixels });
    let [r, g, b, a] = beauty(folder.path(), "x.0001.png").unwrap().get(1, 1).unwrap();
    assert!((r - 0.461_356).abs() < 1e-5 && (g - 0.735_357).abs() < 1e-5, "{r} {g}");
    assert_eq!((b, a), (1.0, 1.0));
}

#[test]
fn a_sequence_with_a_gap_or_a_changed_size_is_told() {
    let folder = tempfile::tempdir().unwrap();
    let output: OutputPattern = folder.path().join("y.####.exr").to_string_lossy().parse().unwrap();
    for frame in [1001, 1002, 1005] {
        write_frame(&output, frame, &signal(Window::sized(16, 9)));
    }
    std::fs::copy(fixtures().join("zip_half.exr"), folder.path().join("y.1004.exr")).unwrap();
    let found = inspect(&folder.path().join("y.####.exr")).unwrap();
    assert_eq!((found.missing, found.other_size), (vec![Frames { first: 1003, last: 1003 }], vec![1004]));
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

/// Each number of a DWA block's beginning that says how large a part becomes, made huge: refused, not asked of the memory.
#[test]
fn a_dwa_block_that_says_it_becomes_huge_is_refused() {
    let folder = tempfile::tempdir().unwrap();
    let whole = std::fs::read(fixtures().join("dwaa_half.exr")).unwrap();
    let version = [2u8, 0, 0, 0, 0, 0, 0, 0];
    let block = whole.windows(8).rposition(|bytes| bytes == version).unwrap();
    for number in [1, 6, 7, 8, 9] {
        let mut bytes = whole.clone();
        bytes[block + 8 * number..][..8].copy_from_slice(&(1u64 << 55).to_le_bytes());
        std::fs::write(folder.path().join("huge.exr"), bytes).unwrap();
        assert!(beauty(folder.path(), "huge.exr").unwrap_err().contains("huge.exr"), "{number}");
    }
}

/// The headers of an EXR, a PNG and a TIFF that say 60000 pixels a side.
#[test]
fn a_picture_beyond_the_largest_side_is_refused_by_its_size() {
    let folder = tempfile::tempdir().unwrap();
    let huge = image::RgbImage::new(60_000, 1);
    for name in ["wide.png", "wide.tif"] {
        huge.save(folder.path().join(name)).unwrap();
    }
    let mut bytes = std::fs::read(fixtures().join("zip_half.exr")).unwrap();
    let at =
        bytes.windows(10).position(|word| word == b"dataWindow").unwrap() + "dataWindow\0box2i\0".len() + 4;
    bytes[at + 8..at + 12].copy_from_slice(&59_999i32.to_le_bytes());
    std::fs::write(folder.path().join("wide.exr"), bytes).unwrap();
    for name in ["wide.png", "wide.tif", "wide.exr"] {
        let error = beauty(folder.path(), name).unwrap_err();
        assert!(error.contains(name) && (error.contains("32768") || error.contains("limit")), "{error}");
    }
}

/// A camera that moves one metre to the right in a second, its data within the file.
fn gltf_camera() -> String {
    serde_json::json!({
        "asset": { "version": "2.0" },
        "cameras": [{ "type": "perspective", "perspective": { "yfov": 0.8, "znear": 0.1 } }],
        "nodes": [{ "camera": 0 }],
        "buffers": [{ "byteLength": 32, "uri": "data:application/octet-stream;base64,AAAAAAAAgD8AAAAAAAAAAAAAAAAAAIA/AAAAAAAAAAA=" }],
        "bufferViews": [
            { "buffer": 0, "byteOffset": 0, "byteLength": 8 },
            { "buffer": 0, "byteOffset": 8, "byteLength": 24 }
        ],
        "accessors": [
            { "bufferView": 0, "componentType": 5126, "count": 2, "type": "SCALAR", "min": [0.0], "max": [1.0] },
            { "bufferView": 1, "componentType": 5126, "count": 2, "type": "VEC3" }
        ],
        "animations": [{
            "samplers": [{ "input": 0, "output": 1 }],
            "channels": [{ "sampler": 0, "target": { "node": 0, "path": "translation" } }]
        }]
    })
    .to_string()
}

/// A camera's file tells its range and lens; one that says that its data are elsewhere is refused.
#[test]
fn a_camera_is_told_by_its_frames_and_lens() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("camera.gltf");
    std::fs::write(&path, gltf_camera()).unwrap();
    let found = inspect(&path).unwrap();
    assert_eq!(found.frames, Some(Frames { first: 1, last: 25 }));
    assert!(found.texts.contains(&("lens".into(), "45.8° upright".into())), "{:?}", found.texts);
}

/// Its data may stand beside it, under a name that is written as addresses are; nothing else is opened.
#[test]
fn a_camera_opens_no_file_that_is_not_beside_it() {
    let folder = tempfile::tempdir().unwrap();
    let (path, text) = (folder.path().join("below/camera.gltf"), gltf_camera());
    std::fs::create_dir(folder.path().join("below")).unwrap();
    let (begins, ends) = (text.find("data:").unwrap(), text.find("AAA=").unwrap() + 4);
    let at = |address: &str| {
        std::fs::write(&path, format!("{}{address}{}", &text[..begins], &text[ends..])).unwrap();
        inspect(&path)
    };
    let numbers = [0f32, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0].map(f32::to_le_bytes).concat();
    for file in ["below/the moves.bin", "secret.bin"] {
        std::fs::write(folder.path().join(file), &numbers).unwrap();
    }
    assert_eq!(at("the%20moves.bin").unwrap().frames, Some(Frames { first: 1, last: 25 }));
    std::os::unix::fs::symlink("../secret.bin", folder.path().join("below/link.bin")).unwrap();
    std::fs::create_dir(folder.path().join("below/folder.bin")).unwrap();
    let secret = folder.path().join("secret.bin").display().to_string();
    let (as_file, whole) = (format!("file://{secret}"), secret.replace('/', "%2F"));
    for address in [
        "../secret.bin",
        "..%2Fsecret.bin",
        "%2e%2e/secret.bin",
        "link.bin",
        "folder.bin",
        "file:///dev/zero",
        &as_file,
        &whole,
    ] {
        let error = at(address).unwrap_err().to_string();
        assert!(error.contains("camera.gltf") || error.contains("folder.bin"), "{address}: {error}");
    }
    let own_parent = serde_json::json!([{ "camera": 0, "children": [1] }, { "children": [0] }]).to_string();
    std::fs::write(&path, text.replace("[{\"camera\":0}]", &own_parent)).unwrap();
    assert!(inspect(&path).unwrap_err().to_string().contains("256 nodes"));
}

/// A pipe nobody writes to would be waited for until the end of days.
#[test]
fn what_is_no_plain_file_is_not_opened() {
    let folder = tempfile::tempdir().unwrap();
    for name in ["pipe.exr", "pipe.png", "pipe.svg", "pipe.cube", "pipe.ttf", "pipe.gltf", "pipe.csv"] {
        let path = folder.path().join(name);
        assert!(std::process::Command::new("mkfifo").arg(&path).status().unwrap().success());
        let error = inspect(&path).unwrap_err().to_string();
        assert!(error.contains(name) && error.contains("plain file"), "{error}");
    }
}

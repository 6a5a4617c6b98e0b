//! Files of ours as other programs read them.

use std::path::Path;
use std::process::Command;

use serde_json::Value;
use veil_core::plates::Plates;
use veil_core::plates::Role;
use veil_core::setup::{ColourSpace, Frames, PictureFormat, Working};
use veil_core::signal::{Domain, Pixels, Signal};
use veil_media::{
    Bits, ClipNumbers, ClipRange, ClipTones, FilePlates, OutputPattern, Written, inspect, write_frame,
};
use veil_pixels::{Cancel, Raster, Window, colour};

use crate::{fixtures, still};

const FRAME: i32 = 1001;

/// A shot of wide pixels, at the rate of NTSC film.
fn shot() -> PictureFormat {
    let frames = Frames { first: FRAME, last: FRAME };
    PictureFormat { fps: 24_000.0 / 1001.0, aspect: 2.0, ..PictureFormat::plain(16, 9, frames) }
}

/// Files of ours, by the forms that are written.
const OURS: [(&str, Option<Bits>); 12] = [
    ("picture.####.exr", None),
    ("field.####.exr", None),
    ("map.####.exr", None),
    ("picture.####.png", Some(Bits::Sixteen)),
    ("picture.####.tif", None),
    ("picture.####.hdr", None),
    ("smooth.####.jpg", None),
    ("alpha.####.exr", None),
    ("alpha.####.png", Some(Bits::Eight)),
    ("alpha16.####.png", Some(Bits::Sixteen)),
    ("alpha.####.tif", None),
    ("alpha8.####.tif", Some(Bits::Eight)),
];

/// An EXR has a data window of its own, which leads out of the frame; the others have the frame.
fn ours(name: &str) -> Signal {
    let display = Window::sized(16, 9);
    let data = if name.ends_with("exr") { Window::new(-2, 1, 11, 8) } else { display };
    let value = |x: i32, y: i32, c: i32| ((x * 7 + y * 13 + c * 5).rem_euclid(64)) as f32 / 64.0;
    let pixels = if name.starts_with("smooth") {
        // What a form that loses detail must keep.
        Pixels::Picture(Raster::from_fn(data, |x, y| {
            [0.1 + x as f32 / 40.0, 0.6 - y as f32 / 30.0, 0.3, 1.0]
        }))
    } else if name.starts_with("picture") {
        Pixels::Picture(Raster::from_fn(data, |x, y| [value(x, y, 0), value(x, y, 1), value(x, y, 2), 1.0]))
    } else if name.starts_with("alpha") {
        // In the first columns light that covers nothing; whole numbers cannot hold it.
        Pixels::Picture(Raster::from_fn(data, |x, y| {
            let alpha = ((x - 2).clamp(0, 8)) as f32 / 8.0;
            let light = if x < 2 { 0.25 } else { alpha };
            [value(x, y, 0) * light, value(x, y, 1) * light, value(x, y, 2) * light, alpha]
        }))
    } else if name.starts_with("field") {
        Pixels::Field(Raster::from_fn(data, |x, y| value(x, y, 0) / 3.0))
    } else {
        Pixels::Map(Raster::from_fn(data, |x, y| [value(x, y, 0) / 3.0, -value(x, y, 1)]))
    };
    Signal { domain: Domain { display, data }, pixels }
}

fn output_in(folder: &Path, name: &str, bits: Option<Bits>) -> OutputPattern {
    let output: OutputPattern =
        folder.join(name).to_string_lossy().parse().expect("a name with a known ending");
    bits.map_or(output.clone(), |bits| output.with_bits(bits).expect("a form of these bits"))
}

fn write(output: &OutputPattern, signal: &Signal) -> Written {
    write_frame(output, FRAME, signal, &shot(), &[]).expect("a frame of a fresh folder can be written")
}

/// The numbers that a file of a signal is meant to hold, and whether its alpha is straight.
fn meant(output: &OutputPattern, name: &str, signal: &Signal) -> (Vec<f32>, bool) {
    let whole = name.ends_with("png") || name.starts_with("alpha8");
    let numbers = match &signal.pixels {
        Pixels::Picture(picture) => {
            let (linear, space) = (ColourSpace::Linear.space(), output.colour(Working::Bt709).space());
            let mut held = linear.converted(space, picture, &Cancel::new()).unwrap();
            if whole {
                let straight =
                    |pixel: [f32; 4]| if pixel[3] > 0.0 { colour::unpremultiplied(pixel) } else { [0.0; 4] };
                held.change(&Cancel::new(), straight).unwrap();
            }
            held.pixels().as_flattened().to_vec()
        }
        Pixels::Field(field) => field.pixels().to_vec(),
        Pixels::Map(map) => map.pixels().as_flattened().to_vec(),
    };
    (numbers, whole && name.starts_with("alpha"))
}

/// What OpenImageIO 3.2, OpenEXR's own library and ffmpeg read in files of ours; `fixtures/read_ours.py` had them written
/// and keeps what they read beside them. The files written now must be those, byte for byte.
#[test]
fn files_of_ours_are_read_by_the_reference_libraries_as_they_were_meant() {
    let kept: Value = serde_json::from_slice(&std::fs::read(fixtures().join("ours.json")).unwrap()).unwrap();
    let folder = tempfile::tempdir().unwrap();
    for (name, bits) in OURS {
        let (output, signal) = (output_in(folder.path(), name, bits), ours(name));
        let file = write(&output, &signal).file;
        let (meant, straight) = meant(&output, name, &signal);
        let name = file.file_name().unwrap().to_string_lossy().into_owned();
        let golden = fixtures().join("ours").join(&name);
        assert!(
            std::fs::read(&file).unwrap() == std::fs::read(&golden).unwrap(),
            "{name} is written otherwise"
        );
        let told = &kept[&name];
        let Window { x0, y0, x1, y1 } = signal.domain.data;
        assert_eq!(told["data"], serde_json::json!([x0, y0, x1, y1]), "{name}");
        let says = &told["says"];
        if name.starts_with("alpha") {
            assert_eq!(says["straight"].as_bool(), Some(straight), "{name}: {says}");
        }
        if name.ends_with("exr") {
            assert_eq!(says["fps"], serde_json::json!([24_000, 1001]), "{name}: {says}");
            assert_eq!(says["aspect"].as_f64(), Some(2.0), "{name}: {says}");
            // 1001 frames, 24 in a second.
            assert_eq!(says["time"], "00:00:41:17", "{name}: {says}");
            assert_eq!(says["colour"], "lin_rec709_scene", "{name}: {says}");
        }
        if name.ends_with("png") {
            assert_eq!(says["colour"], "srgb_rec709_scene", "{name}: {says}");
        }
        let tolerance = told["tolerance"].as_f64().unwrap();
        for by in ["values", "by_ffmpeg"] {
            let Ok(read) = serde_json::from_value::<Vec<f64>>(told[by].clone()) else { continue };
            assert_eq!(read.len(), meant.len(), "{name}, {by}");
            for (read, meant) in read.iter().zip(&meant) {
                assert!((read - f64::from(*meant)).abs() <= tolerance, "{name}, {by}: {read} {meant}");
            }
        }
    }
}

/// Writes the files that `fixtures/read_ours.py` reads.
#[test]
#[ignore = "writes fixtures; run it when the writers are meant to write otherwise, then the script"]
fn write_files_of_ours() {
    for (name, bits) in OURS {
        write(&output_in(&fixtures().join("ours"), name, bits), &ours(name));
    }
}

/// Light without coverage, and half coverage, come back from every form that can hold them.
#[test]
fn alpha_comes_back_as_it_was_meant_from_every_form() {
    let folder = tempfile::tempdir().unwrap();
    for (name, bits) in OURS.into_iter().filter(|(name, _)| name.starts_with("alpha")) {
        let (output, signal) = (output_in(folder.path(), name, bits), ours(name));
        let file = write(&output, &signal).file;
        let read = crate::beauty(folder.path(), &file.file_name().unwrap().to_string_lossy()).unwrap();
        let space = output.colour(Working::Bt709).space();
        let read = space.converted(ColourSpace::Linear.space(), &read, &Cancel::new()).unwrap();
        let Pixels::Picture(meant) = &signal.pixels else { panic!("it is a picture") };
        let floats = bits.is_none();
        for (read, meant) in read.pixels().iter().zip(meant.pixels()) {
            let meant = if floats || meant[3] > 0.0 { *meant } else { [0.0; 4] };
            let off = (0..4).map(|at| (read[at] - meant[at]).abs()).fold(0.0, f32::max);
            assert!(off <= 5e-3, "{name}: {read:?} {meant:?}");
        }
    }
}

/// The largest half is 65504: IEEE 754-2019, binary16.
#[test]
fn what_a_half_cannot_hold_is_held_down_and_counted() {
    let folder = tempfile::tempdir().unwrap();
    let window = Window::sized(4, 1);
    let pixels =
        [[1e6, -1e6, 65_504.0, 1.0], [f32::INFINITY, f32::NEG_INFINITY, f32::NAN, 1.0], [0.5; 4], [1.0; 4]];
    let picture = Raster::from_pixels(window, pixels.to_vec()).unwrap();
    let signal =
        Signal { domain: Domain { display: window, data: window }, pixels: Pixels::Picture(picture) };
    let output = output_in(folder.path(), "hot.####.exr", None);
    let written = write(&output, &signal);
    assert_eq!(written.beyond, 5);
    let read = crate::beauty(folder.path(), "hot.1001.exr").unwrap();
    assert_eq!(read.pixels()[0], [65_504.0, -65_504.0, 65_504.0, 1.0]);
    assert_eq!(read.pixels()[1], [65_504.0, -65_504.0, 0.0, 1.0]);
}

/// The rate, the time and the shape of pixels of a plate go into what is rendered from it, and are read again.
#[test]
fn an_exr_tells_its_rate_its_time_and_the_shape_of_its_pixels() {
    let folder = tempfile::tempdir().unwrap();
    let output = output_in(folder.path(), "a.####.exr", None);
    let words = [("timeCode".to_owned(), "01:02:03:04".to_owned())];
    write_frame(&output, FRAME, &ours("picture.exr"), &shot(), &words).unwrap();
    let found = inspect(&folder.path().join("a.####.exr")).unwrap();
    assert_eq!((found.fps, found.aspect), (Some(24_000.0 / 1001.0), 2.0));
    assert!(found.texts.contains(&words[0]), "{:?}", found.texts);
    let plates = FilePlates::new(folder.path());
    let carried = plates.words(&still("a.1001.exr"), FRAME).unwrap();
    assert!(carried.contains(&words[0]), "{carried:?}");
    assert_eq!(plates.about(&still("a.1001.exr"), 0, &Cancel::new()).unwrap().aspect, 2.0);
}

fn said_by(program: &str, arguments: &[&str], file: &Path) -> Vec<u8> {
    let told = Command::new(program).args(["-v", "error"]).args(arguments).arg(file).output();
    told.expect("ffmpeg is on this machine, as for all clips").stdout
}

/// Luma of a grey of 0.18, by ITU-R BT.709-6 (its curve in 1.2, its quantisation in 4.6) and IEC 61966-2-1: what the clip
/// says of itself is what its numbers are.
#[test]
fn a_clip_holds_the_numbers_that_it_says_and_comes_back() {
    let window = Window::sized(64, 36);
    let grey = Raster::flat(window, [0.18, 0.18, 0.18, 1.0]);
    let signal = Signal { domain: Domain { display: window, data: window }, pixels: Pixels::Picture(grey) };
    let bt709 = 1.099 * 0.18f64.powf(0.45) - 0.099;
    let srgb = 1.055 * 0.18f64.powf(1.0 / 2.4) - 0.055;
    let (limited, full) = (|code: f64| 16.0 + 219.0 * code, |code: f64| 255.0 * code);
    for (tones, range, luma, transfer, said_range) in [
        (ClipTones::Bt709, ClipRange::Limited, limited(bt709), "bt709", "tv"),
        (ClipTones::Bt709, ClipRange::Full, full(bt709), "bt709", "pc"),
        (ClipTones::Srgb, ClipRange::Limited, limited(srgb), "iec61966-2-1", "tv"),
        (ClipTones::Srgb, ClipRange::Full, full(srgb), "iec61966-2-1", "pc"),
    ] {
        let folder = tempfile::tempdir().unwrap();
        let output = output_in(folder.path(), "grey.mp4", None);
        let output = output.with_numbers(ClipNumbers { tones, range }).unwrap();
        let frames = Frames { first: 1, last: 3 };
        for frame in frames.first..=frames.last {
            write_frame(&output, frame, &signal, &shot(), &[]).unwrap();
        }
        output.finish(frames, 24.0, &Cancel::new()).unwrap();
        let clip = folder.path().join("grey.mp4");
        let streams = said_by("ffprobe", &["-show_streams", "-of", "json"], &clip);
        let stream: Value = serde_json::from_slice(&streams).unwrap();
        let stream = &stream["streams"][0];
        assert_eq!(stream["color_transfer"], transfer, "{stream}");
        assert_eq!(stream["color_range"], said_range, "{stream}");
        assert_eq!(stream["color_space"], "bt709", "{stream}");
        let raw = Command::new("ffmpeg")
            .args(["-v", "error", "-i"])
            .arg(&clip)
            .args(["-frames:v", "1", "-f", "rawvideo", "-pix_fmt", stream["pix_fmt"].as_str().unwrap(), "-"])
            .output();
        let raw = raw.unwrap().stdout;
        let mean = raw[..64 * 36].iter().map(|value| f64::from(*value)).sum::<f64>() / (64.0 * 36.0);
        assert!((mean - luma).abs() <= 1.0, "{tones:?} {range:?}: {mean}, to be {luma}");
        let found = inspect(&clip).unwrap();
        let media = veil_core::setup::Media { colour: found.colour, ..still("grey.mp4") };
        let read = FilePlates::new(folder.path()).pass(&media, 1, Role::Beauty, &Cancel::new()).unwrap();
        let Pixels::Picture(read) = read else { panic!("a clip is pictures") };
        let linear =
            found.colour.space().converted(ColourSpace::Linear.space(), &read, &Cancel::new()).unwrap();
        let value = linear.get(30, 20).unwrap()[0];
        assert!((value - 0.18).abs() < 0.004, "{tones:?} {range:?}: {value}");
    }
}

#[test]
fn a_clip_is_made_of_frames_and_read_back_with_the_rights_of_any_result() {
    let window = Window::sized(64, 36);
    for (name, codec, alpha) in [("walk.mp4", "h264", 1.0f32), ("walk.webm", "vp9", 0.5)] {
        let folder = tempfile::tempdir().unwrap();
        let output = output_in(folder.path(), name, None);
        let (frames, grey) = (Frames { first: 1001, last: 1006 }, |frame: i32| (frame - 1000) as f32 * 0.1);
        for frame in frames.first..=frames.last {
            let value = grey(frame) * alpha;
            let pixels = Pixels::Picture(Raster::flat(window, [value, value * 0.5, value, alpha]));
            let signal = Signal { domain: Domain { display: window, data: window }, pixels };
            write_frame(&output, frame, &signal, &shot(), &[]).unwrap();
        }
        output.finish(frames, 24.0, &Cancel::new()).unwrap();
        let found = inspect(&folder.path().join(name)).unwrap();
        assert_eq!(found.frames, Some(Frames { first: 1, last: 6 }), "{name}");
        assert_eq!((found.fps, found.compression.as_str()), (Some(24.0), codec));
        let plates = FilePlates::new(folder.path());
        for (at, frame) in (frames.first..=frames.last).enumerate() {
            let read = plates.pass(&still(name), at as i32 + 1, Role::Beauty, &Cancel::new()).unwrap();
            let Pixels::Picture(read) = read else { panic!("a clip is pictures") };
            let about = plates.about(&still(name), at as i32 + 1, &Cancel::new()).unwrap();
            let read = about.alpha.premultiplied(read, &Cancel::new()).unwrap();
            let linear = found.colour.space().converted(ColourSpace::Linear.space(), &read, &Cancel::new());
            let [r, g, _, a] = linear.unwrap().get(30, 20).unwrap();
            let value = grey(frame) * alpha;
            assert!((r - value).abs() < 0.03 && (g - value * 0.5).abs() < 0.03, "{name} {frame}: {r} {g}");
            assert!((a - alpha).abs() < 0.02, "{name}: {a}");
        }
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 2, "the clip and what is held of it");
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt;
            let mode = std::fs::metadata(folder.path().join(name)).unwrap().permissions().mode();
            assert_eq!(mode & 0o777, 0o644, "{name}");
        }
    }
}

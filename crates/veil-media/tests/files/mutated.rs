//! Files with bytes changed anywhere: an error or what they hold, never a crash, a wait or a flood.

use std::path::Path;

use proptest::prelude::*;
use proptest::test_runner::TestRunner;
use veil_core::lettering::{Align, Setting, set};
use veil_core::setup::Frames;
use veil_core::signal::{Domain, Pixels, Signal};
use veil_media::{OutputPattern, inspect, read_through};
use veil_pixels::{Cancel, Raster, Window};

use crate::{fixtures, gltf_camera, write_frame};

/// Groups, transforms, a gradient, a clip, a stroke and a shape that is used twice.
const DRAWING: &str = r##"<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 120 80" width="240" height="160">
<defs><linearGradient id="run"><stop offset="0" stop-color="#c9a35b"/><stop offset="1" stop-color="#57b3a0" stop-opacity="0.5"/></linearGradient>
<clipPath id="round"><circle cx="60" cy="40" r="35"/></clipPath><path id="leaf" d="M0 0c10-20 30-20 40 0s-30 20-40 0z"/></defs>
<g clip-path="url(#round)" transform="rotate(12 60 40) scale(1.1)" opacity="0.9"><rect x="10" y="8" width="100" height="60" rx="9" fill="url(#run)"/>
<use xlink:href="#leaf" x="30" y="40" fill="#ece8de"/><use href="#leaf" transform="translate(60 20) skewX(15)" fill="none" stroke="white" stroke-width="2.5" stroke-dasharray="4 2"/></g>
<path d="M5 75q20-30 50 0t60-10l-8 8h-90z" fill-rule="evenodd"/><polygon points="1,1 20,3 9,17"/></svg>"##;
const FONT: &[u8] = include_bytes!("../../../veil-core/fonts/barlow-semi-condensed-400.ttf");

#[test]
fn a_thousand_mutated_files_of_each_form_give_an_error_or_a_picture() {
    let folder = tempfile::tempdir().unwrap();
    let texts = [
        ("small.cube", "LUT_3D_SIZE 2\n".to_owned() + &"0.5 0.25 1\n".repeat(8)),
        (
            "camera.csv",
            "frame,x,y,z,pan,tilt,roll,focal_mm,sensor_width_mm\n1,0,1,2,30,-5,0,35,36\n2,0,1,2,31,-5,0,35,36\n".into(),
        ),
        ("camera.gltf", gltf_camera()),
    ];
    let names = "zip_half.exr piz_half.exr rle_half.exr pxr24_half.exr b44_half.exr dwaa_half.exr tiled.exr parts.exr \
        sixteen.png sixteen.tif floats.tif smooth.jpg light.hdr eight.webp";
    let pictures = names.split_whitespace().map(|name| (name, std::fs::read(fixtures().join(name)).unwrap()));
    let texts = texts.into_iter().map(|(name, text)| (name, text.into_bytes()));
    for (name, whole) in
        pictures.chain(texts).chain([("crest.svg", DRAWING.into()), ("plain.ttf", FONT.into())])
    {
        let path = folder.path().join(name);
        read_mutated(&path, &whole, 1000);
    }
    if let Some(peak) = peak_kib() {
        assert!(peak < 1 << 20, "{peak} KiB");
    }
}

/// A clip is read by the ffmpeg program, so two threads share the wait for it.
#[test]
fn mutated_clips_give_an_error_or_pictures() {
    read_mutated_clips(20);
}

#[test]
#[ignore = "takes five minutes, for each of its thousand clips starts a program twice"]
fn a_thousand_mutated_clips_give_an_error_or_pictures() {
    read_mutated_clips(500);
}

/// So many on each of two threads.
fn read_mutated_clips(times: u32) {
    let folder = tempfile::tempdir().unwrap();
    let window = Window::sized(32, 24);
    let output: OutputPattern = folder.path().join("walk.mp4").to_string_lossy().parse().unwrap();
    for frame in 1..=2 {
        let pixels = Pixels::Picture(Raster::flat(window, [0.1 * frame as f32, 0.5, 0.25, 1.0]));
        write_frame(&output, frame, &Signal { domain: Domain { display: window, data: window }, pixels });
    }
    output.finish(Frames { first: 1, last: 2 }, 24.0, &Cancel::new()).unwrap();
    let whole = std::fs::read(folder.path().join("walk.mp4")).unwrap();
    std::thread::scope(|threads| {
        for name in ["a.mp4", "b.mp4"] {
            let (path, whole) = (folder.path().join(name), &whole);
            threads.spawn(move || read_mutated(&path, whole, times));
        }
    });
}

/// Reads a file so many times, each time with a few of its bytes changed: an error or what it holds, within 10 s.
fn read_mutated(path: &Path, whole: &[u8], times: u32) {
    let changes = prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..12);
    let mut runner =
        TestRunner::new(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(times) });
    let given = runner.run(&changes, |changes| {
        let mut bytes = whole.to_vec();
        for (at, byte) in changes {
            let at = at.index(bytes.len());
            bytes[at] = byte;
        }
        std::fs::write(path, bytes).unwrap();
        let started = std::time::Instant::now();
        let read = read_through(path, &Cancel::new());
        let _ = inspect(path);
        // A font that passes is set, since letters are only looked up then.
        if read.is_ok() && path.extension().is_some_and(|ending| ending == "ttf") {
            let setting = Setting { size: 90.0, spacing: 2.0, leading: 1.2, align: Align::Middle };
            let _ = set("SALT glass 0123\nWäre", &std::fs::read(path).unwrap(), setting);
        }
        prop_assert!(started.elapsed().as_secs() < 10, "it took {:?}", started.elapsed());
        Ok(())
    });
    assert!(given.is_ok(), "{}: {given:?}", path.display());
}

/// The most memory that this process ever had, where the system tells.
fn peak_kib() -> Option<u64> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    status.lines().find_map(|line| line.strip_prefix("VmHWM:")?.trim().trim_end_matches(" kB").parse().ok())
}

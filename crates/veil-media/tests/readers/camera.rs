//! Checks of `camera`.

use veil_core::camera::Camera;
use veil_media::{MediaError, read_camera, read_solved, write_camera};

fn table(text: &str) -> Result<Camera, MediaError> {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("camera.csv");
    std::fs::write(&path, text).unwrap();
    read_camera(&path, 24.0)
}

/// By hand: panned by 90° it looks along −x, tilted by 90° straight up.
#[test]
fn a_table_turns_the_camera_as_its_head_says() {
    let head = "frame,x,y,z,pan,tilt,roll,focal_mm,sensor_width_mm";
    let camera = table(&format!("{head}\n1002,0,0,0,0,90,0,35,36\n\n1001,1,2,3,90,0,0,35,36\n")).unwrap();
    assert_eq!(camera.frames.iter().map(|frame| frame.frame).collect::<Vec<_>>(), [1001, 1002]);
    let near = |a: [f64; 3], b: [f64; 3]| a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-12);
    assert!(near(camera.frames[0].camera.back, [1.0, 0.0, 0.0]), "{:?}", camera.frames[0]);
    assert!(near(camera.frames[1].camera.back, [0.0, -1.0, 0.0]), "{:?}", camera.frames[1]);
    // RFC 4180: lines may end in CR and LF, and cells may stand in quotes.
    let quoted = table(&format!("{head}\r\n\"1001\",\"1\",2,3,90,0,0,35,36\r\n")).unwrap();
    assert_eq!(quoted.frames[0], camera.frames[0]);
    // A byte order mark before the names, and a letter of two bytes where a number should be.
    let marked = table(&format!("\u{feff}{head}\n1001,1,2,\u{e9},90,0,0,35,36\n")).unwrap_err().to_string();
    assert!(marked.contains("line 2") && marked.contains("`z` is"), "{marked}");
    let said = table(&format!("{head}\r\n\r\n1001,1,2,b,90,0,0,35,36\r\n")).unwrap_err().to_string();
    assert!(said.contains("line 3") && said.contains("`z` is `b`"), "{said}");
    let said = table(&format!("{head}\n1001,a,0,0,0,0,0,35,36")).unwrap_err().to_string();
    assert!(said.contains("line 2") && said.contains("`x` is `a`"), "{said}");
    assert!(table("frame,x").unwrap_err().to_string().contains("column `y`"));
}

/// glTF 2.0, appendix C: linear places, and a turn of 90° about y gone half of the way.
#[test]
fn a_gltf_camera_moves_with_its_parent_between_keys() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("camera.gltf");
    let half = std::f32::consts::FRAC_1_SQRT_2;
    let floats: Vec<f32> =
        [&[0.0, 1.0][..], &[0.0, 0.0, 0.0, 4.0, 0.0, 0.0], &[0.0, 0.0, 0.0, 1.0, 0.0, half, 0.0, half]]
            .concat();
    let bytes: Vec<u8> = floats.iter().flat_map(|float| float.to_le_bytes()).collect();
    std::fs::write(folder.path().join("moves.bin"), &bytes).unwrap();
    let text = serde_json::json!({
        "asset": { "version": "2.0" },
        "cameras": [{ "type": "perspective", "perspective": { "yfov": 0.8, "znear": 0.1 }, "name": "shot" }],
        "nodes": [{ "children": [1] }, { "camera": 0, "translation": [0.0, 0.0, 2.0] }],
        "buffers": [{ "byteLength": bytes.len(), "uri": "moves.bin" }],
        "bufferViews": [
            { "buffer": 0, "byteOffset": 0, "byteLength": 8 },
            { "buffer": 0, "byteOffset": 8, "byteLength": 24 },
            { "buffer": 0, "byteOffset": 32, "byteLength": 32 }
        ],
        "accessors": [
            { "bufferView": 0, "componentType": 5126, "count": 2, "type": "SCALAR", "min": [0.0], "max": [1.0] },
            { "bufferView": 1, "componentType": 5126, "count": 2, "type": "VEC3" },
            { "bufferView": 2, "componentType": 5126, "count": 2, "type": "VEC4" }
        ],
        "animations": [{
            "samplers": [{ "input": 0, "output": 1 }, { "input": 0, "output": 2 }],
            "channels": [
                { "sampler": 0, "target": { "node": 0, "path": "translation" } },
                { "sampler": 1, "target": { "node": 0, "path": "rotation" } }
            ]
        }]
    });
    std::fs::write(&path, text.to_string()).unwrap();
    let camera = read_camera(&path, 24.0).unwrap();
    assert_eq!((camera.name.as_str(), camera.frames.len()), ("shot", 25));
    let middle = camera.frames[12].camera;
    let (sin, cos) = std::f64::consts::FRAC_PI_4.sin_cos();
    let wanted = [2.0 + 2.0 * sin, 0.0, 2.0 * cos];
    let off = (0..3).map(|axis| (middle.place[axis] - wanted[axis]).abs()).fold(0.0, f64::max);
    assert!(off < 1e-6, "{:?}", middle.place);
}

/// glTF 2.0's own definition: `yfov` is the angle from the lower to the upper border; a node's matrix carries its −z to where the
/// camera looks. What is written is read back by the `gltf` crate's reader as any other file.
#[test]
fn a_solved_camera_comes_back_from_gltf_with_its_points_and_frames() {
    use veil_core::camera::{CameraAt, CameraFrame, Lens};
    use veil_core::solved::{SolvedCamera, SolvedPoint};
    let lens = Lens::Focal { focal_mm: 35.0, sensor_width_mm: 36.0 };
    let frame = |frame: i32| CameraFrame {
        frame,
        camera: CameraAt::standing([0.1 * f64::from(frame), 2.0, 3.0], [f64::from(frame), -5.0, 2.0], lens),
    };
    // Frames 7 and 8 are not known.
    let frames: Vec<CameraFrame> = [4, 5, 6, 9].map(frame).to_vec();
    let point = SolvedPoint { name: "sill".into(), place: [1.0, -2.0, 3.5], error: 0.21, fits: 0.75 };
    let solved = SolvedCamera {
        camera: Camera { name: "solved".into(), frames },
        frame_errors: vec![0.1, 0.2, 0.3, 0.4],
        points: vec![point],
    };
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("camera.gltf");
    let size = [1920.0, 1080.0];
    write_camera(&path, &solved, size, 25.0).unwrap();
    let back = read_solved(&path, 25.0).unwrap();
    assert_eq!((&back.frame_errors, &back.points), (&solved.frame_errors, &solved.points));
    for (own, read) in solved.camera.frames.iter().zip(&back.camera.frames) {
        assert_eq!(own.frame, read.frame);
        let world = [0.4, 1.2, -6.0];
        let [own, read] = [own, read].map(|one| one.camera.project(world, size).unwrap().0);
        assert!((own[0] - read[0]).hypot(own[1] - read[1]) < 0.01, "{own:?} {read:?}");
    }
    let text = std::fs::read_to_string(&path).unwrap();
    let angle =
        serde_json::from_str::<serde_json::Value>(&text).unwrap()["cameras"][0]["perspective"]["yfov"]
            .as_f64();
    let known = 2.0 * (18.0f64 * 1080.0 / 1920.0 / 35.0).atan();
    assert!((angle.unwrap() - known).abs() < 1e-9);
    // Any other camera has no points that it was solved from.
    let table = folder.path().join("other.csv");
    std::fs::write(&table, "frame,x,y,z,pan,tilt,roll,focal_mm,sensor_width_mm\n1,0,0,0,0,0,0,35,36\n")
        .unwrap();
    assert!(read_solved(&table, 25.0).is_err());
}

//! Checks of `figure`.

use veil_media::figure::{area, read};

fn written(text: &str) -> (tempfile::TempDir, std::path::PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("crest.svg");
    std::fs::write(&path, text).unwrap();
    (folder, path)
}

/// By the SVG 2 specification: groups move and fade what is in them, and by `evenodd` a square within a square is a hole
/// whichever way it winds.
#[test]
fn shapes_come_moved_coloured_and_with_their_holes() {
    let (_folder, path) = written(
        r##"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 50" width="200" height="100">
        <g transform="translate(10 0)" opacity="0.5"><path fill="#ff0000" fill-rule="evenodd" d="M0 0h40v40h-40z M10 10h20v20h-20z"/></g>
        <circle cx="70" cy="25" r="10" fill="none" stroke="white" stroke-width="2"/></svg>"##,
    );
    let figure = read(&path).unwrap();
    assert_eq!(figure.size, [200.0, 100.0]);
    assert_eq!(figure.shapes.len(), 2);
    let square = &figure.shapes[0];
    assert_eq!((square.colour, square.alpha), ([1.0, 0.0, 0.0], 0.5));
    let areas: Vec<f64> = square.outlines.iter().map(|outline| area(outline) / 2.0).collect();
    // Twice the size: 80 by 80 with a hole of 40 by 40.
    assert_eq!(areas, [6400.0, -1600.0]);
    assert_eq!(square.outlines[0][0].at, [20.0, 0.0]);
    assert_eq!(figure.shapes[1].outlines.len(), 2, "a ring");
}

#[test]
fn what_is_no_drawing_is_refused_by_name() {
    for text in ["no svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"9\" height=\"9\"/>", "<html/>"]
    {
        let (_folder, path) = written(text);
        let error = read(&path).unwrap_err().to_string();
        assert!(error.contains("crest.svg"), "{error}");
    }
}

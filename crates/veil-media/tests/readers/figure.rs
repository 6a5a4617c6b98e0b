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

fn nested(open: &str, close: &str, count: usize) -> String {
    format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"100\" height=\"100\">{}<rect width=\"9\" height=\"9\"/>{}</svg>",
        open.repeat(count),
        close.repeat(count)
    )
}

/// What goes deep, refers on and on, doubles, or is wider or finer than any picture: a figure or an error, soon and in
/// little memory.
#[test]
fn drawings_made_to_break_a_reader_give_a_figure_or_an_error() {
    let clips: String = (0..2000)
        .map(|at| {
            format!(
                "<clipPath id=\"c{at}\" clip-path=\"url(#c{})\"><rect width=\"9\" height=\"9\"/></clipPath>",
                at + 1
            )
        })
        .collect();
    let doubling: String = (1..40)
        .map(|at| format!("<g id=\"a{at}\"><use href=\"#a{0}\"/><use href=\"#a{0}\"/></g>", at - 1))
        .collect();
    let wide =
        "<path d=\"M0 0C10 20 30 5 90 90\" stroke=\"red\" stroke-width=\"1e20\" stroke-linejoin=\"round\"/>";
    let squares: String =
        (0..20_000).map(|at| format!("M{} {}h4v8h-4z", at % 200 * 5, at / 200 * 10)).collect();
    let fine: String = (0..500_000u64).map(|at| format!("L{} {}", at * 7919 % 1000, at)).collect();
    let read_text = |text: &str| {
        let (_folder, path) = written(text);
        read(&path)
    };
    assert!(read_text(&nested("<svg>", "</svg>", 1000)).is_ok());
    assert!(read_text(&nested("<g opacity=\"0.9\">", "</g>", 20_000)).is_err());
    assert!(read_text(&nested(&format!("<defs>{clips}</defs>"), "", 1)).is_ok());
    assert!(
        read_text(&nested(
            &format!("<defs><g id=\"a0\"><path d=\"M0 0h9v9z\"/></g>{doubling}</defs><use href=\"#a39\"/>"),
            "",
            1
        ))
        .is_err()
    );
    let stroke = &read_text(&nested(wide, "", 1)).unwrap().shapes[1].outlines;
    let farthest =
        stroke.iter().flatten().flat_map(|knot| knot.at).fold(0.0, |most: f64, at| most.max(at.abs()));
    assert!(
        (100.0..1000.0).contains(&farthest),
        "it covers all of 100 by 100, and no more than that needs: {farthest}"
    );
    let squares =
        read_text(&nested(&format!("<path fill-rule=\"evenodd\" d=\"{squares}\"/>"), "", 1)).unwrap();
    assert_eq!(squares.shapes[0].outlines.len(), 20_000);
    assert!(squares.shapes[0].outlines.iter().all(|outline| area(outline) > 0.0), "none lies within another");
    let error = read_text(&nested(&format!("<path d=\"M0 0{fine}\"/>"), "", 1)).unwrap_err().to_string();
    assert!(error.contains("points"), "{error}");
}

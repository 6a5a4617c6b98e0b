//! Checks of `track_table`.

use veil_core::setup::StageId;
use veil_core::track_table::*;
use veil_core::tracks::{Corners, Track, TrackId, TrackSample};

#[test]
fn a_table_gives_back_what_was_written_and_says_which_line_is_wrong() {
    let sample = |x: f64, corners| TrackSample {
        at: [x, 20.5],
        scale: 1.25,
        turn: -3.5,
        likeness: 0.875,
        corners,
        surface: None,
    };
    let region = Some([[1.0, 2.0], [9.0, 2.5], [9.5, 8.0], [0.5, 7.0]]);
    let of = |name: &str, corners: Option<Corners>| Track {
        samples: [(1001, sample(10.0, corners)), (1004, sample(-3.25, corners))].into(),
        ..Track::new(TrackId(4), name, StageId(2), 1001)
    };
    let tracks = [of("lantern, \"left\"", None), of("wall", region)];
    let text = written(&tracks).unwrap();
    let back = read(&text, StageId(2)).unwrap();
    for (one, other) in tracks.iter().zip(&back) {
        assert_eq!((&one.name, &one.samples), (&other.name, &other.samples));
    }
    let least = read(b"frame,track,y,x,by\n1001,a,2,1,me\n", StageId(2)).unwrap();
    assert_eq!((least[0].samples[&1001].at, least[0].samples[&1001].scale), ([1.0, 2.0], 1.0));

    let wrong = |text: &str| read(text.as_bytes(), StageId(2)).unwrap_err().to_string();
    assert!(wrong("track,frame,x,y\na,1001,1,2\na,1001,1,2\n").contains("line 3"));
    assert!(wrong("track,frame,x,y\na,1001,1,1e9\n").contains("line 2"));
    assert!(wrong("track,frame,x,y\na,1001,1,wide\n").contains("line: 2"));
    assert!(wrong("frame,x,y\n1001,1,2\n").contains("track"));
    assert!(wrong("track,frame,x,y\n").contains("no line"));
}

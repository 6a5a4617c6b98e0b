//! Checks of `sequence`.

use std::path::Path;
use std::time::{Duration, Instant};

use veil_core::setup::Frames;
use veil_media::{Pattern, ask_folder, grouped, scan};

#[test]
fn a_pattern_names_the_file_of_a_frame_and_prints_as_it_was_written() {
    let pattern: Pattern = "plates/yard.####.exr".parse().unwrap();
    assert_eq!(pattern.file(1001), "plates/yard.1001.exr");
    assert_eq!(pattern.file(7), "plates/yard.0007.exr");
    assert_eq!(pattern.file(12345), "plates/yard.12345.exr");
    assert_eq!(pattern.to_string(), "plates/yard.####.exr");
    assert!("a.##.b.##".parse::<Pattern>().is_err());
}

#[test]
fn a_folder_gives_its_sequences_with_their_gaps_and_its_stills() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::create_dir(folder.path().join("a")).unwrap();
    for name in
        ["a/yard.1001.exr", "a/yard.1002.exr", "a/yard.1005.exr", "still.png", "notes.txt", ".x.0001.exr"]
    {
        std::fs::write(folder.path().join(name), b"").unwrap();
    }
    let found = scan(folder.path()).unwrap();
    assert_eq!(found.len(), 2);
    assert_eq!(found[0].path, "a/yard.####.exr");
    assert_eq!(found[0].frames, Some(Frames { first: 1001, last: 1005 }));
    assert_eq!(found[0].missing, [Frames { first: 1003, last: 1004 }]);
    assert_eq!((found[1].path.as_str(), found[1].frames), ("still.png", None));
}

/// Two numbers two thousand million apart are no sequence of which nearly all is missing.
#[test]
fn files_whose_numbers_lie_far_apart_are_stills_and_wide_gaps_are_runs() {
    let found =
        grouped(["a.0000000001.png", "a.2000000000.png", "b.0001.png", "b.0101.png"].map(String::from));
    let paths: Vec<(&str, Option<Frames>)> =
        found.iter().map(|media| (media.path.as_str(), media.frames)).collect();
    let pair = Some(Frames { first: 1, last: 101 });
    assert_eq!(paths, [("a.0000000001.png", None), ("a.2000000000.png", None), ("b.####.png", pair)]);
    assert_eq!(found[2].missing, [Frames { first: 2, last: 100 }]);
}

/// A disk that does not answer is waited for once; what is asked of the same folder next is refused at once.
#[test]
fn a_folder_that_does_not_answer_is_left_alone() {
    let folder = Path::new("/nowhere/stalled");
    let ask = || {
        let begun = Instant::now();
        let given = ask_folder(folder, || {
            std::thread::sleep(Duration::from_secs(20));
            Ok(())
        });
        (given.unwrap_err().to_string(), begun.elapsed().as_secs())
    };
    let (first, waited) = ask();
    assert!(
        first.contains("has not answered for 8 s") && (7..15).contains(&waited),
        "{first} after {waited} s"
    );
    let (_, waited) = ask();
    assert!(waited < 4, "{waited} s");
    assert!(ask_folder(Path::new("/nowhere/else"), || Ok(())).is_ok());
}

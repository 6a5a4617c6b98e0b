//! Checks of `library`.

use veil_core::plates::Plates;
use veil_core::setup::Media;
use veil_media::FilePlates;
use veil_pixels::Cancel;

#[test]
fn a_path_that_climbs_out_is_refused() {
    let plates = FilePlates::new("/nowhere");
    let media = |path: &str| Media {
        id: veil_core::setup::MediaId(1),
        name: "x".into(),
        path: path.into(),
        frames: None,
        colour: veil_core::setup::ColourSpace::Linear,
        content: None,
    };
    for path in ["../secret.exr", "/etc/passwd", "a/../../b.png"] {
        let error = plates.domain(&media(path), 1, &Cancel::new()).unwrap_err();
        assert!(error.to_string().contains("leads out"), "{path}: {error}");
    }
}

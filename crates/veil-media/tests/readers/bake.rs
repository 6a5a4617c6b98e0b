//! Checks of `bake`.

use veil_core::bakes::{Baked, Bakes};
use veil_core::key::Key;
use veil_core::plates::Role;
use veil_core::signal::{Domain, Pixels, Signal, SignalKind};
use veil_media::BakeFolder;
use veil_pixels::{Cancel, Raster, Window};

/// The only file below a folder.
fn the_file_in(folder: &std::path::Path) -> std::path::PathBuf {
    let entry = std::fs::read_dir(folder).unwrap().next().unwrap().unwrap().path();
    if entry.is_dir() { the_file_in(&entry) } else { entry }
}

#[test]
fn what_is_kept_comes_back_and_what_was_not_used_for_longest_goes_first() {
    let folder = tempfile::tempdir().unwrap();
    let window = Window::new(-3, 2, 30, 20);
    let domain = Domain { display: Window::sized(24, 24), data: window };
    let field = |by: f32| Pixels::Field(Raster::from_fn(window, |x, y| (x * 3 + y) as f32 * by));
    let picture = Pixels::Picture(Raster::from_fn(window, |x, y| [x as f32, y as f32, 0.25, 1.0]));
    let hash = |number: u8| Key::of("bake").with(&number).hash();
    let kept = Signal { domain, pixels: picture };
    let passes = [(Role::Depth, Signal { domain, pixels: field(0.1) })];
    let bakes = BakeFolder::new(folder.path(), 1 << 30);
    bakes.keep(hash(1), &kept, &passes).unwrap();
    let read = |what| bakes.read(hash(1), what, &Cancel::new()).unwrap();
    assert_eq!(read(Baked::Result(SignalKind::Picture)), kept);
    assert_eq!(read(Baked::Pass(Role::Depth)), passes[0].1);
    assert!(bakes.read(hash(1), Baked::Pass(Role::Normal), &Cancel::new()).is_err());
    // Room for one of them alone.
    let size = std::fs::metadata(the_file_in(folder.path())).unwrap().len();
    let tight = BakeFolder::new(folder.path(), size * 3 / 2);
    tight.keep(hash(2), &kept, &passes).unwrap();
    assert_eq!((tight.has(hash(1)), tight.has(hash(2))), (false, true));
}

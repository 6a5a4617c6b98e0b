//! Cryptomattes read, and coverage worked out of them.

use veil_core::plates::{IdKind, Named, Plates, Things};
use veil_media::{About, Depth, FilePlates, Layer, LayerChannel, inspect, write_layers, write_whole};
use veil_pixels::colour::space::BT709;
use veil_pixels::key::cryptomatte::Id;
use veil_pixels::{Cancel, Raster, Window};

use crate::{fixtures, still};

/// Cryptomatte specification 1.2: a file may hold several, each with its layers of ranks, and a manifest in the header or
/// in a file beside it; coverage of an ID is the sum over its ranks.
#[test]
fn each_kind_of_cryptomatte_is_read_with_its_manifest_and_its_ranks_are_summed_exactly() {
    let folder = tempfile::tempdir().unwrap();
    let window = Window::sized(8, 4);
    let plane = |of: &dyn Fn(i32) -> f32| {
        let row: Vec<f32> = (0..8).map(of).collect();
        Raster::from_fn(window, |x, _| row[x as usize])
    };
    let kinds = [
        ("CryptoObject", "kiln", "yard"),
        ("crypto_material", "brick", "salt"),
        ("uCryptoAsset", "set", "prop"),
    ];
    let mut layers = Vec::new();
    for (number, (name, a, b)) in kinds.into_iter().enumerate() {
        let (first, second) = (Id::of(a).as_float(), Id::of(b).as_float());
        // In each column x the first thing covers x eighths, over ranks 0 and 2.
        let share = |x: i32| x as f32 / 8.0;
        let values: [&dyn Fn(i32) -> f32; 4] =
            [&|_| first, &|x| share(x) * 0.75, &|_| second, &|x| 1.0 - share(x)];
        let rest: [&dyn Fn(i32) -> f32; 4] = [&|_| first, &|x| share(x) * 0.25, &|_| 0.0, &|_| 0.0];
        let listed = serde_json::json!({ a: format!("{:08x}", Id::of(a).bits()), b: format!("{:08x}", Id::of(b).bits()) });
        let key = format!("cryptomatte/{number}abcdef");
        let manifest = if number == 1 {
            std::fs::write(folder.path().join("beside.json"), listed.to_string()).unwrap();
            (format!("{key}/manif_file"), "beside.json".to_owned())
        } else {
            (format!("{key}/manifest"), listed.to_string())
        };
        for (rank, values) in [values, rest].into_iter().enumerate() {
            let channels = ["R", "G", "B", "A"].into_iter().zip(values).map(|(channel, of)| LayerChannel {
                name: channel.into(),
                depth: Depth::Float,
                values: plane(of),
            });
            let texts = vec![(format!("{key}/name"), name.to_owned()), manifest.clone()];
            let name = format!("{name}{rank:02}");
            layers.push(Layer { name, data: window, channels: channels.collect(), texts });
        }
    }
    let path = folder.path().join("ids.exr");
    write_whole(&path, |out| write_layers(&path, About::still(window, BT709), layers, out)).unwrap();
    let plates = FilePlates::new(folder.path());
    for (kind, (_, a, b)) in [IdKind::Object, IdKind::Material, IdKind::Asset].into_iter().zip(kinds) {
        let media = still("ids.exr");
        let Things(named) = plates.things(&media, 0, kind).unwrap();
        let mut names: Vec<&str> = named.iter().map(|named| named.name.as_str()).collect();
        names.sort_unstable();
        let mut wanted = [a, b];
        wanted.sort_unstable();
        assert_eq!(names, wanted);
        let covered = plates.coverage(&media, 0, kind, &[Id::of(a)], 1, &Cancel::new()).unwrap();
        assert!((0..8).all(|x| covered.get(x, 2) == Some(x as f32 / 8.0)), "{kind:?}: {:?}", covered.row(2));
        let smaller = plates.coverage(&media, 0, kind, &[Id::of(a)], 2, &Cancel::new()).unwrap();
        assert_eq!(smaller.window(), Window::sized(4, 2));
        assert!((0..4).all(|x| smaller.get(x, 1) == Some((4 * x + 1) as f32 / 16.0)), "{:?}", smaller.row(1));
        let foremost = |x| plates.id_at(&media, 0, kind, [x, 2], &Cancel::new()).unwrap();
        assert_eq!([foremost(0), foremost(7), foremost(8)], [None, Some(Id::of(a)), None], "{kind:?}");
    }
    let found = inspect(&path).unwrap();
    assert_eq!(found.things.len(), 3);
    assert!(found.layers.iter().all(|layer| layer.ids.is_some()), "{:?}", found.layers);
}

/// Written by OpenImageIO, see `fixtures/cryptomatte.py`, which sums what it reads back as the specification says.
#[test]
fn coverage_of_a_cryptomatte_by_another_library_is_the_specifications_sum() {
    let known: serde_json::Value =
        serde_json::from_slice(&std::fs::read(fixtures().join("ids.json")).unwrap()).unwrap();
    for (file, sums) in [("ids.exr", "coverage"), ("ids_part.exr", "odd")] {
        is_the_specifications_sum(&known, file, sums);
    }
}

/// `sums` names those that are known of a file.
fn is_the_specifications_sum(known: &serde_json::Value, file: &str, sums: &str) {
    let (plates, media) = (FilePlates::new(fixtures()), still(file));
    let Things(things) = plates.things(&media, 0, IdKind::Object).unwrap();
    let listed = known["manifest"].as_object().unwrap();
    assert_eq!(things.len(), listed.len());
    for Named { name, id } in &things {
        assert_eq!(Id::of(name), *id, "{name}");
        assert_eq!(listed[name], format!("{:08x}", id.bits()));
    }
    for asked in known["asked"].as_array().unwrap() {
        let ids: Vec<Id> =
            asked["names"].as_array().unwrap().iter().map(|name| Id::of(name.as_str().unwrap())).collect();
        let wanted: Vec<f32> = asked[sums]
            .as_array()
            .unwrap()
            .iter()
            .map(|value| value.as_f64().unwrap().min(1.0) as f32)
            .collect();
        let covered = plates.coverage(&media, 0, IdKind::Object, &ids, 1, &Cancel::new()).unwrap();
        assert_eq!(covered.pixels(), wanted, "{file}: {}", asked["names"]);
    }
    let wild = things_named(&plates, &media, "gull_*");
    assert_eq!(wild, [Id::of("gull_é")], "{file}");
    let found = inspect(&fixtures().join(file)).unwrap();
    assert!(found.layers.iter().any(|layer| layer.ids == Some(IdKind::Object)), "{file}: {:?}", found.layers);
}

fn things_named(plates: &FilePlates, media: &veil_core::setup::Media, name: &str) -> Vec<Id> {
    plates.things(media, 0, IdKind::Object).unwrap().ids(&[name.to_owned()])
}

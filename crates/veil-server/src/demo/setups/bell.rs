//! SG050: a ring of pressure goes out from the bell that is struck.

use veil_core::feed::Ease;
use veil_core::setup::{MediaId, StageEntry, StageId};

use super::{PLATE, Parts, choice, keys, number, pair, plate, shown, tool, with};

pub(super) fn pressure_ring() -> Parts {
    let [ring, uneven, broken, push, bent] = [3, 4, 5, 6, 7].map(StageId);
    let rows = vec![
        plate(PLATE, "Plate", MediaId(1)),
        StageEntry::new(ring, "ring_wave", "ring")
            .with("centre", with(1))
            .with("radius", keys(Ease::Straight, &[(1012.0, 16.0), (1040.0, 800.0)]))
            .with("wavelength", number(58.0))
            .with("count", number(2.0))
            .with("loss", number(0.45)),
        StageEntry::new(uneven, "noise", "uneven air")
            .with("size", pair(80.0, 80.0))
            .with("octaves", number(2.0))
            .with("churn", number(0.06)),
        StageEntry::new(broken, "combine_fields", "ring in uneven air")
            .taking("main", ring)
            .taking("field2", uneven)
            .with("field2_meet", choice("multiply"))
            .with("field2_amount", number(0.5)),
        StageEntry::new(push, "push_map", "outward")
            .taking("main", broken)
            .with("way", choice("outward"))
            .with("centre", with(1))
            .with(
                "strength",
                keys(Ease::Smooth, &[(1011.0, 0.0), (1012.0, 24.0), (1026.0, 13.0), (1040.0, 0.0)]),
            ),
        StageEntry::new(bent, "displace", "bent air")
            .taking("main", PLATE)
            .taking("map", push)
            .with("softness", number(0.3)),
    ];
    let make = tool(
        "pressure ring",
        &[ring, uneven, broken, push, bent],
        &["picture"],
        vec![
            shown("centre", ring, "centre"),
            shown("pushes from", push, "centre"),
            shown("radius", ring, "radius"),
            shown("wavelength", ring, "wavelength"),
            shown("rings", ring, "count"),
            shown("strength", push, "strength"),
            shown("uneven", broken, "field2_amount"),
            shown("blur with move", bent, "softness"),
        ],
    );
    Parts::then(rows, vec![make])
}

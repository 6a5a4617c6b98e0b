//! Checks of `roles`.

use veil_core::plates::Role;
use veil_media::Aliases;
use veil_media::roles::{Group, KNOWN, PICTURE, split};

fn group(layer: &str, channels: &[&str]) -> Group {
    Group {
        part: 0,
        layer: layer.into(),
        channels: channels.iter().enumerate().map(|(index, name)| (index, (*name).to_owned())).collect(),
    }
}

#[test]
fn the_names_that_files_carry_lead_to_the_role() {
    for (layer, channels, role) in [
        ("", &["A", "B", "G", "R"][..], Some(Role::Beauty)),
        ("depth", &["Z"], Some(Role::Depth)),
        ("view.motion_vectors", &["X", "Y"], Some(Role::Motion)),
        ("P", &["X", "Y", "Z"], Some(Role::Position)),
        ("World Normal", &["R", "G", "B"], Some(Role::Normal)),
        ("hero.diffuse-direct", &["R", "G", "B"], Some(Role::Diffuse)),
        ("", &["X", "Y"], Some(Role::Motion)),
        ("crypto_object00", &["R", "G", "B", "A"], None),
        ("kiln_glass_07", &["R", "G", "B"], None),
    ] {
        assert_eq!(group(layer, channels).role(&Aliases::default()), role, "{layer}");
    }
    assert_eq!(group("", &["A", "B", "G", "R"]).channels_for(Role::Beauty), [3, 2, 1, 0].map(Some));
    assert_eq!(split("", "depth.Z"), ("depth".into(), "Z".into()));
    assert_eq!(split("", "Z"), ("Z".into(), "Z".into()));
    assert_eq!((split("", "u").0, split("", "v").0), ("uv".into(), "uv".into()));
}

#[test]
fn what_a_show_was_taught_stands_before_what_is_known() {
    let taught = Aliases::new([("Kiln_Glass_07", Role::Emission), ("z", Role::Shadow)]);
    assert_eq!(taught.role("beauty.kiln glass 07"), Some(Role::Emission));
    assert_eq!(taught.role("Z"), Some(Role::Shadow));
    assert_eq!(taught.role("depth"), Some(Role::Depth));
    assert_ne!(taught.print(), Aliases::default().print());
}

#[test]
fn no_name_is_listed_for_two_roles() {
    let mut all: Vec<&str> =
        KNOWN.iter().flat_map(|(_, names)| names.iter().copied()).chain(PICTURE).collect();
    let count = all.len();
    all.sort_unstable();
    all.dedup();
    assert_eq!(all.len(), count);
}

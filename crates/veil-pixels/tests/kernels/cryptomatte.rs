//! Checks of `cryptomatte`.

use veil_pixels::key::cryptomatte::*;

/// Published test vectors of MurmurHash3_x86_32.
#[test]
fn the_hash_gives_its_published_values() {
    let table: [(&str, u32, u32); 5] = [
        ("", 0, 0),
        ("", 1, 0x514e_28b7),
        ("hello", 0, 0x248b_fa47),
        ("hello, world", 0, 0x149b_bb7f),
        ("The quick brown fox jumps over the lazy dog", 0, 0x2e4f_f723),
    ];
    for (text, seed, hash) in table {
        assert_eq!(murmur3_32(text.as_bytes(), seed), hash, "{text:?}");
    }
}

/// Cryptomatte specification: a hash whose exponent is all 0 or all 1 has bit 23 flipped.
#[test]
fn no_name_gives_an_id_that_a_float_cannot_carry() {
    assert_eq!(Id::of("").bits(), 1 << 23);
    for number in 0..100_000 {
        let id = Id::of(&format!("object {number}"));
        assert!(id.as_float().is_normal(), "{number}");
    }
}

#[test]
fn coverage_sums_the_ranks_of_the_wanted_ids_alone() {
    let (kiln, yard, sky) = (Id::of("kiln"), Id::of("yard"), Id::of("sky"));
    let ranks = [([kiln, yard], [0.6, 1.0]), ([sky, sky], [0.3, 0.0])];
    let found = |wanted: &[Id]| {
        let mut covered = [0.0; 2];
        for (ids, shares) in ranks {
            add_rank(&mut covered, &ids.map(Id::as_float), &shares, wanted);
        }
        covered
    };
    assert_eq!(found(&[kiln]), [0.6, 0.0]);
    assert_eq!(found(&[kiln, sky]), [0.6 + 0.3, 0.0]);
    assert_eq!(found(&[yard]), [0.0, 1.0]);
}

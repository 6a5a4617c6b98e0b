//! Differences of bytes added up many at a time, as wide as this machine's registers are.
//!
//! Source: sums of all up to each by steps of one, two, four and so on: Hillis and Steele, "Data Parallel Algorithms", 1986.

/// Two runs of differences, to each of which 128 was added, become sums that go on from what was `before` them; a pair
/// takes its first byte from the one, its second from the other. Only so many are done as fill registers, and those before
/// all others; says how many pairs those are.
#[cfg(not(target_arch = "x86_64"))]
pub(crate) fn undo_runs(_: [&[u8]; 2], _: &mut [u8; 2], _: &mut [[u8; 2]]) -> usize {
    0
}

#[cfg(target_arch = "x86_64")]
pub(crate) use by_registers::undo_runs;

#[cfg(target_arch = "x86_64")]
mod by_registers {
    use core::arch::x86_64::*;

    use bytemuck::cast;
    use multiversion::multiversion;
    use multiversion::target::match_target;

    /// As said above, where this machine has registers of 32 or 64 bytes.
    #[multiversion(targets("x86_64+avx512f+avx512bw", "x86_64+avx2"))]
    pub(crate) fn undo_runs(halves: [&[u8]; 2], before: &mut [u8; 2], pairs: &mut [[u8; 2]]) -> usize {
        match_target! {
            "x86_64+avx512f+avx512bw" => by_64(halves, before, pairs),
            "x86_64+avx2" => by_32(halves, before, pairs),
            _ => {
                let _ = (halves, before, pairs);
                0
            }
        }
    }

    #[target_feature(enable = "avx512f,avx512bw")]
    #[inline]
    fn by_64([even, odd]: [&[u8]; 2], before: &mut [u8; 2], pairs: &mut [[u8; 2]]) -> usize {
        const WIDE: usize = 64;
        let (even, odd) = (even.as_chunks::<WIDE>().0, odd.as_chunks::<WIDE>().0);
        let runs = pairs.as_chunks_mut::<WIDE>().0;
        let count = runs.len().min(even.len()).min(odd.len());
        let mut so_far = before.map(|byte| _mm512_set1_epi8(byte.cast_signed()));
        for ((even, odd), run) in even.iter().zip(odd).zip(runs) {
            let even = summed_64(cast(*even), &mut so_far[0]);
            let odd = summed_64(cast(*odd), &mut so_far[1]);
            // Pairs of the lower and the upper half of each lane; then these lane by lane.
            let (low, high) = (_mm512_unpacklo_epi8(even, odd), _mm512_unpackhi_epi8(even, odd));
            let lanes =
                |order: [u64; 8]| -> [u8; WIDE] { cast(_mm512_permutex2var_epi64(low, cast(order), high)) };
            let (first, second) = run.as_flattened_mut().split_at_mut(WIDE);
            first.copy_from_slice(&lanes([0, 1, 8, 9, 2, 3, 10, 11]));
            second.copy_from_slice(&lanes([4, 5, 12, 13, 6, 7, 14, 15]));
        }
        *before = so_far.map(|all| cast::<__m512i, [u8; WIDE]>(all)[0]);
        count * WIDE
    }

    /// Differences added up, from what was there before them, which stands in all places of a register.
    #[target_feature(enable = "avx512f,avx512bw")]
    #[inline]
    fn summed_64(differences: __m512i, before: &mut __m512i) -> __m512i {
        // To flip the highest bit is to take 128 off.
        let one = _mm512_xor_si512(differences, _mm512_set1_epi8(i8::MIN));
        let two = _mm512_add_epi8(one, _mm512_bslli_epi128::<1>(one));
        let four = _mm512_add_epi8(two, _mm512_bslli_epi128::<2>(two));
        let eight = _mm512_add_epi8(four, _mm512_bslli_epi128::<4>(four));
        let sums = _mm512_add_epi8(eight, _mm512_bslli_epi128::<8>(eight));
        // The last sum of each of the four lanes, of all lanes up to each, and of those before it.
        let own = _mm512_shuffle_epi8(sums, _mm512_set1_epi8(15));
        let two = _mm512_add_epi8(own, _mm512_maskz_shuffle_i64x2::<0b10_01_00_00>(0b1111_1100, own, own));
        let all = _mm512_add_epi8(two, _mm512_maskz_shuffle_i64x2::<0b01_00_00_00>(0b1111_0000, two, two));
        let made = _mm512_add_epi8(_mm512_add_epi8(sums, _mm512_sub_epi8(all, own)), *before);
        *before = _mm512_add_epi8(*before, _mm512_shuffle_i64x2::<0b11_11_11_11>(all, all));
        made
    }

    #[target_feature(enable = "avx2")]
    #[inline]
    fn by_32([even, odd]: [&[u8]; 2], before: &mut [u8; 2], pairs: &mut [[u8; 2]]) -> usize {
        const WIDE: usize = 32;
        let (even, odd) = (even.as_chunks::<WIDE>().0, odd.as_chunks::<WIDE>().0);
        let runs = pairs.as_chunks_mut::<WIDE>().0;
        let count = runs.len().min(even.len()).min(odd.len());
        let mut so_far = before.map(|byte| _mm256_set1_epi8(byte.cast_signed()));
        for ((even, odd), run) in even.iter().zip(odd).zip(runs) {
            let even = summed_32(cast(*even), &mut so_far[0]);
            let odd = summed_32(cast(*odd), &mut so_far[1]);
            let (low, high) = (_mm256_unpacklo_epi8(even, odd), _mm256_unpackhi_epi8(even, odd));
            let (first, second) = run.as_flattened_mut().split_at_mut(WIDE);
            let lanes = |both: __m256i| -> [u8; WIDE] { cast(both) };
            first.copy_from_slice(&lanes(_mm256_permute2x128_si256::<0x20>(low, high)));
            second.copy_from_slice(&lanes(_mm256_permute2x128_si256::<0x31>(low, high)));
        }
        *before = so_far.map(|all| cast::<__m256i, [u8; WIDE]>(all)[0]);
        count * WIDE
    }

    /// As [`summed_64`], of two lanes.
    #[target_feature(enable = "avx2")]
    #[inline]
    fn summed_32(differences: __m256i, before: &mut __m256i) -> __m256i {
        let one = _mm256_xor_si256(differences, _mm256_set1_epi8(i8::MIN));
        let two = _mm256_add_epi8(one, _mm256_bslli_epi128::<1>(one));
        let four = _mm256_add_epi8(two, _mm256_bslli_epi128::<2>(two));
        let eight = _mm256_add_epi8(four, _mm256_bslli_epi128::<4>(four));
        let sums = _mm256_add_epi8(eight, _mm256_bslli_epi128::<8>(eight));
        let own = _mm256_shuffle_epi8(sums, _mm256_set1_epi8(15));
        // Nothing for the first lane, the first one's for the second.
        let earlier = _mm256_permute2x128_si256::<0x08>(own, own);
        let made = _mm256_add_epi8(_mm256_add_epi8(sums, earlier), *before);
        let all = _mm256_add_epi8(own, earlier);
        *before = _mm256_add_epi8(*before, _mm256_permute2x128_si256::<0x11>(all, all));
        made
    }

    #[cfg(test)]
    mod tests {
        use proptest::prelude::*;

        use super::*;

        /// One byte after the other.
        fn plainly(halves: [&[u8]; 2], mut before: [u8; 2]) -> (Vec<[u8; 2]>, [u8; 2]) {
            let sums = halves[0].iter().zip(halves[1]).map(|(even, odd)| {
                before[0] = before[0].wrapping_add(*even).wrapping_sub(128);
                before[1] = before[1].wrapping_add(*odd).wrapping_sub(128);
                before
            });
            (sums.collect(), before)
        }

        proptest! {
            #[test]
            fn registers_of_any_width_give_what_single_bytes_do(
                bytes in proptest::collection::vec(any::<[u8; 2]>(), 0..400),
                before: [u8; 2],
            ) {
                let halves = [0, 1].map(|half| bytes.iter().map(|pair| pair[half]).collect::<Vec<u8>>());
                let halves = [halves[0].as_slice(), halves[1].as_slice()];
                let mut ways: Vec<fn([&[u8]; 2], &mut [u8; 2], &mut [[u8; 2]]) -> usize> = vec![undo_runs];
                if is_x86_feature_detected!("avx2") {
                    #[multiversion(targets("x86_64+avx2"))]
                    fn narrow(halves: [&[u8]; 2], before: &mut [u8; 2], pairs: &mut [[u8; 2]]) -> usize {
                        match_target! {
                            "x86_64+avx2" => by_32(halves, before, pairs),
                            _ => { let _ = (halves, before, pairs); 0 }
                        }
                    }
                    ways.push(narrow);
                }
                for way in ways {
                    let (mut last, mut made) = (before, vec![[0; 2]; bytes.len()]);
                    let done = way(halves, &mut last, &mut made);
                    let (expected, left) = plainly(halves.map(|half| &half[..done]), before);
                    prop_assert_eq!(&made[..done], expected.as_slice());
                    prop_assert_eq!(last, left);
                }
            }
        }
    }
}

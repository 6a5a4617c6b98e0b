//! Checks of `clean`.

use proptest::prelude::*;
use veil_pixels::clean::{Level, Stack};
use veil_pixels::{Cancel, Field, Picture, Raster, Window};

const WINDOW: Window = Window::new(-3, 5, 93, 69);

/// Made up: light of three colours between 0.1 and 0.9.
fn place(x: i32, y: i32) -> [f32; 4] {
    let wave = |a: f32, b: f32| 0.5 + 0.4 * ((x as f32 * a).sin() * (y as f32 * b).cos());
    [wave(0.31, 0.17), wave(0.11, 0.23), wave(0.07, 0.41), 1.0]
}

/// Made up: a bright body that covers a third of the picture, elsewhere in each frame, and how bright each frame is.
fn frames(count: usize, drift: f32) -> (Vec<Picture>, Vec<Field>, Vec<Level>) {
    let levels: Vec<Level> = (0..count)
        .map(|number| {
            let far = number as f32 / (count - 1) as f32;
            Level {
                gain: [1.0 + drift * far, 1.0 + drift * far * 0.5, 1.0],
                offset: [0.0, 0.4, -0.2].map(|by| by * drift * far),
            }
        })
        .collect();
    let body = |number: usize, x: i32| {
        let first = WINDOW.x0 + (number * 40 % 96) as i32;
        (x - first).rem_euclid(96) < 32
    };
    let picture = |(number, level): (usize, &Level)| {
        Picture::from_fn(WINDOW, |x, y| {
            if body(number, x) {
                return [2.0, 1.5 - 0.01 * y as f32, 0.3, 1.0];
            }
            let [red, green, blue, _] = place(x, y);
            let [red, green, blue] = level.apply([red, green, blue]);
            [red, green, blue, 1.0]
        })
    };
    let pictures = levels.iter().enumerate().map(picture).collect();
    let left_out =
        (0..count).map(|number| Field::from_fn(WINDOW, |x, _| f32::from(body(number, x)))).collect();
    (pictures, left_out, levels)
}

fn stack(pictures: &[Picture], left_out: Option<&[Field]>) -> Stack {
    let mut stack = Stack::new(WINDOW);
    for (number, picture) in pictures.iter().enumerate() {
        stack.lay(picture, left_out.map(|all| &all[number]), &Cancel::new()).unwrap();
    }
    stack
}

fn off(made: &Picture, wanted: impl Fn(i32, i32) -> [f32; 4]) -> f32 {
    let all = WINDOW.rows().flat_map(|y| (WINDOW.x0..WINDOW.x1).map(move |x| [x, y]));
    all.fold(0.0, |most, [x, y]| {
        let (own, wanted) = (made.get(x, y).unwrap(), wanted(x, y));
        (0..4).fold(most, |most: f32, channel| most.max((own[channel] - wanted[channel]).abs()))
    })
}

/// Half floats are off by 1/2048 of a value at most.
const HALF: f32 = 1.0 / 2048.0;

#[test]
fn what_is_covered_now_and_then_is_seen() {
    let (pictures, left_out, _) = frames(12, 0.0);
    let cancel = Cancel::new();
    for left_out in [Some(&left_out[..]), None] {
        let stack = stack(&pictures, left_out);
        let made = stack.median(&[Level::NONE; 12], &cancel).unwrap();
        assert!(off(&made, place) < HALF, "{}", off(&made, place));
    }
}

/// With a third covered at any time, by its matte or told from what the others see.
#[test]
fn brightness_that_drifts_is_found_and_taken_out() {
    let (pictures, left_out, levels) = frames(12, 0.05);
    let cancel = Cancel::new();
    for left_out in [Some(&left_out[..]), None] {
        let stack = stack(&pictures, left_out);
        let found = stack.levels(0, &cancel).unwrap();
        for (found, level) in found.iter().zip(&levels) {
            let back = found.apply(level.apply([0.2, 0.5, 0.8]));
            for (own, wanted) in back.into_iter().zip([0.2, 0.5, 0.8]) {
                assert!((own - wanted).abs() < 2e-3, "{own} for {wanted}");
            }
        }
        let made = stack.median(&found, &cancel).unwrap();
        assert!(off(&made, place) < 3e-3, "{}", off(&made, place));
    }
}

#[test]
fn what_is_never_seen_is_nothing() {
    let (pictures, _, _) = frames(3, 0.0);
    let never = Field::from_fn(WINDOW, |x, y| f32::from(x < 10 && y < 30));
    let made = stack(&pictures, Some(&vec![never; 3])).median(&[Level::NONE; 3], &Cancel::new()).unwrap();
    assert_eq!(made.get(9, 29), Some([0.0; 4]));
    assert_eq!(made.get(10, 29).unwrap()[3], 1.0);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// By hand: of layers of one value each the first of the order that is seen.
    #[test]
    fn the_first_seen_is_that_of_the_order(order in Just(vec![0usize, 1, 2, 3]).prop_shuffle(), covered in prop::collection::vec(any::<bool>(), 4)) {
        let window = Window::sized(4, 2);
        let mut stack = Stack::new(window);
        for (value, covered) in [0.25, 0.5, 1.0, 2.0].into_iter().zip(&covered) {
            let picture = Raster::flat(window, [value, value, value, 1.0]);
            let left_out = Field::flat(window, f32::from(*covered));
            stack.lay(&picture, Some(&left_out), &Cancel::new()).unwrap();
        }
        let made = stack.first_seen(&order, &[Level::NONE; 4], &Cancel::new()).unwrap();
        let wanted = order.iter().find(|at| !covered[**at]).map(|at| [0.25, 0.5, 1.0, 2.0][*at]);
        prop_assert_eq!(made.get(1, 1).unwrap()[0], wanted.unwrap_or(0.0));
    }
}

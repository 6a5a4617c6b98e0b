//! Checks of `flow`.

use proptest::prelude::*;
use veil_pixels::blend::mix::mix;
use veil_pixels::flow::agree::agreement;
use veil_pixels::flow::go_on::gone_on;
use veil_pixels::flow::midway::Motion;
use veil_pixels::flow::{Fineness, flow};
use veil_pixels::sample::resample::Filter;
use veil_pixels::{Cancel, Field, Map, Raster, Window};

/// Forty waves of 6 to 90 pixels each way: what is seen is known between pixels.
fn texture(x: f32, y: f32) -> f32 {
    let wave = |number: i32| {
        let turn = number as f32 * 2.399_963;
        let fine = std::f32::consts::TAU / (6.0 * 1.07f32.powi(number));
        (fine * (x * turn.cos() + y * turn.sin()) + 3.7 * number as f32).sin() * 1.05f32.powi(number)
    };
    128.0 + 3.0 * (0..40).map(wave).sum::<f32>()
}

/// What is seen at a place of the first picture, `moved` of it in the second.
fn pictures(window: Window, back: impl Fn(f32, f32) -> [f32; 2] + Sync) -> [Field; 2] {
    let second = |x: i32, y: i32| {
        let [x, y] = back(x as f32, y as f32);
        texture(x, y)
    };
    [Raster::from_fn(window, |x, y| texture(x as f32, y as f32)), Raster::from_fn(window, second)]
}

fn found([from, other]: &[Field; 2]) -> Map {
    flow(from, other, Fineness::Fine, &Cancel::new()).unwrap()
}

/// Mean length of what the moves are off by.
fn mean_off(moves: &Map, window: Window, truth: impl Fn(f32, f32) -> [f32; 2]) -> f32 {
    let places = (window.y0..window.y1).flat_map(|y| (window.x0..window.x1).map(move |x| (x, y)));
    let off = places.map(|(x, y)| {
        let ([u, v], [right, down]) = (moves.get(x, y).unwrap(), truth(x as f32, y as f32));
        (u - right).hypot(v - down)
    });
    off.sum::<f32>() / window.area() as f32
}

#[test]
fn what_stays_is_not_moved_at_all() {
    let window = Window::new(-30, 12, 171, 143);
    let still = pictures(window, |x, y| [x, y]);
    assert_eq!(found(&still), Raster::clear(window));
}

/// Sought quickly, how far something goes is told to a tenth of a pixel, though its edges are softer.
#[test]
fn a_quick_look_tells_how_far_something_goes() {
    let window = Window::new(40, -20, 680, 380);
    let [from, other] = pictures(window, |x, y| [x - 9.3, y + 4.6]);
    let moves = flow(&from, &other, Fineness::Quick, &Cancel::new()).unwrap();
    let inner = mean_off(&moves, window.grow(-30, -30), |_, _| [9.3, -4.6]);
    assert!(inner < 0.1, "{inner}");
}

/// A move beyond the patches' own size, of no whole pixels, where it leads out of the picture too.
#[test]
fn a_shift_is_found_to_a_fraction_of_a_pixel() {
    let window = Window::new(40, -20, 360, 200);
    let shifted = pictures(window, |x, y| [x - 21.3, y + 9.6]);
    let moves = found(&shifted);
    let whole = mean_off(&moves, window, |_, _| [21.3, -9.6]);
    let inner = mean_off(&moves, window.grow(-30, -30), |_, _| [21.3, -9.6]);
    assert!(inner < 0.03 && whole < 0.15, "{inner}, {whole} with the border");
}

/// By hand: a turn by `a` and a growth by `s` about a centre move a place to `c + s·R(a)(p − c)`, and back by its inverse.
#[test]
fn a_turn_with_a_growth_is_found_and_more_light_does_not_matter() {
    let window = Window::sized(320, 240);
    let (angle, growth, centre) = (0.06f32, 1.05f32, [150.0f32, 130.0]);
    let turned = |[x, y]: [f32; 2], angle: f32, growth: f32| {
        let (x, y) = (x - centre[0], y - centre[1]);
        let (sin, cos) = angle.sin_cos();
        [centre[0] + growth * (x * cos - y * sin), centre[1] + growth * (x * sin + y * cos)]
    };
    let truth = |x: f32, y: f32| {
        let [to_x, to_y] = turned([x, y], angle, growth);
        [to_x - x, to_y - y]
    };
    let [from, other] = pictures(window, |x, y| turned([x, y], -angle, 1.0 / growth));
    let inner = window.grow(-24, -24);
    let plain = mean_off(&found(&[from.clone(), other.clone()]), inner, truth);
    let brighter = other.map(&Cancel::new(), |value| value + 14.0).unwrap();
    let lit = mean_off(&found(&[from, brighter]), inner, truth);
    assert!(plain < 0.06 && lit < 0.1, "{plain}, {lit} with more light");
}

#[test]
fn any_number_of_threads_finds_the_same() {
    let bent =
        pictures(Window::sized(230, 190), |x, y| [x + 6.0 * (y * 0.03).sin(), y - 4.0 * (x * 0.04).cos()]);
    let on = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
        pool.install(|| found(&bent))
    };
    assert_eq!(on(1), on(3));
}

/// A square that goes 12 pixels right covers a strip on its right that is nowhere in the second picture.
#[test]
fn what_becomes_covered_is_not_sure_and_the_rest_is() {
    let (window, far) = (BESIDE, 12);
    let square = SQUARE;
    let (first, second) = (with_square(0.0), with_square(far as f32));
    let cancel = Cancel::new();
    let (forth, back) = (
        flow(&first, &second, Fineness::Fine, &cancel).unwrap(),
        flow(&second, &first, Fineness::Fine, &cancel).unwrap(),
    );
    let sure = agreement(&forth, &back, &cancel).unwrap();
    let mean = |part: Window| {
        mean_off(&Raster::from_fn(window, |x, y| [sure.get(x, y).unwrap(), 0.0]), part, |_, _| [0.0; 2])
    };
    let covered = mean(Window::new(square.x1 + 2, square.y0 + 8, square.x1 + far - 2, square.y1 - 8));
    let (within, beside) = (mean(square.grow(-12, -12)), mean(Window::new(10, 10, 60, 190)));
    assert!(covered < 0.2 && within > 0.95 && beside > 0.95, "{covered}, {within}, {beside}");
}

const BESIDE: Window = Window::sized(260, 200);
const SQUARE: Window = Window::new(80, 60, 170, 140);

/// A square of another texture that has gone to the right over one that stays.
fn with_square(by: f32) -> Field {
    Raster::from_fn(BESIDE, move |x, y| {
        let own = x as f32 - by;
        if (SQUARE.x0 as f32..SQUARE.x1 as f32).contains(&own) && (SQUARE.y0..SQUARE.y1).contains(&y) {
            texture(own * 1.3 + 900.0, y as f32 * 1.3)
        } else {
            texture(x as f32, y as f32)
        }
    })
}

/// Half way, the square has gone half as far, and what it uncovers and covers is what lies there; a blend of both pictures shows
/// the square twice.
#[test]
fn between_two_pictures_what_moves_is_half_way_and_what_comes_into_sight_is_there() {
    let (first, second, wanted) = (with_square(0.0), with_square(12.0), with_square(6.0));
    let cancel = Cancel::new();
    let (forth, back) = (
        flow(&first, &second, Fineness::Fine, &cancel).unwrap(),
        flow(&second, &first, Fineness::Fine, &cancel).unwrap(),
    );
    let motion = Motion { forth: &forth, back: &back };
    let found = motion.midway([&first, &second], 0.5, Filter::Cubic, BESIDE, &cancel).unwrap();
    let off = |made: &Field, part: Window| {
        let over = |one: &Field| one.cropped(part).pixels().to_vec();
        over(made).iter().zip(over(&wanted)).map(|(a, b)| (a - b).abs()).sum::<f32>() / part.area() as f32
    };
    let blended = mix(&first, &second, 0.5, None, &cancel).unwrap();
    let (square, inside) = (SQUARE, Window::new(SQUARE.x0 + 14, SQUARE.y0 + 8, SQUARE.x1 - 2, SQUARE.y1 - 8));
    // What only one of both shows: to the left of the square it comes into sight, to the right it is about to be covered.
    let uncovered = Window::new(square.x0, square.y0 + 8, square.x0 + 4, square.y1 - 8);
    let covered = Window::new(square.x1 + 8, square.y0 + 8, square.x1 + 12, square.y1 - 8);
    for (part, most) in [(inside, 0.1), (uncovered, 0.5), (covered, 0.5), (BESIDE.grow(-8, -8), 0.15)] {
        let (own, both) = (off(&found, part), off(&blended, part));
        assert!(own < most * both, "{own} where a blend is {both} off, over {part:?}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Windows of all sizes, pictures of all noise: every move is a number and none leads farther than there are pixels.
    #[test]
    fn every_move_is_a_number(w in 1u32..70, h in 1u32..70, seed in 0i32..10_000, flat in any::<bool>()) {
        let window = Window::sized(w, h);
        let noise = |salt: i32| Raster::from_fn(window, move |x, y| {
            if flat { 40.0 } else { ((x * 7919 + y * 104_729 + salt * 31) % 256) as f32 }
        });
        let moves = found(&[noise(seed), noise(seed * 7 + 3)]);
        prop_assert_eq!(moves.window(), window);
        let most = (w + h) as f32;
        prop_assert!(moves.pixels().as_flattened().iter().all(|way| way.abs() <= most));
    }
}

/// By hand: a turn with growth, and a bump that dies away, known but for a hole at the border and for one part that moves by
/// itself. What all have in common goes on exactly, what is known stays.
#[test]
fn motion_goes_on_where_it_is_not_known() {
    let window = Window::new(-10, 4, 110, 84);
    let common =
        |x: i32, y: i32| [3.0 + 0.02 * x as f32 - 0.05 * y as f32, -1.0 + 0.05 * x as f32 + 0.02 * y as f32];
    let unknown = Field::from_fn(window, |x, y| f32::from(x < 30 && (20..60).contains(&y)));
    let alone = |x: i32, y: i32| x > 90 && y > 70;
    let moves = Map::from_fn(window, |x, y| {
        let [right, down] = common(x, y);
        if unknown.get(x, y) == Some(1.0) {
            [99.0, -99.0]
        } else if alone(x, y) {
            [right + 20.0, down]
        } else {
            [right, down]
        }
    });
    let made = gone_on(&moves, &unknown, &Cancel::new()).unwrap();
    for y in window.rows() {
        for x in window.x0..window.x1 {
            let (own, known) = (made.get(x, y).unwrap(), moves.get(x, y).unwrap());
            let wanted = if unknown.get(x, y) == Some(1.0) { common(x, y) } else { known };
            assert!(
                (0..2).all(|axis| (own[axis] - wanted[axis]).abs() < 0.02),
                "{x} {y}: {own:?} for {wanted:?}"
            );
        }
    }
}

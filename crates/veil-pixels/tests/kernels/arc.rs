//! Checks of `arc`.

use veil_pixels::shape::arc::*;
use veil_pixels::shape::strokes::{Stroke, Strokes};
use veil_pixels::{Cancel, Window};

fn arc() -> Arc {
    Arc {
        through: vec![[60.0, 200.0], [740.0, 180.0]],
        roughness: 0.15,
        detail: 4.0,
        seed: 5,
        depth: 0.3,
        width: 3.0,
        taper: 0.5,
        softness: 0.0,
        light: 1.0,
        branches: Branches { count: 8, reach: 0.5, spread: 0.5, decay: 0.6, generations: 2 },
    }
}

/// However rough it is, every place along the way is lit: no gap, where a bent bar would break into islands.
#[test]
fn no_strength_breaks_the_way() {
    for roughness in [0.0, 0.2, 0.6, 2.0] {
        let arc = Arc { roughness, width: 1.0, taper: 1.0, ..arc() };
        let strokes = arc.strokes(1.0);
        let field =
            Strokes::new(&strokes, 0.0).over(Window::new(-400, -600, 1200, 1000), &Cancel::new()).unwrap();
        for pair in strokes[0].windows(2) {
            let ([ax, ay], [bx, by]) = (pair[0].at, pair[1].at);
            let steps = (2.0 * (bx - ax).hypot(by - ay)).ceil() as i32 + 1;
            for step in 0..=steps {
                let share = step as f32 / steps as f32;
                let at = [ax + (bx - ax) * share, ay + (by - ay) * share].map(|along| along.floor() as i32);
                let Some(light) = field.get(at[0], at[1]) else { continue };
                assert!(light > 0.25, "dark at {at:?} with roughness {roughness}: {light}");
            }
        }
    }
}

#[test]
fn it_ends_where_it_should_crawls_with_depth_and_leaps_with_the_seed() {
    let main = |arc: &Arc| arc.strokes(1.0).swap_remove(0);
    let (here, through) = (main(&arc()), arc().through);
    let ends = [here[0].at, here[here.len() - 1].at];
    assert_eq!(ends.map(|end| end.map(f64::from)), [through[0], through[1]]);
    let away = |other: &Stroke| {
        let far = here.iter().zip(other).map(|(a, b)| (a.at[0] - b.at[0]).hypot(a.at[1] - b.at[1]));
        far.sum::<f32>() / here.len() as f32
    };
    let crawled = away(&main(&Arc { depth: 0.32, ..arc() }));
    let leapt = away(&main(&Arc { seed: 6, ..arc() }));
    assert!(crawled > 0.1 && crawled < 6.0 && leapt > 15.0, "{crawled} {leapt}");
    // By generation thinner and darker.
    let strokes = arc().strokes(1.0);
    assert!(strokes.len() > 8);
    let lights: Vec<f32> = strokes.iter().map(|stroke| stroke[0].light).collect();
    assert!(lights.windows(2).all(|pair| pair[1] <= pair[0]) && lights[1] == 0.6);
    assert!(strokes.iter().skip(1).all(|stroke| stroke[0].width <= 3.0 * 0.6));
}

/// However wide it is and however many branches are asked for, it covers no more than the bound, and one branch.
#[test]
fn a_wide_and_much_branched_arc_ends() {
    let branches = Branches { count: 40, reach: 4.0, spread: 1.0, decay: 1.0, generations: 4 };
    let arc = Arc { width: 2000.0, softness: 2000.0, roughness: 10.0, detail: 0.5, branches, ..arc() };
    let strokes = arc.strokes(1.0);
    let pieces: usize = strokes.iter().map(|stroke| stroke.len() - 1).sum();
    assert!(strokes.len() < 40 && pieces < 2000, "{} strokes of {pieces} pieces", strokes.len());
    assert!(Arc { branches: Branches { count: 0, ..branches }, ..arc }.strokes(1.0).len() == 1);
}

/// A proxy draws the same way, smaller.
#[test]
fn half_the_size_is_half_the_way() {
    let (full, half) = (arc().strokes(1.0), arc().strokes(2.0));
    assert!(
        full.iter().flatten().zip(half.iter().flatten()).all(|(a, b)| {
            (a.at[0] - 2.0 * b.at[0]).abs() < 1e-3 && (a.width - 2.0 * b.width).abs() < 1e-4
        })
    );
    assert!(Arc { through: vec![[1.0, 1.0]], ..arc() }.strokes(1.0).is_empty());
}

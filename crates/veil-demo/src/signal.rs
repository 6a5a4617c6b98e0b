//! The pattern of the signal glass: coloured panes in lead, letters, and cracks from a blow.

use glam::Vec2;
use glam::Vec3;

use crate::random::{noise, octaves};

/// Half the width and height of the pane, in metres.
pub(crate) const HALF: [f32; 2] = [0.88, 0.5];

/// Where the blow fell, and the turns of the cracks that run out from it, in shares of a circle.
const BLOW: Vec2 = Vec2::new(0.36, 0.14);
const CRACKS: [f32; 9] = [0.03, 0.12, 0.24, 0.33, 0.47, 0.55, 0.7, 0.81, 0.92];
/// Half the width of the lead, and of a letter's stroke, in metres.
const LEAD: f32 = 0.007;
const STROKE: f32 = 0.0135;

const AMBER: Vec3 = Vec3::new(1.9, 0.82, 0.14);
const SEA: Vec3 = Vec3::new(0.10, 0.62, 0.56);
const SALT: Vec3 = Vec3::new(0.86, 0.82, 0.68);
const WINE: Vec3 = Vec3::new(0.62, 0.075, 0.07);
const INDIGO: Vec3 = Vec3::new(0.07, 0.11, 0.4);

/// Light that comes through at a place, from the middle of the pane, for a light of 1 behind it.
pub(crate) fn light_through(place: Vec3) -> Vec3 {
    let at = Vec2::new(place.x, place.y);
    let (shard, crack) = shard(at);
    // Each shard has settled a little, so that the pattern is broken at the cracks.
    let settled = Vec2::new(noise(Vec3::new(shard, 0.5, 0.5), 187), noise(Vec3::new(shard, 4.5, 0.5), 187));
    let (glass, lead) = panes(at + settled * 0.011);
    let streak = octaves(Vec3::new(at.x * 9.0, at.y * 34.0, 0.4), 4, 189);
    let seed = ((noise(Vec3::new(at.x * 90.0, at.y * 60.0, 0.7), 191) - 0.62) * 7.0).clamp(0.0, 1.0);
    // The lamp stands low behind the pane.
    let lamp = 0.35 + 1.1 * (-(at - Vec2::new(0.08, -0.1)).length_squared() * 3.4).exp();
    let through = glass * (1.0 + 0.32 * streak + 0.4 * seed) * lamp * (1.0 - lead);
    through * (1.0 - 0.75 * crack) + Vec3::new(0.34, 0.38, 0.4) * crack * lamp * 0.5
}

/// Which shard a place is of, and how much of a crack it is.
fn shard(at: Vec2) -> (f32, f32) {
    let from = at - BLOW;
    let (distance, jag) = (from.length(), octaves(Vec3::new(at.x * 7.0, at.y * 7.0, 0.5), 3, 193));
    let turn =
        (from.y.atan2(from.x) / std::f32::consts::TAU + 0.5 + 0.014 * jag / (0.1 + distance)).rem_euclid(1.0);
    let spoke = CRACKS.iter().filter(|crack| **crack < turn).count() % CRACKS.len();
    let apart = CRACKS.iter().map(|crack| (turn - crack).abs().min(1.0 - (turn - crack).abs()));
    let beside = apart.fold(1.0, f32::min) * std::f32::consts::TAU * distance;
    // Rings break off near the blow, each between two spokes at its own distance.
    let own = 0.1 + 0.05 * noise(Vec3::new(spoke as f32 * 1.7, 0.5, 0.5), 195) + 0.02 * jag;
    let inner = if distance < own { 20.0 } else { 0.0 };
    let line = |off: f32| (1.0 - off / 0.0028).clamp(0.0, 1.0);
    let ends = if spoke.is_multiple_of(3) { 0.62 } else { 2.0 };
    let radial = if distance < ends { line(beside) } else { 0.0 };
    (spoke as f32 + inner, radial.max(line((distance - own).abs())))
}

/// The glass at a place, and how much of it is lead.
fn panes(at: Vec2) -> (Vec3, f32) {
    let sun = at - Vec2::new(0.0, 0.09);
    let (distance, turn) = (sun.length(), sun.y.atan2(sun.x) / std::f32::consts::TAU + 0.5);
    let lead = |off: f32| (1.0 - (off.abs() - LEAD) / 0.003).clamp(0.0, 1.0);
    let border = (HALF[0] - at.x.abs()).min(HALF[1] - at.y.abs());
    if border < 0.075 {
        let along = if HALF[1] - at.y.abs() < HALF[0] - at.x.abs() { at.x } else { at.y };
        let cell = (along / 0.125).floor();
        let edge = (0.5 - (along / 0.125 - cell - 0.5).abs()) * 0.125;
        let glass = if cell.rem_euclid(2.0) < 0.5 { WINE } else { INDIGO };
        return (own(glass, cell + at.x.signum() * 31.0), lead(edge).max(lead(border - 0.075)));
    }
    let board = (at.y + 0.25).abs() - 0.125;
    if board < 0.0 {
        let letter = (1.0 - (letters(at - Vec2::new(0.0, -0.25)) - STROKE) / 0.003).clamp(0.0, 1.0);
        return (SALT.lerp(INDIGO * 0.4, letter), lead(board));
    }
    let edge = lead(board).max(lead(border - 0.075));
    if distance < 0.15 {
        return (own(AMBER, 3.0), edge.max(lead(distance - 0.15)).max(lead(distance - 0.075)));
    }
    let rays = 14.0;
    let ray = (turn * rays).floor();
    let beside = 0.5 - (turn * rays - ray - 0.5).abs();
    let side = beside / rays * std::f32::consts::TAU * distance;
    let band = if distance < 0.27 { 0.0 } else { 1.0 };
    let glass = if (ray + band).rem_euclid(2.0) < 0.5 { SEA } else { AMBER * 0.55 };
    (own(glass, ray * 2.0 + band), edge.max(lead(side)).max(lead(distance - 0.27)).max(lead(distance - 0.15)))
}

/// No two panes are of quite the same melt.
fn own(glass: Vec3, number: f32) -> Vec3 {
    glass * (1.0 + 0.3 * noise(Vec3::new(number * 1.3, 0.5, 7.5), 197))
}

/// Strokes of each letter, from (0, 0) at its left foot to (1, 1).
type Letter = &'static [[f32; 4]];
const S: Letter =
    &[[1., 1., 0., 1.], [0., 1., 0., 0.5], [0., 0.5, 1., 0.5], [1., 0.5, 1., 0.], [1., 0., 0., 0.]];
const A: Letter = &[[0., 0., 0.5, 1.], [0.5, 1., 1., 0.], [0.22, 0.38, 0.78, 0.38]];
const L: Letter = &[[0., 1., 0., 0.], [0., 0., 1., 0.]];
const T: Letter = &[[0., 1., 1., 1.], [0.5, 1., 0.5, 0.]];
const G: Letter =
    &[[1., 1., 0., 1.], [0., 1., 0., 0.], [0., 0., 1., 0.], [1., 0., 1., 0.45], [1., 0.45, 0.55, 0.45]];
const WORD: [Letter; 9] = [S, A, L, T, G, L, A, S, S];
/// Width, height and distance from one to the next, in metres.
const SIZE: [f32; 2] = [0.085, 0.13];
const STEP: f32 = 0.158;

/// How far a place is from the middle of the nearest stroke, from the middle of the word.
fn letters(at: Vec2) -> f32 {
    let left = -STEP * (WORD.len() as f32 - 1.0) / 2.0 - SIZE[0] / 2.0;
    let place = |number: usize, x: f32, y: f32| {
        Vec2::new(left + STEP * number as f32 + x * SIZE[0], (y - 0.5) * SIZE[1])
    };
    let strokes = WORD.iter().enumerate().flat_map(|(number, letter)| {
        letter.iter().map(move |[x0, y0, x1, y1]| (place(number, *x0, *y0), place(number, *x1, *y1)))
    });
    strokes.map(|(from, to)| beside(at, from, to)).fold(f32::MAX, f32::min)
}

fn beside(at: Vec2, from: Vec2, to: Vec2) -> f32 {
    let along = ((at - from).dot(to - from) / (to - from).length_squared()).clamp(0.0, 1.0);
    (at - from.lerp(to, along)).length()
}

//! The lift, gamma and gain that bring three colours onto three others.
//!
//! Worked from the order of [`Grade`](crate::colour::grade::Grade): a value becomes a straight line of itself by gain and
//! lift, and that to the power 1/gamma. Dark and bright fix the line for any gamma; the gamma is the one that brings
//! the middle where it is wanted.

/// Dark, middle and bright of a picture, red, green and blue of each.
pub type Picks = [[f32; 3]; 3];

/// Controls of a grade.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Matched {
    /// See [`Grade::lift`](crate::colour::grade::Grade::lift).
    pub lift: [f32; 3],
    /// See [`Grade::gamma`](crate::colour::grade::Grade::gamma).
    pub gamma: [f32; 3],
    /// See [`Grade::gain`](crate::colour::grade::Grade::gain).
    pub gain: [f32; 3],
}

/// The gammas that are looked at.
const GAMMAS: [f64; 2] = [0.1, 10.0];
/// Values below this are taken as this: powers of less have no slope.
const DARKEST: f64 = 1e-6;

/// What brings the picks of an element to those of a plate. Dark and bright land; the middle lands where a gamma of
/// 0.1 to 10 can bring it, and as near as that can otherwise. None where dark is not darker than bright in a channel
/// of the element or of the plate.
pub fn matched(element: &Picks, plate: &Picks) -> Option<Matched> {
    let mut found = Matched { lift: [0.0; 3], gamma: [1.0; 3], gain: [1.0; 3] };
    for channel in 0..3 {
        let of = |picks: &Picks| picks.map(|pick| f64::from(pick[channel]));
        let [lift, gamma, gain] = channel_match(of(element), of(plate))?;
        found.lift[channel] = lift as f32;
        found.gamma[channel] = gamma as f32;
        found.gain[channel] = gain as f32;
    }
    Some(found)
}

/// Lift, gamma and gain of one channel.
fn channel_match([dark, middle, bright]: [f64; 3], wanted: [f64; 3]) -> Option<[f64; 3]> {
    let wanted = wanted.map(|value| value.max(DARKEST));
    if bright - dark <= DARKEST || wanted[2] - wanted[0] <= DARKEST {
        return None;
    }
    let share = (middle - dark) / (bright - dark);
    // Where the middle lands on the line for a gamma, as a share of the way from dark to bright; it falls with it.
    let lands = |gamma: f64| {
        let [low, mid, high] = wanted.map(|value| value.powf(gamma));
        (mid - low) / (high - low)
    };
    let [mut low, mut high] = GAMMAS;
    for _ in 0..60 {
        let gamma = (low * high).sqrt();
        if lands(gamma) > share { low = gamma } else { high = gamma }
    }
    let gamma = (low * high).sqrt();
    let [from, _, to] = wanted.map(|value| value.powf(gamma));
    let slope = (to - from) / (bright - dark);
    let lift = from - dark * slope;
    // The line is lift + value · gain · (1 − lift).
    ((1.0 - lift).abs() > DARKEST).then(|| [lift, gamma, slope / (1.0 - lift)])
}

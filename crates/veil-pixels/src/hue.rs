//! Hue turned, saturation and luma kept.
//!
//! - Shape: red, green and blue, linear, not premultiplied; any numbers.
//! - Units: the turn in radians, red toward green.
//! - What a colour has besides grey is turned about the grey line, and then moved along it so that the luma, by the
//!   weights of the working space, is what it was. Source: Rodrigues' rotation formula about (1, 1, 1).

/// A turn of hues.
#[derive(Clone, Copy, Debug)]
pub struct HueTurn {
    rows: [[f32; 3]; 3],
}

impl HueTurn {
    /// By so many radians, and with the colour beyond grey times `saturation`.
    pub fn new(angle: f32, saturation: f32, luma: [f32; 3]) -> Self {
        let (sin, cos) = angle.sin_cos();
        let turn = |row: usize, column: usize| {
            let third = (1.0 - cos) / 3.0;
            let across = sin / 3.0f32.sqrt();
            match (3 + column - row) % 3 {
                0 => cos + third,
                1 => third - across,
                _ => third + across,
            }
        };
        // Less the luma, turned, and less the luma that came in by turning.
        let away = |row: usize, column: usize| if row == column { 1.0 - luma[column] } else { -luma[column] };
        let turned = |row: usize, column: usize| (0..3).map(|k| turn(row, k) * away(k, column)).sum::<f32>();
        let strayed: [f32; 3] =
            std::array::from_fn(|column| (0..3).map(|row| luma[row] * turned(row, column)).sum());
        let rows = std::array::from_fn(|row| {
            std::array::from_fn(|column| luma[column] + saturation * (turned(row, column) - strayed[column]))
        });
        Self { rows }
    }

    /// A colour, turned.
    #[inline(always)]
    pub fn of(&self, [r, g, b]: [f32; 3]) -> [f32; 3] {
        self.rows.map(|row| row[0] * r + row[1] * g + row[2] * b)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::colour::LUMA_709;

    /// By geometry: three thirds of a turn are none, grey stays grey, luma stays, and a third brings red to green.
    #[test]
    fn a_turn_keeps_luma_and_grey_and_goes_from_red_to_green() {
        let third = std::f32::consts::TAU / 3.0;
        let luma =
            |colour: [f32; 3]| colour.iter().zip(LUMA_709).map(|(value, weight)| value * weight).sum::<f32>();
        let turn = HueTurn::new(third, 1.0, LUMA_709);
        for colour in [[0.8, 0.2, 0.1], [0.3, 0.3, 0.3], [2.5, -0.1, 0.7]] {
            let turned = turn.of(colour);
            assert!((luma(turned) - luma(colour)).abs() < 1e-5);
            let back = turn.of(turn.of(turned));
            assert!(back.iter().zip(colour).all(|(a, b)| (a - b).abs() < 1e-5), "{back:?} not {colour:?}");
        }
        let [r, g, b] = turn.of([1.0, 0.0, 0.0]);
        assert!(g > r && g > b && (r - b).abs() < 1e-6, "{r} {g} {b}");
        let grey = HueTurn::new(1.0, 0.0, LUMA_709).of([0.9, 0.1, 0.4]);
        assert!(grey.iter().all(|value| (value - luma([0.9, 0.1, 0.4])).abs() < 1e-6));
    }
}

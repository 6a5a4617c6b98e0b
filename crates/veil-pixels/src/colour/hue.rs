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

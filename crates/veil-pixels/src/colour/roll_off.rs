//! Highlights that come near a greatest value instead of going on.
//!
//! - Shape: linear values, not premultiplied. Up to where it begins nothing changes; above it a value rises ever more slowly, with the
//!   slope 1 where it begins, and never gets above the greatest.
//! - Method: what is above goes to `room · (1 − e^(−above / room))`, the solution of a rise that slows as the room left gets smaller.
//! - Together, the brightest of the three says how much darker all become, so that hue and saturation stay; each by itself, bright
//!   colours come nearer to white.

/// How highlights roll off.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct RollOff {
    /// Values above this one change.
    pub begins: f32,
    /// How much higher than that they get at most; 0 or less cuts them off there.
    pub room: f32,
    /// From 0, each of red, green and blue by itself, to 1, all together.
    pub together: f32,
}

impl RollOff {
    /// What a value becomes.
    #[inline(always)]
    pub fn of(&self, value: f32) -> f32 {
        let above = value - self.begins;
        if above > 0.0 && self.room > 0.0 {
            self.begins - self.room * (-above / self.room).exp_m1()
        } else if above > 0.0 {
            self.begins
        } else {
            value
        }
    }

    /// What a colour becomes.
    #[inline(always)]
    pub fn of_colour(&self, colour: [f32; 3]) -> [f32; 3] {
        let alone = colour.map(|value| self.of(value));
        let brightest = colour[0].max(colour[1]).max(colour[2]);
        // Nothing changes, and what is infinite has no hue to keep.
        if self.together <= 0.0 || brightest <= self.begins || brightest == 0.0 || !brightest.is_finite() {
            return alone;
        }
        let darker = self.of(brightest) / brightest;
        [0, 1, 2].map(|channel| alone[channel] + self.together * (colour[channel] * darker - alone[channel]))
    }
}

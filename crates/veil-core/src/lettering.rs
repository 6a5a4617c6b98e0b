//! Text as filled outlines.
//!
//! Glyphs are chosen and placed as the font says, with kerning and ligatures (OpenType, through rustybuzz). Lines follow
//! each other down; the middle of the block, or its start or end by the alignment, is at the origin.

use rustybuzz::ttf_parser::{GlyphId, OutlineBuilder};
use rustybuzz::{Face, UnicodeBuffer, shape};
use veil_pixels::shape::outline::Knot;

use crate::figure::Tracing;

/// How text is set, lengths in pixels.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Setting {
    /// Height of the em square.
    pub size: f64,
    /// What is added after every letter.
    pub spacing: f64,
    /// From one line to the next, in sizes.
    pub leading: f64,
    /// Where lines are even.
    pub align: Align,
}

/// Where lines are even.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Align {
    /// At their starts.
    Start,
    /// At their middles.
    Middle,
    /// At their ends.
    End,
}

/// Text that is set.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Lettering {
    /// Closed outlines about the origin, y down.
    pub outlines: Vec<Vec<Knot>>,
    /// Letters that the font lacks, each once.
    pub lacking: Vec<char>,
}

/// What is drawn of a glyph, placed.
struct Pen {
    tracing: Tracing,
    at: [f64; 2],
    scale: f64,
}

impl Pen {
    fn place(&self, x: f32, y: f32) -> [f64; 2] {
        [self.at[0] + f64::from(x) * self.scale, self.at[1] - f64::from(y) * self.scale]
    }
}

impl OutlineBuilder for Pen {
    fn move_to(&mut self, x: f32, y: f32) {
        self.tracing.begin(self.place(x, y));
    }

    fn line_to(&mut self, x: f32, y: f32) {
        self.tracing.line(self.place(x, y));
    }

    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        self.tracing.quadratic(self.place(x1, y1), self.place(x, y));
    }

    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        self.tracing.cubic(self.place(x1, y1), self.place(x2, y2), self.place(x, y));
    }

    fn close(&mut self) {
        self.tracing.close();
    }
}

/// A glyph of a line, with where it starts.
struct Placed {
    glyph: GlyphId,
    at: [f64; 2],
}

/// How many glyphs a font has; `None` where the bytes are no font, or one whose tables are broken.
pub fn glyphs(font: &[u8]) -> Option<usize> {
    unbroken(|| Some(usize::from(Face::from_slice(font, 0)?.number_of_glyphs())))
}

/// What is read of a font. Its reader takes some tables at their word, and gives up where they lie.
fn unbroken<T>(read: impl FnOnce() -> Option<T> + std::panic::UnwindSafe) -> Option<T> {
    std::panic::catch_unwind(read).ok().flatten()
}

/// A text set in a font; `None` where the bytes are no font, or one whose tables are broken.
pub fn set(text: &str, font: &[u8], setting: Setting) -> Option<Lettering> {
    unbroken(|| set_whole(text, font, setting))
}

fn set_whole(text: &str, font: &[u8], setting: Setting) -> Option<Lettering> {
    let face = Face::from_slice(font, 0)?;
    let scale = setting.size / f64::from(face.units_per_em()).max(1.0);
    let lines: Vec<&str> = text.lines().collect();
    let leading = setting.size * setting.leading;
    let (ascent, descent) = (f64::from(face.ascender()) * scale, f64::from(face.descender()) * scale);
    let block = leading * lines.len().saturating_sub(1) as f64 + ascent - descent;
    let mut lacking = Vec::new();
    let mut pen = Pen { tracing: Tracing::default(), at: [0.0; 2], scale };
    for (number, line) in lines.iter().enumerate() {
        let (glyphs, width) = of_line(&face, line, scale, setting.spacing, &mut lacking);
        let left = match setting.align {
            Align::Start => 0.0,
            Align::Middle => -width / 2.0,
            Align::End => -width,
        };
        let base = ascent - block / 2.0 + leading * number as f64;
        for Placed { glyph, at } in glyphs {
            pen.at = [left + at[0], base + at[1]];
            face.outline_glyph(glyph, &mut pen);
        }
    }
    Some(Lettering { outlines: pen.tracing.finish(), lacking })
}

/// The glyphs of a line from its start, and how long it is.
fn of_line(
    face: &Face<'_>,
    line: &str,
    scale: f64,
    spacing: f64,
    lacking: &mut Vec<char>,
) -> (Vec<Placed>, f64) {
    let mut buffer = UnicodeBuffer::new();
    buffer.push_str(line);
    let shaped = shape(face, &[], buffer);
    let (mut glyphs, mut x) = (Vec::new(), 0.0);
    for (info, position) in shaped.glyph_infos().iter().zip(shaped.glyph_positions()) {
        let letter = line[info.cluster as usize..].chars().next();
        if let Some(letter) = letter.filter(|letter| info.glyph_id == 0 && !lacking.contains(letter)) {
            lacking.push(letter);
        }
        let offset = [f64::from(position.x_offset) * scale, -f64::from(position.y_offset) * scale];
        glyphs.push(Placed { glyph: GlyphId(info.glyph_id as u16), at: [x + offset[0], offset[1]] });
        x += f64::from(position.x_advance) * scale + spacing;
    }
    let width = if glyphs.is_empty() { 0.0 } else { x - spacing };
    (glyphs, width)
}

//! Checks of `lettering`.

use veil_core::lettering::*;

const FONT: &[u8] = include_bytes!("../../fonts/barlow-semi-condensed-400.ttf");
const SETTING: Setting = Setting { size: 100.0, spacing: 0.0, leading: 1.2, align: Align::Middle };

fn span(lettering: &Lettering, axis: usize) -> [f64; 2] {
    let all = || lettering.outlines.iter().flatten().map(|knot| knot.at[axis]);
    [all().fold(f64::INFINITY, f64::min), all().fold(f64::NEG_INFINITY, f64::max)]
}

/// By the font's own tables, as fontTools 4 reads them, in thousandths of the size: A advances by 508 and is kerned by -52
/// before V; A's ink begins at 23 and V's ends at 479. Spacing is added between letters, not after the last.
#[test]
fn letters_stand_as_the_font_says() {
    let wide = |text: &str, setting| {
        let [low, high] = span(&set(text, FONT, setting).unwrap(), 0);
        high - low
    };
    let pair = wide("AV", SETTING);
    assert!((pair - (508.0 - 52.0 + 479.0 - 23.0) / 10.0).abs() < 0.3, "{pair}");
    let spaced = wide("AV", Setting { spacing: 30.0, ..SETTING });
    assert!((spaced - pair - 30.0).abs() < 1e-6);
    let [left, right] = span(&set("oooo", FONT, SETTING).unwrap(), 0);
    assert!((left + right).abs() < 3.0, "about the middle: {left} {right}");
    let [first, _] = span(&set("oooo", FONT, Setting { align: Align::Start, ..SETTING }).unwrap(), 0);
    assert!(first > 0.0 && first < 10.0);
    // Two lines: as much farther down as the leading says.
    let high = |text: &str| span(&set(text, FONT, SETTING).unwrap(), 1);
    assert!((high("x\nx")[1] - high("x")[1] - 60.0).abs() < 1e-6);
}

#[test]
fn what_the_font_lacks_is_told_and_what_is_no_font_is_refused() {
    let set_ = set("salt 塩 塩 glass ж", FONT, SETTING).unwrap();
    assert_eq!(set_.lacking, ['塩', 'ж']);
    assert!(!set_.outlines.is_empty());
    assert!(set("x", b"no font", SETTING).is_none());
    assert!(set("", FONT, SETTING).unwrap().outlines.is_empty());
}

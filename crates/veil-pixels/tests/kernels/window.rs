//! Checks of `window`.

use veil_pixels::buffer::window::*;

#[test]
fn a_proxy_window_covers_every_pixel_of_the_full_one_on_both_sides_of_the_origin() {
    let full = Window::new(-3, -4, 5, 9);
    assert_eq!(full.scaled_down(4), Window::new(-1, -1, 2, 3));
}

#[test]
fn windows_apart_share_nothing_and_a_union_with_nothing_changes_nothing() {
    let left = Window::new(0, 0, 4, 4);
    let right = Window::new(9, 0, 12, 4);
    assert!(left.intersect(right).is_empty());
    assert_eq!(left.union(Window::EMPTY), left);
    assert_eq!(left.union(right), Window::new(0, 0, 12, 4));
}

//! Checks of `edge`.

use veil_pixels::buffer::edge::*;

#[test]
fn what_an_edge_reads_holds_every_place_it_reads() {
    for edge in [Edge::Clear, Edge::Hold, Edge::Mirror, Edge::Repeat] {
        for from in -9..15 {
            for to in from + 1..20 {
                let (a, b) = edge.reads((from, to), 2, 8);
                let read: Vec<i32> = (from..to).filter_map(|i| edge.index(i, 2, 8)).collect();
                assert!(read.iter().all(|at| (a..b).contains(at)), "{edge:?} {from}..{to}: {a}..{b}");
                assert!(a >= 2 && b <= 8);
            }
        }
    }
}

/// The four modes of `scipy.ndimage` 1.x: constant, nearest, reflect ("d c b a | a b c d | d c b a"), grid-wrap.
#[test]
fn the_modes_continue_an_axis_as_the_reference_library_documents() {
    let read = |edge: Edge| (-4..8).map(|i| edge.index(i, 0, 4)).collect::<Vec<_>>();
    let row = |text: &str| text.chars().map(|c| c.to_digit(10).map(|d| d as i32)).collect::<Vec<_>>();
    assert_eq!(read(Edge::Clear), row("----0123----"));
    assert_eq!(read(Edge::Hold), row("000001233333"));
    assert_eq!(read(Edge::Mirror), row("321001233210"));
    assert_eq!(read(Edge::Repeat), row("012301230123"));
}

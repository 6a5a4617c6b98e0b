//! Which lane each strand runs in.

use super::{Edge, LANES};

/// Up to this many strands without a lane of their own are placed by trying every way.
const TRIED: usize = 8;

/// Rows along main inputs, from the bottom up, and how far its lines reach.
struct Strand {
    rows: Vec<usize>,
    top: usize,
    /// The last row that takes it.
    last: usize,
    is_final: bool,
}

impl Strand {
    /// Whether two strands cannot run in one lane.
    const fn meets(&self, other: &Self) -> bool {
        self.last > other.top && self.top < other.last
    }
}

/// A lane for each row. `kept` are the lanes that rows had.
pub(super) fn assign(edges: &[Edge], kept: &[Option<usize>]) -> Vec<usize> {
    let strands = strands(kept.len(), edges);
    let mut placing = Placing::new(&strands, edges, kept.len());
    for (at, strand) in strands.iter().enumerate() {
        let had = strand.rows.iter().find_map(|row| kept[*row]).filter(|lane| *lane > 0);
        let lane = if strand.is_final {
            Some(0)
        } else {
            had.filter(|lane| *lane == LANES - 1 || placing.is_free(at, *lane))
        };
        placing.place(at, lane);
    }
    let new: Vec<usize> = (0..strands.len()).filter(|at| placing.lanes[*at].is_none()).collect();
    if new.len() <= TRIED {
        placing.place_best(&new);
    } else {
        for at in new {
            placing.place(at, placing.choices(at).first().copied());
        }
    }
    let mut lanes = vec![0; kept.len()];
    for (strand, lane) in strands.iter().zip(&placing.lanes) {
        for row in &strand.rows {
            lanes[*row] = lane.unwrap_or(0);
        }
    }
    lanes
}

fn strands(rows: usize, edges: &[Edge]) -> Vec<Strand> {
    let (mut above, mut last_taker) = (vec![None; rows], vec![0; rows]);
    for edge in edges {
        if edge.main {
            above[edge.to].get_or_insert(edge.from);
        }
        last_taker[edge.from] = last_taker[edge.from].max(edge.to);
    }
    let mut placed = vec![false; rows];
    let mut strands = Vec::new();
    for bottom in (0..rows).rev() {
        if placed[bottom] {
            continue;
        }
        let mut strand = vec![bottom];
        placed[bottom] = true;
        while let Some(next) = above[strand[strand.len() - 1]].filter(|next: &usize| !placed[*next]) {
            placed[next] = true;
            strand.push(next);
        }
        let taken = strand.iter().map(|row| last_taker[*row]).max();
        let (top, last) = (strand[strand.len() - 1], taken.unwrap_or(bottom).max(bottom));
        strands.push(Strand { rows: strand, top, last, is_final: bottom + 1 == rows });
    }
    strands
}

/// What lanes are judged by, the first first.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
struct Cost {
    bundled: usize,
    crossings: usize,
}

struct Placing<'a> {
    strands: &'a [Strand],
    edges: &'a [Edge],
    /// The strand of each row.
    of_row: Vec<usize>,
    /// The lane of each strand, and the strands in each lane.
    lanes: Vec<Option<usize>>,
    running: Vec<Vec<usize>>,
}

impl<'a> Placing<'a> {
    fn new(strands: &'a [Strand], edges: &'a [Edge], rows: usize) -> Self {
        let mut of_row = vec![0; rows];
        for (at, strand) in strands.iter().enumerate() {
            strand.rows.iter().for_each(|row| of_row[*row] = at);
        }
        let running = vec![Vec::new(); LANES];
        Self { strands, edges, of_row, lanes: vec![None; strands.len()], running }
    }

    fn place(&mut self, at: usize, lane: Option<usize>) {
        if let Some(before) = self.lanes[at] {
            self.running[before].retain(|other| *other != at);
        }
        if let Some(lane) = lane {
            self.running[lane].push(at);
        }
        self.lanes[at] = lane;
    }

    fn is_free(&self, at: usize, lane: usize) -> bool {
        let strand = &self.strands[at];
        self.running[lane].iter().all(|other| *other == at || !self.strands[*other].meets(strand))
    }

    /// The lanes that a strand may run in: the free ones, or the bundle.
    fn choices(&self, at: usize) -> Vec<usize> {
        let free: Vec<usize> = (1..LANES).filter(|lane| self.is_free(at, *lane)).collect();
        if free.is_empty() { vec![LANES - 1] } else { free }
    }

    /// Tries every way to place some strands and keeps the first with the fewest crossings.
    fn place_best(&mut self, new: &[usize]) {
        let mut best = None;
        self.try_from(new, &mut best);
        if let Some((_, lanes)) = best {
            new.iter().for_each(|at| self.place(*at, lanes[*at]));
        }
    }

    fn try_from(&mut self, new: &[usize], best: &mut Option<(Cost, Vec<Option<usize>>)>) {
        let Some((at, rest)) = new.split_first() else {
            let cost = Cost { bundled: self.bundled(), crossings: self.crossings() };
            if best.as_ref().is_none_or(|(least, _)| cost < *least) {
                *best = Some((cost, self.lanes.clone()));
            }
            return;
        };
        for lane in self.choices(*at) {
            self.place(*at, Some(lane));
            self.try_from(rest, best);
            self.place(*at, None);
        }
    }

    /// How many strands share a lane with one that they meet.
    fn bundled(&self) -> usize {
        let shares = |at: &usize| self.lanes[*at].is_some_and(|lane| !self.is_free(*at, lane));
        (0..self.strands.len()).filter(shares).count()
    }

    /// How many lanes are crossed where lines curve into their takers: those between the two lanes in which another
    /// strand runs past that row.
    fn crossings(&self) -> usize {
        let mut crossed = 0;
        for edge in self.edges {
            let (from, to) = (self.of_row[edge.from], self.of_row[edge.to]);
            let (Some(a), Some(b)) = (self.lanes[from], self.lanes[to]) else { continue };
            let between = |lane: usize| lane > a.min(b) && lane < a.max(b);
            let passes = |strand: &Strand| strand.top < edge.to && strand.last > edge.to;
            crossed += self
                .strands
                .iter()
                .zip(&self.lanes)
                .enumerate()
                .filter(|(at, (strand, lane))| {
                    *at != from && *at != to && lane.is_some_and(between) && passes(strand)
                })
                .count();
        }
        crossed
    }
}

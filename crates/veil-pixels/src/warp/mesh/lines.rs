//! Curves through lines of places, and drawn toward them: what each of their values and slopes has of the places.

/// How a surface goes by its corners.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Through {
    /// Through all of them; a corner that moves moves no more than the two cells on either side of it.
    Corners,
    /// Near them, as smooth as can be; a corner draws the surface toward where it has moved.
    Near,
}

/// Where lines of corners lie along a way across a lattice, and when each was added.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Lines {
    /// Upward.
    pub(super) knots: Vec<f64>,
    /// 0 for those that were there at first, upward for those that were added; each after those with a lower number.
    pub(super) added: Vec<u32>,
}

/// For each line how much of every line's corner it has.
pub(super) type Shares = Vec<Vec<f64>>;

/// What a curve has at each line: its value, and its slope by the knots' measure.
pub(super) struct Basis {
    pub(super) values: Shares,
    pub(super) slopes: Shares,
}

impl Lines {
    fn count(&self) -> usize {
        self.knots.len()
    }

    pub(super) fn basis(&self, through: Through) -> Basis {
        match through {
            Through::Corners => Basis { values: unit(self.count()), slopes: self.slopes() },
            Through::Near => self.near(),
        }
    }

    /// With a line half way from one to the next.
    pub(super) fn cut(&self, cell: usize) -> Self {
        let mut made = self.clone();
        made.knots.insert(cell + 1, (self.knots[cell] + self.knots[cell + 1]) / 2.0);
        let last = self.added.iter().max().map_or(0, |last| last + 1);
        made.added.insert(cell + 1, last);
        made
    }

    /// Without one between others.
    pub(super) fn without(&self, line: usize) -> Self {
        let mut made = self.clone();
        made.knots.remove(line);
        made.added.remove(line);
        made
    }

    /// Slopes at each line: the mean of the slopes of both cells beside it, each weighed by the other's length, which is
    /// Catmull and Rom's where cells are alike. Those of a line that was added are what the curve had there without it, and
    /// those about it stay as they were, so that a line more leaves the curve.
    fn slopes(&self) -> Shares {
        let count = self.count();
        let mut order: Vec<u32> = self.added.clone();
        order.sort_unstable();
        order.dedup();
        let mut there: Vec<usize> = (0..count).filter(|line| self.added[*line] == order[0]).collect();
        let mut slopes = vec![vec![0.0; count]; count];
        for (at, line) in there.iter().enumerate() {
            let before = at.checked_sub(1).map(|at| there[at]);
            let after = there.get(at + 1).copied();
            slopes[*line] = self.slope(before, *line, after);
        }
        for turn in &order[1..] {
            let added: Vec<usize> = (0..count).filter(|line| self.added[*line] == *turn).collect();
            for line in &added {
                let next = there.partition_point(|other| other < line);
                // The first and the last line were there at first.
                let (Some(before), Some(after)) = (next.checked_sub(1).map(|at| there[at]), there.get(next))
                else {
                    continue;
                };
                slopes[*line] = self.slope_between([before, *after], *line, &slopes);
            }
            there.extend(added);
            there.sort_unstable();
        }
        slopes
    }

    fn slope(&self, before: Option<usize>, line: usize, after: Option<usize>) -> Vec<f64> {
        let mut shares = vec![0.0; self.count()];
        let far = |from: usize, to: usize| self.knots[to] - self.knots[from];
        let mut add = |from: usize, to: usize, weight: f64| {
            shares[to] += weight / far(from, to);
            shares[from] -= weight / far(from, to);
        };
        match (before, after) {
            (Some(before), Some(after)) => {
                let both = far(before, after);
                add(before, line, far(line, after) / both);
                add(line, after, far(before, line) / both);
            }
            (Some(before), None) => add(before, line, 1.0),
            (None, Some(after)) => add(line, after, 1.0),
            (None, None) => {}
        }
        shares
    }

    fn slope_between(&self, [before, after]: [usize; 2], line: usize, slopes: &Shares) -> Vec<f64> {
        let far = self.knots[after] - self.knots[before];
        let t = (self.knots[line] - self.knots[before]) / far;
        let value = 6.0 * t * (1.0 - t) / far;
        let (starts, ends) = ((3.0 * t - 4.0) * t + 1.0, (3.0 * t - 2.0) * t);
        let mut shares: Vec<f64> =
            slopes[before].iter().zip(&slopes[after]).map(|(a, b)| starts * a + ends * b).collect();
        shares[before] -= value;
        shares[after] += value;
        shares
    }

    /// The cubic B-spline with a coefficient at each line, and no bend at both ends.
    fn near(&self) -> Basis {
        const BEYOND: usize = 3;
        let count = self.count();
        // Knots go on beyond the ends as they come there, mirrored.
        let knot = |at: isize| -> f64 {
            let last = count as isize - 1;
            let folded = |at: isize| {
                self.knots[at.rem_euclid(2 * last).min(2 * last - at.rem_euclid(2 * last)) as usize]
            };
            let turns = at.div_euclid(2 * last) as f64;
            let whole = self.knots[count - 1] - self.knots[0];
            let within = at.rem_euclid(2 * last);
            let own = if within > last { 2.0 * self.knots[count - 1] - folded(at) } else { folded(at) };
            own + turns * 2.0 * whole
        };
        let knots: Vec<f64> = (-(BEYOND as isize)..(count + BEYOND) as isize).map(knot).collect();
        // What a line has of the coefficients before it, its own, and after it.
        let of = |line: usize, order: usize| {
            [0, 1, 2].map(|at| bump(&knots, line + at, 3, knots[line + BEYOND], order))
        };
        let (first, last) = (of(0, 2), of(count - 1, 2));
        let shares = |order: usize| -> Shares {
            (0..count)
                .map(|line| {
                    let mut row = vec![0.0; count];
                    let [before, own, after] = of(line, order);
                    row[line] += own;
                    // A coefficient beyond an end is what leaves no bend there.
                    match line.checked_sub(1) {
                        Some(line) => row[line] += before,
                        None => {
                            row[0] -= before * first[1] / first[0];
                            row[1] -= before * first[2] / first[0];
                        }
                    }
                    if line + 1 < count {
                        row[line + 1] += after;
                    } else {
                        row[line] -= after * last[1] / last[2];
                        row[line - 1] -= after * last[0] / last[2];
                    }
                    row
                })
                .collect()
        };
        Basis { values: shares(0), slopes: shares(1) }
    }
}

/// The B-spline that begins at a knot, of a degree, or its derivative of an order, at a place; de Boor, "A Practical Guide to
/// Splines", 1978, chapter X.
fn bump(knots: &[f64], from: usize, degree: usize, at: f64, order: usize) -> f64 {
    if order > degree {
        return 0.0;
    }
    if degree == 0 {
        return f64::from(u8::from(knots[from] <= at && at < knots[from + 1]));
    }
    let [left, right] = [from, from + 1].map(|from| knots[from + degree] - knots[from]);
    if order > 0 {
        let lower = |from: usize| bump(knots, from, degree - 1, at, order - 1);
        return degree as f64 * (lower(from) / left - lower(from + 1) / right);
    }
    let lower = |from: usize| bump(knots, from, degree - 1, at, 0);
    (at - knots[from]) / left * lower(from) + (knots[from + degree + 1] - at) / right * lower(from + 1)
}

fn unit(count: usize) -> Shares {
    (0..count).map(|line| (0..count).map(|other| f64::from(u8::from(line == other))).collect()).collect()
}

/// Solves for the coefficients that give values at each line; a column of right sides for each.
pub(super) fn solved(values: &Shares, wanted: &[f64]) -> Vec<f64> {
    // Diagonally dominant with three entries a row, so that no row has to be changed for another.
    let count = wanted.len();
    let (mut rows, mut sides) = (values.clone(), wanted.to_vec());
    for at in 1..count {
        let by = rows[at][at - 1] / rows[at - 1][at - 1];
        let (done, rest) = rows.split_at_mut(at);
        let (above, own) = (&done[at - 1], &mut rest[0]);
        own.iter_mut().zip(above).skip(at - 1).take(3).for_each(|(own, above)| *own -= by * above);
        sides[at] -= by * sides[at - 1];
    }
    for at in (0..count).rev() {
        if at + 1 < count {
            sides[at] -= rows[at][at + 1] * sides[at + 1];
        }
        sides[at] /= rows[at][at];
    }
    sides
}

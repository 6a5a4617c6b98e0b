// The lines of a lattice's surface, as the server has it: through its corners, or near them.

import { full } from "../shot/drawn.js";

/** For each line how much of every line's corner it has. @typedef {number[][]} Shares */

/** @typedef {{ values: Shares, slopes: Shares }} Basis */

/** @param {number} count */
const none = (count) => Array.from({ length: count }, () => 0);

/**
 * Slopes of Catmull and Rom's curve through lines of corners; those of a line that was added are what the curve had without it.
 * @param {number[]} knots
 * @param {number[]} added
 * @returns {Basis}
 */
function throughCorners(knots, added) {
  const count = knots.length;
  const values = knots.map((_knot, line) => none(count).map((_none, other) => Number(line === other)));
  /** @type {Shares} */
  const slopes = knots.map(() => none(count));
  const turns = [...new Set(added)].sort((a, b) => a - b);
  const ofTurn = (/** @type {number} */ turn) => knots.map((_knot, line) => line).filter((line) => added[line] === turn);
  let there = ofTurn(turns[0]);
  there.forEach((line, at) => {
    const [before, after] = [there[at - 1], there[at + 1]];
    const add = (/** @type {number} */ from, /** @type {number} */ to, /** @type {number} */ weight) => {
      slopes[line][to] += weight / (knots[to] - knots[from]);
      slopes[line][from] -= weight / (knots[to] - knots[from]);
    };
    if (before !== undefined && after !== undefined) {
      const both = knots[after] - knots[before];
      add(before, line, (knots[after] - knots[line]) / both);
      add(line, after, (knots[line] - knots[before]) / both);
    } else if (before !== undefined) add(before, line, 1);
    else if (after !== undefined) add(line, after, 1);
  });
  for (const turn of turns.slice(1)) {
    const more = ofTurn(turn);
    for (const line of more) {
      const [before, after] = [Math.max(...there.filter((other) => other < line)), Math.min(...there.filter((other) => other > line))];
      const far = knots[after] - knots[before];
      const t = (knots[line] - knots[before]) / far;
      slopes[line] = slopes[before].map((own, at) => (3 * t * t - 4 * t + 1) * own + (3 * t * t - 2 * t) * slopes[after][at]);
      slopes[line][before] -= (6 * t * (1 - t)) / far;
      slopes[line][after] += (6 * t * (1 - t)) / far;
    }
    there = [...there, ...more].sort((a, b) => a - b);
  }
  return { values, slopes };
}

/**
 * The B-spline that begins at a knot, of a degree, or a derivative of it, at a place.
 * @param {number[]} knots
 * @param {number} from
 * @param {number} degree
 * @param {number} at
 * @param {number} order
 * @returns {number}
 */
function bump(knots, from, degree, at, order) {
  if (degree === 0) return Number(order === 0 && knots[from] <= at && at < knots[from + 1]);
  const [left, right] = [knots[from + degree] - knots[from], knots[from + degree + 1] - knots[from + 1]];
  const lower = (/** @type {number} */ first) => bump(knots, first, degree - 1, at, Math.max(0, order - 1));
  if (order > 0) return degree * (lower(from) / left - lower(from + 1) / right);
  return ((at - knots[from]) / left) * lower(from) + ((knots[from + degree + 1] - at) / right) * lower(from + 1);
}

/**
 * The cubic B-spline with a coefficient at each line, and no bend at both ends.
 * @param {number[]} knots
 * @returns {Basis}
 */
function nearCorners(knots) {
  const last = knots.length - 1;
  const knot = (/** @type {number} */ at) => {
    let [place, by, sign] = [at, 0, 1];
    while (place < 0 || place > last) {
      const end = place < 0 ? 0 : last;
      by += sign * 2 * knots[end];
      [place, sign] = [2 * end - place, -sign];
    }
    return by + sign * knots[place];
  };
  const wide = Array.from({ length: last + 7 }, (_knot, at) => knot(at - 3));
  const of = (/** @type {number} */ line, /** @type {number} */ order) => [0, 1, 2].map((at) => bump(wide, line + at, 3, knots[line], order));
  const [first, end] = [of(0, 2), of(last, 2)];
  const shares = (/** @type {number} */ order) => knots.map((_knot, line) => {
    const row = none(last + 1);
    const [before, own, after] = of(line, order);
    row[line] += own;
    if (line > 0) row[line - 1] += before;
    else [0, 1].forEach((at) => (row[at] -= (before * first[at + 1]) / first[0]));
    if (line < last) row[line + 1] += after;
    else [0, 1].forEach((at) => (row[last - at] -= (after * end[1 - at]) / end[2]));
    return row;
  });
  return { values: shares(0), slopes: shares(1) };
}

/**
 * @param {Shares} shares
 * @param {Place[][]} grid
 * @returns {Place[][]} sums of its rows
 */
const summed = (shares, grid) => shares.map((row) => grid[0].map((_place, column) => /** @type {Place} */ ([0, 1].map((axis) => row.reduce((sum, share, line) => sum + share * grid[line][column][axis], 0)))));

/** @template T @param {T[][]} grid */
const turned = (grid) => grid[0].map((_cell, column) => grid.map((row) => row[column]));

/** @param {Place[][]} a @param {Place[][]} b @returns {Place[][]} */
const plus = (a, b) => a.map((row, line) => row.map((place, column) => /** @type {Place} */ ([place[0] + b[line][column][0], place[1] + b[line][column][1]])));

/** @param {Place[][]} rest lines across which steps are measured */
function knotsOf(rest) {
  const far = (/** @type {Place} */ a, /** @type {Place} */ b) => Math.hypot(a[0] - b[0], a[1] - b[1]);
  const knots = [0];
  for (let at = 1; at < rest.length; at++) {
    const mean = rest[at].reduce((sum, place, column) => sum + far(place, rest[at - 1][column]), 0) / rest[at].length;
    knots.push(knots[at - 1] + Math.max(1e-6, mean));
  }
  return knots;
}

/**
 * Each row's line, then each column's, as points with handles.
 * @param {Lattice} lattice
 * @param {Point[]} points where its corners have moved
 * @returns {Point[][]}
 */
export function surfaceLines(lattice, points) {
  const wide = lattice.columns + 1;
  const grid = (/** @type {(index: number) => Place} */ at) => Array.from({ length: lattice.rows + 1 }, (_row, row) => Array.from({ length: wide }, (_column, column) => at(row * wide + column)));
  const rest = grid((index) => lattice.rest[index]);
  const ways = grid((index) => [points[index].at[0] - lattice.rest[index][0], points[index].at[1] - lattice.rest[index][1]]);
  const knots = [knotsOf(rest), knotsOf(turned(rest))];
  const added = [lattice.added_rows, lattice.added_columns].map((told, way) => (told?.length ? told : none(knots[way].length)));
  const through = knots.map((of, way) => throughCorners(of, added[way]));
  const own = lattice.surface === "near" ? knots.map(nearCorners) : through;
  const surface = (/** @type {"values" | "slopes"} */ down, /** @type {"values" | "slopes"} */ across) => {
    const by = (/** @type {Basis[]} */ basis, /** @type {Place[][]} */ of) => turned(summed(basis[1][across], turned(summed(basis[0][down], of))));
    return plus(by(through, rest), by(own, ways));
  };
  const at = surface("values", "values");
  const line = (/** @type {Place[]} */ places, /** @type {Place[]} */ slopes, /** @type {number[]} */ along) => places.map((place, index) => {
    const handle = (/** @type {number} */ other) => /** @type {Place} */ (other < 0 || other >= along.length ? [0, 0] : slopes[index].map((slope) => (slope * (along[other] - along[index])) / 3));
    return full({ at: place, before: handle(index - 1), after: handle(index + 1) });
  });
  const [across, down] = [surface("values", "slopes"), surface("slopes", "values")];
  const rows = at.map((places, row) => line(places, across[row], knots[1]));
  const columns = turned(at).map((places, column) => line(places, turned(down)[column], knots[0]));
  return [...rows, ...columns];
}

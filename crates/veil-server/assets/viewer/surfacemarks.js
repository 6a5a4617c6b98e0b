// A surface that is followed, as it is drawn on the picture: its lines, its corners, and the cells that look unlike what they were.

import { surfaceLines } from "../controls/latticelines.js";
import { svg } from "../base/parts.js";
import { add, full, less, onCurve } from "../shot/drawn.js";

// Pieces that a line between two corners is drawn in.
const PIECES = 6;
// A cell that looks less alike than this is marked, the more the less alike.
const ALIKE = 0.75;
const [INK, SALT, DOUBT] = ["#1f2120", "#ece8de", "#d9803f"];

/** @typedef {(at: Place) => Place} Seen from the picture to the screen */

/** @param {Place[]} places @param {Seen} seen */
const way = (places, seen) => places.map(seen).map(([x, y], at) => `${at ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");

/**
 * @param {TrackSurface} of
 * @param {Place[]} corners
 * @returns {Place[][]}
 */
function lines(of, corners) {
  const drawn = surfaceLines({ rows: of.rows, columns: of.columns, rest: corners, keys: [] }, corners.map((at) => full({ at })));
  return drawn.map((points) => points.flatMap((point, at) => (at ? Array.from({ length: PIECES }, (_piece, piece) => onCurve(points[at - 1], point, (piece + 1) / PIECES)) : [point.at])));
}

/**
 * @param {TrackSurface} of
 * @param {SurfaceSample} sample
 * @param {Seen} seen
 */
function doubts(of, { corners, likeness }, seen) {
  const wide = of.columns + 1;
  return likeness.flatMap((alike, cell) => {
    if (alike >= ALIKE) return [];
    const first = Math.floor(cell / of.columns) * wide + (cell % of.columns);
    const d = `${way([first, first + 1, first + wide + 1, first + wide].map((at) => corners[at]), seen)}Z`;
    return [svg("path", { d, fill: DOUBT, "fill-opacity": (0.15 + 0.5 * Math.min(1, (ALIKE - alike) / ALIKE)).toFixed(2), "data-doubt": cell })];
  });
}

/**
 * @param {TrackSurface} of
 * @param {SurfaceSample} sample
 * @param {{ seen: Seen, known: boolean }} shown whether it was found at this frame
 * @returns {SVGElement}
 */
export function surfaceMarks(of, sample, { seen, known }) {
  const dash = known ? null : "3 3";
  const drawn = lines(of, sample.corners).map((line) => way(line, seen)).join("");
  const corners = sample.corners.map(seen).map(([x, y]) => `M${(x - 2.5).toFixed(1)} ${y.toFixed(1)}a2.5 2.5 0 1 0 5 0a2.5 2.5 0 1 0 -5 0`).join("");
  return svg("g", { "data-surface": `${of.rows} ${of.columns}`, class: "surfacemarks", "pointer-events": "none" }, ...doubts(of, sample, seen),
    svg("path", { d: drawn, fill: "none", stroke: INK, "stroke-width": 3, "stroke-opacity": 0.45 }),
    svg("path", { d: drawn, fill: "none", stroke: SALT, "stroke-width": 1.1, "stroke-dasharray": dash }),
    svg("path", { d: corners, fill: sample.by_hand ? SALT : INK, stroke: SALT, "stroke-width": 1.2 }));
}

/**
 * A corner that is dragged takes those about it along, the less the further off they are.
 * @param {TrackSurface} of
 * @param {Place[]} corners
 * @param {{ which: number, to: Place, reach: number }} drag how far others go along, in cells
 * @returns {Place[]}
 */
export function pulled(of, corners, { which, to, reach }) {
  const wide = of.columns + 1;
  const by = less(to, corners[which]);
  const cell = (/** @type {number} */ at) => [Math.floor(at / wide), at % wide];
  const [row, column] = cell(which);
  return corners.map((at, corner) => {
    const [r, c] = cell(corner);
    const far = Math.hypot(r - row, c - column) / Math.max(reach, 1e-6);
    const share = far < 1 ? (1 - far ** 2) ** 2 : 0;
    return add(at, /** @type {Place} */ ([by[0] * share, by[1] * share]));
  });
}

/**
 * A lattice of even cells over a box.
 * @param {Place} from
 * @param {Place} to
 * @returns {TrackSurface}
 */
export function surfaceOver(from, to) {
  const [rows, columns] = [6, 8];
  const [x0, y0] = [Math.min(from[0], to[0]), Math.min(from[1], to[1])];
  const [wide, high] = [Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])];
  const corners = Array.from({ length: (rows + 1) * (columns + 1) }, (_corner, at) => /** @type {Place} */ ([x0 + (wide * (at % (columns + 1))) / columns, y0 + (high * Math.floor(at / (columns + 1))) / rows]));
  return { rows, columns, corners, stiffness: 0.3 };
}

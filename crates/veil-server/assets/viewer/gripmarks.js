// Which marks a row's controls have, and what dragging each of them changes.

import { add, less, mix } from "../shot/drawn.js";

// Pieces that an oval or a frame is drawn in, since a warp may bend it.
const AROUND = 72;
const ALONG = 12;
// Marks of little size stand so far off in pixels of the screen that they can be told apart.
const [NEAR, OFF, TURN_OFF] = [14, 26, 46];

/** @typedef {import("./grips.js").Gripped} Gripped */
/** @typedef {import("./grips.js").Grips} Grips */
/** @typedef {{ centre: Place, along: Place, across: Place, of: (grip: string) => Gripped | undefined, grips: Grips }} Shape */

const dot = (/** @type {Place} */ v, /** @type {Place} */ w) => v[0] * w[0] + v[1] * w[1];
const set = (/** @type {Gripped} */ control, /** @type {(number | null)[]} */ values) => [{ control: control.id, values }];
const degrees = (/** @type {Place} */ way) => (Math.atan2(-way[1], way[0]) * 180) / Math.PI;
const placeOf = (/** @type {Gripped} */ control) => /** @type {Place} */ (control.values);

/**
 * A place so far along and across from the middle.
 * @param {Shape} shape
 * @param {number} right
 * @param {number} [up]
 * @returns {Place}
 */
const out = ({ centre, along, across }, right, up = 0) => [centre[0] + along[0] * right + across[0] * up, centre[1] + along[1] * right + across[1] * up];

/**
 * @param {Shape} shape
 * @param {Place} radii
 */
const oval = (shape, [rx, ry]) => Array.from({ length: AROUND + 1 }, (_piece, at) => {
  const turn = (at / AROUND) * 2 * Math.PI;
  return out(shape, rx * Math.cos(turn), ry * Math.sin(turn));
});

/**
 * Straight sides in many pieces.
 * @param {Shape} shape
 * @param {Place} radii
 */
const frame = (shape, [rx, ry]) => Array.from({ length: AROUND + 1 }, (_piece, at) => {
  const [side, way] = [Math.floor((at * 4) / AROUND) % 4, (((at * 4) / AROUND) % 1) * 2 - 1];
  const [x, y] = [[way, -1], [1, way], [-way, 1], [-1, -way]][side];
  return out(shape, rx * x, ry * y);
});

/**
 * @param {Grips} grips
 * @param {Gripped[]} found
 * @returns {SVGElement[]}
 */
export function gripMarks(grips, found) {
  const of = (/** @type {string} */ grip) => found.find((control) => control.grip === grip);
  const { width, height } = grips.shot.state.setup.picture;
  const angle = ((of("turn")?.values[0] ?? 0) * Math.PI) / 180;
  const middle = of("point");
  // Counter-clockwise as seen, y down.
  /** @type {Shape} */
  const shape = { centre: middle ? placeOf(middle) : [width / 2, height / 2], along: [Math.cos(angle), -Math.sin(angle)], across: [-Math.sin(angle), -Math.cos(angle)], of, grips };
  const points = found.filter((control) => control.grip === "point").flatMap((control) => grips.handle(placeOf(control), control.name, (place) => set(control, place)));
  const parts = [radiiMarks, cornerMarks, vectorMarks, endMarks, lengthMarks].map((marks) => marks(shape, found));
  // Lines lie below everything that is dragged.
  return [...parts.flatMap((part) => part.lines), ...points, ...parts.flatMap((part) => part.handles)];
}

/**
 * @param {Shape} shape
 * @param {Gripped[]} found
 */
function cornerMarks({ grips }, found) {
  const corners = found.filter((control) => control.grip === "corner");
  if (!corners.length) return { lines: [], handles: [] };
  const ends = corners.map(placeOf);
  // Two of them are those of a box.
  /** @type {Place[]} */
  const at = ends.length === 2 ? [ends[0], [ends[1][0], ends[0][1]], ends[1], [ends[0][0], ends[1][1]]] : ends;
  const side = (/** @type {Place} */ a, /** @type {Place} */ b) => Array.from({ length: ALONG + 1 }, (_piece, step) => mix(a, b, step / ALONG));
  return {
    lines: [grips.line(at.flatMap((corner, index) => side(corner, at[(index + 1) % at.length])))],
    handles: corners.flatMap((control) => grips.handle(placeOf(control), control.name, (place) => set(control, place))),
  };
}

/** @param {Shape} shape */
function radiiMarks(shape) {
  const { centre, along, across, of, grips } = shape;
  const radii = of("radii") ?? of("sides");
  if (!radii) return { lines: [], handles: [] };
  const [rx, ry] = radii.values;
  const outline = radii.grip === "sides" ? frame : oval;
  const softness = of("softness");
  const soft = softness?.values[0] ?? 0;
  const from = (/** @type {Place} */ place) => less(place, centre);
  return {
    lines: [...(soft > 0 ? [grips.line(outline(shape, [rx + soft / 2, ry + soft / 2]), "2 5")] : []), grips.line(outline(shape, [rx, ry]))],
    handles: [
      ...grips.handle(out(shape, rx), "width", (place) => set(radii, [Math.max(0, dot(from(place), along)), null])),
      ...grips.handle(out(shape, 0, ry), "height", (place) => set(radii, [null, Math.max(0, dot(from(place), across))])),
      ...(softness ? grips.handle(out(shape, 0, -ry - soft / 2), "softness", (place) => set(softness, [Math.max(0, 2 * (-dot(from(place), across) - ry))])) : []),
    ],
  };
}

/** A vector from the middle. @param {Shape} shape */
function vectorMarks({ centre, of, grips }) {
  const [right, down] = [of("right"), of("down")];
  if (!right || !down) return { lines: [], handles: [] };
  const by = /** @type {Place} */ ([right.values[0], down.values[0]]);
  // One of no length is taken a little beside its point.
  const off = Math.hypot(...by) * grips.well.zoom < OFF ? OFF / grips.well.zoom : 0;
  const tip = add(centre, by);
  const drag = (/** @type {Place} */ place) => {
    const [x, y] = less(less(place, centre), [off, off]);
    return [...set(right, [x]), ...set(down, [y])];
  };
  return { lines: [grips.line([centre, tip])], handles: grips.handle(add(tip, [off, off]), "move", drag) };
}

/** Another end, and how far something reaches. @param {Shape} shape */
function endMarks(shape) {
  const { centre, of, grips } = shape;
  const [end, reach] = [of("end"), of("reach")];
  const lines = [];
  const handles = [];
  if (end) {
    lines.push(grips.line([centre, placeOf(end)]));
    handles.push(...grips.handle(placeOf(end), end.name, (place) => set(end, place)));
  }
  if (reach) {
    const [r] = reach.values;
    lines.push(grips.line(oval({ ...shape, along: [1, 0], across: [0, 1] }, [r, r])));
    handles.push(...grips.handle([centre[0] + Math.max(r, NEAR / grips.well.zoom), centre[1]], reach.name, (place) => set(reach, [Math.hypot(...less(place, centre))])));
  }
  return { lines, handles };
}

/** A length along a direction, or the direction alone. @param {Shape} shape */
function lengthMarks(shape) {
  const { centre, of, grips } = shape;
  const [length, turn, radii] = [of("length"), of("turn"), of("radii") ?? of("sides")];
  if (!turn) return { lines: [], handles: [] };
  const turned = (/** @type {Place} */ place) => set(turn, [degrees(less(place, centre))]);
  if (!length) return { lines: [], handles: grips.handle(out(shape, (radii?.values[0] ?? 0) + TURN_OFF / grips.well.zoom), "turn", turned) };
  const half = length.values[0] / 2;
  const far = Math.max(half, 12 / grips.well.zoom);
  return {
    lines: [grips.line([out(shape, -half), out(shape, half)])],
    handles: grips.handle(out(shape, far), "length and angle", (place) => [...set(length, [2 * Math.hypot(...less(place, centre))]), ...turned(place)]),
  };
}

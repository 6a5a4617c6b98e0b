// A press on a mark of the chosen outline: a point, a handle, or the frame about the selected points.

import { add, less } from "../shot/drawn.js";
import { NEAR } from "./drawnmarks.js";

/** @typedef {import("./outlinepress.js").OutlinePress} Press */
/** @typedef {{ index: number, side?: "before" | "after", away: number }} Mark */
/** @typedef {(at: Place, by: Place) => Point[]} Change */

/**
 * Takes hold of what lies under the pointer; true where something did.
 * @param {Press} press
 * @param {PointerEvent} event
 * @param {(at: Place) => number} far
 * @param {(at: Place) => boolean} near
 */
export function grabbed(press, event, far, near) {
  const { marks, shot } = press;
  const points = marks.pointsOf();
  const frame = marks.frameOf(points);
  if (frame && near(frame.pivot)) {
    const before = shot.outline.pivot;
    press.follow(event, { moved: (pivot) => shot.markOutline({ pivot }), left: () => shot.atOutline({ pivot: before }) });
    return true;
  }
  const picked = (/** @type {(point: Point) => Point} */ change) => points.map((point, index) => (shot.outline.points.has(index) ? change(point) : point));
  const change = (frame && near(frame.top) ? turning(frame, picked) : null) ?? pointChange(press, event, points, far) ?? (frame && frame.corners.some(near) ? scaling(frame, frame.corners.find(near) ?? frame.pivot, picked) : null);
  if (!change) return false;
  drag(press, event, change);
  return true;
}

/**
 * @param {Press} press
 * @param {PointerEvent} event
 * @param {{ of: Change, bends?: boolean }} change
 */
function drag(press, event, { of, bends = false }) {
  const { marks, shot } = press;
  marks.bending = bends;
  /** @type {Point[] | null} */
  let last = null;
  press.follow(event, {
    moved: (at, by) => marks.try((last = of(at, by))),
    done: () => (last ? marks.put(last) : shot.tell("view")),
  });
}

/**
 * Turns the selected points about the pivot.
 * @param {import("./drawnmarks.js").Turned} frame
 * @param {(change: (point: Point) => Point) => Point[]} picked
 * @returns {{ of: Change }}
 */
function turning(frame, picked) {
  const angle = (/** @type {Place} */ [x, y]) => Math.atan2(y - frame.pivot[1], x - frame.pivot[0]);
  return { of: (at) => {
    const turn = angle(at) - angle(frame.top);
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    return picked(about(frame.pivot, ([x, y]) => [c * x - s * y, s * x + c * y]));
  } };
}

/**
 * Scales the selected points about the pivot, by one of the frame's corners.
 * @param {import("./drawnmarks.js").Turned} frame
 * @param {Place} corner
 * @param {(change: (point: Point) => Point) => Point[]} picked
 * @returns {{ of: Change }}
 */
function scaling(frame, corner, picked) {
  const from = Math.max(1e-6, Math.hypot(...less(corner, frame.pivot)));
  return { of: (at) => {
    const factor = Math.hypot(...less(at, frame.pivot)) / from;
    return picked(about(frame.pivot, ([x, y]) => [x * factor, y * factor]));
  } };
}

/**
 * A point with its handles, changed about a pivot.
 * @param {Place} pivot
 * @param {(way: Place) => Place} change
 * @returns {(point: Point) => Point}
 */
const about = (pivot, change) => (point) => ({ ...point, at: add(pivot, change(less(point.at, pivot))), before: change(point.before), after: change(point.after) });

/**
 * What a drag of a point or of a handle changes. Of marks that lie close together the nearest is meant.
 * @param {Press} press
 * @param {PointerEvent} event
 * @param {Point[]} points
 * @param {(at: Place) => number} far
 * @returns {{ of: Change, bends?: boolean } | null}
 */
function pointChange({ shot }, event, points, far) {
  const sides = /** @type {const} */ (["after", "before"]);
  const knobs = [...shot.outline.points].filter((index) => points[index]).flatMap((index) => sides.filter((side) => points[index][side].some(Boolean)).map((side) => ({ index, side, away: far(add(points[index].at, points[index][side])) })));
  /** @type {Mark[]} */
  const marks = [...points.map((point, index) => ({ index, away: far(point.at) })), ...knobs];
  const hit = marks.filter(({ away }) => away < NEAR).reduce((/** @type {Mark | null} */ best, mark) => (best && best.away <= mark.away ? best : mark), null);
  if (!hit) return null;
  if (hit.side) return { of: bending(points, hit.index, hit.side, event.ctrlKey || event.metaKey), bends: true };
  const chosen = new Set(event.shiftKey || shot.outline.points.has(hit.index) ? shot.outline.points : []);
  if (event.shiftKey && chosen.has(hit.index)) chosen.delete(hit.index);
  else chosen.add(hit.index);
  shot.atOutline({ points: chosen, pivot: null });
  return { of: (_at, by) => points.map((point, index) => (chosen.has(index) ? { ...point, at: add(point.at, by) } : point)) };
}

/**
 * A handle goes along; the other one mirrors it, or stays where the line is to have a corner.
 * @param {Point[]} points
 * @param {number} which
 * @param {"before" | "after"} side
 * @param {boolean} corner
 * @returns {Change}
 */
const bending = (points, which, side, corner) => (at) => points.map((point, index) => {
  if (index !== which) return point;
  const way = less(at, point.at);
  const other = side === "after" ? "before" : "after";
  return { ...point, [side]: way, ...(corner ? {} : { [other]: less([0, 0], way) }) };
});

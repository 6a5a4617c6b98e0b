// Outlines as points and curves: where they are at a frame, carried, cut and made of a drawn line.

/**
 * A setting with each list of points that is keyed together changed: outlines, a lattice, the outlines of pairs.
 * @param {any} setting
 * @param {(points: KeyedPoints) => KeyedPoints} change
 */
export function withDrawn(setting, change) {
  const { shapes, lattice, pairs } = setting ?? {};
  if (shapes) return { shapes: shapes.map(change) };
  if (lattice) return { lattice: change(lattice) };
  if (!pairs) return setting;
  return { pairs: {
    ...pairs,
    pairs: pairs.pairs.map((/** @type {Pair} */ pair) => ({ ...pair, rest: change(pair.rest), goal: change(pair.goal) })),
    fences: pairs.fences.map((/** @type {Fence} */ fence) => ({ ...fence, line: change(fence.line) })),
  } };
}

/**
 * Lists of points that are keyed together, in the order that the server counts them in.
 * @param {any} setting
 */
export function drawnOf(setting) {
  /** @type {KeyedPoints[]} */
  const all = [];
  withDrawn(setting, (points) => {
    all.push(points);
    return points;
  });
  return all;
}

/**
 * Frames of all keys of what a control has drawn.
 * @param {Control | undefined} control
 * @returns {number[]}
 */
export const shapeFrames = (control) => drawnOf(control?.setting).flatMap((points) => (points.keys.length > 1 ? points.keys.map((key) => key.frame) : []));

/**
 * A point with all that it may leave out.
 * @param {Partial<Point> & { at: Place }} point
 * @returns {Point}
 */
export const full = (point) => ({ at: point.at, before: point.before ?? [0, 0], after: point.after ?? [0, 0], soft: point.soft ?? 0 });

/** @param {Point} point */
const numbers = ({ at, before, after, soft }) => [...at, ...before, ...after, soft];

/**
 * @param {number[]} numbers
 * @returns {Point}
 */
const ofNumbers = ([x, y, bx, by, ax, ay, soft]) => ({ at: [x, y], before: [bx, by], after: [ax, ay], soft: Math.max(0, soft) });

/**
 * The points of an outline at a frame, as the server has them.
 * @param {KeyedPoints} shape
 * @param {number} frame
 * @returns {Point[]}
 */
export function shapeAt(shape, frame) {
  const keys = shape.keys;
  const next = keys.findIndex((key) => key.frame > frame);
  if (next <= 0) return (next ? keys[keys.length - 1] : keys[0]).points.map(full);
  const before = next - 1;
  const t = (frame - keys[before].frame) / (keys[next].frame - keys[before].frame);
  return keys[before].points.map((_point, number) => pointBetween(shape, before, number, t));
}

/**
 * One point between two keys, `t` of the way from the first of them to the next.
 * @param {KeyedPoints} shape
 * @param {number} before
 * @param {number} number
 * @param {number} t
 */
function pointBetween({ keys, way }, before, number, t) {
  const next = before + 1;
  const wide = keys[next].frame - keys[before].frame;
  const u = 1 - t;
  // A slope asks only the keys beside its own.
  const from = Math.max(0, before - 1);
  const all = keys.slice(from, next + 2).map((key) => numbers(full(key.points[number])));
  const slope = (/** @type {number} */ key, /** @type {number} */ axis) => {
    const [first, last] = [Math.max(0, key - 1), Math.min(keys.length - 1, key + 1)];
    return last > first ? ((all[last - from][axis] - all[first - from][axis]) / (keys[last].frame - keys[first].frame)) * wide : 0;
  };
  return ofNumbers(all[before - from].map((start, axis) => {
    const end = all[next - from][axis];
    if (way === "step") return start;
    if (way === "straight") return start + (end - start) * t;
    return u * u * (1 + 2 * t) * start + t * t * (1 + 2 * u) * end + u * u * t * slope(before, axis) - t * t * u * slope(next, axis);
  }));
}

/**
 * As few points as keep a drawn line within so many pixels of where it was, Douglas and Peucker 1973, with handles
 * that let a curve go through them.
 * @param {Place[]} places
 * @param {number} near
 * @returns {Point[]}
 */
export function strokePoints(places, near) {
  const keep = new Set([0, places.length - 1]);
  const split = (/** @type {number} */ from, /** @type {number} */ to) => {
    const at = farthest(places, from, to, near);
    if (at < 0) return;
    keep.add(at);
    split(from, at);
    split(at, to);
  };
  split(0, places.length - 1);
  const kept = [...keep].sort((a, b) => a - b).map((index) => places[index]);
  return kept.map((at, index) => {
    const [before, after] = [kept[index - 1] ?? at, kept[index + 1] ?? at];
    const way = mix([0, 0], less(after, before), 1 / 6);
    const end = index === 0 || index === kept.length - 1;
    return { at, before: end ? [0, 0] : less([0, 0], way), after: end ? [0, 0] : way, soft: 0 };
  });
}

/**
 * The place between two that is farthest from the line through them; -1 where none is farther than `near`.
 * @param {Place[]} places
 * @param {number} from
 * @param {number} to
 * @param {number} near
 */
function farthest(places, from, to, near) {
  let [worst, at] = [near, -1];
  const [a, b] = [places[from], places[to]];
  const length = Math.hypot(...less(b, a)) || 1;
  for (let index = from + 1; index < to; index++) {
    const p = less(places[index], a);
    const far = length > 1 ? Math.abs((b[0] - a[0]) * p[1] - (b[1] - a[1]) * p[0]) / length : Math.hypot(...p);
    if (far > worst) [worst, at] = [far, index];
  }
  return at;
}

/** @type {(a: Place, b: Place) => Place} */
export const add = (a, b) => [a[0] + b[0], a[1] + b[1]];
/** @type {(a: Place, b: Place) => Place} */
export const less = (a, b) => [a[0] - b[0], a[1] - b[1]];
/** @type {(a: Place, b: Place, t: number) => Place} */
export const mix = (a, b, t) => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];

/**
 * The four places that a curve from one point to the next is made of.
 * @param {Point} from
 * @param {Point} to
 * @returns {[Place, Place, Place, Place]}
 */
const curveOf = (from, to) => [from.at, add(from.at, from.after), add(to.at, to.before), to.at];

/**
 * A place on the curve from one point to the next.
 * @param {Point} from
 * @param {Point} to
 * @param {number} t
 */
export function onCurve(from, to, t) {
  const [a, b, c, d] = curveOf(from, to);
  const [ab, bc, cd] = [mix(a, b, t), mix(b, c, t), mix(c, d, t)];
  return mix(mix(ab, bc, t), mix(bc, cd, t), t);
}

/**
 * The point that cuts a curve in two, and what becomes of the handles at its ends.
 * @param {Point} from
 * @param {Point} to
 * @param {number} t
 * @returns {{ after: Place, point: Point, before: Place }}
 */
export function cutCurve(from, to, t) {
  const [a, b, c, d] = curveOf(from, to);
  const [ab, bc, cd] = [mix(a, b, t), mix(b, c, t), mix(c, d, t)];
  const [abc, bcd] = [mix(ab, bc, t), mix(bc, cd, t)];
  const at = mix(abc, bcd, t);
  return { after: less(ab, a), point: { at, before: less(abc, at), after: less(bcd, at), soft: from.soft + (to.soft - from.soft) * t }, before: less(cd, d) };
}

/**
 * The pairs of points that curves run between.
 * @param {{ width?: number | null }} shape
 * @param {Point[]} points
 */
export const pairs = (shape, points) => points.map((_point, at) => [at, (at + 1) % points.length]).filter(([a, b]) => b > a || (shape.width == null && points.length > 1));

// Tone curves and gradients: what they give at a place, as the server has it.

// Points nearer to each other than this are one.
const LEAST_STEP = 1e-3;

/**
 * The points of a tone curve in order; of those at one place the last one counts.
 * @param {Place[]} points
 * @returns {Place[]}
 */
export function tonePoints(points) {
  /** @type {Place[]} */
  const kept = [];
  for (const point of points.toSorted((a, b) => a[0] - b[0])) {
    const last = kept.at(-1);
    if (last && point[0] - last[0] < LEAST_STEP) kept.pop();
    kept.push(point);
  }
  return kept;
}

/**
 * Slopes at the points of a tone curve by Fritsch and Carlson 1980, which never swing beyond a point.
 * @param {Place[]} points as `tonePoints` gives them
 * @returns {number[]}
 */
export function toneSlopes(points) {
  const secants = points.slice(1).map((point, at) => (point[1] - points[at][1]) / (point[0] - points[at][0]));
  if (!secants.length) return points.map(() => 1);
  const slopes = [secants[0], ...secants.slice(1).map((secant, at) => (secant * secants[at] <= 0 ? 0 : (secant + secants[at]) / 2)), secants[secants.length - 1]];
  secants.forEach((secant, at) => {
    const far = Math.hypot(slopes[at] / secant, slopes[at + 1] / secant);
    if (secant === 0) slopes[at] = slopes[at + 1] = 0;
    else if (far > 3) [slopes[at], slopes[at + 1]] = [(3 * slopes[at]) / far, (3 * slopes[at + 1]) / far];
  });
  return slopes;
}

/**
 * What a tone curve makes of a value; beyond its ends it goes straight on.
 * @param {Place[]} points in order
 * @param {number[]} slopes
 * @param {number} x
 */
export function toneAt(points, slopes, x) {
  if (!points.length) return x;
  const next = points.findIndex((point) => point[0] > x);
  const end = next === 0 ? 0 : points.length - 1;
  if (next <= 0) return points[end][1] + (x - points[end][0]) * slopes[end];
  const [[from, start], [to, goal]] = [points[next - 1], points[next]];
  const [t, wide] = [(x - from) / (to - from), to - from];
  const u = 1 - t;
  return u * u * (1 + 2 * t) * start + t * t * (1 + 2 * u) * goal + u * u * t * wide * slopes[next - 1] - t * t * u * wide * slopes[next];
}

/** @typedef {{ at: number, colour: number[], alpha: number, smooth?: boolean }} Stop */

/**
 * The colour and alpha of a gradient at a place, mixed premultiplied as the picture is.
 * @param {Stop[]} stops in any order
 * @param {number} at
 * @returns {Stop}
 */
export function gradientAt(stops, at) {
  const run = stops.toSorted((a, b) => a.at - b.at);
  const next = run.findIndex((stop) => stop.at > at);
  if (next <= 0) return next ? run[run.length - 1] : run[0];
  const [a, b] = [run[next - 1], run[next]];
  let share = (at - a.at) / (b.at - a.at);
  if (a.smooth) share = share * share * (3 - 2 * share);
  const alpha = a.alpha + (b.alpha - a.alpha) * share;
  const colour = a.colour.map((value, axis) => (alpha > 0 ? (value * a.alpha + (b.colour[axis] * b.alpha - value * a.alpha) * share) / alpha : value));
  return { at, colour, alpha, smooth: a.smooth };
}

// A place in space: nine numbers on the bench, and its axes on the picture.

import { svg } from "../base/parts.js";
import { add, less, mix } from "../shot/drawn.js";
import { feedsOf, feedValue } from "../shot/keys.js";
import { INK, SALT } from "../viewer/drawnmarks.js";

// How each of its numbers beyond the place is counted.
const KINDS = [["degrees", 180], ["degrees", 180], ["degrees", 180], ["none", 4], ["none", 4], ["none", 4]];
// How far the slider of a place goes, by what that is counted in.
const REACH = { px: 2000, metres: 20 };
// Which of them scales toward the eye.
const DEPTH = 8;
// An axis is drawn so long, in pixels of the screen; the mark of depth stands so far beside the middle.
const [LONG, BESIDE] = [90, 54];

/** @typedef {[number, number, number]} Three */

/** @type {ControlType} */
export const space = {
  lines: (lines, id, control) => control.axes.flatMap((_axis, index) => {
    // What is flat has no depth to scale.
    if (control.kind.flat && index === DEPTH) return [];
    const places = /** @type {keyof REACH} */ (control.kind.unit ?? "px");
    const [unit, most] = /** @type {[string, number]} */ (index < 3 ? [places, REACH[places]] : KINDS[index - 3]);
    const slider = /** @type {Place} */ ([unit === "none" ? 0 : -most, most]);
    return [lines.number(id, { ...control, kind: { ...control.kind, unit, slider } }, index)];
  }),
  hand: (nodes) => new SpaceMarks(nodes),
};

/**
 * Where a place of the thing itself is in space, as the server has it: turned about z, then x, then y.
 * @param {number[]} numbers
 * @param {Three} own
 * @returns {Three}
 */
function placed(numbers, own) {
  const [x, y, z, tx, ty, tz, sx, sy, sz] = numbers;
  const at = /** @type {Three} */ ([own[0] * sx, own[1] * sy, own[2] * sz]);
  for (const [degrees, from, to] of [[tz, 0, 1], [tx, 1, 2], [ty, 2, 0]]) {
    const turn = (degrees * Math.PI) / 180;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    [at[from], at[to]] = [at[from] * c - at[to] * s, at[from] * s + at[to] * c];
  }
  return [at[0] + x, at[1] + y, at[2] + z];
}

/** The axes are moved through the marks of other grips, so presses and keys are theirs. */
class SpaceMarks {
  dragging = false;

  /** @param {HandNodes} nodes */
  constructor({ shot, overlay, grips, remark }) {
    this.shot = shot;
    this.overlay = overlay;
    this.grips = grips;
    this.remark = remark;
  }

  down() {
    return false;
  }

  twice() {}

  key() {
    return false;
  }

  /** The control and its numbers at this frame, with what is being tried in them. */
  #found() {
    const { shot } = this;
    const id = shot.selected;
    const control = id === undefined ? undefined : shot.controls(id).find((one) => one.kind.type === "space" && one.grip === "drawn" && shot.counts(id, one));
    if (id === undefined || !control) return null;
    const values = this.#valuesOf(id, control);
    const view = shot.controls(id).find((one) => one.grip === "view");
    const angle = view && this.#valuesOf(id, view)[0];
    return values.some((value) => value === undefined) || (view && angle === undefined) ? null : { control, values: /** @type {number[]} */ (values), angle: angle ?? 40 };
  }

  /**
   * @param {number} id
   * @param {Control} control
   */
  #valuesOf(id, control) {
    const { shot } = this;
    const tried = shot.trial?.find((command) => command.stage === id && command.control === control.id);
    return feedsOf(control.setting).map((feed, axis) => tried?.values?.[axis] ?? feedValue(feed, shot.frameOf(id)) ?? shot.numbers(id, this.remark)?.[control.id]?.[axis]);
  }

  draw() {
    const found = this.#found();
    if (!found) return;
    const { control, values, angle } = found;
    const { width, height } = this.shot.state.setup.picture;
    const eye = width / 2 / Math.tan((angle * Math.PI) / 360);
    const seen = (/** @type {Three} */ own) => {
      const [x, y, z] = placed(values, own);
      const near = eye / Math.max(eye - z, 1);
      return /** @type {Place} */ ([width / 2 + x * near, height / 2 - y * near]);
    };
    const zoom = this.grips.well.zoom;
    const near = eye / Math.max(eye - values[2], 1);
    const long = LONG / zoom / near;
    const middle = seen([0, 0, 0]);
    // An axis is as long as it would be unscaled, so that one of no size can still be taken hold of.
    const ends = [0, 1, 2].map((axis) => seen(/** @type {Three} */ ([0, 1, 2].map((one) => (one === axis ? long / (values[6 + one] || 1) : 0)))));
    const change = (/** @type {{ [axis: number]: number }} */ by) => [{ control: control.id, values: values.map((_value, axis) => by[axis] ?? null) }];
    const { name } = control;
    const turned = (/** @type {Place} */ at) => (Math.atan2(-(at[1] - middle[1]), at[0] - middle[0]) - Math.atan2(-(ends[0][1] - middle[1]), ends[0][0] - middle[0])) * (180 / Math.PI);
    const grown = (/** @type {Place} */ at) => Math.hypot(...less(at, middle)) / Math.max(1e-6, Math.hypot(...less(ends[1], middle)));
    const beside = add(middle, [BESIDE / zoom, BESIDE / zoom]);
    const grip = this.grips;
    this.overlay.append(
      ...ends.map((end, axis) => this.#axis(middle, end, axis)),
      ...grip.handle(ends[0], `${name}: turn about z`, (at) => change({ 5: values[5] + turned(at) })),
      ...grip.handle(ends[1], `${name}: scale`, (at) => change({ 6: values[6] * grown(at), 7: values[7] * grown(at), 8: values[8] * grown(at) })),
      ...grip.handle(beside, `${name}: nearer or further`, (at) => change({ 2: values[2] + (at[1] - beside[1]) / near })),
      ...grip.handle(middle, `${name}: move`, (at) => change({ 0: values[0] + (at[0] - middle[0]) / near, 1: values[1] - (at[1] - middle[1]) / near })),
    );
  }

  /**
   * @param {Place} middle
   * @param {Place} end
   * @param {number} axis
   */
  #axis(middle, end, axis) {
    const [from, to] = [middle, end].map((place) => this.grips.seen(place));
    const [x, y] = mix(from, to, 1.2);
    return svg("g", { class: "spaceaxis", "pointer-events": "none" },
      // Dark below light, to be seen on any picture.
      ...[[INK, 3.6], [SALT, 1.4]].map(([stroke, width]) => svg("path", { d: `M${from[0]} ${from[1]}L${to[0]} ${to[1]}`, stroke, "stroke-width": width })),
      svg("text", { x, y, fill: SALT, stroke: INK, "stroke-width": 3, "paint-order": "stroke", "font-size": 13, "text-anchor": "middle", "dominant-baseline": "central" }, "xyz"[axis]));
  }
}

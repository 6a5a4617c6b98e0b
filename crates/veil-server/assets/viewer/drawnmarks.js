// What is drawn on the picture as points that are keyed together: where they are seen, and what a change of theirs is kept as.

import { post, orElse } from "../base/api.js";
import { svg } from "../base/parts.js";
import { add, full, mix, onCurve, pairs, shapeAt } from "../shot/drawn.js";
import { Marks } from "./marks.js";

// Pieces that a curve is drawn in, since a warp may bend it.
const PIECES = 14;
// The mark that turns stands so far above the frame, in pixels of the screen.
const TURN_OFF = 26;
// A mark is met within so many pixels of the screen.
export const NEAR = 11;
export const [INK, SALT] = ["#1f2120", "#ece8de"];

// Places on the screen are drawn to a tenth of a pixel.
export const tenth = (/** @type {number} */ at) => Math.round(at * 10) / 10;

/** @typedef {{ corners: Place[], pivot: Place, top: Place }} Turned */

export class DrawnMarks extends Marks {
  /** The points of the chosen outline while they are dragged. @type {Point[] | null} */
  #dragged = null;
  /** Whether a handle is what is dragged. */
  bending = false;
  /** A box that selects points while it is drawn. @type {{ x: number, y: number, width: number, height: number } | null} */
  boxed = null;
  /** The points of outlines that go with a track where they are seen at this frame. @type {{ of: string, row: number | undefined, points: Map<number, Point[]>, asked: Promise<void> }} */
  #placed = { of: "", row: undefined, points: new Map(), asked: Promise.resolve() };
  get dragging() {
    return this.#dragged !== null;
  }

  /** The type of control whose points these are. @type {string} */
  get type() {
    return "shapes";
  }

  get control() {
    const id = this.shot.selected;
    return id === undefined ? undefined : this.shot.controls(id).find((one) => one.kind.type === this.type && this.shot.counts(id, one));
  }

  /** What is drawn, as outlines. @returns {Outline[]} */
  get shapes() {
    return this.control?.setting.shapes ?? [];
  }

  /** @returns {Outline | undefined} */
  get chosen() {
    return this.shapes[this.shot.outline.shape];
  }

  /** Asks where outlines that go with a track are seen; done when they are known. */
  askPlaced() {
    const { shot } = this;
    const carried = this.shapes.flatMap((shape, index) => (shape.carried ? [{ index, carried: shape.carried, points: shapeAt(shape, shot.here) }] : []));
    const of = carried.length ? [shot.state.revision, shot.here, shot.selected].join("/") : "";
    if (this.#placed.of === of) return this.#placed.asked;
    const { row, points } = this.#placed;
    this.#placed = { of, row: shot.selected, points: row === shot.selected ? points : new Map(), asked: Promise.resolve() };
    this.#placed.asked = this.#take(of, carried);
    return this.#placed.asked;
  }

  /**
   * @param {string} of
   * @param {{ index: number, carried: object, points: Point[] }[]} carried
   */
  async #take(of, carried) {
    if (!carried.length) return;
    const drawn = carried.map((one) => ({ carried: one.carried, points: one.points }));
    /** @type {Point[][]} */
    const found = await orElse(post(`${this.shot.base}/tracks/placed`, { drawn, frame: this.shot.here }), []);
    if (this.#placed.of !== of) return;
    this.#placed.points = new Map(found.map((points, at) => [carried[at].index, points.map(full)]));
    this.remark();
  }

  /** @param {number} index */
  #seen(index) {
    return this.shapes[index]?.carried ? this.#placed.points.get(index) : undefined;
  }

  /**
   * The points of an outline where they are seen at this frame.
   * @param {number} [index] the chosen one as it comes
   * @returns {Point[]}
   */
  pointsOf(index = this.shot.outline.shape) {
    if (this.#dragged && index === this.shot.outline.shape) return this.#dragged;
    return this.#seen(index) ?? shapeAt(this.shapes[index], this.shot.here);
  }

  /** @param {Outline[]} shapes */
  set(shapes) {
    return this.shot.edit({ do: "set", stage: this.shot.selected, control: this.control?.id, setting: { shapes } });
  }

  /** @param {Point[]} points */
  #command(points) {
    const { shape } = this.shot.outline;
    const stand = this.#seen(shape) ? "seen" : "drawn";
    return { do: "put_shape", stage: this.shot.selected, control: this.control?.id, shape, points, stand, frame: this.shot.here, keys: this.shot.keying };
  }

  /**
   * The chosen outline's points as they are dragged.
   * @param {Point[]} points
   */
  try(points) {
    this.#dragged = points;
    this.shot.try([this.#command(points)]);
  }

  /** @param {Point[]} points */
  async put(points) {
    this.#dragged = points;
    await this.shot.edit(this.#command(points));
    await this.askPlaced();
    this.#dragged = null;
    this.shot.tell("view");
  }

  /** Nothing is dragged any more; what was tried is not kept. */
  leave() {
    this.#dragged = null;
    this.boxed = null;
    this.shot.try(null);
  }

  /**
   * Changes the points of every key of the chosen outline.
   * @param {(points: Point[]) => Point[]} turn
   */
  changeAll(turn) {
    const { shape } = this.shot.outline;
    return this.set(this.shapes.map((one, index) => (index === shape ? { ...one, keys: one.keys.map((key) => ({ ...key, points: turn(key.points.map(full)) })) } : one)));
  }

  /**
   * The way of a curve on the screen. What no warp bends is the curve itself; what one bends goes through pieces of it.
   * @param {{ width?: number | null }} shape
   * @param {Point[]} points
   */
  wayOf(shape, points) {
    const bent = this.carry.carries;
    const word = (/** @type {string} */ letter, /** @type {Place} */ at) => {
      const [x, y] = this.seen(at);
      return `${letter}${tenth(x)} ${tenth(y)}`;
    };
    let last = -1;
    return pairs(shape, points).map(([a, b]) => {
      const [from, to] = [points[a], points[b]];
      const begin = a === last ? "" : word("M", from.at);
      last = b;
      if (bent) return begin + Array.from({ length: PIECES }, (_piece, piece) => word("L", onCurve(from, to, (piece + 1) / PIECES))).join("");
      if ([from.after, to.before].every(([x, y]) => !x && !y)) return begin + word("L", to.at);
      return begin + word("C", add(from.at, from.after)) + word(" ", add(to.at, to.before)) + word(" ", to.at);
    }).join("");
  }

  /**
   * Dark below light, to be seen on any picture.
   * @param {{ width?: number | null }} shape
   * @param {Point[]} points
   * @param {Attributes} attributes
   * @returns {SVGElement}
   */
  curve(shape, points, attributes) {
    const d = this.wayOf(shape, points);
    return svg("g", attributes, svg("path", { d, fill: "none", stroke: INK, "stroke-width": 3.4, "stroke-opacity": 0.55, "stroke-dasharray": "none" }), svg("path", { d, fill: "none", stroke: SALT, "stroke-width": 1.3 }));
  }

  /**
   * The points as squares. All of a kind are one path: a hundred points are moved at once.
   * @param {Point[]} points
   */
  squares(points) {
    const { points: picked } = this.shot.outline;
    const marks = { plain: /** @type {string[]} */ ([]), picked: /** @type {string[]} */ ([]) };
    points.forEach((point, index) => {
      const [x, y] = this.seen(point.at);
      marks[picked.has(index) ? "picked" : "plain"].push(`M${tenth(x - 3.5)} ${tenth(y - 3.5)}h7v7h-7z`);
    });
    const squares = (/** @type {"plain" | "picked"} */ kind) => (marks[kind].length ? [svg("path", { class: `outlinepoints ${kind}`, "data-count": marks[kind].length, d: marks[kind].join("") })] : []);
    return [...squares("plain"), ...squares("picked")];
  }

  /** The box that selects points, while it is drawn. */
  boxMark() {
    return this.boxed ? [svg("rect", { ...this.boxed, fill: "none", stroke: SALT, "stroke-dasharray": "3 3" })] : [];
  }

  /**
   * Where the corners of the box about the selected points are, and the pivot; none for fewer than two.
   * @param {Point[]} points
   * @returns {Turned | null}
   */
  frameOf(points) {
    const { points: picked, pivot } = this.shot.outline;
    const at = [...picked].filter((index) => points[index]).map((index) => points[index].at);
    if (at.length < 2) return null;
    const [xs, ys] = [at.map((one) => one[0]), at.map((one) => one[1])];
    const [x0, y0, x1, y1] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
    const middle = mix([x0, y0], [x1, y1], 0.5);
    return { corners: [[x0, y0], [x1, y0], [x1, y1], [x0, y1]], pivot: pivot ?? middle, top: [middle[0], y0 - TURN_OFF / this.well.zoom] };
  }

  /** @param {Point[]} points */
  turnFrame(points) {
    const frame = this.frameOf(points);
    if (!frame || this.chosen?.locked) return [];
    const [px, py] = this.seen(frame.pivot);
    const knob = (/** @type {Place} */ at) => {
      const [cx, cy] = this.seen(at);
      return svg("circle", { cx, cy, r: 3.5, fill: INK, stroke: SALT });
    };
    const d = frame.corners.map((corner) => this.seen(corner)).map(([x, y], at) => `${at ? "L" : "M"}${x} ${y}`).join("");
    return [
      svg("path", { d: `${d}Z`, fill: "none", stroke: SALT, "stroke-opacity": 0.35 }), ...frame.corners.map(knob), knob(frame.top),
      svg("path", { d: `M${px - 6} ${py}h12M${px} ${py - 6}v12`, stroke: SALT, "stroke-width": 1.3, class: "pivot" }),
    ];
  }
}

// A tone curve on the bench: a click makes a point, a drag moves one, Delete takes it away.

import { followPointer } from "../base/drag.js";
import { apart, el, short, svg, within } from "../base/parts.js";
import { toneAt, tonePoints, toneSlopes } from "../shot/ramps.js";

const [WIDE, HIGH, ROOM] = [256, 150, 6];
const STEPS = 64;
const STEP = { ArrowLeft: [-0.01, 0], ArrowRight: [0.01, 0], ArrowUp: [0, 0.01], ArrowDown: [0, -0.01] };

/** @param {number} value */
const thousandth = (value) => Math.round(value * 1000) / 1000;

/** @type {ControlType} */
export const curve = {
  alone: true,
  lines: (lines, id, control) => {
    const { node } = new ToneCurve(`${id}-${control.id}`, control, (points) => lines.set(id, control, { curve: points }));
    return [lines.line(control, el("div", { class: "stops" }, node), "whole")];
  },
};

class ToneCurve {
  /**
   * @param {string} key
   * @param {Control} control
   * @param {(points: Place[]) => unknown} set
   */
  constructor(key, control, set) {
    this.key = key;
    this.set = set;
    this.points = tonePoints(control.setting.curve);
    // What is seen: 0 to 1, and as far as points lie beyond.
    this.low = [0, 1].map((axis) => Math.min(0, ...this.points.map((point) => point[axis])));
    this.high = [0, 1].map((axis) => Math.max(1, ...this.points.map((point) => point[axis])));
    this.node = svg("svg", { class: "tone", viewBox: `${-ROOM} ${-ROOM} ${WIDE + 2 * ROOM} ${HIGH + 2 * ROOM}`, role: "group", "aria-label": `curve of ${control.name}`, onclick: (event) => this.#clicked(event) });
    this.#draw(this.points);
  }

  /** @param {Place} place */
  #toScreen([x, y]) {
    const { low, high } = this;
    return [((x - low[0]) / (high[0] - low[0])) * WIDE, HIGH - ((y - low[1]) / (high[1] - low[1])) * HIGH];
  }

  /**
   * @param {MouseEvent} event
   * @returns {Place}
   */
  #fromEvent(event) {
    const { low, high } = this;
    const box = this.node.getBoundingClientRect();
    const [x, y] = [((event.clientX - box.left) / box.width) * (WIDE + 2 * ROOM) - ROOM, ((event.clientY - box.top) / box.height) * (HIGH + 2 * ROOM) - ROOM];
    return [low[0] + (x / WIDE) * (high[0] - low[0]), low[1] + ((HIGH - y) / HIGH) * (high[1] - low[1])];
  }

  /** @param {Place[]} run */
  #draw(run) {
    const { low, high } = this;
    const slopes = toneSlopes(run);
    const path = Array.from({ length: STEPS + 1 }, (_step, at) => {
      const x = low[0] + ((high[0] - low[0]) * at) / STEPS;
      const [px, py] = this.#toScreen([x, toneAt(run, slopes, x)]);
      return `${at ? "L" : "M"}${px.toFixed(1)} ${within(py, -ROOM, HIGH + ROOM).toFixed(1)}`;
    }).join("");
    const line = (/** @type {Place} */ a, /** @type {Place} */ b) => svg("path", { d: `M${this.#toScreen(a).join(" ")}L${this.#toScreen(b).join(" ")}`, stroke: "var(--rule)", fill: "none" });
    this.node.replaceChildren(
      svg("rect", { x: 0, y: 0, width: WIDE, height: HIGH, fill: "var(--sunk)", stroke: "var(--bound)" }),
      ...[0.25, 0.5, 0.75].flatMap((at) => [line([at, low[1]], [at, high[1]]), line([low[0], at], [high[0], at])]),
      line([0, 0], [1, 1]),
      svg("path", { d: path, stroke: "var(--salt)", "stroke-width": 1.6, fill: "none" }),
      ...run.flatMap((point, index) => this.#mark(run, point, index)));
  }

  /**
   * @param {Place[]} run
   * @param {Place} point
   * @param {number} index
   */
  #mark(run, point, index) {
    const [cx, cy] = this.#toScreen(point);
    const hit = svg("circle", {
      cx, cy, r: 12, fill: "transparent", tabindex: 0, role: "button", "aria-label": `point ${index + 1}: ${short(point[0], 3)} becomes ${short(point[1], 3)}`, "data-field": `${this.key}-${index}`, class: "tonepoint",
      onpointerdown: (event) => this.#grab(event, index), onkeydown: (event) => this.#keyed(event, run, index),
    });
    return [svg("circle", { cx, cy, r: 4, fill: "var(--panel)", stroke: "var(--salt)", "stroke-width": 1.6 }), hit];
  }

  /**
   * @param {KeyboardEvent} event
   * @param {Place[]} run
   * @param {number} index
   */
  #keyed(event, run, index) {
    apart(event);
    const step = STEP[/** @type {keyof STEP} */ (event.key)];
    const size = event.shiftKey ? 10 : 1;
    if (step) this.set(run.map((one, at) => (at === index ? [one[0] + step[0] * size, one[1] + step[1] * size] : one)));
    else if ((event.key === "Delete" || event.key === "Backspace") && run.length > 1) this.set(run.filter((_point, at) => at !== index));
    else return;
    event.preventDefault();
  }

  /**
   * @param {PointerEvent & { target: any }} event
   * @param {number} index
   */
  #grab(event, index) {
    event.preventDefault();
    apart(event);
    event.target.focus();
    const moved = (/** @type {MouseEvent} */ next) => this.points.map((point, at) => (at === index ? /** @type {Place} */ (this.#fromEvent(next).map(thousandth)) : point));
    followPointer(event, {
      moved: (next) => this.#draw(tonePoints(moved(next))),
      done: (far, last) => far && this.set(moved(last)),
      left: () => this.#draw(this.points),
    });
  }

  /** @param {MouseEvent & { target: any }} event */
  #clicked(event) {
    if (event.target.classList.contains("tonepoint")) return;
    const [x] = this.#fromEvent(event);
    this.set([...this.points, [thousandth(x), thousandth(toneAt(this.points, toneSlopes(this.points), x))]]);
  }
}

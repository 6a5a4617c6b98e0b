// The stops of a gradient: a bar to click and drag on, and the numbers of the chosen one.

import { followPointer } from "../base/drag.js";
import { apart, arithmetic, el, short, within } from "../base/parts.js";
import { gradientAt } from "../shot/ramps.js";

const [WIDE, HIGH] = [240, 22];

/** @typedef {import("../shot/ramps.js").Stop} Stop */

/** A linear value as the screen shows it, by IEC 61966-2-1. @param {number} value */
const shown = (value) => {
  const v = within(value, 0, 1);
  return Math.round(255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055));
};

/** Which stop of each control is chosen; it stays so while the bench is drawn anew. @type {Map<string, number>} */
const chosen = new Map();

/** @type {ControlType} */
export const stops = {
  alone: true,
  lines: (lines, id, control) => [lines.line(control, new Stops(`${id}-${control.id}`, control, (changed) => lines.set(id, control, { stops: changed })).node, "whole")],
};

class Stops {
  /**
   * @param {string} key
   * @param {Control} control
   * @param {(stops: Stop[]) => unknown} set
   */
  constructor(key, control, set) {
    this.key = key;
    this.control = control;
    this.set = set;
    /** @type {Stop[]} */
    this.stops = control.setting.stops;
    this.at = Math.min(chosen.get(key) ?? 0, this.stops.length - 1);
    /** @type {HTMLCanvasElement} */
    this.canvas = el("canvas", { class: "ramp", width: WIDE, height: HIGH, role: "img", "aria-label": `${control.name}: click for another stop`, onclick: (event) => this.#add(this.#placeOf(event)) });
    this.marks = el("div", { class: "stopmarks" });
    this.node = el("div", { class: "stops" }, this.canvas, this.marks, this.#numbers());
    this.#paint(this.stops);
  }

  /**
   * @param {MouseEvent} event
   * @returns {number}
   */
  #placeOf(event) {
    const box = this.canvas.getBoundingClientRect();
    return within((event.clientX - box.left) / box.width, 0, 1);
  }

  /** @param {Stop[]} run */
  #paint(run) {
    const context = /** @type {CanvasRenderingContext2D} */ (this.canvas.getContext("2d"));
    const pixels = context.createImageData(WIDE, HIGH);
    for (let x = 0; x < WIDE; x++) {
      const { colour, alpha } = gradientAt(run, x / (WIDE - 1));
      for (let y = 0; y < HIGH; y++) {
        const check = ((x >> 3) + (y >> 3)) % 2 ? 0.12 : 0.05;
        pixels.data.set([...colour.map((value) => shown(value * alpha + check * (1 - alpha))), 255], (y * WIDE + x) * 4);
      }
    }
    context.putImageData(pixels, 0, 0);
    this.marks.replaceChildren(...run.map((stop, index) => this.#mark(stop, index)));
  }

  /**
   * @param {Stop} stop
   * @param {number} index
   */
  #mark(stop, index) {
    return el("button", {
      class: "stopmark", style: `left:${stop.at * 100}%`, "aria-pressed": index === this.at, "aria-label": `stop ${index + 1} at ${short(stop.at, 3)}`, "data-field": `${this.key}-stop-${index}`,
      onkeydown: (event) => this.#keyed(event, index), onpointerdown: (event) => this.#grab(event, index), onclick: () => this.#choose(index),
    }, el("i", { style: `background:rgb(${stop.colour.map(shown).join(" ")})` }));
  }

  /**
   * @param {KeyboardEvent} event
   * @param {number} index
   */
  #keyed(event, index) {
    apart(event);
    const step = { ArrowLeft: -0.01, ArrowRight: 0.01 }[event.key];
    if (step) this.#change(index, { at: this.stops[index].at + step * (event.shiftKey ? 10 : 1) });
    else if (event.key === "Delete") this.#remove(index);
    else return;
    event.preventDefault();
  }

  /** @param {number} index */
  #choose(index) {
    chosen.set(this.key, index);
    this.node.replaceWith(new Stops(this.key, this.control, this.set).node);
  }

  /**
   * @param {number} index
   * @param {Partial<Stop>} values
   */
  #change(index, values) {
    chosen.set(this.key, index);
    const next = { ...this.stops[index], ...values };
    const bound = { ...next, at: within(next.at, 0, 1), alpha: within(next.alpha, 0, 1) };
    this.set(this.stops.map((stop, one) => (one === index ? bound : stop)));
  }

  /** @param {number} index */
  #remove(index) {
    if (this.stops.length > 1) this.set(this.stops.filter((_stop, one) => one !== index));
  }

  /** @param {number} at */
  #add(at) {
    chosen.set(this.key, this.stops.length);
    this.set([...this.stops, { ...gradientAt(this.stops, at), at }]);
  }

  /**
   * @param {PointerEvent} event
   * @param {number} index
   */
  #grab(event, index) {
    event.preventDefault();
    followPointer(event, {
      moved: (next) => this.#paint(this.stops.map((stop, one) => (one === index ? { ...stop, at: this.#placeOf(next) } : stop))),
      done: (far, last) => (far ? this.#change(index, { at: this.#placeOf(last) }) : this.#choose(index)),
      left: () => this.#paint(this.stops),
    });
  }

  #numbers() {
    const { at, key } = this;
    const stop = this.stops[at];
    const field = (/** @type {string} */ name, /** @type {number} */ value, /** @type {(value: number) => Partial<Stop>} */ take) => el("label", {}, el("span", { class: "quiet" }, name), el("input", {
      class: "input num", value: short(value, 4), "aria-label": `${name} of stop ${at + 1}`, "data-field": `${key}-${name}`, onfocus: (event) => event.target.select(), onkeydown: apart,
      onchange: (event) => {
        const number = arithmetic(event.target.value);
        if (Number.isFinite(number)) this.#change(at, take(number));
        else event.target.setAttribute("aria-invalid", "true");
      },
    }));
    const part = (/** @type {number} */ axis) => (/** @type {number} */ value) => ({ colour: stop.colour.map((old, one) => (one === axis ? value : old)) });
    return el("div", { class: "stopnumbers" },
      field("place", stop.at, (value) => ({ at: value })), ...["red", "green", "blue"].map((name, axis) => field(name, stop.colour[axis], part(axis))), field("alpha", stop.alpha, (value) => ({ alpha: value })),
      el("label", { class: "wide" }, el("input", { type: "checkbox", checked: Boolean(stop.smooth), "aria-label": `smooth from stop ${at + 1}`, onchange: (event) => this.#change(at, { smooth: event.target.checked }) }), " smooth"),
      this.stops.length > 1 ? el("button", { class: "button is-ghost quiet", "aria-label": `remove stop ${at + 1}`, onclick: () => this.#remove(at) }, "×") : null);
  }
}

// Marks on the picture that are dragged: points, vectors, ellipses and their soft edges, where the eye sees them.

import { followPointer } from "../base/drag.js";
import { svg, together } from "../base/parts.js";
import { feedsOf, feedValue } from "../shot/keys.js";
import { gripMarks } from "./gripmarks.js";
import { Marks } from "./marks.js";

const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** @typedef {{ id: string, name: string, grip: string, values: number[] }} Gripped a control, and its values at this frame */
/** @typedef {{ control: string, values: (number | null)[] }} Change */
/** @typedef {(place: Place) => Change[]} Drag what becomes of controls when a mark is dragged to a place */

export class Grips extends Marks {
  draw() {
    const { overlay } = this;
    const focused = document.activeElement instanceof SVGElement ? document.activeElement.dataset.grip : undefined;
    overlay.replaceChildren();
    const found = this.#controls();
    if (found.length) overlay.append(...gripMarks(this, found));
    if (focused) /** @type {SVGElement | null} */ (overlay.querySelector(`[data-grip="${CSS.escape(focused)}"]`))?.focus();
  }

  /**
   * Controls with a grip and their values at this frame, with what is being tried in them.
   * @returns {Gripped[]}
   */
  #controls() {
    const { shot } = this;
    const id = shot.selected;
    if (id === undefined) return [];
    return shot.controls(id).filter((control) => control.grip && !["none", "drawn", "view"].includes(control.grip) && shot.counts(id, control)).flatMap((control) => {
      const tried = shot.trial?.find((command) => command.stage === id && command.control === control.id);
      const values = feedsOf(control.setting).map((feed, axis) => tried?.values?.[axis] ?? feedValue(feed, shot.here) ?? shot.numbers(id, this.remark)?.[control.id]?.[axis]);
      return values.every((value) => value !== undefined) ? [{ id: control.id, name: control.name, grip: control.grip, values }] : [];
    });
  }

  /** @param {Change[]} changes */
  #commands(changes) {
    return changes.map(({ control, values }) => this.shot.byHand(this.shot.selected ?? 0, control, values));
  }

  /**
   * A mark that is dragged, or moved by the arrow keys while it has the focus.
   * @param {Place} at
   * @param {string} name
   * @param {Drag} drag
   */
  handle(at, name, drag) {
    const { at: [cx, cy], sure } = this.found(at);
    const mark = svg("circle", { cx, cy, r: 5, fill: "#1f2120", stroke: "#ece8de", "stroke-width": 2, "stroke-dasharray": sure ? null : "3 2" });
    const hit = svg("circle", {
      class: "grip", cx, cy, r: 12, tabindex: 0, role: "button", "aria-label": `${name}: drag, or use the arrow keys`, "data-grip": name,
      onpointerdown: (event) => this.#grab(event, at, drag), onkeydown: (event) => this.#keyed(event, at, drag),
    });
    return [mark, hit];
  }

  /**
   * @param {PointerEvent} event
   * @param {Place} at
   * @param {Drag} drag
   */
  #grab(event, at, drag) {
    event.stopPropagation();
    event.preventDefault();
    const { shot, well, carry } = this;
    const from = carry.toShown(at) ?? at;
    const changes = (/** @type {MouseEvent} */ next) => drag(carry.toOwn([from[0] + (next.clientX - event.clientX) / well.wideZoom, from[1] + (next.clientY - event.clientY) / well.zoom]));
    followPointer(event, {
      slack: 0.5,
      moved: (next) => shot.try(this.#commands(changes(next))),
      done: (far, last) => far && shot.edit(together(this.#commands(changes(last)))),
      left: () => shot.try(null),
    });
  }

  /**
   * @param {KeyboardEvent} event
   * @param {Place} at
   * @param {Drag} drag
   */
  #keyed(event, at, drag) {
    const step = STEP[/** @type {keyof STEP} */ (event.key)];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    const size = event.shiftKey ? 10 : 1;
    this.shot.edit(together(this.#commands(drag([at[0] + step[0] * size, at[1] + step[1] * size]))));
  }

  /**
   * A line through places of the row, dashed where one of them is not seen.
   * @param {Place[]} places
   * @param {string | null} [dash]
   */
  line(places, dash = null) {
    const points = places.map((place) => this.found(place));
    const d = points.map(({ at: [x, y] }, index) => `${index ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");
    return svg("path", { d, fill: "none", stroke: "#ece8de", "stroke-width": 1.2, "stroke-dasharray": points.every((point) => point.sure) ? dash : "4 4" });
  }
}

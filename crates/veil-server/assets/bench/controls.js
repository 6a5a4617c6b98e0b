// The controls of rows as they stand on the bench, each by its type.

import { apart, button, choose, el, framed, together } from "../base/parts.js";
import { boxMean } from "./boxmean.js";
import { FormulaField } from "./formulas.js";
import { mediaField } from "./mediafield.js";
import { NumberField } from "./numbers.js";
import { shapesNode } from "./shapelist.js";
import { stopsNode } from "./stops.js";
import { toneNode } from "./tones.js";

/** @typedef {{ id: number, control: Control }} Owned a control, and the row that it is of */

const NUMBERS = ["number", "point", "size", "colour"];
// Controls that take the bench's whole width.
const WHOLE = ["stops", "curve", "shapes"];

export class Controls {
  /**
   * @param {Shot} shot
   * @param {{ plates: () => Plate[], names: import("./names.js").NamesField, together: () => number[] }} nodes `together`
   *   gives the selected rows, which are edited at once
   */
  constructor(shot, nodes) {
    this.shot = shot;
    this.nodes = nodes;
  }

  /**
   * Controls under the names of their groups; only the changed ones where that is asked for.
   * @param {Owned[]} controls
   */
  grouped(controls) {
    let group = "";
    return controls.filter(({ control }) => !this.shot.view.changedOnly || control.changed).flatMap(({ id, control }) => {
      const head = control.group !== group && control.group ? [el("div", { class: "group" }, control.group)] : [];
      group = control.group;
      return [...head, ...this.of(id, control)];
    });
  }

  /**
   * @param {number} id
   * @param {Control} control
   * @returns {HTMLElement[]}
   */
  of(id, control) {
    const { type } = control.kind;
    if (NUMBERS.includes(type)) {
      const numbers = control.axes.map((_axis, index) => new NumberField(this.shot, id, control, index, this.#sharing(id)).node);
      return type === "colour" ? [...numbers, this.#takeNode(id, control)] : numbers;
    }
    const wide = WHOLE.includes(type) ? "whole" : "wide";
    return [el("div", { class: `ctl ${wide}${control.changed ? " changed" : ""}`, title: control.help }, el("span", { class: "lab" }, control.name), this.#body(id, control))];
  }

  /**
   * @param {number} id
   * @param {Control} control
   */
  #body(id, control) {
    const set = (/** @type {any} */ setting) => this.set(id, control, setting);
    switch (control.kind.type) {
      case "switch": return el("input", { type: "checkbox", "aria-label": control.name, checked: control.setting === true, onchange: (event) => set(event.target.checked) });
      case "choice": return framed(choose(control.name, control.setting, control.kind.options.map((option) => [option.id, option.name]), set, { "data-field": `${id}-${control.id}` }));
      case "media": return mediaField(this.shot, control, this.nodes.plates(), set);
      case "names": return this.nodes.names.node(id, control, set);
      case "text": return this.#text(id, control);
      case "formula": return this.#formula(id, control);
      case "shapes": return shapesNode(this.shot, id, control);
      case "curve": return toneNode(`${id}-${control.id}`, control, (curve) => set({ curve }));
      case "stops": return stopsNode(`${id}-${control.id}`, control, (stops) => set({ stops }));
      default: throw new Error(`the bench has no way to show \`${control.name}\``);
    }
  }

  /** The rows that an edit on one of them is for. @param {number} id */
  #sharing(id) {
    const rows = this.nodes.together();
    return id === this.shot.selected && rows.length > 1 ? rows : [id];
  }

  /**
   * @param {number} id
   * @param {Control} control
   * @param {any} setting
   */
  set(id, control, setting) {
    return this.shot.edit(together(this.#sharing(id).map((stage) => ({ do: "set", stage, control: control.id, setting }))));
  }

  /**
   * A colour can be taken from what comes into the row, within the box that is measured.
   * @param {number} id
   * @param {Control} control
   */
  #takeNode(id, control) {
    const { shot } = this;
    const take = async () => {
      const mean = await boxMean(shot, shot.stage(id)?.links?.main?.from?.stage ?? shot.view.shown);
      if (mean) shot.edit(together(this.#sharing(id).map((one) => shot.byHand(one, control.id, mean))));
    };
    const node = button("take from the box", "the mean of what comes into this row, within the box dragged with Shift", take);
    node.setAttribute("aria-label", `take ${control.name} from the box`);
    return el("div", { class: "ctl wide" }, el("span"), node);
  }

  /**
   * @param {number} id
   * @param {Control} control
   */
  #text(id, control) {
    const rows = Math.min(6, control.setting.split("\n").length + 1);
    const box = el("textarea", {
      class: "textarea", rows, spellcheck: "false", "aria-label": control.name, "data-field": `${id}-${control.id}`, onkeydown: apart,
      oninput: (event) => this.shot.try([{ do: "set", stage: id, control: control.id, setting: event.target.value }]),
      onchange: (event) => this.set(id, control, event.target.value),
    });
    box.value = control.setting;
    return box;
  }

  /**
   * A formula of pixels; the last good one stays in force while it is written.
   * @param {number} id
   * @param {Control} control
   */
  #formula(id, control) {
    const feed = typeof control.setting === "string" ? { formula: control.setting } : control.setting;
    const keep = async () => {
      if (written.value() === feed.formula || !(await written.understood())) return;
      const names = written.names();
      this.set(id, control, Object.keys(names).length ? { formula: written.value(), names } : written.value());
    };
    const written = new FormulaField(this.shot, { stage: id, pixels: true, text: feed.formula, named: feed.names, lines: 2, label: control.name, mark: `${id}-${control.id}`, kept: keep, left: keep });
    return written.node;
  }
}

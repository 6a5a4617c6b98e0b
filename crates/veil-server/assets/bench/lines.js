// The controls of rows as lines of the bench, each as its type shows it.

import { el, together } from "../base/parts.js";
import { typeOf } from "../controls/types.js";
import { NumberField } from "./numbers.js";

/** @typedef {{ id: number, control: Control }} Owned a control, and the row that it is of */

export class Lines {
  /**
   * @param {Shot} shot
   * @param {{ plates: () => Plate[], names: import("../controls/names.js").NamesField, together: () => number[] }} nodes `together`
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
    return typeOf(control).lines(this, id, control);
  }

  /**
   * A line with the control's name beside what it is set by.
   * @param {Control} control
   * @param {HTMLElement} body
   * @param {"wide" | "whole"} [room] whether it has the bench's whole width
   */
  line(control, body, room = "wide") {
    return el("div", { class: `ctl ${room}${control.changed ? " changed" : ""}`, title: control.help }, el("span", { class: "lab" }, control.name), body);
  }

  /**
   * One line for each number that is fed.
   * @param {number} id
   * @param {Control} control
   */
  numbers(id, control) {
    return control.axes.map((_axis, index) => this.number(id, control, index));
  }

  /**
   * @param {number} id
   * @param {Control} control
   * @param {number} index
   */
  number(id, control, index) {
    return new NumberField(this.shot, id, control, index, this.sharing(id)).node;
  }

  /** The rows that an edit on one of them is for. @param {number} id */
  sharing(id) {
    const rows = this.nodes.together();
    return id === this.shot.selected && rows.length > 1 ? rows : [id];
  }

  /**
   * @param {number} id
   * @param {Control} control
   * @param {any} setting
   */
  set(id, control, setting) {
    return this.shot.edit(together(this.sharing(id).map((stage) => ({ do: "set", stage, control: control.id, setting }))));
  }
}

// The braid by keys: going among rows, moving them, opening and shutting, and names written in place.

import { apart, el, within } from "../base/parts.js";
import { filtered } from "./filter.js";

export class RowKeys {
  /**
   * @param {Shot} shot
   * @param {import("./braid.js").Braid} braid
   */
  constructor(shot, braid) {
    this.shot = shot;
    this.braid = braid;
    const { panel, nodes } = braid;
    panel.addEventListener("keydown", (event) => {
      if (event.ctrlKey || event.metaKey || event.altKey || !(this.#go(event) || this.#deed(event))) return;
      event.preventDefault();
      event.stopPropagation();
    });
    panel.addEventListener("paste", (event) => {
      if (/** @type {Element} */ (event.target).closest("input")) return;
      event.preventDefault();
      nodes.paste(event.clipboardData?.getData("text") ?? "");
    });
  }

  /**
   * To another row; with Shift it is selected too.
   * @param {KeyboardEvent} event
   */
  #go(event) {
    const { shot } = this;
    const ids = filtered(shot, this.braid.nodes.filter()).rows.map((row) => row.id);
    const at = ids.indexOf(shot.selected ?? -1);
    const to = { ArrowUp: at - 1, ArrowDown: at + 1, Home: 0, End: ids.length - 1 }[event.key];
    if (to === undefined || !ids.length) return false;
    const id = ids[within(to, 0, ids.length - 1)];
    shot.select(event.shiftKey ? [...shot.view.selected.filter((one) => one !== id), id] : [id]);
    shot.bring(id);
    return true;
  }

  /** @param {KeyboardEvent} event */
  #deed(event) {
    const { shot, braid } = this;
    if (event.key === "Escape" && (shot.join || shot.filling)) {
      shot.fill(null);
      shot.chooseSlot(null);
      return true;
    }
    const row = shot.row(shot.selected);
    if (!row) return false;
    const fold = braid.folding.at(row);
    if (event.key === "ContextMenu") this.menu();
    else if (event.key === "ArrowRight" && fold?.shut) fold.turn();
    else if (event.key === "ArrowLeft" && fold && (row.unfolded || braid.entries.isOpen(row))) fold.turn();
    else if (event.key === "ArrowLeft") braid.folding.foldFrom(row, braid.layout);
    else return false;
    return true;
  }

  /**
   * The selected row, or the entry that is selected in its list, one place on; -1 is up.
   * @param {number} step
   */
  moveBy(step) {
    const { shot } = this;
    if (this.braid.entries.ofEntry(step < 0 ? "up" : "down")) return;
    const at = shot.state.setup.stages.findIndex((stage) => stage.id === shot.selected);
    if (at >= 0) shot.edit({ do: "move", stage: shot.selected, to: Math.max(0, at + step) });
  }

  /** What can be done with the selected row, below its name. */
  menu() {
    const { panel, nodes } = this.braid;
    if (!this.shot.row(this.shot.selected)) return;
    const box = (panel.querySelector(`#row-${this.shot.selected}`) ?? panel).getBoundingClientRect();
    nodes.menu({ x: box.left + 90, y: box.bottom });
  }

  /** The selected row's name is written where it stands. */
  rename() {
    const { panel } = this.braid;
    const row = this.shot.row(this.shot.selected);
    const name = row && panel.querySelector(`#row-${row.id} .name`);
    if (!row || !name) return;
    let going = true;
    const done = async (/** @type {boolean} */ keep) => {
      if (!going) return;
      going = false;
      if (keep && field.value.trim() && field.value !== row.name) await this.shot.edit({ do: "rename", stage: row.id, name: field.value });
      else this.braid.forget(row.id);
      panel.focus();
    };
    const field = el("input", {
      class: "input", value: row.name, "aria-label": "name", onblur: () => done(true),
      onkeydown: (event) => {
        apart(event);
        if (event.key === "Enter" || event.key === "Escape") done(event.key === "Enter");
      },
    });
    name.replaceChildren(field);
    field.focus();
    field.select();
  }
}

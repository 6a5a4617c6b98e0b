// Choosing rows and slots in the braid.

import { toast } from "../base/telling.js";

export class Choosing {
  /**
   * @param {Shot} shot
   * @param {HTMLElement} panel
   */
  constructor(shot, panel) {
    this.shot = shot;
    this.panel = panel;
  }

  /**
   * A row by a click: alone, with Ctrl beside others, with Shift all up to it. A slot that waits for a row takes it.
   * @param {number} id
   * @param {MouseEvent} event
   */
  row(id, event) {
    const { shot } = this;
    this.panel.focus({ preventScroll: true });
    if (shot.filling) {
      const { stage, slot } = shot.filling;
      shot.fill(null);
      shot.edit({ do: "link", stage, slot, from: { stage: id } });
    } else if (event.ctrlKey || event.metaKey) {
      const others = shot.view.selected.filter((one) => one !== id);
      shot.select(others.length === shot.view.selected.length ? [...others, id] : others);
    } else if (event.shiftKey && shot.selected !== undefined) {
      const ids = shot.state.braid.rows.map((row) => row.id);
      const [a, b] = [ids.indexOf(shot.selected), ids.indexOf(id)].sort((one, other) => one - other);
      shot.select([...ids.slice(a, b + 1).filter((one) => one !== id), id]);
    } else shot.select([id]);
  }

  /**
   * A slot by its line: what is added next goes before it alone.
   * @param {Join} join
   */
  slot(join) {
    this.panel.focus({ preventScroll: true });
    const row = this.shot.row(join.stage);
    toast(`${row?.slots.find((slot) => slot.id === join.slot)?.name ?? join.slot} of ${row?.name ?? ""} is selected: a new row goes before it alone`);
    this.shot.select([join.stage], join);
  }

  /** The slots of the selected row in turn, then none. */
  nextSlot() {
    const { join, selected } = this.shot;
    const row = this.shot.row(selected);
    const slots = row?.slots.filter((slot) => slot.from !== null) ?? [];
    if (!row || !slots.length) return;
    const at = join?.stage === row.id ? slots.findIndex((slot) => slot.id === join.slot) : -1;
    if (at + 1 < slots.length) this.slot({ stage: row.id, slot: slots[at + 1].id });
    else this.shot.chooseSlot(null);
  }
}

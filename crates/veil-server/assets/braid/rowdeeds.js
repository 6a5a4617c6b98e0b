// What can be done with the selected rows besides their controls: copies, other kinds, words and colours.

import { get, orElse } from "../base/api.js";
import { together } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";
import { addRow } from "../shot/adding.js";

// Rows that were copied, for windows that may not read the system's clipboard.
const KEPT = "veil:rows";

/**
 * The rows that a text holds; what is none may be any text at all.
 * @param {string | null} text
 */
function rowsIn(text) {
  try {
    const found = JSON.parse(text ?? "");
    return found.rows ? found : null;
  } catch (error) {
    console.debug("no rows", error);
    return null;
  }
}

export class RowDeeds {
  /**
   * @param {Shot} shot
   * @param {StageKind[]} stages
   */
  constructor(shot, stages) {
    this.shot = shot;
    this.stages = stages;
  }

  /** The selected rows, but for the last of all, which stays. */
  chosen() {
    const last = this.shot.state.setup.stages.at(-1)?.id;
    return this.shot.view.selected.filter((id) => id !== last && id !== 0);
  }

  /** Of the selected rows those that are inside no other of them: a tool's row takes what is inside along. */
  #outermost() {
    const { shot } = this;
    const inside = (/** @type {number} */ id) => {
      for (let outer = shot.stage(id)?.inside; outer !== undefined; outer = shot.stage(outer)?.inside) if (shot.view.selected.includes(outer)) return true;
      return false;
    };
    return this.chosen().filter((id) => !inside(id));
  }

  /** @param {Command[]} commands */
  #all(commands) {
    return commands.length ? this.shot.edit(together(commands)) : undefined;
  }

  async copy() {
    const { shot } = this;
    const rows = this.chosen();
    if (!rows.length) {
      toast("select a row to copy");
      return false;
    }
    const found = await trying(() => get(`${shot.base}/rows?rows=${rows.join(",")}`));
    if (!found) return false;
    const text = JSON.stringify(found);
    localStorage.setItem(KEPT, text);
    // A browser may keep its clipboard from a page; this window has the rows all the same.
    if (navigator.clipboard) await orElse(navigator.clipboard.writeText(text), undefined);
    toast(rows.length === 1 ? `${shot.stage(rows[0])?.name} is copied` : `${rows.length} rows are copied`);
    return true;
  }

  async cut() {
    const rows = this.#outermost();
    if (await this.copy()) await this.#all(rows.map((stage) => ({ do: "remove", stage })));
  }

  /** @param {string} text */
  paste(text) {
    const copied = rowsIn(text) ?? rowsIn(localStorage.getItem(KEPT));
    if (!copied) return toast("what was copied is not rows of a setup", true);
    return addRow(this.shot, { do: "paste", copied, after: this.shot.selected ?? null });
  }

  /** @param {boolean} linked */
  duplicate(linked) {
    const rows = this.chosen();
    return rows.length ? addRow(this.shot, { do: "duplicate", rows, linked }) : undefined;
  }

  remove() {
    return this.#all(this.#outermost().map((stage) => ({ do: "remove", stage })));
  }

  onOff() {
    const rows = this.chosen();
    const on = rows.some((id) => this.shot.row(id)?.on === false);
    return this.#all(rows.map((stage) => ({ do: "switch", stage, on })));
  }

  /** @param {string} [name] `group`, or `group 2` and so on where that is there */
  group(name = this.#freeGroup()) {
    const rows = this.chosen();
    return rows.length ? this.shot.edit({ do: "group", rows, name }) : undefined;
  }

  #freeGroup() {
    const known = new Set(this.shot.state.setup.stages.map((stage) => stage.group));
    let name = "group";
    for (let number = 2; known.has(name); number++) name = `group ${number}`;
    return name;
  }

  /** @param {string} kind */
  becomes(kind) {
    return this.shot.edit({ do: "replace_kind", stage: this.shot.selected, kind });
  }

  /** @param {string} text */
  note(text) {
    return this.shot.edit({ do: "note", stage: this.shot.selected, text });
  }

  /** @param {string | null} tab */
  mark(tab) {
    return this.shot.edit({ do: "mark", rows: this.chosen(), tab });
  }

  kinds() {
    return this.stages.filter((one) => one.id !== "final").toSorted((a, b) => a.name.localeCompare(b.name));
  }
}

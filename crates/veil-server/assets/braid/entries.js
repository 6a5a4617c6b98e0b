// Lists of slots unfolded in the braid: a line an entry, above the row that they are joined in, in their order.

import { followPointer } from "../base/drag.js";
import { el, every, short, svg } from "../base/parts.js";
import { toast } from "../base/telling.js";
import { feedWord } from "../bench/feedkinds.js";
import { feedsOf, feedValue } from "../shot/keys.js";
import { colourOf, LANES } from "./lanes.js";

/**
 * The slot of the entry that a slot is, or belongs to; none where it is of no list.
 * @param {Slot} slot
 */
const entryOf = (slot) => (slot.belongs.to_list ? slot.id : slot.belongs.to_entry ?? null);

/**
 * Where each slot of a list stands in it.
 * @param {Row | undefined} row
 * @param {Slot} slot
 */
const placesIn = (row, slot) => (row?.slots ?? []).filter((one) => one.belongs.to_list === slot.belongs.to_list && one.source);

/**
 * What is said of a row's lists; a single matte is no list yet.
 * @param {Row} row
 */
export function lists(row) {
  /** @type {Map<string, number>} */
  const found = new Map();
  for (const slot of row.slots) {
    const list = slot.belongs.to_list;
    if (list) found.set(list, (found.get(list) ?? 0) + (slot.source ? 1 : 0));
  }
  const main = row.slots[0]?.id === "main" && row.slots[0].source ? 1 : 0;
  return [...found].filter(([list, count]) => count > (list === "mattes" ? 1 : 0)).map(([list, count]) => ({ list, count: list === "fields" ? count + main : count }));
}

export class Entries {
  /**
   * @param {Shot} shot
   * @param {(join: Join) => void} chooseJoin
   */
  constructor(shot, chooseJoin) {
    this.shot = shot;
    this.chooseJoin = chooseJoin;
  }

  /** @param {Row} row */
  isOpen(row) {
    return this.shot.view.lists.includes(row.id) && lists(row).length > 0;
  }

  /** @param {Row} row */
  turn(row) {
    const open = this.shot.view.lists;
    this.shot.look({ lists: this.isOpen(row) ? open.filter((id) => id !== row.id) : [...open, row.id] });
  }

  /**
   * The lines of a row's lists: what is taken, and a place for the next.
   * @param {Row} row
   * @returns {Entry[]}
   */
  #of(row) {
    const open = new Set(lists(row).map((one) => one.list));
    return row.slots.filter((slot) => open.has(slot.belongs.to_list ?? "")).map((slot) => ({ id: row.id, lane: row.lane, depth: row.depth, sampled_in: row.sampled_in, on: row.on, entry: slot }));
  }

  /**
   * The rows with their open lists above them, and the strands into these.
   * @param {{ rows: Row[], strands: Strand[] }} layout
   * @returns {{ rows: Line[], strands: Strand[] }}
   */
  unfold({ rows, strands }) {
    if (!rows.some((row) => this.isOpen(row))) return { rows, strands };
    /** @type {Line[]} */
    const lines = [];
    /** @type {number[]} */
    const place = [];
    const ends = new Map();
    for (const row of rows) {
      for (const line of this.isOpen(row) ? this.#of(row) : []) {
        for (const slot of row.slots.filter((one) => entryOf(one) === line.entry.id)) ends.set(`${row.id} ${slot.id}`, lines.length);
        lines.push(line);
      }
      place.push(lines.length);
      lines.push(row);
    }
    return { rows: lines, strands: strands.map((strand) => ({ ...strand, from_row: place[strand.from_row], to_row: ends.get(strand.join.join(" ")) ?? place[strand.to_row] })) };
  }

  /** @param {Entry} line */
  controlsOf(line) {
    return this.shot.controls(line.id).filter((control) => control.id.startsWith(`${line.entry.id}_`));
  }

  /** @param {Entry} line */
  #counting(line) {
    return this.controlsOf(line).find((control) => control.id === `${line.entry.id}_counts`);
  }

  /**
   * How an entry is joined, in words.
   * @param {Entry} line
   */
  #said(line) {
    const parts = this.controlsOf(line).filter((control) => !control.id.endsWith("_counts")).flatMap((control) => {
      if (control.kind.type === "choice") return control.kind.options.filter((option) => option.id === control.setting).map((option) => option.name);
      if (control.kind.type === "switch") return control.setting === true ? [control.name] : [];
      if (control.kind.type !== "number" || !control.changed) return [];
      const [feed] = feedsOf(control.setting);
      return [`${control.name} ${feedWord(feed) || short(feedValue(feed, this.shot.view.frame) ?? 0, 2)}`];
    });
    const own = this.shot.row(line.id)?.slots.find((slot) => slot.belongs.to_entry === line.entry.id && slot.source);
    return [...parts, own ? `matte ${own.source}` : ""].filter(Boolean).join(" · ");
  }

  /**
   * @param {Entry} line
   * @param {number} index
   * @param {{ height: number, droppable: boolean }} how
   */
  node(line, index, { height, droppable }) {
    const { shot } = this;
    const { entry, id } = line;
    const counts = this.#counting(line);
    const on = !counts || counts.setting !== false;
    const name = entry.source ?? `another ${entry.name.replace(/ \d+$/, "")}`;
    const places = shot.row(id)?.name ?? "";
    const cell = (/** @type {string} */ role, /** @type {Child[]} */ ...children) => el("span", { role, class: "cell" }, ...children);
    const turn = (/** @type {Event} */ event) => {
      event.stopPropagation();
      this.#count(line, !on);
    };
    return el("div", {
      class: ["row", "entry", !on && "off", !entry.source && "empty", droppable && "droppable"].filter(Boolean).join(" "),
      id: `row-${id}-${entry.id}`, role: "row", "aria-rowindex": index + 1, "aria-selected": shot.join?.stage === id && shot.join.slot === entry.id, "data-stage": id, "data-slot": entry.id,
      style: `top:${index * height}px;padding-left:${LANES + line.depth * 12 + 16}px`,
      title: entry.source ? `${entry.name} of ${places}` : `click, then click the row that ${places} is to take`,
      onpointerdown: (event) => entry.source && this.#grab(line, event),
      onclick: () => (entry.source ? this.chooseJoin({ stage: id, slot: entry.id }) : this.#fill(line)),
      ondblclick: () => entry.from !== null && shot.select([entry.from]),
    },
      cell("rowheader", el("span", { class: "name" }, el("span", {}, name), entry.source ? el("small", {}, this.#said(line)) : null)),
      cell("gridcell", counts && entry.source ? el("button", { class: "onoff", role: "switch", tabindex: -1, "aria-checked": on, "aria-label": `${name} on or off`, onclick: turn }, el("i")) : null));
  }

  /** What the look of a line depends on besides itself. @param {Entry} line */
  mark(line) {
    return [this.shot.join, this.controlsOf(line).map((one) => one.setting), this.shot.row(line.id)?.slots];
  }

  /**
   * The mark where an entry's strand joins: a small ring, empty where it does not count.
   * @param {Entry} line
   * @param {number} cx
   * @param {number} cy
   */
  knot(line, cx, cy) {
    if (!line.entry.source) return [];
    const colour = colourOf(this.shot.row(line.entry.from)?.gives);
    const on = line.on && this.#counting(line)?.setting !== false;
    return [svg("circle", { cx, cy, r: 3.5, fill: on ? colour : "var(--panel)", stroke: on ? "var(--panel)" : colour, "stroke-width": 1.4 })];
  }

  /**
   * @param {{ id: number, entry: Slot }} line
   * @param {boolean} on
   */
  #count(line, on) {
    return this.shot.edit({ do: "set", stage: line.id, control: `${line.entry.id}_counts`, setting: on });
  }

  /** @param {Entry} line */
  #fill(line) {
    toast(`click the row that ${this.shot.row(line.id)?.name} takes there`);
    this.shot.fill({ stage: line.id, slot: line.entry.id });
  }

  /**
   * An entry that is dragged goes to the place of the one it is dropped on.
   * @param {Entry} line
   * @param {PointerEvent & { target: any }} event
   */
  #grab(line, event) {
    if (event.button || event.target.closest("button")) return;
    const over = (/** @type {PointerEvent} */ at) => /** @type {HTMLElement | undefined} */ (document.elementsFromPoint(at.clientX, at.clientY).find((one) => one instanceof HTMLElement && one.dataset.slot && Number(one.dataset.stage) === line.id));
    const clear = () => every(".entry.over").forEach((one) => one.classList.remove("over"));
    followPointer(event, {
      slack: 6,
      moved: (at) => {
        clear();
        over(at)?.classList.add("over");
      },
      done: (far, at) => {
        clear();
        const to = over(at)?.dataset.slot;
        if (far && to && to !== line.entry.id) this.#moveTo(line.id, line.entry, to);
      },
      left: clear,
    });
  }

  /**
   * By changing places with each on the way, so that the others keep their order.
   * @param {number} stage
   * @param {Slot} slot
   * @param {string} to
   */
  #moveTo(stage, slot, to) {
    const list = placesIn(this.shot.row(stage), slot).map((one) => one.id);
    const [from, goal] = [list.indexOf(slot.id), list.indexOf(to)];
    if (from < 0 || goal < 0 || from === goal) return;
    const step = Math.sign(goal - from);
    const commands = [];
    for (let at = from; at !== goal; at += step) commands.push({ do: "swap_entries", stage, slot: list[at], with: list[at + step] });
    this.shot.chooseSlot({ stage, slot: to });
    this.shot.edit({ do: "together", commands });
  }

  /**
   * Something is done with the entry that is selected; gives whether there was one.
   * @param {"count" | "up" | "down" | "remove"} what
   */
  ofEntry(what) {
    const { join } = this.shot;
    const row = this.shot.row(join?.stage);
    const entry = row?.slots.find((one) => one.id === join?.slot);
    if (!row || !entry?.source) return false;
    const line = { ...row, entry };
    if (what === "remove") this.shot.edit({ do: "link", stage: row.id, slot: entry.id, from: null });
    else if (!entry.belongs.to_list) return false;
    else if (what === "count") this.#count(line, this.#counting(line)?.setting === false);
    else {
      const list = placesIn(row, entry);
      const to = list[list.indexOf(entry) + (what === "up" ? -1 : 1)];
      if (to) this.#moveTo(row.id, entry, to.id);
    }
    return true;
  }
}

// Lists of slots unfolded in the braid: a line an entry, above the row that they are joined in, in their order.

import { feedWord } from "./feeds.js";
import { el, feedsOf, feedValue, short, svg, toast } from "./parts.js";

const COLOURS = { picture: "var(--bone)", field: "var(--verdigris)", map: "var(--brass)" };

// The slot of the entry that a slot is, or belongs to; none where it is of no list.
const entryOf = (slot) => (slot.belongs.to_list ? slot.id : slot.belongs.to_entry ?? null);

// Where each slot of a list stands in it.
const placesIn = (row, slot) => row.slots.filter((one) => one.belongs.to_list === slot.belongs.to_list && one.source);

// `braid` selects joins and draws anew.
export function entries(shot, braid) {
  // What is said of a row's lists; a single matte is no list yet.
  function lists(row) {
    const found = new Map();
    for (const slot of row.slots) {
      const list = slot.belongs.to_list;
      if (list) found.set(list, (found.get(list) ?? 0) + (slot.source ? 1 : 0));
    }
    const main = row.slots[0]?.id === "main" && row.slots[0].source ? 1 : 0;
    return [...found].filter(([list, count]) => count > (list === "mattes" ? 1 : 0)).map(([list, count]) => ({ list, count: list === "fields" ? count + main : count }));
  }

  const isOpen = (row) => (shot.view.lists ?? []).includes(row.id) && lists(row).length > 0;

  function turn(row) {
    shot.view.lists = isOpen(row) ? shot.view.lists.filter((id) => id !== row.id) : [...(shot.view.lists ?? []), row.id];
    shot.tell("view");
  }

  // The lines of a row's lists: what is taken, and a place for the next.
  function of(row) {
    const open = new Set(lists(row).map((one) => one.list));
    return row.slots.filter((slot) => open.has(slot.belongs.to_list)).map((slot) => ({ id: row.id, lane: row.lane, depth: row.depth, sampled_in: row.sampled_in, on: row.on, entry: slot }));
  }

  // The rows with their open lists above them, and the strands into these.
  function unfold({ rows, strands }) {
    if (!rows.some(isOpen)) return { rows, strands };
    const lines = [];
    const place = new Map();
    const ends = new Map();
    rows.forEach((row, index) => {
      for (const line of isOpen(row) ? of(row) : []) {
        for (const slot of row.slots.filter((one) => entryOf(one) === line.entry.id)) ends.set(`${row.id} ${slot.id}`, lines.length);
        lines.push(line);
      }
      place.set(index, lines.length);
      lines.push(row);
    });
    return { rows: lines, strands: strands.map((strand) => ({ ...strand, from_row: place.get(strand.from_row), to_row: ends.get(strand.join.join(" ")) ?? place.get(strand.to_row) })) };
  }

  const controlsOf = (line) => shot.controls(line.id).filter((control) => control.id.startsWith(`${line.entry.id}_`));
  const counting = (line) => controlsOf(line).find((control) => control.id === `${line.entry.id}_counts`);

  // How an entry is joined, in words.
  function said(line) {
    const parts = controlsOf(line).filter((control) => !control.id.endsWith("_counts")).flatMap((control) => {
      if (control.kind.type === "choice") return control.kind.options.filter((option) => option.id === control.setting).map((option) => option.name);
      if (control.kind.type === "switch") return control.setting === true ? [control.name] : [];
      if (control.kind.type !== "number" || !control.changed) return [];
      const [feed] = feedsOf(control.setting);
      return [`${control.name} ${feedWord(feed) || short(feedValue(feed, shot.view.frame), 2)}`];
    });
    const own = shot.row(line.id)?.slots.find((slot) => slot.belongs.to_entry === line.entry.id && slot.source);
    return [...parts, own ? `matte ${own.source}` : ""].filter(Boolean).join(" · ");
  }

  function node(line, index, { height, droppable }) {
    const { entry, id } = line;
    const chosen = shot.join?.stage === id && shot.join.slot === entry.id;
    const counts = counting(line);
    const on = !counts || counts.setting !== false;
    const name = entry.source ?? `another ${entry.name.replace(/ \d+$/, "")}`;
    const places = shot.row(id)?.name ?? "";
    const cell = (role, ...children) => el("span", { role, class: "cell" }, ...children);
    return el("div", {
      class: ["row", "entry", !on && "off", !entry.source && "empty", droppable && "droppable"].filter(Boolean).join(" "),
      id: `row-${id}-${entry.id}`, role: "row", "aria-rowindex": index + 1, "aria-selected": chosen, "data-stage": id, "data-slot": entry.id,
      style: `top:${index * height}px;padding-left:${84 + line.depth * 12 + 16}px`,
      title: entry.source ? `${entry.name} of ${places}` : `click, then click the row that ${places} is to take`,
      onpointerdown: (event) => entry.source && grab(line, event),
      onclick: () => (entry.source ? braid.selectJoin({ stage: id, slot: entry.id }) : fill(line)),
      ondblclick: () => entry.from !== null && shot.select([entry.from]),
    },
      cell("rowheader", el("span", { class: "name" }, el("span", {}, name), entry.source ? el("small", {}, said(line)) : null)),
      cell("gridcell", counts && entry.source ? el("button", {
        class: "onoff", role: "switch", tabindex: -1, "aria-checked": on, "aria-label": `${name} on or off`,
        onclick: (event) => { event.stopPropagation(); count(line, !on); },
      }, el("i")) : null));
  }

  // The mark where an entry's strand joins: a small ring, empty where it does not count.
  function knot(line, cx, cy) {
    if (!line.entry.source) return [];
    const colour = COLOURS[shot.row(line.entry.from)?.gives ?? "field"];
    const on = line.on && counting(line)?.setting !== false;
    return [svg("circle", { cx, cy, r: 3.5, fill: on ? colour : "var(--panel)", stroke: on ? "var(--panel)" : colour, "stroke-width": 1.4 })];
  }

  const count = (line, on) => shot.edit({ do: "set", stage: line.id, control: `${line.entry.id}_counts`, setting: on });

  function fill(line) {
    shot.filling = { stage: line.id, slot: line.entry.id };
    toast(`click the row that ${shot.row(line.id)?.name} takes there`);
    shot.tell("view");
  }

  // An entry that is dragged goes to the place of the one it is dropped on.
  function grab(line, event) {
    if (event.button || event.target.closest("button")) return;
    const start = event.clientY;
    const over = (at) => document.elementsFromPoint(at.clientX, at.clientY).find((one) => one.dataset?.slot && Number(one.dataset.stage) === line.id);
    const move = (at) => {
      for (const one of document.querySelectorAll(".entry.over")) one.classList.remove("over");
      if (Math.abs(at.clientY - start) > 6) over(at)?.classList.add("over");
    };
    const up = (at) => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      for (const one of document.querySelectorAll(".entry.over")) one.classList.remove("over");
      const to = over(at)?.dataset.slot;
      if (Math.abs(at.clientY - start) > 6 && to && to !== line.entry.id) moveTo(line.id, line.entry, to);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
  }

  // By changing places with each on the way, so that the others keep their order.
  function moveTo(stage, slot, to) {
    const list = placesIn(shot.row(stage), slot).map((one) => one.id);
    const [from, goal] = [list.indexOf(slot.id), list.indexOf(to)];
    if (from < 0 || goal < 0) return undefined;
    const step = Math.sign(goal - from);
    const commands = [];
    for (let at = from; at !== goal; at += step) commands.push({ do: "swap_entries", stage, slot: list[at], with: list[at + step] });
    shot.join = { stage, slot: to };
    return commands.length ? shot.edit({ do: "together", commands }) : undefined;
  }

  // Something is done with the entry that is selected: "count" or not, "up" or "down" in its list, "remove". Gives
  // whether there was one.
  function ofEntry(what) {
    const row = shot.join && shot.row(shot.join.stage);
    const slot = row?.slots.find((one) => one.id === shot.join.slot);
    const line = { id: row?.id, entry: slot };
    if (!slot?.source || !what) return false;
    if (what === "remove") shot.edit({ do: "link", stage: row.id, slot: slot.id, from: null });
    else if (!slot.belongs.to_list) return false;
    else if (what === "count") count(line, counting(line).setting === false);
    else {
      const list = placesIn(row, slot);
      const to = list[list.indexOf(slot) + (what === "up" ? -1 : 1)];
      if (to) moveTo(row.id, slot, to.id);
    }
    return true;
  }

  return { lists, isOpen, turn, unfold, node, knot, ofEntry };
}

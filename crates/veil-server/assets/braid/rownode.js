// One row of the braid as it stands in the panel.

import { el } from "../base/parts.js";
import { TRACK } from "../viewer/trackdrop.js";
import { LANES, laneX } from "./lanes.js";
import { lists } from "./entries.js";
import { effectWidth } from "./measures.js";

const ms = (/** @type {number} */ value) => (value < 10 ? value.toFixed(1) : String(Math.round(value)));
const cell = (/** @type {string} */ role, /** @type {Child[]} */ ...children) => el("span", { role, class: "cell" }, ...children);

/** A press on something within a row that is not for the row itself. @param {() => unknown} run */
const ownPress = (run) => (/** @type {Event} */ event) => {
  event.stopPropagation();
  run();
};

/**
 * @typedef {{
 *   shot: Shot, index: number, high: number, open: boolean, slots: Slot[], thumb: string | null,
 *   fold: import("./folding.js").Fold | null, costing: string,
 *   known: { effect?: number, cost?: number, bake?: { fresh: number, frames: number } },
 *   deeds: { grab: (event: PointerEvent & { target: any }) => void, choose: (event: MouseEvent) => void, menu: (event: MouseEvent) => void, attach: (track: number) => void, pictured: (source: string) => void },
 * }} Around
 */

/**
 * What stands below a row's name.
 * @param {Row} row
 * @param {Around} around
 */
function detailOf(row, { shot, open, known: { bake } }) {
  const parts = [row.detail];
  if (row.group) parts.unshift(row.fold?.shut ? `${row.fold.rows} rows` : `in ${row.group}`);
  else if (row.fold?.shut) parts.unshift(`${row.fold.rows} rows`);
  if (row.sampled_in !== null && row.sampled_in !== row.id) parts.unshift(`sampled in ${shot.row(row.sampled_in)?.name ?? "another row"}`);
  if (bake) parts.unshift(bake.fresh === bake.frames ? "baked" : `stale bake: ${bake.fresh} of ${bake.frames} fit`);
  if (!open) parts.push(...lists(row).filter((one) => one.count > 1).map((one) => `${one.count} ${one.list}`));
  if (row.taps > 1) parts.push(`${row.taps} taps`);
  if (row.note) parts.unshift(`“${row.note}”`);
  return parts.filter(Boolean).join(" · ");
}

/**
 * What is wrong with a row, in words.
 * @param {Row} row
 * @param {Around} around
 */
function faultOf(row, { shot, known: { bake } }) {
  const told = shot.marked(row.id)?.message;
  if (told || !bake || bake.fresh >= bake.frames) return told;
  return `the bake no longer fits ${bake.frames - bake.fresh} of its ${bake.frames} frames; they are worked out`;
}

/**
 * @param {Row} row
 * @param {Around} around
 */
function pictureCell(row, { shot, fold, thumb, deeds }) {
  const turn = fold && `${fold.shut ? "open" : "fold"} ${fold.name}`;
  return cell("gridcell",
    el("button", { class: "knot", style: `left:${laneX(row.lane) - 12}px`, tabindex: -1, "aria-label": `show ${row.name}`, title: `show ${row.name}`, onclick: ownPress(() => shot.showRow(row.id)) }),
    fold && el("button", { class: "fold", tabindex: -1, "aria-label": turn, title: turn, onclick: ownPress(fold.turn) }, el("i", {}, fold.shut ? "+" : "−")),
    el("img", { class: "thumb", alt: "", loading: "lazy", src: thumb, onload: (event) => deeds.pictured(event.target.getAttribute("src")) }));
}

/**
 * @param {Row} row
 * @param {Around} around
 */
function stateCell(row, { shot, open, slots, costing, known, ...around }) {
  const fault = faultOf(row, { shot, open, slots, costing, known, ...around });
  const dropped = slots.filter((slot) => !slot.belongs.to_list || !open);
  return cell("gridcell",
    slots.length > 0 && el("span", { class: "dropslots" }, ...dropped.map((slot) => el("span", { class: `dropslot${slot.source ? " full" : ""}`, "data-slot": slot.id, "data-stage": row.id, title: slot.source ? `now takes ${slot.source}` : "empty" }, slot.name))),
    known.cost !== undefined && el("span", { class: "ms num", title: `milliseconds of this row alone, ${costing === "range" ? "mean over the range" : "at this frame"}` }, ms(known.cost)),
    fault ? el("span", { class: "fault-mark", title: fault, role: "img", "aria-label": fault }, "!") : null,
    el("span", { class: "meter", title: "how much it changes" }, el("i", { style: `width:${effectWidth(known.effect)}%` })),
    row.knot === "final" ? el("span", { class: "onoff" }) : el("button", {
      class: "onoff", role: "switch", tabindex: -1, "aria-checked": row.on, "aria-label": `${row.name} on or off`,
      onclick: ownPress(() => shot.edit({ do: "switch", stage: row.id, on: !row.on })),
    }, el("i")));
}

/**
 * @param {Row} row
 * @param {Around} around
 */
export function rowNode(row, around) {
  const { shot, index, high, deeds } = around;
  const shown = shot.view.shown === row.id;
  return el("div", {
    class: ["row", shown && "shown", !row.on && "off"].filter(Boolean).join(" "), id: `row-${row.id}`, role: "row", "aria-rowindex": index + 1,
    "aria-selected": shot.view.selected.includes(row.id), "data-id": row.id, style: `top:${index * high}px;padding-left:${LANES + row.depth * 12}px`,
    onpointerdown: deeds.grab, onclick: deeds.choose, ondblclick: () => shot.showRow(row.id), oncontextmenu: deeds.menu,
    ondragover: (event) => event.dataTransfer.types.includes(TRACK) && event.preventDefault(),
    ondrop: (event) => deeds.attach(Number(event.dataTransfer.getData(TRACK))),
  },
    pictureCell(row, around),
    cell("rowheader",
      row.tab ? el("i", { class: `tab tab-${row.tab}`, title: row.tab }) : null,
      el("span", { class: "name" }, el("span", {}, row.fold?.shut && row.fold.group ? row.fold.group : row.name), el("small", {}, detailOf(row, around)))),
    stateCell(row, around));
}

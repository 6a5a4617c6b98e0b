// What a row takes: each slot with the rows that could go there.

import { button, choose, el, framed, icon, takes } from "../base/parts.js";

const FLOATS = ["luma", "alpha", "red", "green", "blue"];

/**
 * @param {Shot} shot
 * @param {Stage} stage
 * @param {Slot} slot
 */
export function slotNode(shot, stage, slot) {
  // Of a list, that is; a tool's inputs are numbered, too, and each is its own.
  const empty = !stage.tool && /\d$/.test(slot.id) && !slot.source;
  const name = empty ? `another ${slot.name.replace(/ \d+$/, "")}` : slot.name;
  return el("div", { class: "ctl wide" }, el("span", { class: "lab" }, name), el("span", { class: "slotparts" }, ...chosenParts(shot, stage, slot), sharing(shot, stage, slot)));
}

/**
 * @param {Shot} shot
 * @param {Stage} stage
 * @param {Slot} slot
 */
function chosenParts(shot, stage, slot) {
  const link = (/** @type {object | null} */ from, /** @type {object} */ more = {}) => shot.edit({ do: "link", stage: stage.id, slot: slot.id, from, ...more });
  const fits = (/** @type {Row} */ row) => row.id !== stage.id && row.knot !== "final" && takes(slot, row.gives) && shot.stage(row.id)?.inside === stage.inside;
  const rows = shot.state.braid.rows.filter(fits).map((row) => [row.id, row.name]);
  const here = stage.links?.[slot.id]?.from;
  const select = choose(`${slot.name} of ${stage.name}`, here?.stage ?? "", [["", slot.source && !slot.from ? slot.source : standIn(stage, slot)], ...rows], (value) => link(value ? { stage: Number(value) } : null), { "data-field": `slot-${slot.id}` });
  const filling = shot.filling?.stage === stage.id && shot.filling.slot === slot.id;
  const { from } = slot;
  return [
    framed(select, { class: "select taken" }),
    el("button", { class: "button is-ghost", "aria-pressed": filling, title: "click a row to take it here", "aria-label": `pick a row for ${slot.name} by clicking it`, onclick: () => shot.fill(filling ? null : { stage: stage.id, slot: slot.id }) }, "pick"),
    from === null ? null : el("button", { class: "button is-ghost", "aria-label": `go to ${slot.source}`, onclick: () => shot.select([from]) }, icon("crosshair")),
    slot.take ? framed(choose(`which float of ${slot.source}`, slot.take, FLOATS.map((one) => [one, one]), (take) => link(here ?? null, { take }))) : null,
  ];
}

/**
 * What an empty slot takes: nothing, unless another input of the tool stands in.
 * @param {Stage} stage
 * @param {Slot} slot
 */
function standIn(stage, slot) {
  const inputs = stage.tool?.inputs ?? [];
  const number = slot.id === "main" ? 0 : Number(slot.id.replace("input", "")) - 1;
  const other = inputs[number]?.otherwise?.input;
  return other === undefined ? "empty" : `empty: as ${inputs[other].name}`;
}

/**
 * What is said and can be done where others take the same.
 * @param {Shot} shot
 * @param {Stage} stage
 * @param {Slot} slot
 */
function sharing(shot, stage, slot) {
  const taps = shot.row(slot.from)?.taps ?? 0;
  if (taps < 2) return null;
  const others = slot.id === "main" ? otherTakers(shot, stage, slot) : [];
  const words = others.map((one) => `${one.row.name} (${one.slot.name})`).join(", ");
  const split = el("button", { class: "button is-ghost", title: `a copy of ${slot.source} that only ${stage.name} takes`, "aria-label": `split off ${slot.name} for ${stage.name} only`, onclick: () => shot.edit({ do: "split_off", stage: stage.id, slot: slot.id }) }, "split off for this one");
  const along = () => shot.edit({ do: "together", commands: others.map((one) => ({ do: "link", stage: one.row.id, slot: one.slot.id, from: { stage: stage.id }, take: one.slot.take ?? null })) });
  const take = button("take them along", `${words} will take ${stage.name} instead`, along);
  take.classList.add("is-ghost");
  return el("span", { class: "shared" }, `${taps} take this`, split, others.length > 0 && take);
}

/**
 * The slots of rows below that take the same as this one, and could take what this one gives.
 * @param {Shot} shot
 * @param {Stage} stage
 * @param {Slot} slot
 */
function otherTakers(shot, stage, slot) {
  const { rows } = shot.state.braid;
  const at = rows.findIndex((row) => row.id === stage.id);
  return rows.slice(at + 1).flatMap((row) => row.slots.filter((one) => one.from === slot.from && takes(one, rows[at].gives)).map((one) => ({ row, slot: one })));
}

// The chosen rows become a tool: its name, what it takes, and what its faceplate shows.

import { post } from "../base/api.js";
import { openDialog } from "../base/dialog.js";
import { button, choose, el, framed } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";

/** @typedef {{ id: number, control: Control, box: HTMLInputElement, label: HTMLInputElement, from: HTMLInputElement, to: HTMLInputElement, node: HTMLElement }} Pick */

/** @param {Shot} shot */
export async function makeTool(shot) {
  const rows = shot.state.setup.stages.filter((stage) => shot.view.selected.includes(stage.id)).map((stage) => stage.id);
  const found = await trying(() => post(`${shot.base}/tool-inputs`, { rows }));
  if (!found) return;
  const name = el("input", { class: "input", name: "tool-name", "aria-label": "name of the tool", placeholder: "haze" });
  const inputs = /** @type {HTMLInputElement[]} */ (found.inputs.map((/** @type {string} */ input, /** @type {number} */ index) => el("input", { class: "input", value: input, "aria-label": `name of input ${index + 1}` })));
  // An input after the first may take what one before it takes, while nothing is plugged into it.
  const otherwise = inputs.map(() => -1);
  const standIn = (/** @type {number} */ index) => framed(choose(`while input ${index + 1} is empty`, -1, [[-1, "else nothing"], ...inputs.slice(0, index).map((input, other) => [other, `else ${input.value || `input ${other + 1}`}`])], (other) => { otherwise[index] = Number(other); }));
  const shows = (/** @type {Control} */ control) => control.kind.type === "number" || control.axes.length > 0 || control.kind.type === "choice";
  const picks = rows.flatMap((id) => shot.controls(id).filter(shows).map((control) => pickOf(shot, id, control)));
  picks.sort((a, b) => Number(b.control.changed) - Number(a.control.changed));
  const line = (/** @type {string} */ label, /** @type {HTMLElement} */ field) => el("label", { class: "line" }, label, field);
  const make = () => {
    if (!name.value.trim()) return toast("give the tool a name", true);
    dialog.close();
    keepTool(shot, { rows, name: name.value.trim(), inputs: inputs.map((input) => input.value), otherwise: otherwise.map((other) => (other < 0 ? "nothing" : { input: other })), faceplate: picks.filter((pick) => pick.box.checked).map(faceplateOf) });
  };
  const dialog = openDialog("make a tool", [
    line("name", name), ...inputs.map((input, index) => el("div", { class: "line" }, el("span", {}, index === 0 ? "takes" : "and"), el("div", { class: "besides" }, input, index > 0 && standIn(index)))),
    el("p", { class: "quiet" }, "What its faceplate shows: label, least and most of the slider. The values now are its defaults."),
    el("div", { class: "picks" }, ...picks.map((pick) => pick.node)),
  ], [button("cancel", "", () => dialog.close()), el("button", { class: "button is-primary is-outlined", id: "make-it", onclick: make }, "make the tool")]);
}

/**
 * @param {Shot} shot
 * @param {number} id
 * @param {Control} control
 * @returns {Pick}
 */
function pickOf(shot, id, control) {
  const stage = shot.stage(id)?.name;
  const box = el("input", { type: "checkbox", "aria-label": `show ${control.name} of ${stage}`, "data-pick": `${id}-${control.id}` });
  const label = el("input", { class: "input", value: control.name, "aria-label": "label" });
  const [from, to] = ["least", "most"].map((name, at) => el("input", { class: "input num", value: control.kind.slider?.[at] ?? "", size: 4, "aria-label": name }));
  const node = el("div", { class: "pickline" }, box, el("span", { class: control.changed ? "" : "quiet" }, `${stage}: ${control.name}`), label, from, to);
  return { id, control, box, label, from, to, node };
}

/** @param {Pick} pick */
function faceplateOf({ id, control, label, from, to }) {
  const range = [from, to].map((field) => Number(field.value));
  const slides = from.value !== "" && to.value !== "" && range.every(Number.isFinite);
  return { label: label.value.trim() || control.name, stage: id, control: control.id, range: slides ? range : null, default: control.setting };
}

/**
 * @param {Shot} shot
 * @param {{ rows: number[], name: string, inputs: string[], otherwise: (string | { input: number })[], faceplate: object[] }} asked
 */
async function keepTool(shot, asked) {
  const state = await shot.edit({ do: "make_tool", ...asked });
  const row = state?.step?.row;
  if (row === undefined || row === null) return;
  shot.select([row]);
  const kept = await trying(() => post(`${shot.base}/keep-tool`, { stage: row }));
  if (kept) toast(`${asked.name} is on the rack as number ${kept.number}`);
}

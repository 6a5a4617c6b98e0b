// Fields and choosers that stand in pairs below a list: an outline's, a track's, a brush's.

import { apart, choose, el, framed } from "../base/parts.js";

/**
 * A number; what is none changes nothing. `label` is how it is read out, where that is not its name and whose it is.
 * @param {string} name
 * @param {string} of whose it is
 * @param {number | string} value
 * @param {(value: number) => unknown} take
 * @param {string} [label]
 */
export function pairField(name, of, value, take, label = `${name} of ${of}`) {
  const changed = (/** @type {string} */ text) => text.trim() && Number.isFinite(Number(text)) && take(Number(text));
  const field = el("input", { class: "input num", value, "aria-label": label, onkeydown: apart, onchange: (event) => changed(event.target.value) });
  return el("label", { class: "shapefield" }, el("span", { class: "quiet" }, name), field);
}

/**
 * A choice, and how it is read out in the same way.
 * @param {string} name
 * @param {string} of
 * @param {string | number} value
 * @param {(string | number)[][]} entries
 * @param {(value: string) => unknown} take
 * @param {string} [label]
 */
export function pairChoice(name, of, value, entries, take, label = `${name} of ${of}`) {
  return el("label", { class: "shapefield" }, el("span", { class: "quiet" }, name), framed(choose(label, value, entries, take)));
}

/**
 * A name that can be written over; an empty one is not taken.
 * @param {string} value
 * @param {(name: string) => unknown} take
 */
export function nameField(value, take) {
  return el("input", { class: "input", value, "aria-label": `name of ${value}`, onkeydown: apart, onchange: (event) => event.target.value.trim() && take(event.target.value.trim()) });
}

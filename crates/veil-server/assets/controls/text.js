// Words, of one line or more.

import { apart, el } from "../base/parts.js";

/** @type {ControlType} */
export const text = { alone: true, lines: (lines, id, control) => [lines.line(control, textBox(lines, id, control))] };

/**
 * @param {Lines} lines
 * @param {number} id
 * @param {Control} control
 */
function textBox(lines, id, control) {
  const rows = Math.min(6, control.setting.split("\n").length + 1);
  const box = el("textarea", {
    class: "textarea", rows, spellcheck: "false", "aria-label": control.name, "data-field": `${id}-${control.id}`, onkeydown: apart,
    oninput: (event) => lines.shot.try([{ do: "set", stage: id, control: control.id, setting: event.target.value }]),
    onchange: (event) => lines.set(id, control, event.target.value),
  });
  box.value = control.setting;
  return box;
}

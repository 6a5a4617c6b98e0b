// On or off.

import { el } from "../base/parts.js";

/** @type {ControlType} */
export const onOff = {
  lines: (lines, id, control) => [lines.line(control, el("input", {
    type: "checkbox", "aria-label": control.name, checked: control.setting === true, onchange: (event) => lines.set(id, control, event.target.checked),
  }))],
};

// One of a few.

import { choose, framed } from "../base/parts.js";

/** @type {ControlType} */
export const choice = {
  lines: (lines, id, control) => {
    const entries = control.kind.options.map((option) => [option.id, option.name]);
    return [lines.line(control, framed(choose(control.name, control.setting, entries, (one) => lines.set(id, control, one), { "data-field": `${id}-${control.id}` })))];
  },
};

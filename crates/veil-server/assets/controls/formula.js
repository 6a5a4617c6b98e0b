// A formula of pixels; the last good one stays in force while it is written.

import { FormulaField } from "../bench/formulas.js";

/** @type {ControlType} */
export const formula = { alone: true, lines: (lines, id, control) => [lines.line(control, field(lines, id, control))] };

/**
 * @param {Lines} lines
 * @param {number} id
 * @param {Control} control
 */
function field(lines, id, control) {
  const feed = typeof control.setting === "string" ? { formula: control.setting } : control.setting;
  const keep = async () => {
    if (written.value() === feed.formula || !(await written.understood())) return;
    const names = written.names();
    lines.set(id, control, Object.keys(names).length ? { formula: written.value(), names } : written.value());
  };
  const written = new FormulaField(lines.shot, { stage: id, pixels: true, text: feed.formula, named: feed.names, lines: 2, label: control.name, mark: `${id}-${control.id}`, kept: keep, left: keep });
  return written.node;
}

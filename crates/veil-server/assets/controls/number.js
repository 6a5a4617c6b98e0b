// A number: a line on the bench.

/** @type {ControlType} */
export const number = { lines: (lines, id, control) => lines.numbers(id, control) };

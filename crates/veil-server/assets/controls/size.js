// Two lengths: a line for each of its numbers on the bench, and a mark on the picture where the row has one for it.

/** @type {ControlType} */
export const size = { lines: (lines, id, control) => lines.numbers(id, control) };

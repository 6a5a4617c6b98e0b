// Red, green and blue, which can be taken from what comes into the row.

import { button, el, together } from "../base/parts.js";
import { boxMean } from "../bench/boxmean.js";

/** @type {ControlType} */
export const colour = { lines: (lines, id, control) => [...lines.numbers(id, control), takeNode(lines, id, control)] };

/**
 * A colour can be taken from what comes into the row, within the box that is measured.
 * @param {Lines} lines
 * @param {number} id
 * @param {Control} control
 */
function takeNode(lines, id, control) {
  const { shot } = lines;
  const take = async () => {
    const mean = await boxMean(shot, shot.stage(id)?.links?.main?.from?.stage ?? shot.view.shown);
    if (mean) shot.edit(together(lines.sharing(id).map((one) => shot.byHand(one, control.id, mean))));
  };
  const node = button("take from the box", "the mean of what comes into this row, within the box dragged with Shift", take);
  node.setAttribute("aria-label", `take ${control.name} from the box`);
  return el("div", { class: "ctl wide" }, el("span"), node);
}

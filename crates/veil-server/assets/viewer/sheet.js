// Frames across the range, of the shown row; a click goes there.

import { query } from "../base/api.js";
import { openDialog } from "../base/dialog.js";
import { el, every } from "../base/parts.js";

/**
 * @param {Shot} shot
 * @param {number} [count]
 */
export function openSheet(shot, count = 24) {
  const { first, last } = shot.range();
  const many = Math.min(count, last - first + 1);
  const frames = Array.from({ length: many }, (_frame, at) => Math.round(first + (many > 1 ? (at * (last - first)) / (many - 1) : 0)));
  const go = (/** @type {number} */ frame) => {
    dialog.close();
    shot.go(frame);
  };
  const node = (/** @type {number} */ frame) => el("button", { class: "sheetframe", "aria-label": `go to frame ${frame}`, onclick: () => go(frame) },
    el("img", { alt: "", loading: "lazy", src: `${shot.base}/still?${query({ stage: shot.view.shown, frame, revision: shot.state.revision })}` }), el("span", { class: "num" }, frame));
  // What is not there yet is wanted no longer.
  const closed = () => /** @type {HTMLImageElement[]} */ (every("img", dialog)).filter((image) => !image.complete).forEach((image) => image.removeAttribute("src"));
  const dialog = openDialog(`${shot.row(shot.view.shown)?.name ?? ""}, ${many} frames`, [el("div", { class: "framesheet" }, ...frames.map(node))], [], { size: "wide", closed });
}

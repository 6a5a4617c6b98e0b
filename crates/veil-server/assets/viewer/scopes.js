// Histogram and waveform of what is seen, drawn once the picture is there.

import { get, orElse, query } from "../base/api.js";
import { el, svg } from "../base/parts.js";

const [WIDE, HIGH] = [192, 64];
const COLOURS = ["#d0604a", "#7ba35f", "#6d8fc0"];

/** @typedef {{ histogram: number[][], waveform: number[], columns: number, levels: number, above: number, below: number }} Counted */

export class Scopes {
  #of = "";

  /**
   * @param {Shot} shot
   * @param {HTMLElement} node
   */
  constructor(shot, node) {
    this.shot = shot;
    this.node = node;
    shot.watch((what) => {
      if (what === "painted" || what === "measured") this.draw();
      if (what === "view") node.hidden = !shot.view.scopes;
    });
  }

  async draw() {
    const { shot, node } = this;
    const { scopes, shown, frame, exposure, screen } = shot.view;
    node.hidden = !scopes;
    if (!scopes) return;
    const of = query({ stage: shown, frame, exposure, screen, revision: shot.state.revision, within: shot.measured?.join(",") });
    if (this.#of === of) return;
    this.#of = of;
    /** @type {Counted | null} */
    const found = await orElse(get(`${shot.base}/scopes?${of}`), null);
    if (this.#of !== of || !found) return;
    const share = (/** @type {number} */ value) => `${(value * 100).toFixed(1)} %`;
    node.replaceChildren(histogram(found), waveform(found), el("p", { class: "num" }, `above 1: ${share(found.above)}  below 0: ${share(found.below)}${shot.measured ? "  in the box" : ""}`));
    node.dataset.of = of;
  }
}

/** @param {Counted} found */
function histogram({ histogram: counted }) {
  // What lies at the ends, or beyond, would dwarf the rest.
  const most = Math.max(1, ...counted.flatMap((counts) => counts.slice(1, -1)));
  const shape = (/** @type {number[]} */ counts) => `M0 ${HIGH}${counts.map((count, at) => `L${((at / (counts.length - 1)) * WIDE).toFixed(1)} ${(HIGH - Math.min(1, Math.sqrt(count / most)) * HIGH).toFixed(1)}`).join("")}L${WIDE} ${HIGH}z`;
  return svg("svg", { width: WIDE, height: HIGH, role: "img", "aria-label": "histogram of red, green and blue, as on the screen" },
    ...counted.map((counts, at) => svg("path", { d: shape(counts), fill: COLOURS[at], "fill-opacity": 0.28, stroke: COLOURS[at] })));
}

/** @param {Counted} found */
function waveform({ waveform: counted, columns, levels }) {
  const canvas = el("canvas", { width: columns, height: levels, role: "img", "aria-label": "waveform of luma, as on the screen" });
  const picture = new ImageData(columns, levels);
  const tallest = Math.max(1, ...counted);
  counted.forEach((count, at) => {
    const [column, level] = [Math.floor(at / levels), at % levels];
    const light = Math.round(255 * Math.min(1, (count / tallest) ** 0.35));
    picture.data.set([light * 0.92, light * 0.91, light * 0.87, 255], ((levels - 1 - level) * columns + column) * 4);
  });
  canvas.getContext("2d")?.putImageData(picture, 0, 0);
  return canvas;
}

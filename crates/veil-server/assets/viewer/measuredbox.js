// The box that is measured: dragged with Shift held, or begun by a command and moved and sized by the arrow keys.

import { get, query } from "../base/api.js";
import { followPointer } from "../base/drag.js";
import { el, within } from "../base/parts.js";
import { trying } from "../base/telling.js";

const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export class MeasuredBox {
  /**
   * @param {Shot} shot
   * @param {import("./well.js").Well} well
   * @param {import("./painter.js").Painter} painter
   * @param {{ values: HTMLElement, repaint: () => void }} nodes
   */
  constructor(shot, well, painter, nodes) {
    this.shot = shot;
    this.well = well;
    this.painter = painter;
    this.nodes = nodes;
    this.node = el("div", {
      class: "measuredbox", role: "group", tabindex: 0, hidden: true, "aria-label": "measured box: arrow keys move it, with Alt they size it, with Shift by ten, Escape takes it away",
      onkeydown: (event) => this.#keyed(event),
    });
  }

  draw() {
    const { painter, node, well } = this;
    node.hidden = !painter.box;
    if (!painter.box) return;
    const [x, y, wide, high] = painter.box;
    const [left, top] = well.toWell([x, y]);
    Object.assign(node.style, { left: `${left}px`, top: `${top}px`, width: `${wide * well.wideZoom}px`, height: `${high * well.zoom}px` });
  }

  forget() {
    this.painter.box = null;
    this.node.hidden = true;
    this.shot.measure(null);
  }

  /** @param {PointerEvent} event */
  drag(event) {
    const [ax, ay] = this.well.toPicture(event);
    const before = this.painter.box;
    followPointer(event, {
      moved: (next) => {
        const [bx, by] = this.well.toPicture(next);
        this.painter.box = [Math.min(ax, bx), Math.min(ay, by), Math.abs(bx - ax), Math.abs(by - ay)];
        this.nodes.repaint();
      },
      done: (far) => {
        if (far) return this.#measure();
        this.forget();
        this.nodes.repaint();
      },
      left: () => {
        this.painter.box = before;
        this.nodes.repaint();
      },
    });
  }

  /** Begins with a box in the middle of the picture, or takes up the one that is there. */
  begin() {
    const { width, height } = this.well.size;
    this.painter.box ??= [Math.round(width * 0.4), Math.round(height * 0.4), Math.round(width * 0.2), Math.round(height * 0.2)];
    this.nodes.repaint();
    this.node.focus({ preventScroll: true });
    this.#measure();
  }

  /** @param {KeyboardEvent} event */
  #keyed(event) {
    const step = STEP[/** @type {keyof STEP} */ (event.key)];
    const { box } = this.painter;
    if (event.key === "Escape") {
      this.forget();
      this.nodes.repaint();
      this.well.node.focus({ preventScroll: true });
    } else if (step && box) {
      const [right, down] = step.map((one) => one * (event.shiftKey ? 10 : 1));
      const { width, height } = this.well.size;
      const [x, y, wide, high] = box;
      this.painter.box = event.altKey
        ? [x, y, within(wide + right, 1, width - x), within(high + down, 1, height - y)]
        : [within(x + right, 0, width - wide), within(y + down, 0, height - high), wide, high];
      this.nodes.repaint();
      this.#measure();
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /** Least, mean and most within the box, in whole pixels. */
  async #measure() {
    const { shot, nodes } = this;
    const [x, y, wide, high] = this.painter.box ?? [0, 0, 0, 0];
    const box = [Math.floor(x), Math.floor(y), Math.ceil(x + wide), Math.ceil(y + high)];
    shot.measure(box);
    const [x0, y0, x1, y1] = box;
    const found = await trying(() => get(`${shot.base}/region?${query({ stage: shot.view.shown, frame: shot.view.frame, x0, y0, x1, y1 })}`));
    if (!found || shot.measured !== box) return;
    const text = (/** @type {number[]} */ values) => values.map((value) => value.toFixed(4)).join(" ");
    nodes.values.textContent = `least ${text(found.least)} · mean ${text(found.mean)} · most ${text(found.most)}`;
  }
}

// The line of a split compare: dragged, or moved by the arrow keys while it has the focus.

import { followPointer } from "../base/drag.js";
import { el, within } from "../base/parts.js";

const STEP = 0.01;

export class SplitLine {
  /**
   * @param {import("./painter.js").Painter} painter
   * @param {() => void} repaint
   */
  constructor(painter, repaint) {
    this.painter = painter;
    this.repaint = repaint;
    this.node = el("div", {
      class: "splitline", role: "slider", tabindex: 0, hidden: true, "aria-label": "split line", "aria-orientation": "horizontal", "aria-valuemin": 0, "aria-valuemax": 100,
      onkeydown: (event) => this.#keyed(event),
    });
  }

  draw() {
    const { painter, node } = this;
    node.hidden = painter.shot.view.compare !== "split";
    if (node.hidden) return;
    node.style.left = `${painter.splitX - 12}px`;
    const share = `${Math.round(painter.split * 100)}`;
    if (node.getAttribute("aria-valuenow") === share) return;
    node.setAttribute("aria-valuenow", share);
    node.setAttribute("aria-valuetext", `${share} % of the width`);
  }

  /** @param {number} share */
  #move(share) {
    this.painter.split = within(share, 0, 1);
    this.repaint();
  }

  /** @param {PointerEvent} event */
  grab(event) {
    const before = this.painter.split;
    const { well } = this.painter;
    this.node.focus({ preventScroll: true });
    followPointer(event, {
      moved: (next) => this.#move(well.toPicture(next)[0] / well.size.width),
      left: () => this.#move(before),
    });
  }

  /** @param {KeyboardEvent} event */
  #keyed(event) {
    const { split } = this.painter;
    const size = STEP * (event.shiftKey ? 10 : 1);
    const to = { ArrowLeft: split - size, ArrowDown: split - size, ArrowRight: split + size, ArrowUp: split + size, Home: 0, End: 1 }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    this.#move(to);
  }
}

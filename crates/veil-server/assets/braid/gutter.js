// The whole braid at a glance: every row as a tick, however many there are.

import { svg, within } from "../base/parts.js";

export class Gutter {
  /**
   * @param {Shot} shot
   * @param {SVGElement} node
   * @param {() => Row[]} rows those that are let through
   */
  constructor(shot, node, rows) {
    this.shot = shot;
    this.node = node;
    this.rows = rows;
    node.addEventListener("click", (event) => this.#go(event));
  }

  /** Longer where it is selected, across the whole gutter at a fault. */
  draw() {
    const { shot, node } = this;
    const rows = this.rows();
    const tall = node.clientHeight / Math.max(1, rows.length);
    node.replaceChildren(...rows.map((row, index) => {
      const plain = row.on ? "var(--bound)" : "var(--rule)";
      const [width, fill] = shot.marked(row.id) ? [12, "var(--fault)"] : shot.view.selected.includes(row.id) ? [9, "var(--salt)"] : [4, plain];
      return svg("rect", { x: 1, y: index * tall + tall / 2 - 1, width, height: Math.min(3, Math.max(1, tall - 1)), fill });
    }));
  }

  /** @param {MouseEvent} event */
  #go(event) {
    const rows = this.rows();
    if (!rows.length) return;
    const at = Math.floor(((event.clientY - this.node.getBoundingClientRect().top) / this.node.clientHeight) * rows.length);
    const { id } = rows[within(at, 0, rows.length - 1)];
    this.shot.select([id]);
    this.shot.bring(id, true);
  }
}

// Outlines on the picture: how they are drawn, with their points and handles.

import { svg } from "../base/parts.js";
import { add, full } from "../shot/drawn.js";
import { DrawnMarks, INK, SALT, tenth } from "./drawnmarks.js";

export class OutlineMarks extends DrawnMarks {
  /** The way of the outline at a key, as it was last seen. @type {WeakMap<object, { seenFrom: string, d: string }>} */
  #ghostWays = new WeakMap();

  draw() {
    if (!this.control) return;
    this.askPlaced();
    const { outline } = this.shot;
    const parts = this.shapes.flatMap((shape, index) => (shape.hidden || index === outline.shape ? [] : [this.curve(shape, this.pointsOf(index), { opacity: 0.55, "data-shape": index, "stroke-dasharray": shape.dash ?? null })]));
    const shape = this.chosen;
    if (shape && !shape.hidden) parts.push(...this.#ghosts(shape), ...this.#whole(shape));
    if (outline.drawing) parts.push(...this.#begun(outline.drawing));
    this.overlay.append(...parts, ...this.boxMark());
  }

  /**
   * The outline at the keys before and after this frame; they stay where they are while the outline is dragged.
   * @param {Outline} shape
   */
  #ghosts(shape) {
    const frame = this.shot.here;
    const near = [shape.keys.findLast((key) => key.frame < frame), shape.keys.find((key) => key.frame > frame)];
    const seenFrom = [this.well.x, this.well.y, this.well.zoom, this.carry.carries && frame].join("/");
    return near.filter((key) => key !== undefined).map((key) => {
      let way = this.#ghostWays.get(key);
      if (way?.seenFrom !== seenFrom) this.#ghostWays.set(key, (way = { seenFrom, d: this.wayOf(shape, key.points.map(full)) }));
      return svg("path", { d: way.d, class: "ghostline", fill: "none", stroke: SALT, "stroke-opacity": 0.35, "stroke-width": 1 });
    });
  }

  /**
   * The chosen outline with its points.
   * @param {Outline} shape
   */
  #whole(shape) {
    const points = this.pointsOf();
    const dash = shape.locked ? "6 3" : shape.dash;
    return [this.curve(shape, points, dash ? { "stroke-dasharray": dash } : {}), ...this.#handles(points), ...this.squares(points), ...this.turnFrame(points)];
  }

  /** @param {Point[]} points */
  #handles(points) {
    if (this.dragging && !this.bending) return [];
    let [lines, knobs] = ["", ""];
    for (const index of this.shot.outline.points) {
      for (const side of /** @type {const} */ (["before", "after"])) {
        const point = points[index];
        if (!point || (!point[side][0] && !point[side][1])) continue;
        const [[x, y], [hx, hy]] = [this.seen(point.at), this.seen(add(point.at, point[side]))];
        lines += `M${tenth(x)} ${tenth(y)}L${tenth(hx)} ${tenth(hy)}`;
        knobs += `M${tenth(hx - 3)} ${tenth(hy)}a3 3 0 1 0 6 0a3 3 0 1 0 -6 0`;
      }
    }
    return lines ? [svg("path", { d: lines, stroke: SALT, "stroke-opacity": 0.6 }), svg("path", { d: knobs, fill: INK, stroke: SALT })] : [];
  }

  /** @param {Drawing} drawing */
  #begun(drawing) {
    const squares = drawing.points.map((point, at) => {
      const [x, y] = this.seen(point.at);
      return svg("rect", { x: x - 3.5, y: y - 3.5, width: 7, height: 7, fill: at ? INK : SALT, stroke: SALT });
    });
    return [this.curve({ width: drawing.closed ? 0 : 1 }, drawing.points, {}), ...squares];
  }
}

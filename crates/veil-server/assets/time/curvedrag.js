// Keys under the hand: moved, stretched by the box about them, bent by their tangents, and picked by a box.

import { followPointer } from "../base/drag.js";
import { valueOf } from "./curvelines.js";
import { movedFeed } from "./curvemoves.js";

/** @typedef {import("./curvelines.js").Curve} Curve */
/** @typedef {import("./curvemoves.js").Move} Move */

export class CurveDrag {
  /** Curves as they are dragged, and which of their keys are, by the curves' marks. @type {{ on: Map<string, Set<number>>, feeds: Map<string, Keyed> } | null} */
  #moving = null;
  /** A box that picks keys while it is drawn. @type {{ x: number, y: number, width: number, height: number } | null} */
  drawnBox = null;

  /** @param {import("./curves.js").Curves} curves */
  constructor(curves) {
    this.curves = curves;
    this.shot = curves.shot;
  }

  get going() {
    return this.#moving !== null || this.drawnBox !== null;
  }

  /**
   * A curve as it stands while it is dragged.
   * @param {Curve} curve
   */
  seen(curve) {
    const feed = this.#moving?.feeds.get(curve.mark);
    return feed ? { ...curve, feed } : curve;
  }

  /**
   * Whether a key is dragged; nothing is said where nothing is.
   * @param {Curve} curve
   * @param {number} at
   */
  on({ mark }, at) {
    return this.#moving ? (this.#moving.on.get(mark)?.has(at) ?? false) : undefined;
  }

  #end() {
    this.#moving = null;
    this.drawnBox = null;
  }

  #left() {
    this.#end();
    this.shot.try(null);
    this.curves.draw();
  }

  /**
   * A press on a key picks it, and a drag takes all picked ones along.
   * @param {PointerEvent} event
   * @param {Curve} curve
   * @param {Key} key
   */
  key(event, curve, key) {
    if (event.button) return;
    const { lines, scale, plot } = this.curves;
    if (!lines.picked.get(curve.mark)?.has(key.frame) || event.shiftKey) lines.pick(curve, key.frame, event.shiftKey);
    this.curves.draw();
    plot.focus({ preventScroll: true });
    if (!lines.picked.get(curve.mark)?.has(key.frame)) return event.stopPropagation();
    this.keys(event, (dx, dy, next) => {
      // With Shift along one axis only.
      const [wide, high] = next.shiftKey ? (Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy]) : [dx, dy];
      const later = wide / scale.perFrame();
      return { later: lines.snap ? Math.round(later) : later, higher: -high * lines.perPixel(curve) };
    }, () => {
      if (!event.shiftKey) lines.picked = new Map([[curve.mark, new Set([key.frame])]]);
      this.shot.go(key.frame);
      this.curves.draw();
    });
  }

  /**
   * Follows the pointer with a move of the picked keys; one edit at the end.
   * @param {PointerEvent} event
   * @param {(dx: number, dy: number, event: PointerEvent) => Move} byOf
   * @param {() => void} [clicked]
   */
  keys(event, byOf, clicked = () => undefined) {
    event.stopPropagation();
    event.preventDefault();
    const { lines, moves } = this.curves;
    const all = lines.all();
    const held = (/** @type {Curve} */ curve) => new Set(curve.feed.keys.flatMap((key, at) => (lines.picked.get(curve.mark)?.has(key.frame) ? [at] : [])));
    const on = new Map(all.map((curve) => [curve.mark, held(curve)]));
    /** @type {Move | null} */
    let last = null;
    followPointer(event, {
      moved: (next, [dx, dy]) => {
        const by = last = byOf(dx, dy, next);
        this.#moving = { on, feeds: new Map(all.map((curve) => [curve.mark, movedFeed(curve.feed, on.get(curve.mark) ?? new Set(), by)])) };
        this.curves.drawPlot(all);
        this.shot.try([moves.command(by)]);
      },
      done: () => {
        this.#end();
        if (last) moves.move(last);
        else clicked();
      },
      left: () => this.#left(),
    });
  }

  /**
   * @param {PointerEvent} event
   * @param {Curve} curve
   * @param {{ at: number, side: "arrive" | "leave", reach: number, slopes: Slopes }} tangent
   */
  tangent(event, curve, { at, side, reach, slopes }) {
    event.stopPropagation();
    event.preventDefault();
    const { lines } = this.curves;
    const joined = slopes.arrive === slopes.leave;
    const picked = [{ of: curve.of, frames: [curve.feed.keys[at].frame] }];
    const on = new Map([[curve.mark, new Set([at])]]);
    /** @type {Slopes | null} */
    let made = null;
    const command = () => ({ do: "shape_keys", picked, shape: { slopes: made } });
    followPointer(event, {
      moved: (next, [, dy]) => {
        const slope = slopes[side] - (dy * lines.perPixel(curve)) / reach;
        const bent = made = joined && !next.altKey ? { arrive: slope, leave: slope } : { ...slopes, [side]: slope };
        const keys = curve.feed.keys.map((key, one) => (one === at ? { ...key, slopes: bent } : key));
        this.#moving = { on, feeds: new Map([[curve.mark, { ...curve.feed, keys }]]) };
        this.curves.drawPlot();
        this.shot.try([command()]);
      },
      done: () => {
        this.#end();
        if (made) this.shot.edit(command());
      },
      left: () => this.#left(),
    });
  }

  /**
   * A drag over nothing picks what lies in the box; a click there goes to the frame.
   * @param {PointerEvent} event
   */
  box(event) {
    if (event.button) return;
    const { lines, scale, plot } = this.curves;
    const bounds = plot.getBoundingClientRect();
    const [x0, y0] = [event.clientX - bounds.left, event.clientY - bounds.top];
    followPointer(event, {
      moved: (_next, [dx, dy]) => {
        this.drawnBox = { x: Math.min(x0, x0 + dx), y: Math.min(y0, y0 + dy), width: Math.abs(dx), height: Math.abs(dy) };
        this.curves.drawPlot();
      },
      done: () => {
        const box = this.drawnBox;
        this.#end();
        if (!event.shiftKey) lines.picked = new Map();
        if (box) this.#pickWithin(box);
        else this.shot.go(scale.toFrame(x0));
        this.curves.draw();
      },
      left: () => this.#left(),
    });
  }

  /** @param {{ x: number, y: number, width: number, height: number }} box */
  #pickWithin({ x, y, width, height }) {
    const { lines, scale } = this.curves;
    for (const curve of lines.all()) {
      for (const key of curve.feed.keys) {
        const [cx, cy] = [scale.toX(key.frame), lines.toY(curve, valueOf(curve, key))];
        if (cx < x || cx > x + width || cy < y || cy > y + height) continue;
        lines.picked.set(curve.mark, (lines.picked.get(curve.mark) ?? new Set()).add(key.frame));
      }
    }
  }
}

// What becomes of keys when they are moved, stretched and shaped.

import { withFeed, withKeyAt } from "../shot/keys.js";

/** @typedef {import("./curvelines.js").CurveLines} CurveLines */
/** @typedef {import("./curvelines.js").Curve} Curve */

/**
 * A move of keys: in time by `later` and stretched about a frame, in value by `higher` and scaled about a level.
 * @typedef {{ about?: number, stretch?: number, later?: number, level?: number, scale?: number, higher?: number, snap?: boolean }} Move
 */

export class CurveMoves {
  /**
   * @param {Shot} shot
   * @param {CurveLines} lines
   * @param {() => void} redraw
   */
  constructor(shot, lines, redraw) {
    this.shot = shot;
    this.lines = lines;
    this.redraw = redraw;
  }

  /**
   * @param {Move} by
   * @returns {Command}
   */
  command(by) {
    return { do: "move_keys", picked: this.lines.pickedKeys(), by: { ...by, snap: by.snap ?? this.lines.snap } };
  }

  /**
   * The picked keys go where they are moved, and stay picked there.
   * @param {Move} by
   */
  async move(by) {
    const { lines } = this;
    if (!lines.count) return;
    const command = this.command(by);
    const { about = 0, stretch = 1, later = 0 } = by;
    const moved = (/** @type {number} */ frame) => (frame - about) * stretch + about + later;
    const before = lines.picked;
    lines.picked = new Map([...before].map(([mark, frames]) => [mark, new Set([...frames].map((frame) => (command.by.snap ? Math.round(moved(frame)) : moved(frame))))]));
    if (await this.shot.edit(command)) return;
    lines.picked = before;
    this.redraw();
  }

  /** @param {any} shape */
  shape(shape) {
    if (this.lines.count) this.shot.edit({ do: "shape_keys", picked: this.lines.pickedKeys(), shape });
  }

  remove() {
    this.shot.edit({ do: "remove_keys", picked: this.lines.pickedKeys() });
  }

  /** Each side straight to its neighbour; from there the two are dragged apart. */
  breakApart() {
    const { lines } = this;
    const to = (/** @type {Key | undefined} */ a, /** @type {Key | undefined} */ b) => (a && b ? (b.value - a.value) / (b.frame - a.frame) : 0);
    const commands = lines.all().flatMap((curve) => [...lines.picked.get(curve.mark) ?? []].map((frame) => {
      const { keys } = curve.feed;
      const at = keys.findIndex((key) => key.frame === frame);
      return { do: "shape_keys", picked: [{ of: curve.of, frames: [frame] }], shape: { slopes: { arrive: to(keys[at - 1], keys[at]), leave: to(keys[at], keys[at + 1]) } } };
    }));
    if (commands.length) this.shot.edit({ do: "together", commands });
  }

  /**
   * A key where the curve already is; one more on what is added to a feed.
   * @param {Curve} curve
   * @param {number} frame
   */
  addKey(curve, frame) {
    const { of, feed, whole, control } = curve;
    const value = this.lines.at(curve, frame);
    if (feed === whole) {
      const values = Array.from({ length: of.axis + 1 }, (_axis, axis) => (axis === of.axis ? value : null));
      return this.shot.edit({ do: "put", stage: of.stage, control: of.control, values, frame, keys: "key" });
    }
    const made = { .../** @type {Fed} */ (whole), offset: withKeyAt(feed, frame, value) };
    return this.shot.edit({ do: "set", stage: of.stage, control: of.control, setting: withFeed(control.setting, of.axis, made) });
  }
}

/**
 * What a move makes of a curve, for drawing only; the server's move counts.
 * @param {Keyed} feed
 * @param {Set<number>} on which of its keys are moved
 * @param {Move} by
 * @returns {Keyed}
 */
export function movedFeed(feed, on, { about = 0, stretch = 1, later = 0, level = 0, scale = 1, higher = 0 }) {
  const offset = feed.offset ?? 0;
  const keys = feed.keys.map((key, at) => {
    if (!on.has(at)) return key;
    const slopes = key.slopes && { arrive: (key.slopes.arrive * scale) / stretch, leave: (key.slopes.leave * scale) / stretch };
    return { ...key, slopes, frame: (key.frame - about) * stretch + about + later, value: (key.value + offset - level) * scale + level + higher - offset };
  });
  return { ...feed, keys: keys.sort((a, b) => a.frame - b.frame) };
}

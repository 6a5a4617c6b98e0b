// Rows and columns of places: cut and joined on the bench, pulled on the picture, one alone or many with what lies about them.

import { button, el, svg } from "../base/parts.js";
import { toast } from "../base/telling.js";
import { goesWith, keyButton, wayField } from "../bench/drawnfields.js";
import { pairChoice, pairField } from "../bench/fieldparts.js";
import { full, less, shapeAt } from "../shot/drawn.js";
import { DrawnMarks } from "../viewer/drawnmarks.js";
import { sampleAt } from "../viewer/tracking.js";
import { OutlinePress } from "../viewer/outlinepress.js";
import { surfaceLines } from "./latticelines.js";

/** @type {ControlType} */
export const lattice = {
  alone: true,
  lines: (lines, id, control) => [lines.line(control, new LatticeField(lines.shot, id, control).node(), "whole")],
  hand: ({ shot, overlay, well, carry, remark }) => new LatticePress(new LatticeMarks(shot, overlay, well, carry, remark)),
};

/** @typedef {"row" | "column"} Along */

class LatticeField {
  /**
   * @param {Shot} shot
   * @param {number} id the row
   * @param {Control} control
   */
  constructor(shot, id, control) {
    this.shot = shot;
    this.id = id;
    this.control = control;
    /** @type {Lattice} */
    this.lattice = control.setting.lattice;
    this.mine = shot.selected === id;
    /** The last of the points that are picked; -1 where none is. */
    this.last = this.mine ? [...shot.outline.points].at(-1) ?? -1 : -1;
  }

  node() {
    const { rows, columns, keys } = this.lattice;
    const picked = this.mine ? shotPicked(this.shot) : 0;
    const facts = [`${rows} by ${columns} cells`, keys.length > 1 ? `${keys.length} keys` : "", picked ? `${picked} picked` : ""];
    return el("div", { class: "shapes" },
      el("p", { class: "quiet" }, facts.filter(Boolean).join(" · ")), this.#cells(), this.#fields(), this.#deeds());
  }

  /** Rows and columns are cut and joined at the point that was picked last, or where cells are largest. */
  #cells() {
    const add = (/** @type {Along} */ along) => button(`add a ${along}`, "cuts the cells below or beside the point that was picked last, else the largest; nothing moves", () => this.#alter({ [`add_${along}`]: this.#cellAt(along) }));
    const corner = (/** @type {Along} */ along) => this.#cornerAt(along);
    const remove = (/** @type {Along} */ along) => {
      const node = button(`remove the ${along}`, "the corners of the point that was picked last go, where they lie between others", () => this.#alter({ [`remove_${along}`]: corner(along) }));
      node.disabled = corner(along) < 0;
      return node;
    };
    return el("div", { class: "deeds" }, add("row"), add("column"), remove("row"), remove("column"));
  }

  /** @param {Along} along */
  #cornerAt(along) {
    const { rows, columns } = this.lattice;
    const wide = columns + 1;
    const at = this.last < 0 ? -1 : along === "row" ? Math.floor(this.last / wide) : this.last % wide;
    return at > 0 && at < (along === "row" ? rows : columns) ? at : -1;
  }

  /** @param {Along} along */
  #cellAt(along) {
    const { rows, columns, rest } = this.lattice;
    const wide = columns + 1;
    const [cells, step, axis] = along === "row" ? [rows, wide, 1] : [columns, 1, 0];
    if (this.last >= 0) return Math.min(along === "row" ? Math.floor(this.last / wide) : this.last % wide, cells - 1);
    const sizes = Array.from({ length: cells }, (_cell, at) => Math.abs(rest[(at + 1) * step][axis] - rest[at * step][axis]));
    return sizes.indexOf(Math.max(...sizes));
  }

  /** @param {object} deed */
  #alter(deed) {
    if (this.mine) this.shot.atOutline({ points: new Set() });
    return this.shot.edit({ do: "alter", stage: this.id, control: this.control.id, deed });
  }

  /** @returns {import("../bench/drawnfields.js").Said} */
  #said() {
    const { shot, id, control, lattice: points } = this;
    const change = (/** @type {Partial<KeyedPoints>} */ values) => shot.edit({ do: "set", stage: id, control: control.id, setting: { lattice: { ...points, ...values } } });
    return { shot, stage: id, control, index: 0, name: "the lattice", points, change };
  }

  #fields() {
    const { own } = this.shot.outline;
    const soft = this.mine && pairField("soft reach", "the lattice", own.reach ?? 0, (reach) => this.shot.atOutline({ own: { ...own, reach: Math.max(0, reach) } }), "soft reach: points within so many pixels of those that are dragged go along in part");
    const surface = pairChoice("surface", "the lattice", this.lattice.surface ?? "through", [["through", "through its points"], ["near", "near its points"]], (surface) => this.#alter({ surface }));
    return el("div", { class: "shapefields" }, wayField(this.#said()), surface, soft || null, ...goesWith(this.#said()), this.#laidOn());
  }

  /** It takes the rows, columns and places of a surface that is followed, and goes with it from this frame on. */
  #laidOn() {
    const { shot, id, control } = this;
    const known = (shot.state.setup.tracks ?? []).flatMap((track) => {
      const here = sampleAt(track, shot.here)?.surface;
      return track.surface && here ? [{ track, of: track.surface, here }] : [];
    });
    if (!known.length) return null;
    const lay = (/** @type {string} */ chosen) => {
      const found = known.find(({ track }) => String(track.id) === chosen);
      if (!found) return;
      if (this.mine) shot.atOutline({ points: new Set() });
      return shot.edit({ do: "set", stage: id, control: control.id, setting: { lattice: laidOn(found.of, found.here.corners, { track: found.track.id, since: shot.here }) } });
    };
    return pairChoice("lay it on", "the lattice", "", [["", "choose a surface"], ...known.map(({ track }) => [track.id, track.name])], lay);
  }

  #deeds() {
    const { shot, id, control, lattice: { rest } } = this;
    const back = () => {
      const picked = this.mine ? shot.outline.points : new Set();
      const points = shapeAt(this.lattice, shot.here).map((point, index) => (picked.size && !picked.has(index) ? point : full({ at: rest[index] })));
      return shot.edit({ do: "put_shape", stage: id, control: control.id, shape: 0, points, frame: shot.here, keys: shot.keying });
    };
    const { width, height } = shot.state.setup.picture;
    // Asked for when it is pressed: a box may be dragged while the bench stays as it is.
    const overBox = () => (shot.measured ? this.#alter({ over: shot.measured }) : toast("drag a box on the picture with Shift first", true));
    return el("div", { class: "deeds" }, keyButton(this.#said()),
      button("back to rest", "the picked points, or all, where they were before they were moved", back),
      button("lay over the box", "at rest it fills the box that was dragged with Shift; what has moved goes along", overBox),
      button("lay over the frame", "at rest it fills the frame; what has moved goes along", () => this.#alter({ over: [0, 0, width, height] })));
  }
}

/**
 * A lattice that at rest has even cells over the box about a surface, and lies where that does.
 * @param {TrackSurface} of
 * @param {Place[]} corners
 * @param {{ track: number, since: number }} carried
 * @returns {Lattice}
 */
function laidOn({ rows, columns }, corners, carried) {
  const [xs, ys] = [0, 1].map((axis) => corners.map((at) => at[axis]));
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  const [wide, high] = [Math.max(...xs) - left, Math.max(...ys) - top];
  const rest = corners.map((_corner, at) => /** @type {Place} */ ([left + (wide * (at % (columns + 1))) / columns, top + (high * Math.floor(at / (columns + 1))) / rows]));
  return { rows, columns, rest, keys: [{ frame: carried.since, points: corners.map((at) => full({ at })) }], carried };
}

/** @param {Shot} shot */
const shotPicked = (shot) => shot.outline.points.size;

class LatticeMarks extends DrawnMarks {
  /** Where the points were before they were dragged. @type {Point[] | null} */
  #before = null;

  /** @override */
  get type() {
    return "lattice";
  }

  /** @returns {Lattice | undefined} */
  get lattice() {
    return this.control?.setting.lattice;
  }

  /** @override @returns {Outline[]} */
  get shapes() {
    return this.lattice ? [{ name: "lattice", ...this.lattice }] : [];
  }

  /**
   * What lies within reach of a point that is dragged goes along, the less the further off it is.
   * @param {Point[]} points
   */
  #softened(points) {
    const { own } = this.shot.outline;
    this.#before ??= this.pointsOf();
    const before = this.#before;
    // An undo may have taken away lines whose points are still picked.
    const picked = new Set([...this.shot.outline.points].filter((index) => before[index]));
    if (!(own.reach > 0) || !picked.size) return points;
    return points.map((point, index) => {
      if (picked.has(index)) return point;
      const away = [...picked].map((other) => ({ other, far: Math.hypot(...less(before[index].at, before[other].at)) }));
      const { other, far } = away.reduce((a, b) => (b.far < a.far ? b : a));
      if (far >= own.reach) return point;
      const share = (1 - (far / own.reach) ** 2) ** 2;
      const by = less(points[other].at, before[other].at);
      return { ...point, at: /** @type {Place} */ ([before[index].at[0] + by[0] * share, before[index].at[1] + by[1] * share]) };
    });
  }

  /** @override @param {Point[]} points */
  try(points) {
    super.try(this.#softened(points));
  }

  /** @override @param {Point[]} points */
  async put(points) {
    const made = this.#softened(points);
    this.#before = null;
    await super.put(made);
  }

  /** @override */
  leave() {
    this.#before = null;
    super.leave();
  }

  draw() {
    const { lattice: of } = this;
    if (!of) return;
    this.askPlaced();
    const points = this.pointsOf();
    const lines = surfaceLines(of, points).map((line) => this.curve({ width: 1 }, line, { opacity: 0.75, "pointer-events": "none" }));
    this.overlay.append(svg("g", { class: "latticelines", "data-cells": `${of.rows} ${of.columns}` }, ...lines), ...this.squares(points), ...this.turnFrame(points), ...this.boxMark());
  }
}

class LatticePress extends OutlinePress {
  /** @override A lattice gets its rows on the bench. */
  twice() {}

  /** @override Points that are taken away go back to rest. @param {Set<number>} picked */
  removePoints(picked) {
    const marks = /** @type {LatticeMarks} */ (this.marks);
    const rest = marks.lattice?.rest;
    if (rest) marks.put(marks.pointsOf().map((point, index) => (picked.has(index) ? full({ at: rest[index] }) : point)));
  }
}

// Rows and columns of places: cut and joined on the bench, pulled on the picture, one alone or many with what lies about them.

import { button, el, svg } from "../base/parts.js";
import { toast } from "../base/telling.js";
import { goesWith, keyButton, wayField } from "../bench/drawnfields.js";
import { pairField } from "../bench/fieldparts.js";
import { full, less, shapeAt } from "../shot/drawn.js";
import { DrawnMarks } from "../viewer/drawnmarks.js";
import { OutlinePress } from "../viewer/outlinepress.js";

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
    return el("div", { class: "shapefields" }, wayField(this.#said()), soft || null, ...goesWith(this.#said()));
  }

  #deeds() {
    const { shot, id, control, lattice: { rest } } = this;
    const back = () => {
      const picked = this.mine ? shot.outline.points : new Set();
      const points = shapeAt(this.lattice, shot.view.frame).map((point, index) => (picked.size && !picked.has(index) ? point : full({ at: rest[index] })));
      return shot.edit({ do: "put_shape", stage: id, control: control.id, shape: 0, points, frame: shot.view.frame, keys: shot.keying });
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
    this.askPlacings();
    const points = this.pointsOf();
    const wide = of.columns + 1;
    const line = (/** @type {number} */ from, /** @type {number} */ step, /** @type {number[]} */ steps) => this.curve({ width: 1 }, through([...steps, 0].map((_step, at) => points[from + at * step]), steps), { opacity: 0.75, "pointer-events": "none" });
    // How far apart lines are at rest, in the mean over what crosses them.
    const steps = (/** @type {number} */ count, /** @type {number} */ step, /** @type {number} */ lines, /** @type {number} */ next) => Array.from({ length: count }, (_cell, at) => {
      const far = Array.from({ length: lines }, (_line, number) => Math.hypot(...less(of.rest[number * next + (at + 1) * step], of.rest[number * next + at * step])));
      return Math.max(1e-6, far.reduce((a, b) => a + b) / lines);
    });
    const [across, down] = [steps(of.columns, 1, of.rows + 1, wide), steps(of.rows, wide, wide, 1)];
    const rows = Array.from({ length: of.rows + 1 }, (_row, at) => line(at * wide, 1, across));
    const columns = Array.from({ length: wide }, (_column, at) => line(at, wide, down));
    this.overlay.append(svg("g", { class: "latticelines", "data-cells": `${of.rows} ${of.columns}` }, ...rows, ...columns), ...this.squares(points), ...this.turnFrame(points), ...this.boxMark());
  }
}

/**
 * A line of points with the handles of the natural cubic spline through all of them, as the server has it.
 * @param {Point[]} line
 * @param {number[]} steps how far apart they are at rest
 * @returns {Point[]}
 */
function through(line, steps) {
  const bends = [0, 1].map((axis) => bendsOf(line.map((point) => point.at[axis]), steps));
  const handle = (/** @type {number} */ from, /** @type {number} */ to, /** @type {number} */ step) => /** @type {Place} */ ([0, 1].map((axis) => {
    const way = line[to].at[axis] - line[from].at[axis];
    return way / 3 - (steps[step] ** 2 / 18) * (2 * bends[axis][from] + bends[axis][to]);
  }));
  return line.map((point, at) => full({ at: point.at, before: at ? handle(at, at - 1, at - 1) : [0, 0], after: at < line.length - 1 ? handle(at, at + 1, at) : [0, 0] }));
}

/**
 * Second derivatives of the natural cubic spline, de Boor, "A Practical Guide to Splines", 1978, chapter IV.
 * @param {number[]} values
 * @param {number[]} steps
 */
function bendsOf(values, steps) {
  const [bends, above] = [values.map(() => 0), values.map(() => 0)];
  for (let at = 1; at < values.length - 1; at++) {
    const [before, after] = [steps[at - 1], steps[at]];
    const own = 2 * (before + after) - before * above[at - 1];
    above[at] = after / own;
    bends[at] = (6 * ((values[at + 1] - values[at]) / after - (values[at] - values[at - 1]) / before) - before * bends[at - 1]) / own;
  }
  for (let at = values.length - 2; at > 0; at--) bends[at] -= above[at] * bends[at + 1];
  return bends;
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

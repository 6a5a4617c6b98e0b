// What is drawn beside the rows: knots, the strands between them, clasps about rows that are sampled together.

import { el, svg } from "../base/parts.js";

// Lines of a row with many takers are drawn whole up to this many rows.
const FAR = 5;
const LANE = 20;
const COLOURS = { picture: "var(--bone)", field: "var(--verdigris)", map: "var(--brass)" };

/** The width of the drawing; rows begin to its right. */
export const LANES = 84;

/** @param {number} lane */
export const laneX = (lane) => 16 + lane * LANE;

/** @param {Kind | undefined} kind */
export const colourOf = (kind) => COLOURS[kind ?? "field"];

export class Lanes {
  #drawn = "";
  #high = 0;
  /** @type {Line[]} */
  #rows = [];

  /**
   * @param {Shot} shot
   * @param {(join: Join) => void} chooseJoin
   */
  constructor(shot, chooseJoin) {
    this.shot = shot;
    this.chooseJoin = chooseJoin;
    this.node = svg("svg", { class: "lanes", width: LANES, height: 0, "aria-hidden": true });
    /** As tall as all rows, whatever is built of them. */
    this.whole = el("div", { class: "whole", "aria-hidden": true });
  }

  /**
   * Draws what lies beside the rows from one to another, where that has changed since.
   * @param {{ rows: Line[], strands: Strand[] }} layout
   * @param {[number, number]} span
   * @param {number} high the height of a row
   * @param {{ mark: string, entryKnot: (line: Entry, x: number, y: number) => SVGElement[] }} more
   */
  draw({ rows, strands }, [from, to], high, { mark, entryKnot }) {
    this.#high = high;
    this.#rows = rows;
    const lines = strands.filter((strand) => strand.to_row >= from && strand.from_row < to);
    const content = JSON.stringify([from, to, lines, this.shot.view.selected, this.shot.join, high]) + mark;
    if (content === this.#drawn) return;
    this.#drawn = content;
    // Only as tall as what is in sight, since all of it is painted anew.
    this.node.style.top = `${from * high}px`;
    this.node.setAttribute("height", String((to - from) * high));
    this.node.setAttribute("viewBox", `0 ${from * high} ${LANES} ${Math.max(1, (to - from) * high)}`);
    const knots = rows.slice(from, to).flatMap((row, at) => (row.entry ? entryKnot(row, laneX(row.lane), this.#y(from + at)) : this.#knot(row, from + at)));
    this.node.replaceChildren(...lines.flatMap((strand) => this.#line(strand)), ...knots, ...this.#clasps());
  }

  /** @param {number} row */
  #y(row) {
    return (row + 0.5) * this.#high;
  }

  /**
   * A line from knot to knot. Of a row that many take, only the ends are drawn, unless one of the two is selected.
   * @param {Strand} strand
   */
  #line(strand) {
    const [x1, y1, x2, y2] = [laneX(strand.from_lane), this.#y(strand.from_row), laneX(strand.to_lane), this.#y(strand.to_row)];
    const { join, view } = this.shot;
    const rows = this.#rows;
    const from = rows[strand.from_row];
    const near = [strand.from_row, strand.to_row].some((at) => view.selected.includes(rows[at].id));
    const chosen = join?.stage === strand.join[0] && join.slot === strand.join[1];
    const cut = !from.entry && from.taps > 2 && strand.to_row - strand.from_row > FAR && !near && !chosen;
    const into = (/** @type {number} */ shift) => `C${x1 + shift} ${y2 + shift} ${x2 + 14} ${y2 + shift} ${x2 + 6} ${y2 + shift}`;
    const end = this.#high * 0.8;
    const path = (/** @type {number} */ shift) => {
      if (x1 === x2) return `M${x1 + shift} ${y1}V${y2}`;
      return cut ? `M${x1 + shift} ${y1}v${end}M${x1 + shift} ${y2 - end}V${y2 - 16}${into(shift)}` : `M${x1 + shift} ${y1}V${y2 - 16}${into(shift)}`;
    };
    const stroke = (/** @type {string} */ d, /** @type {number} */ width) => svg("path", { d, stroke: chosen ? "var(--salt)" : COLOURS[strand.kind], "stroke-width": chosen ? width + 1.6 : width, fill: "none" });
    const choose = () => this.chooseJoin({ stage: strand.join[0], slot: strand.join[1] });
    const hit = strand.main ? [] : [svg("path", { class: "joinhit", d: path(0), stroke: "transparent", "stroke-width": 12, fill: "none", "data-join": strand.join.join(" "), onclick: choose })];
    if (strand.kind === "picture") return [stroke(path(0), 3), ...hit];
    if (strand.kind === "field") return [stroke(path(0), 1.6), ...hit];
    return [stroke(path(-2), 1.4), stroke(path(2), 1.4), ...hit];
  }

  /** A clasp beside each run of rows that are sampled together. */
  #clasps() {
    const rows = this.#rows;
    const lowest = new Map(rows.map((row, index) => [row.sampled_in, index]));
    return rows.flatMap((row, from) => {
      if (row.sampled_in === null || rows[from - 1]?.sampled_in === row.sampled_in) return [];
      const to = lowest.get(row.sampled_in) ?? from;
      return [svg("path", { class: "clasp", d: `M82 ${this.#y(from) - 11}h-4V${this.#y(to) + 11}h4`, fill: "none", stroke: "var(--quiet)", "stroke-width": 1.2 })];
    });
  }

  /**
   * @param {Row} row
   * @param {number} index
   */
  #knot(row, index) {
    const [cx, cy, colour, hollow] = [laneX(row.lane), this.#y(index), COLOURS[row.gives], "var(--panel)"];
    const ring = (/** @type {number} */ r, /** @type {string} */ fill, /** @type {number} */ width) => svg("circle", { cx, cy, r, fill, stroke: colour, "stroke-width": width });
    if (!row.on) return [ring(4.5, hollow, 1.6)];
    if (row.knot === "source") return [ring(6, hollow, 2.4)];
    if (row.knot === "final") {
      const d = `M${cx - 7} ${cy}l3.5-6h7l3.5 6-3.5 6h-7z`;
      return [svg("path", { d, fill: hollow, stroke: colour, "stroke-width": 2 })];
    }
    if (row.knot === "join") return [ring(8, colour, 0), svg("circle", { cx, cy, r: 3, fill: hollow })];
    if (row.gives === "map") {
      const bar = (/** @type {number} */ left) => svg("rect", { x: cx + left, y: cy - 6, width: 3.4, height: 12, fill: colour });
      return [svg("rect", { x: cx - 6, y: cy - 6, width: 12, height: 12, fill: hollow }), bar(-5), bar(1.6)];
    }
    return [ring(5, colour, 0)];
  }
}

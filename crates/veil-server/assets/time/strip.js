// The time strip: ruler, playhead, held frames, and a line of beads for each keyed control.

import { followPointer } from "../base/drag.js";
import { short, svg } from "../base/parts.js";
import { shapeFrames } from "../shot/drawn.js";
import { feedsOf, keyedOf } from "../shot/keys.js";

const [SIDE, LINE, RULER] = [14, 18, 26];
// More lines would take the picture's room; the curves show the rest.
const MOST_LINES = 6;
// Frames between the long ticks of the ruler, and the least room that their numbers need.
const [TICKS, ROOM] = [[1, 2, 5, 10, 20, 50, 100, 200, 500], 52];

/** Keys of a control: each by its own moment, and by the frame that it is seen in.
 * @typedef {{ stage: number, row: number, control: Control, title: string, beads: { frame: number, moment: number }[] }} Beads */

export class Strip {
  /**
   * @param {Shot} shot
   * @param {SVGSVGElement} node
   * @param {{ frame: HTMLInputElement, plate: HTMLElement, held: () => Iterable<number> }} nodes
   */
  constructor(shot, node, nodes) {
    this.shot = shot;
    this.node = node;
    this.nodes = nodes;
    this.side = SIDE;
    node.addEventListener("pointerdown", (event) => this.#scrub(event));
    node.addEventListener("keydown", (event) => this.#keyed(event));
    new ResizeObserver(() => this.draw()).observe(node);
    shot.watch((what) => ["setup", "view", "frame"].includes(what) && this.draw());
  }

  get #range() {
    return this.shot.state.setup.picture.frames;
  }

  get #wide() {
    return (this.node.clientWidth || 600) - 2 * SIDE;
  }

  /** How wide a frame is. */
  perFrame() {
    return this.#wide / Math.max(1, this.#range.last - this.#range.first);
  }

  /** @param {number} frame */
  toX(frame) {
    return SIDE + (frame - this.#range.first) * this.perFrame();
  }

  /** @param {number} x */
  toFrame(x) {
    return this.#range.first + (x - SIDE) / this.perFrame();
  }

  /**
   * Keyed controls of the rows at hand, and of what a tool's row shows.
   * @returns {Beads[]}
   */
  #lines() {
    const { shot } = this;
    const rows = shot.atHand();
    return rows.flatMap((row) => {
      const stage = shot.stage(row);
      const targets = stage?.tool?.faceplate ?? shot.controls(row).map((control) => ({ stage: row, control: control.id }));
      return targets.flatMap((target) => {
        const control = shot.controls(target.stage).find((one) => one.id === target.control);
        const moments = new Set([...feedsOf(control?.setting).flatMap((feed) => (keyedOf(feed)?.keys ?? []).map((key) => key.frame)), ...shapeFrames(control)]);
        if (!control || !moments.size) return [];
        return [{ stage: target.stage, row, control, title: rows.length > 1 ? `${stage?.name}: ${control.name}` : control.name, beads: [...moments].flatMap((moment) => shot.moments.seenIn(target.stage, moment).map((frame) => ({ frame, moment }))).sort((a, b) => a.frame - b.frame) }];
      });
    });
  }

  draw() {
    const { shot, node } = this;
    if (!shot.loaded) return;
    const { first, last } = this.#range;
    const beads = this.#lines().slice(0, MOST_LINES);
    const high = RULER + 12 + beads.length * LINE;
    const told = { height: high, "aria-valuemin": first, "aria-valuemax": last, "aria-valuenow": shot.view.frame };
    for (const [name, value] of Object.entries(told)) node.setAttribute(name, String(value));
    const x = this.toX(shot.view.frame);
    node.replaceChildren(
      svg("rect", { x: SIDE, y: 4, width: Math.max(0, this.#wide), height: 18, fill: "#191b1a" }), ...this.#played(), ...this.#held(), ...this.#ruler(),
      ...beads.flatMap((line, index) => this.#beads(line, RULER + 12 + index * LINE)),
      svg("path", { d: `M${x} 4V${high}`, stroke: "#ece8de" }), svg("path", { d: `M${x - 5} 0h10l-5 7z`, fill: "#ece8de" }));
    this.nodes.frame.value = String(shot.view.frame);
    const plate = shot.moments.at(0);
    node.dataset.known = String([0, ...shot.atHand()].every((id) => shot.moments.knows(id)));
    this.nodes.plate.textContent = plate === shot.view.frame ? "" : `plate time ${short(plate, 2)}`;
  }

  /** The range that is played, where that is not the whole. */
  #played() {
    const { first, last } = this.#range;
    const played = this.shot.range();
    if (played.first <= first && played.last >= last) return [];
    const [from, to] = [this.toX(played.first), this.toX(played.last)];
    return [
      svg("rect", { class: "played", x: from, y: 4, width: Math.max(1, to - from), height: 18, fill: "#323634" }),
      svg("path", { d: `M${from + 4} 4h-4v18h4M${to - 4} 4h4v18h-4`, fill: "none", stroke: "#ece8de" }),
    ];
  }

  #held() {
    const step = this.perFrame();
    return [...this.nodes.held()].map((frame) => svg("rect", { x: this.toX(frame) - step / 2, y: 19, width: step + 0.5, height: 3, fill: "#6f7472" }));
  }

  #ruler() {
    const { first, last } = this.#range;
    const parts = [];
    const every = TICKS.find((count) => count * this.perFrame() >= ROOM) ?? 1000;
    for (let frame = first; frame <= last; frame += Math.max(1, every / 5)) {
      const long = (frame - first) % every === 0;
      parts.push(svg("path", { d: `M${this.toX(frame)} 22v${long ? -9 : -4}`, stroke: "#4a4e4c" }));
      if (long) parts.push(svg("text", { x: this.toX(frame) + 3, y: 15, fill: "#a9a79e", "font-size": 10.5, "font-family": "Chivo Mono" }, String(frame)));
    }
    return parts;
  }

  /**
   * @param {Beads} line
   * @param {number} y
   */
  #beads(line, y) {
    const { shot } = this;
    const go = (/** @type {number} */ frame) => {
      shot.select([line.row]);
      shot.go(frame);
    };
    const keyed = (/** @type {KeyboardEvent} */ event, /** @type {{ frame: number, moment: number }} */ { frame, moment }) => {
      if (event.key === "Enter") shot.go(frame);
      else if (event.key === "Delete") shot.edit({ do: "unkey", stage: line.stage, control: line.control.id, frame: moment });
      else return;
      event.stopPropagation();
    };
    const beads = line.beads.flatMap(({ frame, moment }) => [
      svg("circle", { class: "bead", cx: this.toX(frame), cy: y, r: 5, fill: "#c9a35b", stroke: "#1f2120", "stroke-width": 2 }),
      svg("circle", {
        class: "bead", cx: this.toX(frame), cy: y, r: 12, fill: "transparent", tabindex: 0, role: "button", "aria-label": `key of ${line.title} at ${short(moment, 2)}`, "data-bead": moment,
        onpointerdown: (event) => event.stopPropagation(), onclick: () => go(frame), onkeydown: (event) => keyed(event, { frame, moment }),
      }),
    ]);
    return [svg("path", { d: `M${SIDE} ${y}H${SIDE + this.#wide}`, stroke: "#2f3331" }), ...beads, svg("text", { x: SIDE + 4, y: y - 4, fill: "#a9a79e", "font-size": 11, "pointer-events": "none" }, line.title)];
  }

  /** @param {PointerEvent} event */
  #scrub(event) {
    const { frame } = this.shot.view;
    const go = (/** @type {PointerEvent} */ next) => this.shot.go(this.toFrame(next.clientX - this.node.getBoundingClientRect().left));
    go(event);
    followPointer(event, { moved: go, slack: 0, left: () => this.shot.go(frame) });
  }

  /** @param {KeyboardEvent} event */
  #keyed(event) {
    const { frame } = this.shot.view;
    const to = { ArrowLeft: frame - 1, ArrowRight: frame + 1, Home: this.#range.first, End: this.#range.last }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    this.shot.go(to);
  }

  /**
   * To the next or previous key of the shown lines.
   * @param {number} direction
   */
  toKey(direction) {
    const { frame } = this.shot.view;
    const frames = this.#lines().flatMap((line) => line.beads.map((bead) => bead.frame)).sort((a, b) => a - b);
    // A key that is seen between two frames is gone to as the nearer one.
    const next = direction > 0 ? frames.find((one) => Math.round(one) > frame) : frames.findLast((one) => Math.round(one) < frame);
    if (next !== undefined) this.shot.go(next);
  }
}

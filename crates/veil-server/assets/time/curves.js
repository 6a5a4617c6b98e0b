// Curves over time: the keys of several controls together, below the ruler and in step with it.

import { svg } from "../base/parts.js";
import { CurveDrag } from "./curvedrag.js";
import { CurveLines, HIGH } from "./curvelines.js";
import { CurveMoves } from "./curvemoves.js";
import { curveParts, pickedBox } from "./curveparts.js";
import { CurveTools } from "./curvetools.js";

/** @typedef {import("./curvelines.js").Curve} Curve */

export class Curves {
  /**
   * @param {Shot} shot
   * @param {HTMLElement} panel
   * @param {import("./strip.js").Strip} scale
   */
  constructor(shot, panel, scale) {
    this.shot = shot;
    this.panel = panel;
    this.scale = scale;
    const redraw = () => this.draw();
    this.lines = new CurveLines(shot);
    this.moves = new CurveMoves(shot, this.lines, redraw);
    this.tools = new CurveTools(shot, this.lines, this.moves, redraw);
    this.plot = svg("svg", {
      id: "curve-plot", class: "curveplot", height: HIGH, tabindex: 0, role: "group", "aria-label": "curves over time",
      onpointerdown: (event) => this.drag.box(event), ondblclick: (event) => this.#twice(event), onkeydown: (event) => this.#keyed(event),
    });
    this.drag = new CurveDrag(this);
    panel.append(this.tools.node, this.tools.chips, this.plot);
    shot.watch((what) => ["setup", "view", "frame"].includes(what) && this.draw());
  }

  draw() {
    if (this.panel.hidden || !this.shot.loaded) return;
    const all = this.lines.all();
    this.lines.settle(all);
    if (!this.drag.going) this.lines.measure(all);
    this.tools.draw(all);
    this.drawPlot(all);
  }

  /** @param {Curve[]} [all] */
  drawPlot(all = this.lines.all()) {
    const { plot, lines } = this;
    const focused = document.activeElement instanceof SVGElement && plot.contains(document.activeElement) ? document.activeElement.dataset.key : null;
    // The chosen curves lie on top, so that every key can be reached.
    const ordered = all.toSorted((a, b) => Number(lines.inFront(a)) - Number(lines.inFront(b))).map((curve) => this.drag.seen(curve));
    const x = this.scale.toX(this.shot.here);
    const box = this.drag.drawnBox;
    plot.replaceChildren(...ordered.flatMap((curve) => curveParts(this, curve)), ...(this.drag.going ? [] : pickedBox(this, all)),
      svg("path", { d: `M${x} 0V${HIGH}`, stroke: "#ece8de", "pointer-events": "none" }),
      ...(box ? [svg("rect", { ...box, fill: "none", stroke: "#ece8de", "stroke-dasharray": "3 3" })] : []));
    if (focused) /** @type {SVGElement | null} */ (plot.querySelector(`[data-key="${CSS.escape(focused)}"]`))?.focus();
  }

  /** A double click sets a key on the chosen curve, where the curve already is. @param {MouseEvent} event */
  #twice(event) {
    const curve = this.lines.all().find((one) => this.lines.inFront(one));
    if (curve) this.moves.addKey(curve, Math.round(this.scale.toFrame(event.clientX - this.plot.getBoundingClientRect().left)));
  }

  /** @param {KeyboardEvent} event */
  #keyed(event) {
    const { lines, moves } = this;
    const size = (event.shiftKey ? 10 : 1) * (event.altKey ? 0.1 : 1);
    const front = lines.all().find((curve) => lines.picked.get(curve.mark)?.size);
    const rise = front ? lines.perPixel(front) * size : 0;
    const by = { ArrowLeft: { later: -size }, ArrowRight: { later: size }, ArrowUp: { higher: rise }, ArrowDown: { higher: -rise } }[event.key];
    if (by && lines.count) moves.move(by);
    else if (event.key === "Delete" && lines.count) moves.remove();
    else if (event.key.toLowerCase() === "a" && (event.ctrlKey || event.metaKey)) this.#pick(() => lines.pickAll());
    else if (event.key === "Escape" && lines.count) this.#pick(() => { lines.picked = new Map(); });
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /** @param {() => void} change */
  #pick(change) {
    change();
    this.draw();
  }
}

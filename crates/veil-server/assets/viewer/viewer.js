// The viewer: the shown row's picture under zoom and pan, with the marks of the selected row.

import { Asker } from "./asker.js";
import { Carrier } from "./carry.js";
import { Grips } from "./grips.js";
import { MeasuredBox } from "./measuredbox.js";
import { NOTHING, Painter } from "./painter.js";
import { Probe } from "./probe.js";
import { SplitLine } from "./splitline.js";
import { Tracks } from "./tracks.js";
import { Well } from "./well.js";
import { followPointer } from "../base/drag.js";
import { handsOn } from "../controls/types.js";

/**
 * @typedef {{
 *   well: HTMLElement, canvas: HTMLCanvasElement, overlay: SVGSVGElement, note: HTMLElement, zoom: HTMLElement, tags: HTMLElement[],
 *   size: HTMLElement, place: HTMLElement, values: HTMLElement, cost: HTMLElement,
 *   clicked: (at: { x: number, y: number }) => void, held: (frame: number) => Answer | null, playing: () => boolean,
 * }} Nodes
 */

export class Viewer {
  /**
   * @param {Shot} shot
   * @param {import("./sides.js").Sides} sides
   * @param {Nodes} nodes
   */
  constructor(shot, sides, nodes) {
    this.shot = shot;
    this.nodes = nodes;
    this.well = new Well(shot, nodes.well, () => shot.view.compare === "beside" && !this.painter.flipped);
    this.painter = new Painter(shot, this.well, nodes.canvas);
    this.carry = new Carrier(shot);
    const remark = () => this.drawMarks();
    const repaint = () => this.paint();
    this.grips = new Grips(shot, nodes.overlay, this.well, this.carry, repaint);
    this.hands = handsOn({ shot, overlay: nodes.overlay, well: this.well, carry: this.carry, grips: this.grips, remark });
    this.tracks = new Tracks(shot, nodes.overlay, this.well, this.carry, remark);
    this.asker = new Asker(shot, this.well, sides, this.painter, {
      ...nodes, dragsMarks: () => this.hands.some((hand) => hand.dragging), paint: (marks) => this.paint(marks), settled: () => this.#settled(),
    });
    this.splitLine = new SplitLine(this.painter, repaint);
    this.box = new MeasuredBox(shot, this.well, this.painter, { values: nodes.values, repaint });
    this.probe = new Probe(shot, this.well, nodes);
    this.#listen();
    shot.watch((what) => this.#heard(what));
  }

  #listen() {
    const { well } = this.nodes;
    well.append(this.splitLine.node, this.box.node);
    well.addEventListener("dblclick", (event) => this.hands.forEach((hand) => hand.twice(event)));
    well.addEventListener("keydown", (event) => {
      if (!this.hands.some((hand) => hand.key(event))) return;
      event.preventDefault();
      event.stopPropagation();
    });
    well.addEventListener("wheel", (event) => {
      event.preventDefault();
      this.zoomTo(this.well.zoom * Math.exp(-event.deltaY * 0.0015), this.well.placeOf(event));
    }, { passive: false });
    well.addEventListener("pointerdown", (event) => this.#pressed(event));
    well.addEventListener("pointermove", (event) => this.probe.moved(event));
    new ResizeObserver(() => {
      this.well.measure();
      this.paint();
      this.asker.zoomed();
    }).observe(well);
  }

  /** @param {Told} what */
  #heard(what) {
    if (["faults", "painted", "measured"].includes(what)) return;
    if (what === "marks") return this.drawMarks();
    if (what === "frame" || what === "setup") this.box.forget();
    this.#fit();
    // Marks wait for no picture: what was selected before has none, and what is dragged takes its own along.
    if (what === "view" || what === "trial") this.drawMarks();
    this.asker.changed();
  }

  /** What follows a picture that stays: arrows, and where grips are seen. */
  async #settled() {
    const { canvas } = this.nodes;
    if (!performance.getEntriesByName("picture").length) performance.mark("picture");
    this.shot.tell("painted");
    const of = canvas.dataset.shows;
    const arrows = await this.asker.arrows();
    const carried = await this.carry.follow();
    if (of !== canvas.dataset.shows || (!arrows && !this.painter.arrows && !carried)) return;
    this.painter.arrows = arrows;
    this.paint();
  }

  #fit() {
    const { well, nodes } = this;
    well.settle();
    const { aspect = 1 } = well.size;
    const zoom = `${Math.round(well.zoom * 100)} %${aspect === 1 ? "" : ` · pixels ${Number(aspect.toFixed(3))} wide`}`;
    if (nodes.zoom.textContent === zoom) return;
    nodes.zoom.textContent = zoom;
    nodes.zoom.setAttribute("aria-label", `zoom ${zoom}; fits the picture`);
  }

  paint(marks = true) {
    if (!this.shot.loaded) return;
    const { well, nodes } = this;
    this.#fit();
    nodes.overlay.style.transform = well.halved() ? `translateX(${well.room}px)` : "";
    this.painter.paint();
    for (const tag of nodes.tags) tag.hidden = !this.shot.view.compare;
    this.splitLine.draw();
    this.box.draw();
    if (marks) this.drawMarks();
  }

  drawMarks() {
    this.grips.draw();
    this.hands.forEach((hand) => hand.draw());
    this.tracks.draw();
  }

  /**
   * A press goes to what lies under it first; elsewhere a drag pans, with Shift it measures a box.
   * @param {PointerEvent} event
   */
  #pressed(event) {
    const target = /** @type {Element} */ (event.target);
    if (event.button > 1 || target.closest(".grip,.sidetag,.scopes")) return;
    if (target === this.splitLine.node) return this.splitLine.grab(event);
    this.nodes.well.focus({ preventScroll: true });
    if (this.hands.some((hand) => hand.down(event)) || this.tracks.down(event)) return;
    if (event.shiftKey) return this.box.drag(event);
    const { x, y } = this.well;
    followPointer(event, {
      moved: (_next, by) => {
        this.well.moveTo(x + by[0], y + by[1]);
        this.paint();
      },
      done: (far, last) => {
        if (far) return;
        this.box.forget();
        this.paint();
        const [left, top] = this.well.toPicture(last);
        this.nodes.clicked({ x: left, y: top });
      },
      left: () => {
        this.well.moveTo(x, y);
        this.paint();
      },
    });
  }

  /**
   * @param {number} zoom
   * @param {Place} [about]
   */
  zoomTo(zoom, about) {
    this.well.zoomTo(zoom, about);
    this.paint();
    this.asker.zoomed();
  }

  fit() {
    this.well.fits = true;
    this.paint();
    this.asker.zoomed();
  }

  /** @param {boolean} on */
  flip(on) {
    if (this.painter.flipped === on) return;
    this.painter.flipped = on;
    this.paint();
    // A difference holds neither of its sides.
    if (this.shot.loaded && (this.shot.view.compare === "difference" || (on && !this.shot.view.compare))) this.asker.ask(1);
  }

  turnGrips() {
    const { style } = this.nodes.overlay;
    style.display = style.display === "none" ? "" : "none";
  }

  /**
   * A picture that is held for playing.
   * @param {Answer} answer
   */
  showHeld(answer) {
    this.painter.painted = { ...NOTHING, now: answer };
    this.painter.arrows = null;
    this.paint();
  }
}

// The braid: one row a stage, strands drawn beside the names. Only the rows in sight are built.

import { query } from "../base/api.js";
import { attachTo } from "../viewer/trackdrop.js";
import { Choosing } from "./choosing.js";
import { Entries } from "./entries.js";
import { filtered } from "./filter.js";
import { Folding } from "./folding.js";
import { Gutter } from "./gutter.js";
import { Lanes } from "./lanes.js";
import { effectWidth, Measures } from "./measures.js";
import { RowDrag } from "./rowdrag.js";
import { rowNode } from "./rownode.js";

// Rows that are built above and below those in sight, and so many at once while they pass by.
const [MARGIN, AT_ONCE] = [6, 4];
// Heights of a row, as it comes and compact.
const HEIGHTS = { usual: 38, compact: 24 };
// So long nobody waits for a picture before thumbnails and meters are asked for.
const REST_MS = 200;

/** @typedef {{ mark: string, node: HTMLElement }} Built */

export class Braid {
  /** Rows that stand in the panel, with what they were built from. @type {Map<number | string, Built>} */
  #built = new Map();
  /** @type {{ rows: Line[], strands: Strand[] }} */
  layout = { rows: [], strands: [] };
  /** @type {[number, number]} */
  #span = [0, 0];
  /** What the thumbnails are of. They follow once the picture is there, since a person waits for that. */
  #pictured = { frame: NaN, revision: NaN };
  /** Thumbnails that are there. @type {Set<string>} */
  #pictures = new Set();
  /** Rows that are only passed by ask for no thumbnail. */
  #passing = false;
  #soon = 0;
  /** Whether a scroll is already going to be followed. */
  #scrolling = false;
  /** A row as text. The server tells rows anew with each state, so one that is the same object is the same row. @type {WeakMap<Line, string>} */
  #texts = new WeakMap();

  /**
   * @param {Shot} shot
   * @param {HTMLElement} panel
   * @param {{ menu: (at: { x: number, y: number }) => void, filter: () => { words: string, way: string }, gutter: SVGElement, paste: (text: string) => void }} nodes
   */
  constructor(shot, panel, nodes) {
    this.shot = shot;
    this.panel = panel;
    this.nodes = nodes;
    this.drag = new RowDrag(shot, panel, { rows: () => this.layout.rows, height: () => this.high, redraw: () => this.#drawInSight() });
    this.choosing = new Choosing(shot, panel);
    this.entries = new Entries(shot, (join) => this.choosing.slot(join));
    this.folding = new Folding(shot, this.entries, (id, turn) => this.#keepPlace(id, turn));
    this.lanes = new Lanes(shot, (join) => this.choosing.slot(join));
    this.gutter = new Gutter(shot, nodes.gutter, () => filtered(shot, nodes.filter()).rows);
    this.measures = new Measures(shot, () => this.draw());
    panel.append(this.lanes.whole, this.lanes.node);
    panel.addEventListener("scroll", () => this.#scrolled(), { passive: true });
    shot.bringBy((id, middle) => this.#bring(id, middle));
    shot.watch((what) => this.#heard(what));
  }

  /** @param {Told} what */
  #heard(what) {
    if (what === "setup" || what === "view" || what === "faults") this.draw();
    if (what === "setup") this.#pictures.clear();
    if (!["faults", "measured", "marks"].includes(what)) clearTimeout(this.#soon);
    if (what === "painted") this.#soon = setTimeout(() => this.#followPicture().then(() => this.shot.check()), REST_MS);
    if (what !== "setup") return;
    this.measures.askBakes();
    if (this.measures.costing) this.measures.askCosts("");
  }

  get high() {
    return HEIGHTS[this.shot.view.rows];
  }

  /** @param {Line} row */
  #written(row) {
    let text = this.#texts.get(row);
    if (text === undefined) this.#texts.set(row, (text = JSON.stringify(row)));
    return text;
  }

  draw() {
    const { shot, panel } = this;
    this.layout = this.entries.unfold(filtered(shot, this.nodes.filter()));
    panel.classList.toggle("compact", shot.view.rows === "compact");
    panel.classList.toggle("filling", Boolean(shot.filling));
    if (Number.isNaN(this.#pictured.frame)) this.#pictured = { frame: shot.view.frame, revision: shot.state.revision };
    this.lanes.whole.style.height = `${this.layout.rows.length * this.high}px`;
    panel.setAttribute("aria-rowcount", String(this.layout.rows.length));
    this.#drawInSight();
    this.gutter.draw();
  }

  /**
   * The rows that are to stand in the panel.
   * @returns {[number, number]}
   */
  #inSight() {
    const { panel } = this;
    const step = this.high * AT_ONCE;
    const [above, below] = [Math.floor(panel.scrollTop / step), Math.ceil((panel.scrollTop + panel.clientHeight) / step)];
    return [Math.max(0, above * AT_ONCE - MARGIN), Math.min(this.layout.rows.length, below * AT_ONCE + MARGIN)];
  }

  /** Of the rows in sight only what has changed is built. */
  #drawInSight() {
    const { rows } = this.layout;
    const [from, to] = this.#span = this.#inSight();
    const mark = JSON.stringify([rows.slice(from, to).map((row) => this.#written(row)), this.drag.row]);
    this.lanes.draw(this.layout, this.#span, this.high, { mark, entryKnot: (line, x, y) => this.entries.knot(line, x, y) });
    const seen = new Set();
    /** @type {Element} */
    let before = this.lanes.node;
    for (let index = from; index < to; index++) {
      const key = keyOf(rows[index]);
      seen.add(key);
      const node = this.#node(key, rows[index], index);
      // The order of the rows is that in which they are read out.
      if (before.nextElementSibling !== node) before.after(node);
      before = node;
    }
    for (const [key, { node }] of this.#built) {
      if (seen.has(key)) continue;
      node.remove();
      this.#built.delete(key);
    }
    this.#tellChosen();
  }

  /** Says which row is at hand to those who hear the page. */
  #tellChosen() {
    const { join, selected } = this.shot;
    const inList = join && `row-${join.stage}-${join.slot}`;
    const chosen = inList && document.getElementById(inList) ? inList : `row-${selected}`;
    if (document.getElementById(chosen)) this.panel.setAttribute("aria-activedescendant", chosen);
    else this.panel.removeAttribute("aria-activedescendant");
  }

  /**
   * A row's node: the one that is there, where nothing that it shows has changed.
   * @param {number | string} key
   * @param {Line} row
   * @param {number} index
   */
  #node(key, row, index) {
    const mark = JSON.stringify([this.#written(row), index, this.high, ...(row.entry ? [this.entries.mark(row), this.drag.row] : this.#rowMark(row))]);
    const known = this.#built.get(key);
    if (known?.mark === mark) return known.node;
    const node = row.entry ? this.#entryNode(row, index) : this.#rowNode(row, index);
    known?.node.remove();
    this.#built.set(key, { mark, node });
    return node;
  }

  /**
   * What the look of a row depends on besides itself.
   * @param {Row} row
   */
  #rowMark(row) {
    const { shot, measures } = this;
    const { cost, bake } = measures.of(row.id);
    return [shot.view.selected.includes(row.id), shot.view.shown === row.id, shot.marked(row.id), cost, measures.costing, bake, this.drag.openSlots(row).length, shot.filling, this.entries.isOpen(row)];
  }

  /**
   * @param {Entry} line
   * @param {number} index
   */
  #entryNode(line, index) {
    const droppable = this.drag.openSlots(this.shot.row(line.id)).some((slot) => slot.id === line.entry.id);
    return this.entries.node(line, index, { height: this.high, droppable });
  }

  /**
   * @param {Row} row
   * @param {number} index
   */
  #rowNode(row, index) {
    const { shot, measures } = this;
    const source = this.#thumb(row.id);
    return rowNode(row, {
      shot, index, high: this.high, open: this.entries.isOpen(row), slots: this.drag.openSlots(row), fold: this.folding.at(row), costing: measures.costing, known: measures.of(row.id),
      thumb: this.#passing && !this.#pictures.has(source) ? null : source,
      deeds: {
        grab: (event) => this.drag.grab(row, event),
        choose: (event) => this.choosing.row(row.id, event),
        menu: (event) => {
          event.preventDefault();
          if (!shot.view.selected.includes(row.id)) shot.select([row.id]);
          this.nodes.menu({ x: event.clientX, y: event.clientY });
        },
        attach: (track) => attachTo(shot, row.id, track),
        pictured: (source) => this.#pictures.add(source),
      },
    });
  }

  /** @param {number} id */
  #thumb(id) {
    return `${this.shot.base}/thumb?${query({ stage: id, ...this.#pictured })}`;
  }

  #scrolled() {
    if (this.#scrolling) return;
    this.#scrolling = true;
    requestAnimationFrame(() => {
      this.#scrolling = false;
      if (String(this.#inSight()) !== String(this.#span)) this.#drawInSight();
      clearTimeout(this.#soon);
      this.#passing = true;
      this.#soon = setTimeout(() => this.#followPicture(), REST_MS);
    });
  }

  async #followPicture() {
    const { shot, panel } = this;
    this.#passing = false;
    this.#pictured = { frame: shot.view.frame, revision: shot.state.revision };
    for (const image of /** @type {NodeListOf<HTMLImageElement>} */ (panel.querySelectorAll("img.thumb"))) {
      const source = this.#thumb(Number(/** @type {HTMLElement} */ (image.closest(".row")).dataset.id));
      if (image.getAttribute("src") !== source) image.src = source;
    }
    const ids = [...this.#built.keys()].filter((key) => typeof key === "number");
    await this.measures.askEffects(ids, (id, effect) => {
      const bar = /** @type {HTMLElement | null} */ (panel.querySelector(`#row-${id} .meter i`));
      if (bar) bar.style.width = `${effectWidth(effect)}%`;
    });
  }

  /**
   * @param {number} id
   * @param {boolean} middle
   */
  #bring(id, middle) {
    const { panel, high } = this;
    const index = this.#placeOf(id);
    if (index < 0) return;
    const [top, tall] = [index * high, panel.clientHeight];
    if (middle) panel.scrollTop = top - (tall - high) / 2;
    else if (top < panel.scrollTop) panel.scrollTop = top;
    else if (top + high > panel.scrollTop + tall) panel.scrollTop = top + high - tall;
    this.#drawInSight();
  }

  /** @param {number} id */
  #placeOf(id) {
    return this.layout.rows.findIndex((row) => row.id === id && !row.entry);
  }

  /**
   * The row one is on stays where it is on the screen.
   * @param {number} id
   * @param {() => unknown} turn
   */
  async #keepPlace(id, turn) {
    const place = () => this.#placeOf(id) * this.high - this.panel.scrollTop;
    const before = place();
    await turn();
    this.panel.scrollTop += place() - before;
    this.#drawInSight();
  }

  /** Throws away what is built of a row, so that it is built anew. @param {number} id */
  forget(id) {
    this.#built.get(id)?.node.remove();
    this.#built.delete(id);
    this.draw();
  }
}

/** @param {Line} row */
const keyOf = (row) => (row.entry ? `${row.id} ${row.entry.id}` : row.id);

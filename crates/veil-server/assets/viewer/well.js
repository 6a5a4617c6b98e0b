// The well that the picture lies in: how large it is there, where it stands, and what of it a pointer is on.

import { within } from "../base/parts.js";

// Room that is left about a picture that fits, and how far one can go in and out.
const MARGIN = 28;
const [LEAST, MOST] = [0.05, 64];

export class Well {
  /** The size of the well, in pixels of the screen. */
  wide = 0;
  high = 0;
  /** How large a pixel of the picture is there, and where its corner stands. */
  zoom = 1;
  x = 0;
  y = 0;
  /** Whether the picture is kept as large as the well shows whole. */
  fits = true;
  /** Where the well is, looked up once between two of the screen's refreshes: a look after a change lays out the page. @type {DOMRect | null} */
  #box = null;

  /**
   * @param {Shot} shot
   * @param {HTMLElement} node
   * @param {() => boolean} halved whether two pictures stand side by side
   */
  constructor(shot, node, halved) {
    this.shot = shot;
    this.node = node;
    this.halved = halved;
    this.measure();
  }

  /** The well's width and height, measured when they change: asked for amid a drag they would lay the page out anew. */
  measure() {
    this.wide = this.node.clientWidth;
    this.high = this.node.clientHeight;
  }

  get #bounds() {
    if (!this.#box) {
      requestAnimationFrame(() => { this.#box = null; });
      this.#box = this.node.getBoundingClientRect();
    }
    return this.#box;
  }

  get size() {
    return this.shot.state.setup.picture;
  }

  /** How wide a pixel of the picture is there: its pixels need not be square. */
  get wideZoom() {
    return this.zoom * (this.size.aspect ?? 1);
  }

  /** The width that one picture has: half of it where two are side by side. */
  get room() {
    return this.halved() ? this.wide / 2 : this.wide;
  }

  /** No more pixels are sent than the screen shows; nearly all of them might as well be all. */
  get across() {
    const seen = Math.ceil(this.size.width * this.wideZoom * (window.devicePixelRatio || 1));
    return seen < this.size.width * 0.9 ? seen : undefined;
  }

  /** Where a picture stands that fits. */
  settle() {
    if (!this.fits) return;
    const { width, height, aspect = 1 } = this.size;
    this.zoom = Math.max(0.02, Math.min((this.room - MARGIN) / (width * aspect), (this.high - MARGIN) / height));
    this.x = Math.round((this.room - width * this.wideZoom) / 2);
    this.y = Math.round((this.high - height * this.zoom) / 2);
  }

  /**
   * Makes the picture larger or smaller about a place of the well, which stays where it is.
   * @param {number} zoom
   * @param {Place} [about] the middle as it comes
   */
  zoomTo(zoom, [px, py] = [this.wide / 2, this.high / 2]) {
    const next = within(zoom, LEAST, MOST);
    this.moveTo(px - ((px - this.x) / this.zoom) * next, py - ((py - this.y) / this.zoom) * next);
    this.zoom = next;
  }

  /**
   * @param {number} x
   * @param {number} y
   */
  moveTo(x, y) {
    this.x = x;
    this.y = y;
    this.fits = false;
  }

  /**
   * A place of the well under the pointer, from its corner.
   * @param {MouseEvent} event
   * @returns {Place}
   */
  placeOf(event) {
    return [event.clientX - this.#bounds.left, event.clientY - this.#bounds.top];
  }

  /**
   * The place of the picture under the pointer.
   * @param {MouseEvent} event
   * @returns {Place}
   */
  toPicture(event) {
    const [x, y] = this.placeOf(event);
    return [((this.halved() && x > this.room ? x - this.room : x) - this.x) / this.wideZoom, (y - this.y) / this.zoom];
  }

  /**
   * Where a place of the picture stands in the well.
   * @param {Place} place
   * @returns {Place}
   */
  toWell([x, y]) {
    return [this.x + x * this.wideZoom, this.y + y * this.zoom];
  }
}

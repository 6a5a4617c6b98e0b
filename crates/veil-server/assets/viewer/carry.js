// Where places of a row's own picture are seen, below the warps between it and the shown row.

import { bytes, orElse } from "../base/api.js";
import { within } from "../base/parts.js";
import { less } from "../shot/drawn.js";

// Places are carried this near to where they belong, in pixels of the picture.
const NEAR = 0.75;
// So often a place is moved on towards where it is seen.
const TURNS = 40;

/** A grid of places over the frame: where each place of the shown picture stands in the row's own. */
export class Grid {
  /**
   * @param {number} width
   * @param {number} height
   * @param {Float32Array} places x and y of each, line by line
   * @param {{ width: number, height: number }} picture
   */
  constructor(width, height, places, picture) {
    this.width = width;
    this.height = height;
    this.places = places;
    this.steps = [picture.width / width, picture.height / height];
    this.moved = places.some((value, at) => Math.abs(value - this.#middle(at >> 1)[at % 2]) > NEAR);
  }

  /**
   * The middle of a cell.
   * @param {number} cell
   * @returns {Place}
   */
  #middle(cell) {
    return [((cell % this.width) + 0.5) * this.steps[0], (Math.floor(cell / this.width) + 0.5) * this.steps[1]];
  }

  /**
   * The row's place under a place of the shown picture, between the places of the grid.
   * @param {Place} place
   * @returns {Place}
   */
  toOwn([x, y]) {
    if (!this.moved) return [x, y];
    const { width, height, places, steps } = this;
    const [gx, gy] = [x / steps[0] - 0.5, y / steps[1] - 0.5];
    const left = within(Math.floor(gx), 0, width - 2);
    const top = within(Math.floor(gy), 0, height - 2);
    const [tx, ty] = [gx - left, gy - top];
    const at = (/** @type {number} */ column, /** @type {number} */ line, /** @type {number} */ axis) => places[((top + line) * width + left + column) * 2 + axis];
    const mixed = (/** @type {number} */ axis) => (at(0, 0, axis) * (1 - tx) + at(1, 0, axis) * tx) * (1 - ty) + (at(0, 1, axis) * (1 - tx) + at(1, 1, axis) * tx) * ty;
    return [mixed(0), mixed(1)];
  }

  /**
   * Goes from a place towards where the row's place is seen; none where it gets nowhere.
   * @param {Place} start
   * @param {Place} own
   */
  #settles(start, own) {
    let at = start;
    for (let turn = 0; turn < TURNS; turn++) {
      const off = less(this.toOwn(at), own);
      if (Math.hypot(...off) < NEAR) return at;
      at = less(at, off);
    }
    return null;
  }

  /**
   * Where a place of the row is seen; none where the warps have no way there.
   * @param {Place} own
   * @returns {Place | null}
   */
  toShown(own) {
    if (!this.moved) return own;
    return this.#settles(own, own) ?? this.#settles(this.#middle(this.#nearest(own)), own);
  }

  /** @param {Place} own */
  #nearest(own) {
    let [best, nearest] = [0, Infinity];
    for (let cell = 0; cell < this.width * this.height; cell++) {
      const off = Math.hypot(this.places[cell * 2] - own[0], this.places[cell * 2 + 1] - own[1]);
      if (off < nearest) [best, nearest] = [cell, off];
    }
    return best;
  }
}

export class Carrier {
  /** @type {Grid | null} */
  #grid = null;
  /** Whether the shown row does not take the selected one at all. */
  unreached = false;
  #asked = "";

  /** @param {Shot} shot */
  constructor(shot) {
    this.shot = shot;
  }

  /** Asks for the grid of the selected row; true where it has changed. */
  async follow() {
    const { shot } = this;
    const of = [shot.state.revision, shot.view.shown, shot.selected, shot.view.frame].join("/");
    if (this.#asked === of) return false;
    this.#asked = of;
    const found = !shot.selected || shot.selected === shot.view.shown ? null : await orElse(bytes(`${shot.base}/carry?shown=${shot.view.shown}&stage=${shot.selected}&frame=${shot.view.frame}`), null);
    if (this.#asked !== of) return false;
    const { width, height } = found?.about ?? { width: 0, height: 0 };
    this.unreached = Boolean(found && !width);
    this.#grid = found && width ? new Grid(width, height, new Float32Array(found.bytes), shot.state.setup.picture) : null;
    return true;
  }

  /** Whether anything is seen elsewhere than where it is. */
  get carries() {
    return Boolean(this.#grid?.moved);
  }

  /**
   * @param {Place} shown
   * @returns {Place}
   */
  toOwn(shown) {
    return this.#grid ? this.#grid.toOwn(shown) : shown;
  }

  /**
   * @param {Place} own
   * @returns {Place | null}
   */
  toShown(own) {
    return this.#grid ? this.#grid.toShown(own) : own;
  }
}

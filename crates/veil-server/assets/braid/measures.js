// What is measured of rows beside their pictures: how much each changes, what it costs, how far its bake still fits.

import { get, orElse, query } from "../base/api.js";
import { trying } from "../base/telling.js";

/** @typedef {"" | "here" | "range"} Costing */

/**
 * On a log scale from a ten-thousandth to one, in percent.
 * @param {number | undefined} effect
 */
export const effectWidth = (effect) => (effect && effect > 0 ? Math.max(4, Math.min(100, 100 + 25 * Math.log10(effect))) : 0);

export class Measures {
  /** @type {Map<number, number>} */
  #effects = new Map();
  /** At which revision and frame each was asked. @type {Map<number, string>} */
  #measured = new Map();
  /** @type {Map<number, number>} */
  #costs = new Map();
  /** @type {Map<number, { fresh: number, frames: number }>} */
  #bakes = new Map();
  #asked = "";
  /** Which costs are asked for. @type {Costing} */
  costing = "";

  /**
   * @param {Shot} shot
   * @param {() => void} redraw
   */
  constructor(shot, redraw) {
    this.shot = shot;
    this.redraw = redraw;
  }

  /** @param {number} id */
  of(id) {
    return { effect: this.#effects.get(id), cost: this.#costs.get(id), bake: this.#bakes.get(id) };
  }

  /**
   * Asks how much each of some rows changes, one after the other; `found` hears of each.
   * @param {number[]} ids
   * @param {(id: number, effect: number) => void} found
   */
  async askEffects(ids, found) {
    const mark = `${this.shot.state.revision}/${this.shot.view.frame}`;
    this.#asked = mark;
    for (const id of ids) {
      const row = this.shot.row(id);
      if (!row || row.knot === "source" || this.#measured.get(id) === mark) continue;
      const answer = await orElse(get(`${this.shot.base}/effect?${query({ stage: id, frame: this.shot.view.frame })}`), null);
      if (this.#asked !== mark) return;
      this.#measured.set(id, mark);
      this.#effects.set(id, answer?.effect ?? 0);
      found(id, answer?.effect ?? 0);
    }
  }

  async askBakes() {
    const any = this.shot.state.setup.stages.some((stage) => stage.bake);
    const found = any ? await orElse(get(`${this.shot.base}/bakes`), []) : [];
    this.#bakes = new Map(found.map((/** @type {{ stage: number, fresh: number, frames: number }} */ row) => [row.stage, row]));
    this.redraw();
  }

  /**
   * What rows cost: of the shown row and all that it needs.
   * @param {Costing} kind
   */
  async askCosts(kind) {
    this.costing = kind;
    this.#costs.clear();
    this.redraw();
    if (!kind) return;
    const { shown, frame } = this.shot.view;
    const found = await trying(() => get(`${this.shot.base}/costs?${query({ stage: shown, frame, range: kind === "range" })}`));
    if (this.costing !== kind) return;
    for (const row of found ?? []) this.#costs.set(row.stage, row.ms);
    this.redraw();
  }
}

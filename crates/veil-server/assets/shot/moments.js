// Which moment of a row is seen in each frame where a row below it shows other frames than its own.

import { get, orElse, query } from "../base/api.js";

/** A moment between two frames is as near as this to one of them where it is that frame. */
const SAME = 1e-6;

/** What is known of a row: as which revision has it, and the revision that was asked for last.
 * @typedef {{ of: number, asked: number, moments: number[] | null }} Known */

export class Moments {
  #shown = NaN;
  /** By row, 0 for the head of the shown strand. @type {Map<number, Known>} */
  #known = new Map();

  /**
   * @param {import("./rows.js").Rows} shot
   * @param {Set<string>} movers the kinds of stages that show other frames than their own
   */
  constructor(shot, movers) {
    this.shot = shot;
    this.movers = movers;
  }

  /**
   * The moments of a row by frame; null where each frame shows its own, and until they are there. Until those of a new revision
   * are there, the last ones stand.
   * @param {number} id 0 for the head of the shown strand
   */
  all(id) {
    const { shot } = this;
    const { revision, setup } = shot.state;
    if (!setup.stages.some((stage) => this.movers.has(stage.kind))) return null;
    if (this.#shown !== shot.view.shown) [this.#shown, this.#known] = [shot.view.shown, new Map()];
    const known = this.#known.get(id) ?? { of: NaN, asked: NaN, moments: null };
    this.#known.set(id, known);
    if (known.asked !== revision) this.#ask(id, known, revision);
    return known.moments;
  }

  /**
   * @param {number} id
   * @param {Known} known
   * @param {number} revision
   */
  async #ask(id, known, revision) {
    const { shot } = this;
    known.asked = revision;
    /** @type {number[] | null} */
    const found = await orElse(get(`${shot.base}/moments?${query({ shown: this.#shown, stage: id || null })}`), null);
    if (known.asked !== revision) return;
    const { first } = shot.state.setup.picture.frames;
    const moves = found?.some((moment, at) => Math.abs(moment - first - at) > SAME);
    known.of = revision;
    known.moments = moves ? found : null;
    shot.tell("frame");
  }

  /**
   * Whether it is known which moment of a row is seen.
   * @param {number} id
   */
  knows(id) {
    this.all(id);
    const known = this.#known.get(id);
    return !known || known.of === this.shot.state.revision;
  }

  /**
   * The moment of a row that is seen in the frame that is shown.
   * @param {number} id
   */
  at(id) {
    const { first } = this.shot.state.setup.picture.frames;
    return this.all(id)?.[this.shot.view.frame - first] ?? this.shot.view.frame;
  }

  /**
   * The frames, which may lie between, in which a moment of a row is seen.
   * @param {number} id
   * @param {number} moment
   * @returns {number[]}
   */
  seenIn(id, moment) {
    const all = this.all(id);
    if (!all) return [moment];
    const { first } = this.shot.state.setup.picture.frames;
    const found = all.flatMap((from, at) => {
      const to = all[at + 1];
      const before = at > 0 ? all[at - 1] : NaN;
      if (Math.abs(from - moment) < SAME) {
        // Seen in several frames in turn, it is that of the one in the middle.
        if (Math.abs(before - moment) < SAME) return [];
        const others = all.slice(at).findIndex((one) => Math.abs(one - moment) >= SAME);
        const run = others < 0 ? all.length - at : others;
        return [first + at + Math.floor(run / 2)];
      }
      return (from - moment) * (to - moment) < 0 && Math.abs(to - moment) >= SAME ? [first + at + (moment - from) / (to - from)] : [];
    });
    return found;
  }
}

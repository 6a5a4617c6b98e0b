// Which moment of a row is seen in each frame where a row below it shows other frames than its own.

import { get, orElse, query } from "../base/api.js";

/** A moment between two frames is as near as this to one of them where it is that frame. */
const SAME = 1e-6;

export class Moments {
  /** What the known moments are of. */
  #of = "";
  /** By row, 0 for the head of the shown strand; null where it is seen at its own. @type {Map<number, number[] | null>} */
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
   * The moments of a row by frame; null where each frame shows its own, and until they are there.
   * @param {number} id 0 for the head of the shown strand
   */
  all(id) {
    const { shot } = this;
    if (!shot.state.setup.stages.some((stage) => this.movers.has(stage.kind))) return null;
    const { shown } = shot.view;
    const of = [shot.state.revision, shown].join("/");
    if (this.#of !== of) [this.#of, this.#known] = [of, new Map()];
    const known = this.#known.get(id);
    if (known !== undefined) return known;
    this.#known.set(id, null);
    orElse(get(`${shot.base}/moments?${query({ shown, stage: id || null })}`), null).then((found) => {
      const { first } = shot.state.setup.picture.frames;
      if (this.#of !== of || !found?.some((/** @type {number} */ moment, /** @type {number} */ at) => Math.abs(moment - first - at) > SAME)) return;
      this.#known.set(id, found);
      shot.tell("frame");
    });
    return null;
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
      if (Math.abs(from - moment) < SAME) return Math.abs(before - moment) < SAME ? [] : [first + at];
      return to !== undefined && (from - moment) * (to - moment) < 0 && Math.abs(to - moment) >= SAME ? [first + at + (moment - from) / (to - from)] : [];
    });
    return found;
  }
}

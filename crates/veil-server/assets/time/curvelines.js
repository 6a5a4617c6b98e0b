// The curves there are: every keyed number of the rows at hand, which of them are chosen, and which keys are picked.

import { feedsOf, feedValue, keyedOf, keyValue, numberName } from "../shot/keys.js";

/** @typedef {{ stage: number, control: string, axis: number }} Axis one number of a control */
/** @typedef {{ mark: string, of: Axis, title: string, feed: Keyed, whole: Feed, control: Control }} Curve */

/** The height of the plot, with room above and below the curves. */
export const HIGH = 168;
const [TOP, BOTTOM] = [14, 12];
// Places of a curve that its reach is looked for at.
const PLACES = 200;

/** What a key's value is with what is added to all of them. @param {Curve} curve @param {Key} key */
export const valueOf = ({ feed }, key) => key.value + (feed.offset ?? 0);

export class CurveLines {
  /** Frames of the picked keys, by the mark of their curve. @type {Map<string, Set<number>>} */
  picked = new Map();
  /** Marks of the curves in front. @type {Set<string>} */
  chosen = new Set();
  /** Whether each curve is as high as the panel. */
  own = true;
  /** Whether moved keys land on whole frames. */
  snap = true;
  everyRow = false;
  words = "";
  /** @type {Map<string, [number, number]>} */
  #reach = new Map();

  /** @param {Shot} shot */
  constructor(shot) {
    this.shot = shot;
  }

  /**
   * Every keyed number of the rows at hand.
   * @returns {Curve[]}
   */
  all() {
    const { shot } = this;
    const rows = this.everyRow ? shot.state.setup.stages.map((stage) => stage.id) : shot.atHand();
    const wanted = this.words.toLowerCase();
    /** @type {Map<string, Curve>} */
    const found = new Map();
    for (const id of rows) {
      const targets = shot.stage(id)?.tool?.faceplate ?? shot.controls(id).map((control) => ({ stage: id, control: control.id }));
      for (const curve of targets.flatMap((target) => this.#of(target.stage, target.control))) if (curve.title.toLowerCase().includes(wanted)) found.set(curve.mark, curve);
    }
    return [...found.values()];
  }

  /**
   * @param {number} stage
   * @param {string} name
   * @returns {Curve[]}
   */
  #of(stage, name) {
    const control = this.shot.controls(stage).find((one) => one.id === name);
    if (!control) return [];
    return feedsOf(control.setting).flatMap((whole, axis) => {
      const feed = keyedOf(whole);
      const title = `${this.shot.stage(stage)?.name}: ${numberName(control, axis)}${feed === whole ? "" : ", offset"}`;
      return feed ? [{ mark: `${stage}/${name}/${axis}`, of: { stage, control: name, axis }, title, feed, whole, control }] : [];
    });
  }

  /** What is no longer there is picked and chosen no longer; without any, the first curve is in front. @param {Curve[]} all */
  settle(all) {
    const marks = new Map(all.map((curve) => [curve.mark, curve]));
    this.chosen = new Set([...this.chosen].filter((mark) => marks.has(mark)));
    if (!this.chosen.size && all.length) this.chosen.add(all[0].mark);
    for (const [mark, frames] of this.picked) {
      for (const frame of frames) if (!marks.get(mark)?.feed.keys.some((key) => key.frame === frame)) frames.delete(frame);
      if (!frames.size) this.picked.delete(mark);
    }
  }

  /** How many keys are picked. */
  get count() {
    return [...this.picked.values()].reduce((sum, frames) => sum + frames.size, 0);
  }

  /** The picked keys, as a command names them. */
  pickedKeys() {
    return this.all().filter((curve) => this.picked.has(curve.mark)).map((curve) => ({ of: curve.of, frames: [...this.picked.get(curve.mark) ?? []] }));
  }

  /** The one picked key; none where there are more or less. @param {Curve[]} all */
  single(all) {
    if (this.count !== 1) return null;
    const curve = all.find((one) => this.picked.get(one.mark)?.size);
    const key = curve?.feed.keys.find((one) => this.picked.get(curve.mark)?.has(one.frame));
    return curve && key ? { curve, key } : null;
  }

  /** @param {Curve} curve */
  inFront({ mark }) {
    return this.chosen.has(mark);
  }

  /**
   * @param {Curve} curve
   * @param {number} frame
   * @param {boolean} adding
   */
  pick({ mark }, frame, adding) {
    const had = this.picked.get(mark)?.has(frame) ?? false;
    if (!adding && !had) this.picked = new Map();
    const frames = this.picked.get(mark) ?? new Set();
    this.picked.set(mark, frames);
    if (adding && had) frames.delete(frame);
    else frames.add(frame);
    if (!this.chosen.has(mark)) this.chosen = adding ? this.chosen.add(mark) : new Set([mark]);
  }

  pickAll() {
    this.picked = new Map(this.all().map((curve) => [curve.mark, new Set(curve.feed.keys.map((key) => key.frame))]));
  }

  /** How values stand on the panel: each curve by its own reach, or all by one. @param {Curve[]} all */
  measure(all) {
    const { first, last } = this.shot.state.setup.picture.frames;
    const step = Math.max(1, (last - first) / PLACES);
    const ends = all.map((curve) => {
      const values = curve.feed.keys.map((key) => valueOf(curve, key));
      for (let frame = first; frame <= last; frame += step) values.push(keyValue(curve.feed, frame));
      return /** @type {[number, number]} */ ([Math.min(...values), Math.max(...values)]);
    });
    const whole = /** @type {[number, number]} */ ([Math.min(...ends.map((one) => one[0])), Math.max(...ends.map((one) => one[1]))]);
    this.#reach = new Map(all.map((curve, at) => [curve.mark, this.own ? ends[at] : whole]));
  }

  /**
   * The least and the most value that the panel shows of a curve.
   * @param {Curve} curve
   * @returns {[number, number]}
   */
  span({ mark }) {
    const [low, high] = this.#reach.get(mark) ?? [0, 1];
    return high - low < 1e-9 ? [low - 0.5, high + 0.5] : [low, high];
  }

  /**
   * @param {Curve} curve
   * @param {number} value
   */
  toY(curve, value) {
    const [low, high] = this.span(curve);
    return HIGH - BOTTOM - ((value - low) / (high - low)) * (HIGH - TOP - BOTTOM);
  }

  /** How much a curve's value changes by a pixel. @param {Curve} curve */
  perPixel(curve) {
    const [low, high] = this.span(curve);
    return (high - low) / (HIGH - TOP - BOTTOM);
  }

  /**
   * The value of a curve at a frame.
   * @param {Curve} curve
   * @param {number} frame
   */
  at({ feed }, frame) {
    return feedValue(/** @type {Fed} */ (feed), frame) ?? 0;
  }
}

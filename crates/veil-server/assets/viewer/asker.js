// Asks the server for what is to be seen: the newest alone, as coarse as keeps up while something is dragged.

import { frame as fetchFrame, get, orElse, query } from "../base/api.js";
import { short, within } from "../base/parts.js";
import { toast } from "../base/telling.js";
import { NOTHING } from "./painter.js";

// While something is dragged, pictures must come at least this often.
const DRAG_BUDGET_MS = 70;
const SHARPEN_AFTER_MS = 140;
// While an outline is dragged, so long a rest between two pictures leaves the machine to the marks.
const MARKS_FIRST_MS = 40;

/** @typedef {{ trial?: Command[], stage?: number, frame?: number, look?: string, [side: string]: any }} Asked */

export class Asker {
  /** @type {{ abort: AbortController, drag: boolean, again: boolean, of: string } | null} */
  #pending = null;
  #sharpen = 0;
  /** What a picture of full size took last. */
  #fullCost = 60;

  /**
   * @param {Shot} shot
   * @param {import("./well.js").Well} well
   * @param {import("./sides.js").Sides} sides
   * @param {import("./painter.js").Painter} painter
   * @param {{ canvas: HTMLCanvasElement, note: HTMLElement, size: HTMLElement, cost: HTMLElement, held: (frame: number) => Answer | null, playing: () => boolean, dragsMarks: () => boolean, paint: (marks: boolean) => void, settled: () => void }} nodes
   */
  constructor(shot, well, sides, painter, nodes) {
    this.shot = shot;
    this.well = well;
    this.sides = sides;
    this.painter = painter;
    this.nodes = nodes;
  }

  get #comparing() {
    return Boolean(this.shot.view.compare) || this.painter.flipped;
  }

  get #differing() {
    return this.shot.view.compare === "difference" && !this.painter.flipped;
  }

  /** The row whose picture is laid over the shown one while it is placed. */
  get #ghostRow() {
    const row = this.shot.row(this.shot.selected);
    return this.shot.view.ghost && row?.gives === "picture" && row.knot !== "final" ? row.id : null;
  }

  /** What a settled picture is of; told on the page, so that it can be waited for. */
  get signature() {
    const { shown, frame, look, exposure, screen, backing, behind, over, foldView, motion, moves, compare, sideA, sideB } = this.shot.view;
    const sides = this.#comparing ? [this.sides.mark(sideA), this.sides.mark(sideB)] : [];
    return [this.shot.state.revision, shown, frame, look, exposure, screen, backing, behind, over, this.#ghostRow, foldView, motion, moves, compare, ...sides, this.well.across ?? "all"].join("/");
  }

  /**
   * @param {number} scale
   * @param {Asked} [asked]
   */
  address(scale, { trial = [], ...asked } = {}) {
    const { look, exposure, screen, backing, behind, shown, frame } = this.shot.view;
    return `${this.shot.base}/frame?${query({
      stage: shown, frame, scale, look: look === "arrows" ? "colour" : look, exposure, screen, backing, behind,
      across: this.well.across, ...asked, trial: trial.length ? JSON.stringify(trial) : null, revision: this.shot.state.revision,
    })}`;
  }

  /** The scale that keeps up while something is dragged. */
  get #dragScale() {
    return [1, 2, 3, 4, 8].find((scale) => this.#fullCost / (scale * scale) < DRAG_BUDGET_MS) ?? 8;
  }

  /** What is seen has changed: asks anew, coarsely first while something is tried. */
  changed() {
    this.nodes.canvas.parentElement?.setAttribute("data-wanted", this.signature);
    clearTimeout(this.#sharpen);
    if (this.shot.trial) {
      this.ask(this.#dragScale);
      this.#sharpen = setTimeout(() => this.shot.trial && this.ask(1), SHARPEN_AFTER_MS * 3);
    } else if (this.nodes.playing()) this.nodes.paint(true);
    else this.ask(1);
  }

  /** After zooming in, the pixels that were not sent. */
  zoomed() {
    const there = this.painter.painted.now?.bitmap?.width ?? Infinity;
    if (!this.shot.loaded || this.nodes.playing() || (this.well.across ?? this.well.size.width) <= there) return;
    this.nodes.canvas.parentElement?.setAttribute("data-wanted", this.signature);
    clearTimeout(this.#sharpen);
    this.#sharpen = setTimeout(() => this.ask(this.shot.trial ? this.#dragScale : 1), SHARPEN_AFTER_MS);
  }

  /** @param {number} scale */
  async ask(scale) {
    const { shot, nodes, painter } = this;
    // While dragging, the picture on its way is let through, and only the newest value is asked for next.
    if (this.#pending?.drag && shot.trial) {
      this.#pending.again = true;
      return;
    }
    this.#pending?.abort.abort();
    const mine = { abort: new AbortController(), drag: Boolean(shot.trial), again: false, of: this.signature };
    this.#pending = mine;
    const started = performance.now();
    const held = this.#held();
    try {
      const next = await this.#all(scale, held, mine.abort.signal);
      if (this.#pending !== mine) return;
      painter.painted = next;
      const ms = performance.now() - started;
      if (!held && scale === 1) this.#fullCost = ms;
      if (next.now) this.#told(next.now.about, ms);
      // While dragging, the marks are farther than the picture.
      nodes.paint(!shot.trial);
      nodes.canvas.dataset.shows = scale === 1 && !mine.drag ? mine.of : "";
      if (nodes.canvas.dataset.shows) nodes.settled();
    } catch (error) {
      this.#failed(error);
    } finally {
      if (this.#pending === mine) this.#next(mine.again);
    }
  }

  /** Gives up the picture that is waited for; what is seen stays until something else is asked for. */
  stop() {
    if (!this.#pending) return;
    this.#pending.abort.abort();
    this.note("given up; another frame or an edit asks anew");
  }

  /** @param {boolean} again */
  #next(again) {
    this.#pending = null;
    if (again) setTimeout(() => this.#pending ?? this.ask(this.shot.trial ? this.#dragScale : 1), this.nodes.dragsMarks() ? MARKS_FIRST_MS : 0);
  }

  /** @param {unknown} error */
  #failed(error) {
    if (!(error instanceof Error) || error.name === "AbortError") return;
    this.note(error.message);
    this.painter.painted = NOTHING;
    this.nodes.paint(true);
    this.shot.tell("painted");
  }

  /** The picture that is held for playing, where that is what is wanted. */
  #held() {
    const { shot } = this;
    const plain = !this.#comparing || (shot.view.sideB === "now" && !this.#differing);
    return shot.trial || !plain || shot.view.motion ? null : this.nodes.held(shot.view.frame);
  }

  /**
   * Everything that is painted together, one after the other, so that what is wanted most comes first.
   * @param {number} scale
   * @param {Answer | null} held
   * @param {AbortSignal} signal
   */
  async #all(scale, held, signal) {
    const { view, trial } = this.shot;
    const of = (/** @type {string | null} */ address) => (address ? fetchFrame(address, signal) : null);
    const beside = (/** @type {Asked | null} */ asked) => asked && this.address(scale, asked);
    const ghost = this.#ghostRow;
    const other = this.#comparing && !this.#differing ? this.sides.asks(view.sideA) : null;
    const amount = ghost === null ? [] : [{ do: "set", stage: ghost, control: "amount", setting: 1 }];
    return {
      now: held ?? (await of(view.motion ? this.#motionAddress() : beside(this.#wanted()))),
      other: await missing(of(beside(other))),
      over: await of(beside(view.over === null ? null : { ...this.sides.asks("now"), stage: view.over, look: "cover" })),
      ghost: await of(beside(ghost === null ? null : { stage: ghost, look: "ghost", trial: [...(trial ?? []), ...amount] })),
      folds: await of(view.foldView ? this.#foldsAddress() : null),
    };
  }

  /** @returns {Asked | null} */
  #wanted() {
    const { sideA, sideB, shown, frame } = this.shot.view;
    const wanted = this.sides.asks(this.#comparing ? sideB : "now");
    if (!this.#differing || !wanted) return wanted;
    const { trial, ...other } = this.sides.asks(sideA) ?? {};
    const against = { stage: shown, frame, ...other, ...(trial?.length ? { trial: JSON.stringify(trial) } : {}) };
    return { ...wanted, against: JSON.stringify(against) };
  }

  #motionAddress() {
    return `${this.shot.base}/motion?${query({ stage: this.shot.view.shown, ...this.shot.range(), revision: this.shot.state.revision })}`;
  }

  #foldsAddress() {
    const { shot } = this;
    return `${shot.base}/folds?${query({ stage: shot.view.shown, frame: shot.view.frame, revision: shot.state.revision, trial: shot.trial && JSON.stringify(shot.trial) })}`;
  }

  /** How far the warps move places, for arrows; none where they are not asked for. */
  async arrows() {
    const { shot } = this;
    if (shot.view.look !== "arrows" && !shot.view.moves) return null;
    return orElse(get(`${shot.base}/arrows?${query({ stage: shot.view.shown, frame: shot.view.frame, revision: shot.state.revision })}`), null);
  }

  /**
   * What is said of a picture that has come.
   * @param {About} about
   * @param {number} ms
   */
  #told(about, ms) {
    const { shot, nodes } = this;
    const { width, height } = this.well.size;
    nodes.size.textContent = `${width}x${height}`;
    if (shot.view.motion) {
      const dull = about.share > 0 ? ` · ${short(about.share * 100)} % hardly moves beside the rest, in stripes` : "";
      return this.note(`motion over ${shot.range().first}–${shot.range().last}: ${short(about.longest)} px at most, ${short(about.mean)} px in the mean${dull}`, false);
    }
    nodes.cost.textContent = `${about.scale === 1 ? "full scale" : `scale 1/${about.scale}`} · ${Math.round(ms)} ms`;
    const faults = about.faults.map((fault) => `${shot.stage(fault.stage)?.name}: ${fault.message}`).join(" · ");
    const { folds } = this.painter.painted;
    const folded = folds ? `${short(within(folds.about.share, 0, 1) * 100)} % of the frame is folded over` : "";
    this.note([faults, folded].filter(Boolean).join(" · "), Boolean(faults));
    shot.findFaults(about.faults);
  }

  /**
   * @param {string} text
   * @param {boolean} [bad]
   */
  note(text, bad = true) {
    const { note } = this.nodes;
    note.hidden = !text;
    note.textContent = text;
    note.classList.toggle("fault", Boolean(text) && bad);
  }
}

/**
 * A side that cannot be shown leaves the other one there.
 * @template T
 * @param {Promise<T> | null} asked
 */
async function missing(asked) {
  try {
    return await asked;
  } catch (error) {
    if (!(error instanceof Error) || error.name === "AbortError") throw error;
    toast(error.message, true);
    return null;
  }
}

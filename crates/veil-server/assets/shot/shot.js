// The shot that is worked on: the server's side of it, and the edits that change it.

import { get, listen, post, query } from "../base/api.js";
import { asked } from "../base/dialog.js";
import { byId, within } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";
import { Rows } from "./rows.js";

// This window's mark in the history; it stays over a reload.
const PANE = (sessionStorage["veil:pane"] ??= Math.random().toString(36).slice(2));
// A step of another window younger than this many seconds is not undone without asking.
const RECENT = 60;

/** @type {(what: "saved" | "saving" | "not changed") => void} */
const sayKept = (what) => {
  byId("saved").textContent = what;
};

export class Shot extends Rows {
  /** The newest revision that was heard of. */
  #newest = 0;
  #busy = false;
  #takenAt = 0;
  /** @type {Promise<State | null>} */
  #last = Promise.resolve(null);
  /** @type {((event: Heard) => void)[]} */
  #listeners = [];

  /**
   * Hears what the server tells, besides the shot itself.
   * @param {(event: Heard) => void} heard
   */
  hear(heard) {
    this.#listeners.push(heard);
  }

  async load() {
    this.#take(await this.#ask());
    listen((event) => {
      const mine = event.what === "shot" && event.show === this.show && event.code === this.code;
      if (mine) this.#newest = Math.max(this.#newest, event.revision);
      // Whatever was not heard may have been about this shot.
      if (event.what === "missed") this.#newest = Infinity;
      this.#catchUp();
      for (const heard of this.#listeners) heard(event);
    });
  }

  /** @returns {Promise<State>} */
  #ask() {
    return get(`${this.base}/state?${query({ folds: JSON.stringify(this.#folded()) })}`);
  }

  /** What is opened and shut, and the lanes that rows have, which they keep. */
  #folded() {
    const rows = this.loaded ? this.state.braid.rows : [];
    return { ...this.view.folds, lanes: Object.fromEntries(rows.map((row) => [row.id, row.lane])) };
  }

  /** What came while something was being kept is seen afterwards. */
  #catchUp() {
    if (this.loaded && this.#newest > this.state.revision && !this.#busy) this.refresh();
  }

  async refresh() {
    this.#newest = 0;
    await trying(async () => this.#take(await this.#ask()));
  }

  /** @param {State} state */
  #take(state) {
    if (state.since !== undefined) state.controls = this.#withUntold(state);
    this.#takenAt = performance.now();
    this.receive(state);
  }

  /**
   * All controls of an answer that only tells those of rows that have changed.
   * @param {State} state
   */
  #withUntold(state) {
    if (this.state.revision !== state.since) this.#newest = Infinity;
    const told = new Map(state.controls.map((row) => [row.id, row]));
    const known = new Map(this.state.controls.map((row) => [row.id, row]));
    return [0, ...state.setup.stages.map((stage) => stage.id)].map((id) => told.get(id) ?? known.get(id)).filter((row) => row !== undefined);
  }

  /**
   * One edit after the other, each on what came of the one before.
   * @param {string} address
   * @param {object} body
   */
  change(address, body) {
    this.#last = this.#last.then(() => this.#send(address, body));
    return this.#last;
  }

  /** Once all that was asked for is kept. */
  get kept() {
    return this.#last;
  }

  /**
   * @param {string} address
   * @param {object} body
   * @returns {Promise<State | null>}
   */
  async #send(address, body) {
    this.#busy = true;
    sayKept("saving");
    try {
      const state = await post(`${this.base}/${address}`, { base: this.state.revision, ...body, folds: this.#folded() });
      this.#take(state);
      sayKept("saved");
      return this.state;
    } catch (error) {
      this.endTrial();
      sayKept("not changed");
      toast(error instanceof Error ? error.message : String(error), true);
      await this.refresh();
      return null;
    } finally {
      this.#busy = false;
      this.#catchUp();
    }
  }

  /** @param {Command} command */
  edit(command) {
    return this.change("edit", { command, pane: PANE });
  }

  /** @param {"undo" | "redo"} which */
  async step(which) {
    const next = this.state[which];
    // How long ago it was when the state came, and how long that is by now.
    const ago = next ? Math.round(next.seconds_ago + (performance.now() - this.#takenAt) / 1000) : 0;
    const theirs = next && next.pane && next.pane !== PANE && ago < RECENT;
    if (theirs && !(await asked(`${which} a step of another window?`, [`${next.label} was done in another window ${ago} s ago.`], which))) return;
    const state = await this.change(which, {});
    if (!state?.step) return;
    toast(`${which}: ${state.step.label}`);
    const { row } = state.step;
    if (row === null || !this.stage(row)) return;
    this.select([row]);
    this.bring(row);
  }

  /**
   * A value changed by hand: with auto-key a key is set here, without it a keyed curve moves as a whole.
   * @param {number} stage
   * @param {string} control
   * @param {(number | null)[]} values
   * @returns {Command}
   */
  byHand(stage, control, values) {
    return { do: "put", stage, control, values, frame: this.frameOf(stage), keys: this.keying };
  }

  /** What a change by hand does to keys. */
  get keying() {
    return this.view.autoKey ? "key" : "moves_all";
  }

  /** The frames that are played and shown in sheets: between in and out where those are set. */
  range() {
    const all = this.state.setup.picture.frames;
    const { from, to } = this.view.range ?? { from: null, to: null };
    const first = within(from ?? all.first, all.first, all.last);
    return { first, last: Math.max(first, Math.min(to ?? all.last, all.last)) };
  }

  /**
   * @param {number | null} from
   * @param {number | null} to
   */
  setRange(from, to) {
    this.look({ range: from === null && to === null ? null : { from, to } });
  }

  /** The selected rows, then those kept on the bench. */
  atHand() {
    return [...new Set([...this.view.selected, ...this.view.kept])].filter((id) => this.stage(id));
  }

  /** @param {number} id */
  keep(id) {
    const kept = this.view.kept.filter((one) => one !== id);
    this.look({ kept: kept.length === this.view.kept.length ? [...kept, id] : kept });
  }

  /** To the row that was selected before. */
  back() {
    const id = this.takeBack((one) => this.stage(one));
    if (id === undefined) return;
    this.look({ selected: [id] });
    this.bring(id);
  }

  /** @param {number | undefined} id */
  showRow(id) {
    if (id !== undefined) this.look({ shown: id });
  }

  /** @param {number} frame */
  go(frame) {
    const { first, last } = this.state.setup.picture.frames;
    const wanted = within(Math.round(frame), first, last);
    if (wanted !== this.view.frame) this.seek(wanted);
  }

  /**
   * Opens or shuts a tool's row (`open`), a side strand (`shut`) or a group (`groups`), by id or name.
   * @param {"open" | "shut" | "groups"} which
   * @param {number | string} mark
   */
  fold(which, mark) {
    const marks = new Set(this.view.folds[which]);
    if (!marks.delete(mark)) marks.add(mark);
    this.look({ folds: { ...this.view.folds, [which]: [...marks] } });
    return this.refresh();
  }
}

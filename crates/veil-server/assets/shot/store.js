// What is known of a shot in this window. Others read it; it is changed by the named writers here alone, which tell
// those who watch.

/** @returns {OutlineState} */
const noOutline = () => ({ row: null, shape: 0, points: new Set(), drawing: null, pivot: null, brush: null, own: {} });

/** @returns {View} */
const firstView = () => ({
  frame: NaN, shown: 0, selected: [], kept: [], folds: { open: [], shut: [], groups: [] }, lists: [], rows: "usual",
  look: "colour", exposure: 0, screen: "srgb", backing: "black", behind: null, over: null, compare: "", sideA: "off", sideB: "now",
  autoKey: true, changedOnly: false, range: null, ghost: false, windows: false, foldView: false, moves: false, motion: false, scopes: false,
});

export class Store {
  /** @type {State | null} */
  #state = null;
  /** @type {View} */
  #view;
  /** @type {Command[] | null} */
  #trial = null;
  /** @type {Join | null} */
  #join = null;
  /** @type {Join | null} */
  #filling = null;
  /** @type {OutlineState} */
  #outline = noOutline();
  /** @type {TrackState} */
  #tracking = { row: null, id: null, placing: null, along: "whole", most: 12, reach: 1.5, solve: { goes: "moves", focal: null, sensor: 36, ground: ["", "", ""], distance: ["", "", 1], busy: false, found: null } };
  /** @type {number[] | null} */
  #measured = null;
  /** @type {Fault[]} */
  #faults = [];
  /** @type {number[]} */
  #trail = [];
  /** @type {((what: Told) => void)[]} */
  #watchers = [];
  #memory;

  /** @param {string} memory where the view is kept over a reload */
  constructor(memory) {
    this.#memory = memory;
    this.#view = { ...firstView(), ...JSON.parse(sessionStorage.getItem(memory) ?? "{}") };
  }

  /** @param {(what: Told) => void} heard */
  watch(heard) {
    this.#watchers.push(heard);
  }

  /** @param {Told} what */
  tell(what) {
    if (["setup", "view", "frame"].includes(what)) sessionStorage.setItem(this.#memory, JSON.stringify(this.#view));
    for (const watcher of this.#watchers) watcher(what);
  }

  /** Whether the setup is there; before that nothing of it may be read. */
  get loaded() {
    return this.#state !== null;
  }

  /** What the server says of the shot. */
  get state() {
    if (!this.#state) throw new Error("the setup is not there yet");
    return this.#state;
  }

  /** @returns {Seen} */
  get view() {
    return this.#view;
  }

  /** Commands that are tried while something is dragged. */
  get trial() {
    return this.#trial;
  }

  /** The slot that was selected by its line: new rows go before it alone. */
  get join() {
    return this.#join;
  }

  /** The slot that the next clicked row goes into. */
  get filling() {
    return this.#filling;
  }

  /** What of the selected row's outlines is at hand. */
  get outline() {
    if (this.#outline.row !== (this.selected ?? null)) this.#outline = { ...noOutline(), row: this.selected ?? null };
    return /** @type {Readonly<OutlineState>} */ (this.#outline);
  }

  /** What of the selected row's tracks is at hand. */
  get tracking() {
    const row = this.selected ?? null;
    if (this.#tracking.row !== row) this.#tracking = { ...this.#tracking, placing: null, row, id: this.tracksOf(row)[0]?.id ?? null };
    return /** @type {Readonly<TrackState>} */ (this.#tracking);
  }

  /** The box that was dragged on the picture: its edges left, top, right and bottom in whole pixels. */
  get measured() {
    return this.#measured;
  }

  /** What the way to the picture tells. */
  get faults() {
    return this.#faults;
  }

  /** The row that was selected last; 0 is the setup itself. */
  get selected() {
    return this.#view.selected.at(-1);
  }

  /**
   * The tracks in the picture of a row.
   * @param {number | null} row
   */
  tracksOf(row) {
    return (this.#state?.setup.tracks ?? []).filter((track) => track.stage === row);
  }

  /**
   * Takes what the server says. What is no longer there is selected, shown and kept no longer.
   * @param {State} state
   */
  receive(state) {
    const before = this.#state;
    this.#state = state;
    this.#trial = null;
    const view = this.#view;
    const ids = new Set([0, ...state.setup.stages.map((stage) => stage.id)]);
    view.selected = view.selected.filter((id) => ids.has(id));
    view.kept = view.kept.filter((id) => ids.has(id));
    if (view.over !== null && !ids.has(view.over)) view.over = null;
    if (view.behind !== null && !ids.has(view.behind)) view.behind = null;
    const gone = (/** @type {string} */ side) => side.startsWith("row:") && !ids.has(Number(side.slice(4)));
    if (gone(view.sideA)) view.sideA = "off";
    if (gone(view.sideB)) view.sideB = "now";
    const last = /** @type {Stage} */ (state.setup.stages.at(-1)).id;
    if (!ids.has(view.shown) || view.shown === 0) view.shown = rowAbove(before, view.shown, ids) ?? last;
    const { first, last: end } = state.setup.picture.frames;
    view.frame = Math.min(Math.max(Number.isFinite(view.frame) ? view.frame : first, first), end);
    this.tell("setup");
  }

  /**
   * Changes how the shot is looked at.
   * @param {Partial<View>} changes
   */
  look(changes) {
    Object.assign(this.#view, changes);
    this.tell("view");
  }

  /**
   * The frame that is seen.
   * @param {number} frame
   */
  seek(frame) {
    this.#view.frame = frame;
    this.tell("frame");
  }

  /**
   * Selects rows, the last of them as the one whose controls are at hand; the one before is remembered.
   * @param {number[]} ids
   * @param {Join | null} [join] a slot of it that is meant
   */
  select(ids, join = null) {
    const was = this.selected;
    if (was !== undefined && was !== ids.at(-1)) this.#trail.push(was);
    this.#trail.splice(0, this.#trail.length - 50);
    this.#join = join;
    this.look({ selected: ids });
  }

  /**
   * The row that was selected before the one at hand, of those that are still there.
   * @param {(id: number) => unknown} isThere
   */
  takeBack(isThere) {
    const id = this.#trail.findLast(isThere);
    if (id !== undefined) this.#trail.splice(this.#trail.lastIndexOf(id));
    return id;
  }

  /** @param {Join | null} join */
  chooseSlot(join) {
    this.#join = join;
    this.tell("view");
  }

  /** @param {Join | null} slot */
  fill(slot) {
    this.#filling = slot;
    this.tell("view");
  }

  /**
   * Tries commands without keeping them; null leaves off.
   * @param {Command[] | null} commands
   */
  try(commands) {
    this.#trial = commands;
    this.tell("trial");
  }

  /** What was tried is kept now, or refused. */
  endTrial() {
    this.#trial = null;
  }

  /**
   * What of the selected row's outlines is at hand.
   * @param {Partial<OutlineState>} changes
   */
  atOutline(changes) {
    this.#outline = { ...this.outline, ...changes };
    this.tell("view");
  }

  /**
   * The same while it is drawn on the picture, where nothing else has to follow.
   * @param {Partial<OutlineState>} changes
   */
  markOutline(changes) {
    this.#outline = { ...this.outline, ...changes };
    this.tell("marks");
  }

  /**
   * An outline is begun, or another is taken up: nothing of the one before stays at hand.
   * @param {Partial<OutlineState>} changes
   */
  newOutline(changes) {
    this.#outline = { ...noOutline(), row: this.selected ?? null };
    this.atOutline(changes);
  }

  /**
   * What of the selected row's tracks is at hand.
   * @param {Partial<TrackState>} changes
   */
  atTrack(changes) {
    this.#tracking = { ...this.tracking, ...changes };
    this.tell("view");
  }

  /** @param {number[] | null} box */
  measure(box) {
    if (!box && !this.#measured) return;
    this.#measured = box;
    this.tell("measured");
  }

  /** @param {Fault[]} faults */
  findFaults(faults) {
    const fresh = JSON.stringify(faults) !== JSON.stringify(this.#faults);
    this.#faults = faults;
    if (fresh) this.tell("faults");
  }
}

/**
 * The row above a removed one on its strand takes over.
 * @param {State | null} state
 * @param {number} id
 * @param {Set<number>} ids
 * @returns {number | null}
 */
function rowAbove(state, id, ids) {
  const gone = state?.setup.stages.find((stage) => stage.id === id);
  const source = gone?.links?.main?.from?.stage;
  if (source === undefined) return null;
  return ids.has(source) ? source : rowAbove(state, source, ids);
}

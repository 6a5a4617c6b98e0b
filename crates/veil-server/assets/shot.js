// The shot that is worked on: what the server says of it, what is looked at, and the edits that change it.

import { get, post, listen, query } from "./api.js";
import { outlineState } from "./outlines.js";
import { asked, toast, trying } from "./parts.js";
import { trackState } from "./tracks.js";

// This window's mark in the history; it stays over a reload.
const PANE = (sessionStorage["veil:pane"] ??= Math.random().toString(36).slice(2));
// A step of another window younger than this many seconds is not undone without asking.
const RECENT = 60;

// The declarations of the controls, by kind of stage and by id; a row tells only what they are set to.
export async function declarations(stages) {
  const common = await get("/api/stages/common");
  const by = (list) => new Map(list.map((control) => [control.id, control]));
  return { common: by(common), stages: new Map(stages.map((stage) => [stage.id, by(stage.controls)])) };
}

export class Shot {
  constructor(show, code, declared) {
    this.declared = declared;
    this.base = `/api/shots/${encodeURIComponent(show)}/${encodeURIComponent(code)}`;
    this.show = show;
    this.code = code;
    this.state = null;
    // The newest revision that was heard of.
    this.newest = 0;
    // Commands being tried while something is dragged.
    this.trial = null;
    // The slot that was selected by its line: new rows go before it alone.
    this.join = null;
    // The slot that the next clicked row goes into.
    this.filling = null;
    // The chosen outline of the selected row, its points at hand, and one that is being drawn.
    this.outline = outlineState();
    // The chosen track of the selected row, and whether the next press places one.
    this.tracking = trackState();
    // Rows that were selected before, the last one at the end.
    this.trail = [];
    // What the picture's way tells, and what is looked for in the whole setup.
    this.faults = [];
    this.findings = [];
    this.watchers = [];
    // Who hears what the server tells, besides the shot itself.
    this.listeners = [];
    this.memory = `veil:${show}/${code}`;
    const kept = JSON.parse(sessionStorage.getItem(this.memory) ?? "{}");
    this.view = { frame: null, shown: null, selected: [], folds: { open: [], shut: [], groups: [] }, look: "colour", exposure: 0, screen: "srgb", compare: "", sideA: "off", sideB: "now", kept: [], autoKey: true, range: null, ...kept };
  }

  watch(heard) {
    this.watchers.push(heard);
  }

  // What changed: "setup", "view", "frame", "trial", "faults", "painted", "measured".
  tell(what) {
    if (["setup", "view", "frame"].includes(what)) sessionStorage.setItem(this.memory, JSON.stringify(this.view));
    for (const watcher of this.watchers) watcher(what);
  }

  async load() {
    this.take(await get(`${this.base}/state?${query({ folds: JSON.stringify(this.folded()) })}`));
    listen((event) => {
      const mine = event.what === "shot" && event.show === this.show && event.code === this.code;
      if (mine) this.newest = Math.max(this.newest, event.revision);
      // Whatever was not heard may have been about this shot.
      if (event.what === "missed") this.newest = Infinity;
      this.catchUp();
      for (const heard of this.listeners) heard(event);
    });
  }

  // What is opened and shut, and the lanes that rows have, which they keep.
  folded() {
    const lanes = Object.fromEntries((this.state?.braid.rows ?? []).map((row) => [row.id, row.lane]));
    return { ...this.view.folds, lanes };
  }

  // What came while something was being kept is seen afterwards.
  catchUp() {
    if (this.newest > this.state.revision && !this.busy) return this.refresh();
  }

  async refresh() {
    this.newest = 0;
    await trying(async () => this.take(await get(`${this.base}/state?${query({ folds: JSON.stringify(this.folded()) })}`)));
  }

  take(state) {
    const before = this.state;
    if (state.since !== undefined) state.controls = this.withUntold(state);
    this.state = state;
    this.takenAt = performance.now();
    this.trial = null;
    const ids = new Set([0, ...state.setup.stages.map((stage) => stage.id)]);
    const last = state.setup.stages[state.setup.stages.length - 1].id;
    this.view.selected = this.view.selected.filter((id) => ids.has(id));
    this.view.kept = this.view.kept.filter((id) => ids.has(id));
    for (const taken of ["over", "behind"]) if (!ids.has(this.view[taken])) this.view[taken] = null;
    for (const side of ["sideA", "sideB"]) if (this.view[side].startsWith("row:") && !ids.has(Number(this.view[side].slice(4)))) this.view[side] = side === "sideA" ? "off" : "now";
    if (!ids.has(this.view.shown) || this.view.shown === 0) this.view.shown = this.above(before, this.view.shown, ids) ?? last;
    const frames = state.setup.picture.frames;
    this.view.frame = Math.min(Math.max(this.view.frame ?? frames.first, frames.first), frames.last);
    this.tell("setup");
  }

  // All controls of an answer that only tells those of rows that have changed.
  withUntold(state) {
    if (this.state.revision !== state.since) this.newest = Infinity;
    const told = new Map(state.controls.map((row) => [row.id, row]));
    const known = new Map(this.state.controls.map((row) => [row.id, row]));
    return [0, ...state.setup.stages.map((stage) => stage.id)].map((id) => told.get(id) ?? known.get(id));
  }

  // The row above a removed one on its strand takes over.
  above(state, id, ids) {
    const gone = state?.setup.stages.find((stage) => stage.id === id);
    const source = gone?.links?.main?.from?.stage;
    if (source === undefined) return null;
    return ids.has(source) ? source : this.above(state, source, ids);
  }

  // One edit after the other, each on what came of the one before.
  change(address, body) {
    const run = () => this.send(address, typeof body === "function" ? body() : body);
    this.last = (this.last ?? Promise.resolve()).then(run);
    return this.last;
  }

  async send(address, body) {
    this.busy = true;
    document.getElementById("saved").textContent = "saving";
    try {
      const state = await post(`${this.base}/${address}`, { base: this.state.revision, ...body, folds: this.folded() });
      this.take(state);
      document.getElementById("saved").textContent = "saved";
      return state;
    } catch (error) {
      this.trial = null;
      document.getElementById("saved").textContent = "not changed";
      toast(error.message, true);
      await this.refresh();
      return null;
    } finally {
      this.busy = false;
      this.catchUp();
    }
  }

  edit(command) {
    return this.change("edit", { command, pane: PANE });
  }

  // A new row becomes selected; one added directly after the shown row becomes the shown one. A row that has a side slot
  // for what the selected one gives takes it there and goes on the shown strand, unless it is added the plain way.
  async add(command, after = command.after, way = "meant") {
    const adds = ["add", "place_tool"].includes(command.do);
    if (this.join && !["duplicate", "together"].includes(command.do)) {
      const { stage, slot } = this.join;
      const from = this.stage(stage)?.links?.[slot]?.from?.stage;
      command = { ...command, after: from ?? null, into: [stage, slot] };
    } else if (adds && way === "meant") command = { ...command, on: this.view.shown };
    const shown = this.view.shown;
    const state = await this.edit(command);
    const row = state?.step?.row;
    if (row === undefined || row === null) return state;
    this.view.selected = [row];
    const line = (id) => state.braid.rows.find((one) => one.id === id);
    const main = this.stage(row)?.links?.main?.from?.stage ?? after;
    if (main === shown && line(row)?.gives === line(shown)?.gives) this.view.shown = row;
    this.tell("view");
    if (adds && command.on !== undefined) this.tellWay(command, row, line, shown);
    return state;
  }

  // Says where a new row went, where that is not simply after the selected one, and offers the other way.
  tellWay(command, row, line, shown) {
    const links = this.stage(row)?.links ?? {};
    const [slot] = Object.entries(links).find(([id, link]) => id !== "main" && link.from.stage === command.after) ?? [];
    const other = (run) => async () => {
      await this.change("undo", {});
      run();
    };
    const name = (id) => line(id)?.name ?? "nothing";
    if (slot) {
      const told = line(row).slots?.find((one) => one.id === slot)?.name ?? slot.replaceAll("_", " ");
      toast(`${name(row)} takes ${name(command.after)} as its ${told}, on the strand of ${name(links.main?.from.stage)}`, false, {
        words: "after it instead",
        run: other(() => this.add(command, command.after, "plain")),
      });
      return;
    }
    const pictures = [command.after, shown].every((id) => line(id)?.gives === "picture");
    if (command.kind === "blend" && pictures && shown !== command.after && line(shown)?.knot !== "final") {
      toast(`${name(command.after)} lies below in ${name(row)}`, false, {
        words: `lay it above ${name(shown)}`,
        run: other(async () => {
          const added = await this.add({ ...command, after: shown }, shown, "plain");
          const blend = added?.step?.row;
          if (blend !== undefined) await this.edit({ do: "link", stage: blend, slot: "layer", from: { stage: command.after } });
        }),
      });
    }
  }

  async step(which) {
    const next = this.state[which];
    // How long ago it was when the state came, and how long that is by now.
    const ago = next ? Math.round(next.seconds_ago + (performance.now() - this.takenAt) / 1000) : 0;
    const theirs = next && next.pane && next.pane !== PANE && ago < RECENT;
    if (theirs && !(await asked(`${which} a step of another window?`, `${next.label} was done in another window ${ago} s ago.`, which))) return;
    const state = await this.change(which, {});
    if (!state?.step) return;
    toast(`${which}: ${state.step.label}`);
    if (state.setup.stages.some((stage) => stage.id === state.step.row)) {
      this.view.selected = [state.step.row];
      this.tell("view");
      this.bring(state.step.row);
    }
  }

  // A value changed by hand: with auto-key a key is set here, without it a keyed curve moves as a whole.
  byHand(stage, control, values) {
    return { do: "put", stage, control, values, frame: this.view.frame, keys: this.view.autoKey ? "key" : "moves_all" };
  }

  // The frames that are played and shown in sheets: between in and out where those are set.
  range() {
    const all = this.state.setup.picture.frames;
    const { from, to } = this.view.range ?? {};
    const first = Math.min(Math.max(from ?? all.first, all.first), all.last);
    return { first, last: Math.max(first, Math.min(to ?? all.last, all.last)) };
  }

  setRange(from, to) {
    this.view.range = from === null && to === null ? null : { from, to };
    this.tell("view");
  }

  // The selected rows, then those kept on the bench.
  atHand() {
    return [...new Set([...this.view.selected, ...this.view.kept])].filter((id) => this.stage(id));
  }

  keep(id) {
    const kept = this.view.kept.filter((one) => one !== id);
    this.view.kept = kept.length === this.view.kept.length ? [...kept, id] : kept;
    this.tell("view");
  }

  try(commands) {
    this.trial = commands;
    this.tell("trial");
  }

  select(ids) {
    this.join = null;
    if (this.selected !== undefined && this.selected !== ids[ids.length - 1]) this.trail.push(this.selected);
    this.trail.splice(0, this.trail.length - 50);
    this.view.selected = ids;
    this.tell("view");
  }

  // Brings a row into sight; the braid says how.
  bring() {}

  // To the row that was selected before.
  back() {
    const id = this.trail.findLast((one) => this.stage(one));
    if (id === undefined) return;
    this.trail.splice(this.trail.lastIndexOf(id));
    this.view.selected = [id];
    this.tell("view");
    this.bring(id);
  }

  show_row(id) {
    this.view.shown = id;
    this.tell("view");
  }

  go(frame) {
    const { first, last } = this.state.setup.picture.frames;
    const wanted = Math.min(Math.max(Math.round(frame), first), last);
    if (wanted === this.view.frame) return;
    this.view.frame = wanted;
    this.tell("frame");
  }

  // Opens or shuts a tool's row (`open`), a side strand (`shut`) or a group (`groups`), by id or name.
  fold(which, mark) {
    const marks = new Set(this.view.folds[which]);
    if (!marks.delete(mark)) marks.add(mark);
    this.view.folds = { ...this.view.folds, [which]: [...marks] };
    return this.refresh();
  }

  // A row; 0 stands for the setup with its own controls.
  stage(id) {
    if (id === 0) return { id: 0, name: "own controls", kind: "own", links: {}, controls: {} };
    return this.state.setup.stages.find((stage) => stage.id === id);
  }

  // The controls of a row: what each is, and what it is set to.
  controls(id) {
    if (this.controlsOf !== this.state) {
      this.controlsOf = this.state;
      this.controlsBy = new Map();
      this.controlsTold = null;
    }
    if (!this.controlsBy.has(id)) {
      const own = this.declared.stages.get(this.stage(id)?.kind);
      this.controlsTold ??= new Map(this.state.controls.map((row) => [row.id, row.controls]));
      const told = this.controlsTold.get(id) ?? [];
      this.controlsBy.set(id, told.map((control) => ({ ...(control.own ? {} : own?.get(control.id) ?? this.declared.common.get(control.id)), ...control })));
    }
    return this.controlsBy.get(id);
  }

  // Whether a control counts, as a choice of its row is now.
  counts(id, control) {
    if (!control.when) return true;
    const choice = this.controls(id).find((one) => one.id === control.when.control);
    return control.when.is.includes(choice?.setting);
  }

  // The numbers of a row's controls at this frame, which only the server knows where they are fed; none until they are
  // there, when `then` is called.
  numbers(id, then) {
    const of = [this.state.revision, this.view.frame, id].join("/");
    if (this.numbersOf === of) return this.numbersBy;
    this.numbersOf = of;
    this.numbersBy = null;
    get(`${this.base}/values?${query({ stage: id, frame: this.view.frame })}`).then((found) => {
      if (this.numbersOf !== of) return;
      this.numbersBy = found;
      then();
    }, () => {});
    return null;
  }

  row(id) {
    return this.state.braid.rows.find((row) => row.id === id);
  }

  // Everything that is told of rows, faults of the picture first; made anew when one of its sources is.
  told() {
    const sources = [this.faults, this.findings, this.state];
    if (this.toldOf?.every((source, at) => source === sources[at])) return this.toldList;
    const known = new Set(this.faults.map((fault) => `${fault.stage} ${fault.message}`));
    const ids = new Set(this.state.setup.stages.map((stage) => stage.id));
    this.toldOf = sources;
    this.toldList = [...this.faults, ...this.findings.filter((one) => !known.has(`${one.stage} ${one.message}`) && ids.has(one.stage))];
    // What a row is marked for. That it is off shows by itself.
    this.marks = new Map(this.toldList.filter((one) => one.fault !== "off").toReversed().map((one) => [one.stage, one]));
    return this.toldList;
  }

  marked(id) {
    this.told();
    return this.marks.get(id);
  }

  // Faults of the whole setup, once nobody waits for a picture.
  async look() {
    const revision = this.state.revision;
    if (this.lookedAt === revision) return;
    this.lookedAt = revision;
    const found = await get(`${this.base}/findings`).catch(() => null);
    if (found && this.state.revision === revision) {
      this.findings = found;
      this.tell("faults");
    }
  }

  get selected() {
    return this.view.selected[this.view.selected.length - 1];
  }
}

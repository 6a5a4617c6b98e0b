// The shot that is worked on: what the server says of it, what is looked at, and the edits that change it.

import { get, post, listen } from "./api.js";
import { toast, trying } from "./parts.js";

export class Shot {
  constructor(show, code) {
    this.base = `/api/shots/${encodeURIComponent(show)}/${encodeURIComponent(code)}`;
    this.show = show;
    this.code = code;
    this.state = null;
    // Commands being tried while something is dragged.
    this.trial = null;
    // Rows that were selected before, the last one at the end.
    this.trail = [];
    this.faults = [];
    this.watchers = [];
    // Who hears what the server tells, besides the shot itself.
    this.listeners = [];
    this.memory = `veil:${show}/${code}`;
    const kept = JSON.parse(sessionStorage.getItem(this.memory) ?? "{}");
    this.view = { frame: null, shown: null, selected: [], open: [], look: "colour", exposure: 0, screen: "srgb", compare: false, ...kept };
  }

  watch(heard) {
    this.watchers.push(heard);
  }

  // What changed: "setup", "view", "frame", "trial", "faults", "painted".
  tell(what) {
    if (["setup", "view", "frame"].includes(what)) sessionStorage.setItem(this.memory, JSON.stringify(this.view));
    for (const watcher of this.watchers) watcher(what);
  }

  async load() {
    this.take(await get(`${this.base}/state?open=${this.view.open.join(",")}`));
    listen((event) => {
      const mine = event.what === "shot" && event.show === this.show && event.code === this.code;
      if (mine && event.revision > this.state.revision && !this.busy) this.refresh();
      for (const heard of this.listeners) heard(event);
    });
  }

  async refresh() {
    await trying(async () => this.take(await get(`${this.base}/state?open=${this.view.open.join(",")}`)));
  }

  take(state) {
    const before = this.state;
    this.state = state;
    this.trial = null;
    const ids = new Set(state.setup.stages.map((stage) => stage.id));
    const last = state.setup.stages[state.setup.stages.length - 1].id;
    this.view.selected = this.view.selected.filter((id) => ids.has(id));
    if (!ids.has(this.view.shown)) this.view.shown = this.above(before, this.view.shown, ids) ?? last;
    const frames = state.setup.picture.frames;
    this.view.frame = Math.min(Math.max(this.view.frame ?? frames.first, frames.first), frames.last);
    this.tell("setup");
  }

  // The row above a removed one on its strand takes over.
  above(state, id, ids) {
    const gone = state?.setup.stages.find((stage) => stage.id === id);
    const source = gone?.links?.main?.from?.stage;
    if (source === undefined) return null;
    return ids.has(source) ? source : this.above(state, source, ids);
  }

  async change(address, body) {
    this.busy = true;
    document.getElementById("saved").textContent = "saving";
    try {
      const state = await post(`${this.base}/${address}`, { ...body, open: this.view.open.join(",") });
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
    }
  }

  edit(command) {
    return this.change("edit", { base: this.state.revision, command });
  }

  // A new row becomes selected; one added directly after the shown row becomes the shown one.
  async add(command) {
    const after = command.after;
    const state = await this.edit(command);
    const row = state?.step?.row;
    if (row === undefined || row === null) return state;
    this.view.selected = [row];
    const gives = state.braid.rows.find((line) => line.id === row)?.gives;
    const shownGives = state.braid.rows.find((line) => line.id === this.view.shown)?.gives;
    if (after === this.view.shown && gives === shownGives) this.view.shown = row;
    this.tell("view");
    return state;
  }

  async step(which) {
    const state = await this.change(which, {});
    if (!state?.step) return;
    toast(`${which}: ${state.step.label}`);
    if (state.setup.stages.some((stage) => stage.id === state.step.row)) {
      this.view.selected = [state.step.row];
      this.tell("view");
    }
  }

  try(commands) {
    this.trial = commands;
    this.tell("trial");
  }

  select(ids) {
    if (this.selected !== undefined && this.selected !== ids[ids.length - 1]) this.trail.push(this.selected);
    this.trail.splice(0, this.trail.length - 50);
    this.view.selected = ids;
    this.tell("view");
  }

  // To the row that was selected before.
  back() {
    const id = this.trail.findLast((one) => this.stage(one));
    if (id === undefined) return;
    this.trail.splice(this.trail.lastIndexOf(id));
    this.view.selected = [id];
    this.tell("view");
    document.getElementById(`row-${id}`)?.scrollIntoView({ block: "nearest" });
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

  fold(id) {
    const open = new Set(this.view.open);
    if (!open.delete(id)) open.add(id);
    this.view.open = [...open];
    return this.refresh();
  }

  stage(id) {
    return this.state.setup.stages.find((stage) => stage.id === id);
  }

  controls(id) {
    return this.state.controls.find((row) => row.id === id)?.controls ?? [];
  }

  row(id) {
    return this.state.braid.rows.find((row) => row.id === id);
  }

  get selected() {
    return this.view.selected[this.view.selected.length - 1];
  }
}

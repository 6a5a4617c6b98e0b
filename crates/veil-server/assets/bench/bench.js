// The bench: every control of the selected row, and of those that are kept beside it.

import { get, query } from "../base/api.js";
import { button, byId, choose, el, framed } from "../base/parts.js";
import { trying } from "../base/telling.js";
import { typeOf } from "../controls/types.js";
import { NamesField } from "../controls/names.js";
import { Lines } from "./lines.js";
import { matchingNode } from "./matching.js";
import { ownParts } from "./own.js";
import { paceNode } from "./pace.js";
import { Passes } from "./passes.js";
import { RowHead } from "./rowhead.js";
import { slotNode } from "./slots.js";
import { tracksNode } from "./tracklist.js";

/** @typedef {import("./lines.js").Owned} Owned */

// Lines of a formula, by what it gives.
const LINES = { field: 1, map: 2, picture: 4 };

export class Bench {
  /**
   * @param {Shot} shot
   * @param {{ panel: HTMLElement, name: HTMLElement, tools: HTMLElement, help: HTMLElement, kindOf: (stage: Stage) => StageKind | undefined, plates: () => Plate[], playing: () => boolean }} nodes
   */
  constructor(shot, nodes) {
    this.shot = shot;
    this.nodes = nodes;
    this.names = new NamesField(shot, () => this.draw());
    this.head = new RowHead(shot, nodes, () => this.draw());
    this.passes = new Passes(shot);
    this.lines = new Lines(shot, { plates: nodes.plates, names: this.names, together: () => this.#together() });
    shot.watch((what) => {
      if (what === "view" && this.names.picking !== shot.selected) this.names.picking = null;
      if (["setup", "view", "frame"].includes(what) && !nodes.playing()) this.draw();
    });
  }

  draw() {
    const { shot, nodes: { panel, name, tools, help } } = this;
    const focused = document.activeElement instanceof HTMLElement ? document.activeElement.dataset.field : undefined;
    const stage = shot.stage(shot.selected);
    const several = this.#together();
    byId("own").setAttribute("aria-pressed", String(shot.selected === 0));
    name.textContent = several.length > 1 ? `${several.length} rows` : stage?.name ?? "";
    tools.replaceChildren();
    help.textContent = stage ? this.#help(stage) : "";
    const kept = shot.view.kept.filter((id) => id !== shot.selected).map((id) => shot.stage(id)).filter((one) => one !== undefined);
    if (!stage && !kept.length) return panel.replaceChildren(el("p", { class: "hint" }, "Select a row to see its controls."));
    const scroll = panel.scrollTop;
    const parts = stage ? (several.length > 1 ? this.#shared(stage, several) : this.#partsOf(stage)) : [];
    panel.replaceChildren(...parts, ...(stage ? [this.passes.node] : []), ...kept.flatMap((one) => [this.#keptHead(one), ...this.#partsOf(one)]));
    panel.scrollTop = scroll;
    if (stage) {
      this.passes.ask(stage);
      this.head.draw(stage);
    }
    if (focused) /** @type {HTMLElement | null} */ (panel.querySelector(`[data-field="${CSS.escape(focused)}"]`))?.focus();
  }

  /** @param {Stage} stage */
  #help(stage) {
    return stage.tool ? `Tool ${stage.tool.name}, number ${stage.tool.number}. Unfold its row to see what it is made of.` : this.nodes.kindOf(stage)?.help ?? "";
  }

  /** The selected rows whose controls are edited together. */
  #together() {
    return this.shot.view.selected.filter((id) => (this.shot.row(id)?.knot ?? "final") !== "final");
  }

  /**
   * What several rows share: controls of one id, name and type.
   * @param {Stage} stage
   * @param {number[]} ids
   */
  #shared(stage, ids) {
    const { shot } = this;
    const same = (/** @type {Control} */ control) => ids.every((id) => shot.controls(id).some((one) => one.id === control.id && one.name === control.name && one.kind.type === control.kind.type));
    const shared = this.#counting(stage, shot.controls(stage.id)).filter((control) => same(control) && !typeOf(control).alone);
    const words = shared.length ? "What is changed here is changed on all of them." : "These rows share no control.";
    return [el("p", { class: "aside" }, words), ...this.#owned(stage, shared)];
  }

  /**
   * @param {Stage} stage
   * @param {Control[]} controls
   */
  #owned(stage, controls) {
    return this.lines.grouped(controls.map((control) => ({ id: stage.id, control })));
  }

  /**
   * Controls that do not count for what the stage's choices are, and lines of a formula for what is given, are not shown.
   * @param {Stage} stage
   * @param {Control[]} all
   */
  #counting(stage, all) {
    const lines = LINES[/** @type {Kind} */ (stage.controls?.gives ?? "field")];
    let line = 0;
    return all.filter((control) => this.shot.counts(stage.id, control)).filter((control) => control.kind.type !== "formula" || ++line <= lines);
  }

  /**
   * @param {Stage} stage
   * @returns {HTMLElement[]}
   */
  #partsOf(stage) {
    const own = stage.id === 0 || stage.tool ? ownParts(this.shot, stage, this.lines) : [];
    return stage.id === 0 ? own : [...this.#stageParts(stage), ...own];
  }

  /** @param {Stage} stage */
  #stageParts(stage) {
    const { shot } = this;
    const row = shot.row(stage.id);
    const slots = row?.slots ?? [];
    const all = shot.controls(stage.id);
    const common = (/** @type {string} */ id) => id === "amount" || /^matte\d*_/.test(id) || slots.some((slot) => id.startsWith(`${slot.id}_`));
    const plain = this.#counting(stage, all.filter((control) => !common(control.id) && !control.own)).map((control) => ({ id: stage.id, control }));
    const ends = !row || row.knot === "final";
    return [
      ...this.#owned(stage, all.filter((control) => control.id === "amount")),
      // Controls of an entry of a list stand below its slot; of an empty one none is needed.
      ...slots.flatMap((slot) => [slotNode(shot, stage, slot), ...this.#owned(stage, slot.source ? all.filter((control) => control.id.startsWith(`${slot.id}_`)) : [])]),
      ...(slots.some((slot) => /^matte\d/.test(slot.id) && slot.source) ? [this.#mattesToRow(stage)] : []),
      ...this.lines.grouped(stage.tool ? this.#faceplate(stage.tool) : plain),
      ...(stage.tool ? paceNode(shot, stage) : []),
      ...(stage.kind === "grade" ? matchingNode(shot, stage, () => this.draw()) : []),
      ...(this.nodes.kindOf(stage)?.places ? [this.#placing(stage)] : []),
      ...(!ends && row.gives === "picture" ? tracksNode(shot, stage) : []),
      ...(row && row.sampled_in !== null && row.sampled_in !== row.id ? [el("p", { class: "aside" }, `Sampled once, together with ${shot.row(row.sampled_in)?.name}: only that row's reading counts.`)] : []),
    ];
  }

  /** @param {Stage} stage */
  #mattesToRow(stage) {
    return el("div", { class: "deeds" }, button("make the mattes a row", "the list of mattes becomes a Combine fields row above this one", () => this.shot.edit({ do: "mattes_to_row", stage: stage.id })));
  }

  /**
   * What a tool's row shows: controls of rows inside, under its own labels.
   * @param {ToolUse} tool
   * @returns {Owned[]}
   */
  #faceplate(tool) {
    return tool.faceplate.flatMap((entry) => {
      const control = this.shot.controls(entry.stage).find((one) => one.id === entry.control);
      if (!control) return [];
      return [{ id: entry.stage, control: { ...control, name: entry.label, group: "", kind: { ...control.kind, slider: entry.range ?? control.kind.slider } } }];
    });
  }

  /**
   * What is placed, laid on the frame or on a matte, and seen as a ghost meanwhile.
   * @param {Stage} stage
   */
  #placing(stage) {
    const { shot } = this;
    const mattes = shot.state.braid.rows.filter((one) => one.gives === "field").map((one) => [one.id, one.name]);
    let matte = "";
    const onto = choose("what it is fitted to", "", [["", "the frame"], ...mattes], (id) => { matte = id; });
    const fit = (/** @type {string} */ way, /** @type {string} */ title) => button(way, title, async () => {
      const asked = query({ stage: stage.id, frame: shot.view.frame, way, matte: matte || null });
      const command = await trying(() => get(`${shot.base}/fit?${asked}`));
      if (command) shot.edit(command);
    });
    const ghost = button("ghost", "what is placed, half seen over the shown picture, whatever its amount", () => shot.look({ ghost: !shot.view.ghost }), shot.view.ghost);
    return el("div", { class: "deeds", role: "group", "aria-label": "fit" }, el("span", { class: "quiet" }, "fit to"), framed(onto),
      fit("inside", "as large as it can be with all of it inside"), fit("over", "as small as it can be with all of that covered"), fit("stretch", "width and height each"), ghost);
  }

  /** @param {Stage} stage */
  #keptHead(stage) {
    const { shot } = this;
    return el("div", { class: "kept" },
      el("button", { class: "button is-ghost", title: "select this row", onclick: () => shot.select([stage.id]) }, stage.name), el("span", { class: "grow" }),
      el("button", { class: "button is-ghost quiet", "aria-label": `keep ${stage.name} here no longer`, onclick: () => shot.keep(stage.id) }, "×"));
  }
}

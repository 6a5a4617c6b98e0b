// What stands above a row's controls: what can be done with it as a whole, presets, before and after.

import { get, orElse, post, query } from "../base/api.js";
import { button, el } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";

/** @typedef {{ tool: { about: { name: string, number: number } }, id: number }} Known a tool of the rack */

export class RowHead {
  /** The selected row's main input and its result, small, while they are asked for. */
  #pair = false;
  #presets = false;
  /** The tools of the rack, asked once a revision. @type {{ of: number, tools: Promise<Known[]> } | null} */
  #racked = null;

  /**
   * @param {Shot} shot
   * @param {{ panel: HTMLElement, tools: HTMLElement, kindOf: (stage: Stage) => StageKind | undefined }} nodes
   * @param {() => void} redraw
   */
  constructor(shot, nodes, redraw) {
    this.shot = shot;
    this.nodes = nodes;
    this.redraw = redraw;
  }

  /** @param {Stage} stage */
  draw(stage) {
    const { shot, nodes: { panel, tools } } = this;
    const row = shot.row(stage.id);
    const ends = !row || row.knot === "final";
    const before = ends ? undefined : stage.links?.main?.from?.stage;
    const presets = this.nodes.kindOf(stage)?.presets ?? [];
    tools.append(
      button("keep", "keep this row's controls here while others are selected", () => shot.keep(stage.id), shot.view.kept.includes(stage.id)),
      button("changed", "only the controls that were changed", () => shot.look({ changedOnly: !shot.view.changedOnly }), shot.view.changedOnly));
    const deeds = el("div", { class: "deeds" });
    if (before !== undefined) deeds.append(button("before/after", "small pictures of before and after this row", () => this.#turn("pair"), this.#pair));
    if (!ends) deeds.append(this.#bakeButton(stage));
    if (presets.length) deeds.append(button("presets", "settings to start from, as they look on this shot", () => this.#turn("presets"), this.#presets));
    if (stage.copy_of !== undefined) deeds.append(button("stand alone", "keep the values it has, and follow no more", () => shot.edit({ do: "stand_alone", stage: stage.id })));
    if (stage.tool) this.#toolDeeds(stage, stage.tool, deeds);
    if (this.#presets && presets.length) panel.prepend(this.#presetNode(stage, presets));
    if (this.#pair && before !== undefined) panel.prepend(this.#pairNode(before, stage));
    if (deeds.childElementCount || stage.tool) panel.prepend(deeds);
  }

  /** @param {"pair" | "presets"} what */
  #turn(what) {
    if (what === "pair") this.#pair = !this.#pair;
    else this.#presets = !this.#presets;
    this.redraw();
  }

  /** @param {Stage} stage */
  #bakeButton(stage) {
    const title = stage.bake ? "give the bake up: the row is worked out again" : "write this row's result to files over the range, and use them until something above changes";
    return button(stage.bake ? "baked" : "bake", title, () => this.bake(stage), Boolean(stage.bake));
  }

  /** @param {Stage | undefined} stage */
  bake(stage) {
    if (!stage) return;
    if (stage.bake) this.shot.edit({ do: "bake", stage: stage.id, frames: null });
    else trying(() => post(`${this.shot.base}/bake`, { stage: stage.id }));
  }

  #rack() {
    const { revision } = this.shot.state;
    if (this.#racked?.of !== revision) this.#racked = { of: revision, tools: orElse(get("/api/tools"), []) };
    return this.#racked.tools;
  }

  /**
   * Which number of its tool a row has, and which there are.
   * @param {Stage} stage
   * @param {ToolUse} tool
   * @param {HTMLElement} deeds
   */
  async #toolDeeds(stage, tool, deeds) {
    const known = (await this.#rack()).find((one) => one.tool.about.name === tool.name);
    const newest = known?.tool.about.number ?? 0;
    if (stage.id !== this.shot.selected) return;
    const said = `${tool.own ? "own copy of " : ""}${tool.name} ${tool.number}`;
    deeds.append(el("span", { class: "quiet" }, newest > tool.number ? `${said}; ${newest} exists` : said));
    const take = (/** @type {string} */ title) => button(`take ${newest}`, title, () => this.shot.change("take-tool", { stage: stage.id, tool: known?.id }));
    if (newest > tool.number) deeds.append(take("the newest number, with the values of the faceplate"));
    else if (tool.own && newest === tool.number) deeds.append(take("put back as the rack has it, with the values of the faceplate"));
    deeds.append(button(`keep as ${newest + 1}`, "on the rack, under a new number; other uses stay as they are", () => this.#keepTool(stage.id)));
  }

  /** @param {number} stage */
  async #keepTool(stage) {
    const kept = await trying(() => post(`${this.shot.base}/keep-tool`, { stage }));
    if (!kept) return;
    this.#racked = null;
    toast(`on the rack as number ${kept.number}`);
    this.shot.refresh();
  }

  /**
   * Each preset as a thumbnail made on this shot; a click sets it as one step.
   * @param {Stage} stage
   * @param {StageKind["presets"]} presets
   */
  #presetNode(stage, presets) {
    const { shot } = this;
    const settable = (/** @type {Control} */ control) => control.changed && !/^(amount|matte)/.test(control.id) && !["media", "names"].includes(control.kind.type);
    const changed = shot.controls(stage.id).filter(settable).map((control) => control.id);
    return el("div", { class: "presets", role: "group", "aria-label": "presets" }, ...presets.map((preset) => {
      const named = new Set(preset.settings.map(([id]) => id));
      const back = changed.filter((id) => !named.has(id)).map((id) => /** @type {[string, any]} */ ([id, null]));
      const commands = [...back, ...preset.settings].map(([control, setting]) => ({ do: "set", stage: stage.id, control, setting }));
      const at = query({ stage: stage.id, frame: shot.view.frame, revision: shot.state.revision, trial: JSON.stringify(commands) });
      return el("button", { class: "preset", onclick: () => shot.edit({ do: "together", commands }) }, el("img", { alt: "", loading: "lazy", src: `${shot.base}/thumb?${at}` }), el("span", {}, preset.name));
    }));
  }

  /**
   * @param {number} before
   * @param {Stage} stage
   */
  #pairNode(before, stage) {
    const { shot } = this;
    const picture = (/** @type {number} */ id, /** @type {string} */ words) => el("figure", {},
      el("img", { alt: `${words} ${stage.name}`, src: `${shot.base}/still?${query({ stage: id, frame: shot.view.frame, revision: shot.state.revision })}` }),
      el("figcaption", {}, words));
    return el("div", { class: "pair" }, picture(before, "before"), picture(stage.id, "after"));
  }
}

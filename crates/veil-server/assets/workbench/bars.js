// The bars about the picture: what they say, and what their buttons and fields do.

import { post } from "../base/api.js";
import { button, byId, el, fieldOf, versionName, within } from "../base/parts.js";
import { trying } from "../base/telling.js";
import { MODES } from "../viewer/sides.js";
import { faultList } from "./faultlist.js";
import { find } from "./find.js";
import { makeTool } from "./maketool.js";
import { askRender } from "./rendering.js";
import { versions } from "./versions.js";

// The most that a picture is made lighter or darker, in stops.
const STOPS = 16;

export class Bars {
  /** @param {import("./workbench.js").Workbench} bench */
  constructor(bench) {
    this.bench = bench;
    this.shot = bench.shot;
    byId("compare-mode").append(...MODES.map(([id, name]) => el("option", { value: id }, name)));
    this.#buttons();
    this.#fields();
    this.shot.watch((what) => this.#heard(what));
  }

  #buttons() {
    const { bench, shot } = this;
    const { panels, player, viewer, looking } = bench;
    const first = () => shot.go(shot.state.setup.picture.frames.first);
    /** @type {{ [id: string]: () => unknown }} */
    const presses = {
      add: () => find(shot, bench.stages, []), find: () => find(shot, bench.stages, bench.shortcuts.all()),
      undo: () => shot.step("undo"), redo: () => shot.step("redo"), render: () => askRender(shot), keep: () => versions(shot),
      "make-tool": () => makeTool(shot), faults: () => faultList(shot), own: () => shot.select(shot.selected === 0 ? [] : [0]),
      compare: () => bench.turnCompare(), view: () => looking.open(byId("view")), zoom: () => viewer.fit(),
      costs: () => panels.nextCosts(), compact: () => panels.turnCompact(), "hide-braid": () => panels.hide("no-braid"), "hide-bench": () => panels.hide("no-bench"),
      "show-curves": () => panels.turnCurves(), "auto-key": () => shot.look({ autoKey: !shot.view.autoKey }), "whole-range": () => shot.setRange(null, null),
      play: () => player.toggle(), back: () => shot.go(shot.view.frame - 1), forth: () => shot.go(shot.view.frame + 1), first,
    };
    for (const [id, run] of Object.entries(presses)) byId(id).onclick = run;
  }

  #fields() {
    const { shot, bench } = this;
    const changed = (/** @type {string} */ id, /** @type {(value: string) => unknown} */ take) => {
      byId(id).onchange = () => take(fieldOf(id).value);
    };
    changed("side-a", (sideA) => shot.look({ sideA }));
    changed("side-b", (sideB) => shot.look({ sideB }));
    changed("compare-mode", (mode) => shot.look({ compare: /** @type {View["compare"]} */ (mode) }));
    changed("look", (look) => shot.look({ look }));
    changed("way", () => bench.braid.draw());
    changed("exposure", (text) => shot.look(Number.isFinite(Number(text)) ? { exposure: within(Number(text), -STOPS, STOPS) } : {}));
    changed("frame", (text) => {
      if (text.trim() && Number.isFinite(Number(text))) shot.go(Number(text));
      fieldOf("frame").value = String(shot.view.frame);
    });
    byId("frame").onfocus = () => fieldOf("frame").select();
    byId("filter").oninput = () => bench.braid.draw();
    byId("filter").onkeydown = (event) => {
      if (event.key === "Escape") fieldOf("filter").value = "";
      else if (event.key !== "Enter") return;
      byId("braid").focus();
      bench.braid.draw();
    };
  }

  /** @param {Told} what */
  #heard(what) {
    if (["trial", "painted", "measured", "marks"].includes(what)) return;
    if (what === "setup") {
      byId("fps").textContent = `${this.shot.state.setup.picture.fps.toFixed(1)} fps`;
      this.bench.panels.drawCosts();
    }
    this.#drawHead();
    this.#drawLooks();
    this.#drawCompare();
  }

  #drawHead() {
    const { shot } = this;
    const { state, view } = shot;
    byId("version").textContent = state.version ? `· ${versionName(state.version)}` : "";
    for (const id of /** @type {const} */ (["undo", "redo"])) {
      fieldOf(id).disabled = !state[id];
      byId(id).title = state[id] ? `${id}: ${state[id].label}` : `nothing to ${id}`;
    }
    byId("make-tool").hidden = !view.selected.some((id) => (shot.row(id)?.knot ?? "final") !== "final");
    const told = shot.told().length;
    byId("faults").hidden = told === 0;
    byId("faults").textContent = `${told} to check`;
  }

  #drawLooks() {
    const { shot } = this;
    const { shown, look, exposure, autoKey, range, rows } = shot.view;
    byId("shown").textContent = `shown: ${shot.row(shown)?.name ?? shot.stage(shown)?.name ?? ""}`;
    fieldOf("look").value = look;
    fieldOf("exposure").value = `${exposure < 0 ? "" : "+"}${exposure.toFixed(1)}`;
    byId("auto-key").setAttribute("aria-pressed", String(autoKey));
    byId("compact").setAttribute("aria-pressed", String(rows === "compact"));
    const played = shot.range();
    byId("whole-range").hidden = !range;
    byId("whole-range").textContent = `${played.first}–${played.last} ×`;
  }

  #drawCompare() {
    const { compare, sideA, sideB } = this.shot.view;
    byId("compare").setAttribute("aria-pressed", String(Boolean(compare)));
    /** @type {HTMLElement} */ (byId("compare-mode").parentElement).hidden = !compare;
    if (!compare) return;
    fieldOf("compare-mode").value = compare;
    this.#fillSide("side-a", sideA);
    this.#fillSide("side-b", sideB);
  }

  /**
   * The choices of a side, as they are now.
   * @param {string} id
   * @param {string} side
   */
  #fillSide(id, side) {
    const select = fieldOf(id);
    select.replaceChildren(...this.bench.sides.choices().flatMap(([group, entries]) => {
      const options = entries.map(([value, name]) => el("option", { value, selected: value === side }, name));
      return group ? [el("optgroup", { label: group }, ...options)] : options;
    }));
    if (select.value !== side && side.startsWith("frame:")) select.append(el("option", { value: side, selected: true }, side.replace(":", " ")));
  }

  /** An opened version is looked at only: it says so, and which newer one there is. */
  drawOpened() {
    const { shot } = this;
    const [code, number] = shot.code.split("@");
    if (!number) return;
    const live = `/shots/${encodeURIComponent(shot.show)}/${encodeURIComponent(code)}`;
    const newer = shot.state.version > Number(number) ? `; ${versionName(shot.state.version)} exists` : "";
    const goOn = async () => {
      if (await trying(() => post(`/api${live}/versions/${number}/go-on`, { base: shot.state.revision }))) location.href = live;
    };
    byId("opened").hidden = false;
    byId("opened").replaceChildren(`${versionName(Number(number))}, read-only${newer} `,
      button("go on from here", "this version becomes the live setup, as a step that undo takes back", goOn), el("a", { class: "button is-ghost", href: live }, "the live setup"));
    document.body.classList.add("read-only");
  }
}

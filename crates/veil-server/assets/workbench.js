// The workbench: wires the panels together.

import { get, post } from "./api.js";
import { bench } from "./bench.js";
import { braid } from "./braid.js";
import { curves } from "./curves.js";
import { openDialog } from "./dialog.js";
import { faultList, find, makeTool, render, versions } from "./dialogs.js";
import { nextStep } from "./nextstep.js";
import { player } from "./play.js";
import { el, icon, toast, trying } from "./parts.js";
import { openRowMenu, rowDeeds } from "./rowmenu.js";
import { looking } from "./looking.js";
import { declarations, Shot } from "./shot.js";
import { chordOf, shortcuts } from "./shortcuts.js";
import { MODES, sides } from "./sides.js";
import { strip } from "./strip.js";
import { viewer } from "./viewer.js";

const byId = (id) => document.getElementById(id);
const head = document.querySelector(".head");
const stages = await get("/api/stages");
const shot = new Shot(head.dataset.show, head.dataset.code, await declarations(stages));
let plates = [];

const viewNodes = {
  well: byId("well"), canvas: byId("picture"), overlay: byId("grips"), note: byId("note"), zoom: byId("zoom"),
  tags: [byId("tag-a"), byId("tag-b")], size: byId("size"), place: byId("place"), values: byId("values"), cost: byId("cost"),
};
const known = {
  kept: { stills: [], versions: [], renders: [] },
  stills: () => known.kept.stills,
  versions: () => known.kept.versions,
  renders: () => known.kept.renders,
  plates: () => plates,
  // The commands with the keys they have now.
  commands: () => commands.map((command) => ({ ...command, keys: keys.keysOf(command) })),
  setStills(stills) { known.kept.stills = stills; },
  async refresh() {
    const [stills, versions, renders] = await Promise.all(["stills", "versions", "renders"].map((kind) => get(`${shot.base}/${kind}`).catch(() => [])));
    known.kept = { stills, versions, renders };
  },
};
const compared = sides(shot, known);
const view = viewer(shot, compared, viewNodes);
const looks = looking(shot, known, { scopes: byId("scopes") });
const time = strip(shot, byId("strip"), { frame: byId("frame"), held: () => play?.frames() ?? [] });
const lines = curves(shot, byId("curves"), time.scale);
const play = player(shot, view, {
  heldChanged: () => time.draw(),
  playing(on) {
    byId("play").replaceChildren(icon(on ? "pause" : "play"));
    byId("play").setAttribute("aria-label", on ? "stop" : "play");
    byId("time").dataset.playing = on;
    if (!on) tools.draw();
  },
  fps: (real) => { byId("fps").textContent = `${real} of ${shot.state.setup.picture.fps} fps`; },
  loops: () => byId("loop").checked,
});
viewNodes.play = play;
const deeds = rowDeeds(shot, stages);
const rows = braid(shot, byId("braid"), {
  deeds,
  menu: (at) => openRowMenu(shot, deeds, at, known.commands().filter((one) => one.ofRows), byId("braid")),
  gutter: document.getElementById("gutter"),
  filter: () => ({ words: byId("filter").value.trim(), way: byId("way").value }),
});
const tools = bench(shot, {
  panel: byId("controls"), name: byId("bench-name"), tools: byId("bench-tools"), help: byId("help"),
  helpOf: (stage) => (stage.tool ? `Tool ${stage.tool.name}, number ${stage.tool.number}. Unfold its row to see what it is made of.` : stages.find((one) => one.id === stage.kind)?.help ?? ""),
  places: (stage) => stages.find((one) => one.id === stage.kind)?.places ?? false,
  presetsOf: (stage) => stages.find((one) => one.id === stage.kind)?.presets ?? [],
  plates: () => plates,
  playing: () => play.running(),
});
viewNodes.clicked = tools.picked;

const hide = (panel, on) => document.body.classList.toggle(panel, on);
const compare = () => {
  shot.view.compare = shot.view.compare ? "" : "split";
  shot.tell("view");
};
// The choices of a side's select, as they are now.
function fillSide(id, side) {
  const select = byId(id);
  select.replaceChildren(...compared.choices().flatMap(([group, entries]) => {
    const options = entries.map(([value, name]) => el("option", { value, selected: value === side }, name));
    return group ? [el("optgroup", { label: group }, ...options)] : options;
  }));
  if (select.value !== side && side.startsWith("frame:")) select.append(el("option", { value: side, selected: true }, side.replace(":", " ")));
}
for (const [id, side] of [["side-a", "sideA"], ["side-b", "sideB"]]) {
  byId(id).onchange = () => {
    shot.view[side] = byId(id).value;
    shot.tell("view");
  };
}
byId("compare-mode").append(...Object.entries(MODES).map(([id, name]) => el("option", { value: id }, name)));
byId("compare-mode").onchange = () => {
  shot.view.compare = byId("compare-mode").value;
  shot.tell("view");
};
const commands = [
  { name: "add a stage", keys: "/", run: () => find(shot, stages, known.commands(), "stages") },
  { name: "find", keys: "Ctrl K", run: () => find(shot, stages, known.commands()), where: "fields" },
  { name: "undo", keys: "Ctrl Z", run: () => shot.step("undo"), where: "anywhere" },
  { name: "redo", keys: "Ctrl Shift Z", run: () => shot.step("redo"), where: "anywhere" },
  { name: "show the selected row", keys: "Enter", run: () => shot.show_row(shot.selected), where: "rows" },
  { name: "on or off", keys: "o", run: () => rows.ofEntry("count") || deeds.onOff(), ofRows: true },
  { name: "back to the row before", keys: "Alt ←", run: () => shot.back(), where: "rows" },
  { name: "up among the rows", keys: "Alt ↑", run: () => rows.moveBy(-1), where: "rows" },
  { name: "down among the rows", keys: "Alt ↓", run: () => rows.moveBy(1), where: "rows" },
  { name: "rename", keys: "F2", run: rows.rename, where: "rows", ofRows: true },
  { name: "remove", keys: "Delete", run: () => rows.ofEntry("remove") || deeds.remove(), where: "rows", ofRows: true },
  { name: "copy rows", keys: "Ctrl C", run: deeds.copy, where: "rows", ofRows: true },
  { name: "cut rows", keys: "Ctrl X", run: deeds.cut, where: "rows", ofRows: true },
  { name: "put in what was copied", keys: "Ctrl V", run: () => deeds.paste(""), where: "rows", pastes: true, ofRows: true },
  { name: "duplicate", keys: "Ctrl D", run: () => deeds.duplicate(false), where: "rows", ofRows: true },
  { name: "duplicate, following", keys: "Ctrl Shift D", run: () => deeds.duplicate(true), where: "rows", ofRows: true },
  { name: "what else the row can do", keys: "Shift F10", run: rows.menu, where: "rows" },
  { name: "next slot of the selected row", keys: "j", run: rows.nextJoin, where: "rows" },
  { name: "group the selected rows", keys: "Ctrl G", run: deeds.group, where: "rows", ofRows: true },
  { name: "out of its group", keys: "", run: deeds.ungroup, where: "rows", ofRows: true },
  { name: "compact rows", keys: "", run: () => compactRows() },
  { name: "filter rows", keys: "", run: () => byId("filter").focus() },
  { name: "make a tool of the selected rows", keys: "", run: () => makeTool(shot) },
  { name: "play or stop", keys: "Space", run: play.toggle, where: "anywhere" },
  { name: "one frame back", keys: ",", run: () => shot.go(shot.view.frame - 1) },
  { name: "one frame on", keys: ".", run: () => shot.go(shot.view.frame + 1) },
  { name: "to the key before", keys: "Shift ,", run: () => time.toKey(-1) },
  { name: "to the next key", keys: "Shift .", run: () => time.toKey(1) },
  { name: "curves", keys: "v", run: toggleCurves },
  { name: "auto-key", keys: "", run: toggleAutoKey },
  { name: "play from here on", keys: "[", run: () => setEnd("from") },
  { name: "play up to here", keys: "]", run: () => setEnd("to") },
  { name: "play the whole range", keys: "", run: () => shot.setRange(null, null) },
  { name: "compare with the selected stage off", keys: "", run: compare },
  { name: "how it is looked at", keys: "", run: () => looks.open(byId("view")) },
  { name: "keep a still", keys: "k", run: looks.keepStill },
  { name: "sheet of frames", keys: "", run: looks.sheet },
  { name: "data windows", keys: "", run: () => looks.toggle("windows") },
  { name: "fold view", keys: "", run: () => looks.toggle("foldView") },
  { name: "moves view", keys: "", run: () => looks.toggle("moves") },
  { name: "motion view", keys: "", run: () => looks.toggle("motion") },
  { name: "scopes", keys: "", run: () => looks.toggle("scopes") },
  { name: "flip the compare while held", keys: "c", run: () => view.flip(true) },
  { name: "hide or show the grips", keys: "g", run: () => toggleGrips() },
  { name: "fit the picture", keys: "0", run: view.fit },
  { name: "100 %", keys: "1", run: () => view.zoomTo(1) },
  { name: "picture alone", keys: "f", run: () => alone() },
  { name: "next panel", keys: "F6", run: () => nextPanel(), where: "fields" },
  { name: "what each row costs", keys: "", run: nextCosts },
  { name: "own controls", keys: "", run: () => shot.select([0]) },
  { name: "bake the selected row", keys: "", run: () => tools.bake(shot.stage(shot.selected)) },
  { name: "render", keys: "", run: () => render(shot) },
  { name: "versions", keys: "", run: () => versions(shot) },
  { name: "shortcuts", keys: "?", run: () => openDialog("shortcuts", [keys.list()]) },
];
const keys = shortcuts(commands);

// What rows cost: at this frame, then over the range, then not.
async function nextCosts() {
  const next = { "": "here", here: "range", range: "" }[rows.costing()];
  byId("costs").setAttribute("aria-pressed", next !== "");
  byId("costs").textContent = { "": "ms", here: "ms here", range: "ms in range" }[next];
  await rows.askCosts(next);
}

// A point that is being followed, with what stops it.
function following(event) {
  if (event.what !== "track" || event.show !== shot.show || event.code !== shot.code) return;
  const node = byId("baking");
  node.hidden = event.going !== "running";
  if (event.going === "running") node.replaceChildren(`following ${event.name}: ${event.done} of ${event.total} `, el("button", { class: "button veil bare", onclick: () => trying(() => post(`${shot.base}/tracks/stop`, {})) }, "stop"));
  else toast(`${event.name}: ${event.message}`, event.going === "failed");
}

// A bake on its way, with what stops it.
function baking(event) {
  if (event.what !== "bake" || event.show !== shot.show || event.code !== shot.code) return;
  const node = byId("baking");
  node.hidden = event.going !== "running";
  const name = shot.stage(event.stage)?.name ?? "a row";
  if (event.going === "running") {
    const stop = el("button", { class: "button veil bare", onclick: () => trying(() => post(`${shot.base}/bake/stop`, { stage: event.stage })) }, "stop");
    node.replaceChildren(`baking ${name}: ${event.done} of ${event.total} `, stop);
  }
  if (event.going === "done") toast(`${name} is baked`);
  if (event.going === "stopped") toast(`the bake of ${name} was stopped`);
  if (event.going === "failed") toast(`${name} was not baked: ${event.message}`, true);
}

function compactRows() {
  shot.view.rows = shot.view.rows === "compact" ? "usual" : "compact";
  byId("compact").setAttribute("aria-pressed", shot.view.rows === "compact");
  shot.tell("view");
}

function toggleCurves() {
  byId("curves").hidden = !byId("curves").hidden;
  byId("show-curves").setAttribute("aria-pressed", !byId("curves").hidden);
  lines.draw();
}

function toggleAutoKey() {
  shot.view.autoKey = !shot.view.autoKey;
  shot.tell("view");
}

// In or out comes to the playhead; where it passes the other, that one goes.
function setEnd(which) {
  const { from = null, to = null } = shot.view.range ?? {};
  const next = { from, to, [which]: shot.view.frame };
  if (next.from !== null && next.to !== null && next.from > next.to) next[which === "from" ? "to" : "from"] = null;
  shot.setRange(next.from, next.to);
}

let gripsHidden = false;
function toggleGrips() {
  gripsHidden = !gripsHidden;
  view.hideGrips(gripsHidden);
}

function alone() {
  const on = !(document.body.classList.contains("no-braid") && document.body.classList.contains("no-bench"));
  hide("no-braid", on);
  hide("no-bench", on);
}

function nextPanel() {
  const panels = [byId("braid"), byId("well"), byId("strip"), byId("controls").querySelector("input,select,button")].filter(Boolean);
  const at = panels.findIndex((panel) => panel.contains(document.activeElement) || byId("controls").contains(document.activeElement) && panel === panels[3]);
  panels[(at + 1) % panels.length].focus();
}

const typing = (target) => target.closest("input:not([type=range]):not([type=checkbox]),select,textarea,dialog");

// Single keys work in the panels alone, not wherever the focus happens to be.
const PANELS = "#braid,#well,#strip,.time,.viewbar,#curves";

document.addEventListener("keydown", (event) => {
  const { target } = event;
  if (target.closest("dialog")) return;
  const inPanel = target === document.body || target.closest(PANELS);
  const counts = {
    fields: () => true,
    anywhere: () => !typing(target) && !(event.key === " " && target.tagName === "BUTTON"),
    panels: () => !typing(target) && inPanel && !(event.key === "Enter" && target.tagName === "BUTTON"),
    rows: () => !typing(target) && target.closest("#braid"),
  };
  const command = keys.at(chordOf(event), ({ where }) => counts[where ?? "panels"]());
  // What is put in comes with the event that follows this one.
  if (!command || command.pastes && (event.ctrlKey || event.metaKey)) return;
  event.preventDefault();
  event.stopPropagation();
  command.run();
}, { capture: true });
document.addEventListener("keyup", () => view.flip(false));

byId("add").onclick = () => find(shot, stages, known.commands(), "stages");
byId("find").onclick = () => find(shot, stages, known.commands());
byId("undo").onclick = () => shot.step("undo");
byId("redo").onclick = () => shot.step("redo");
byId("render").onclick = () => render(shot);
byId("keep").onclick = () => versions(shot);
byId("make-tool").onclick = () => makeTool(shot);
byId("faults").onclick = () => faultList(shot);
byId("compare").onclick = compare;
byId("view").onclick = () => looks.open(byId("view"));
byId("costs").onclick = nextCosts;
byId("compact").onclick = compactRows;
byId("filter").oninput = rows.draw;
byId("filter").onkeydown = (event) => {
  if (event.key === "Escape") byId("filter").value = "";
  else if (event.key !== "Enter") return;
  byId("braid").focus();
  rows.draw();
};
byId("way").onchange = rows.draw;
byId("show-curves").onclick = toggleCurves;
byId("auto-key").onclick = toggleAutoKey;
byId("own").onclick = () => shot.select(shot.selected === 0 ? [] : [0]);
byId("whole-range").onclick = () => shot.setRange(null, null);
byId("play").onclick = play.toggle;
byId("back").onclick = () => shot.go(shot.view.frame - 1);
byId("forth").onclick = () => shot.go(shot.view.frame + 1);
byId("first").onclick = () => shot.go(shot.state.setup.picture.frames.first);
byId("zoom").onclick = view.fit;
byId("hide-braid").onclick = () => hide("no-braid", !document.body.classList.contains("no-braid"));
byId("hide-bench").onclick = () => hide("no-bench", !document.body.classList.contains("no-bench"));
byId("look").onchange = () => {
  shot.view.look = byId("look").value;
  shot.tell("view");
};
byId("frame").onfocus = () => byId("frame").select();
byId("frame").onchange = () => {
  const frame = Number(byId("frame").value);
  if (Number.isFinite(frame)) shot.go(frame);
  byId("frame").value = shot.view.frame;
};
byId("exposure").onchange = () => {
  const stops = Number(byId("exposure").value);
  if (Number.isFinite(stops)) shot.view.exposure = Math.min(16, Math.max(-16, stops));
  shot.tell("view");
};

const drawNext = nextStep(shot, byId("nextstep"), () => plates, () => byId("add").click());
shot.watch((what) => {
  if (["trial", "painted", "measured"].includes(what)) return;
  if (what === "setup") {
    drawNext();
    byId("costs").setAttribute("aria-pressed", false);
    byId("costs").textContent = "ms";
  }
  const { state, view: looked } = shot;
  byId("version").textContent = state.version ? `· v${String(state.version).padStart(3, "0")}` : "";
  byId("shown").textContent = `shown: ${shot.row(looked.shown)?.name ?? shot.stage(looked.shown)?.name ?? ""}`;
  byId("look").value = looked.look;
  byId("exposure").value = `${looked.exposure < 0 ? "" : "+"}${looked.exposure.toFixed(1)}`;
  byId("auto-key").setAttribute("aria-pressed", looked.autoKey);
  const played = shot.range();
  byId("whole-range").hidden = !looked.range;
  byId("whole-range").textContent = `${played.first}–${played.last} ×`;
  byId("compare").setAttribute("aria-pressed", Boolean(looked.compare));
  byId("compare-mode").parentElement.hidden = !looked.compare;
  if (looked.compare) {
    byId("compare-mode").value = looked.compare;
    fillSide("side-a", looked.sideA);
    fillSide("side-b", looked.sideB);
  }
  for (const [id, step] of [["undo", state.undo], ["redo", state.redo]]) {
    byId(id).disabled = !step;
    byId(id).title = step ? `${id}: ${step.label}` : `nothing to ${id}`;
  }
  byId("make-tool").hidden = !looked.selected.some((id) => shot.row(id) && shot.row(id).knot !== "final");
  const told = shot.told().length;
  byId("faults").hidden = told === 0;
  byId("faults").textContent = `${told} to check`;
  if (what === "setup") byId("fps").textContent = `${state.setup.picture.fps.toFixed(1)} fps`;
});

// An opened version is looked at only: it says so, and which newer one there is.
function drawOpened() {
  const [code, number] = shot.code.split("@");
  if (!number) return;
  const live = `/shots/${encodeURIComponent(shot.show)}/${encodeURIComponent(code)}`;
  const name = (one) => `v${String(one).padStart(3, "0")}`;
  byId("opened").hidden = false;
  byId("opened").replaceChildren(`${name(number)}, read-only${shot.state.version > Number(number) ? `; ${name(shot.state.version)} exists` : ""} `,
    el("button", { class: "button veil", title: "this version becomes the live setup, as a step that undo takes back", onclick: async () => {
      if (await trying(() => post(`/api${live}/versions/${number}/go-on`, { base: shot.state.revision }))) location.href = live;
    } }, "go on from here"), el("a", { class: "button veil bare", href: live }, "the live setup"));
  document.body.classList.add("read-only");
}

plates = (await trying(() => get(`/api/shows/${encodeURIComponent(shot.show)}/media`))) ?? [];
shot.listeners.push(baking, following);
await known.refresh();
const asked = new URLSearchParams(location.search).get("render");
if (asked && known.renders().some((render) => String(render.id) === asked)) {
  // A render is looked at beside what the shot is now.
  Object.assign(shot.view, { compare: "split", sideA: `render:${asked}`, sideB: "now" });
  history.replaceState(null, "", location.pathname);
}
await trying(() => shot.load());
drawOpened();
document.body.dataset.ready = "true";

// Dialogs of the workbench: find, make a tool, render, versions, shortcuts.

import { get, post, query, remove } from "./api.js";
import { openDialog } from "./dialog.js";
import { el, icon, toast, trying } from "./parts.js";

const dialog = document.getElementById("dialog");

const line = (label, ...content) => el("label", { class: "line" }, label, ...content);

// Stages, tools, shots and commands, by name.
export async function find(shot, stages, commands, only) {
  const tools = (await trying(() => get("/api/tools"))) ?? [];
  const after = shot.selected ?? null;
  const entries = [
    ...stages.filter((stage) => stage.id !== "final").map((stage) => ({ name: stage.name, about: stage.help, group: stage.family, run: (way) => shot.add({ do: "add", kind: stage.id, after }, after, way) })),
    ...tools.map((known) => ({ name: known.tool.about.name, about: `tool, number ${known.tool.about.number}`, group: "tool", run: (way) => placeTool(shot, known.tool, after, way) })),
    ...(only === "stages" ? [] : commands.map((command) => ({ name: command.name, about: command.keys, group: "command", run: command.run }))),
  ];
  let at = 0;
  const field = el("input", { class: "veil-field", placeholder: "a stage, a tool or a command", "aria-label": "find", style: "height:34px" });
  const list = el("ul", { class: "found", role: "listbox", "aria-label": "what fits", tabindex: 0 });
  const matching = () => {
    const wanted = field.value.trim().toLowerCase();
    const starts = (entry) => (entry.name.toLowerCase().startsWith(wanted) ? 0 : 1);
    return entries.filter((entry) => `${entry.name} ${entry.about} ${entry.group}`.toLowerCase().includes(wanted)).sort((a, b) => starts(a) - starts(b));
  };
  const run = (entry, way = "meant") => {
    dialog.close();
    entry?.run(way);
  };
  const draw = () => {
    const found = matching();
    at = Math.max(0, Math.min(at, found.length - 1));
    list.replaceChildren(...found.map((entry, index) => el("li", { role: "option", "aria-selected": index === at, onclick: () => run(entry) }, el("b", {}, entry.name), el("small", { class: "grow" }, entry.about), el("small", {}, entry.group))));
    list.children[at]?.scrollIntoView({ block: "nearest" });
  };
  field.oninput = () => { at = 0; draw(); };
  field.onkeydown = (event) => {
    if (event.key === "Enter") {
      // The same key must not press a button of what opens next.
      event.preventDefault();
      run(matching()[at], event.shiftKey ? "plain" : "meant");
    } else if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      at += event.key === "ArrowDown" ? 1 : -1;
      event.preventDefault();
      draw();
    }
  };
  openDialog(only === "stages" ? "add a stage" : "find", [field, list, el("p", { class: "quiet" }, "Enter puts it where it is meant for what is selected; Shift Enter after the selected row, on its strand.")]);
  draw();
  field.focus();
}

function placeTool(shot, tool, after, way) {
  const here = shot.state.setup.picture.height;
  const place = (scale) => {
    dialog.close();
    shot.add({ do: "place_tool", tool, after, scale_lengths: scale }, after, way);
  };
  if (tool.made_at_height === here) return place(false);
  openDialog(`put in ${tool.about.name}`, [el("p", {}, `It was made on a picture ${tool.made_at_height} high; this one is ${here} high. Scale its lengths to this picture?`)], [
    el("button", { class: "button veil", onclick: () => place(false) }, "keep its lengths"),
    el("button", { class: "button veil brass", onclick: () => place(true) }, "scale lengths"),
  ]);
}

// The chosen rows become a tool.
export async function makeTool(shot) {
  const rows = shot.state.setup.stages.filter((stage) => shot.view.selected.includes(stage.id)).map((stage) => stage.id);
  const found = await trying(() => post(`${shot.base}/tool-inputs`, { rows }));
  if (!found) return;
  const name = el("input", { class: "veil-field", name: "tool-name", "aria-label": "name of the tool", placeholder: "haze" });
  const inputs = found.inputs.map((input, index) => el("input", { class: "veil-field", value: input, "aria-label": `name of input ${index + 1}` }));
  const picks = rows.flatMap((id) => shot.controls(id).filter((control) => control.kind.type === "number" || control.axes.length || control.kind.type === "choice").map((control) => {
    const box = el("input", { type: "checkbox", "aria-label": `show ${control.name} of ${shot.stage(id).name}`, "data-pick": `${id}-${control.id}` });
    const label = el("input", { class: "veil-field", value: control.name, "aria-label": "label" });
    const from = el("input", { class: "veil-field num", value: control.kind.slider?.[0] ?? "", size: 4, "aria-label": "least" });
    const to = el("input", { class: "veil-field num", value: control.kind.slider?.[1] ?? "", size: 4, "aria-label": "most" });
    const node = el("div", { style: "display:grid;grid-template-columns:24px 150px 1fr 56px 56px;gap:6px;align-items:center" }, box, el("span", { class: control.changed ? "" : "quiet" }, `${shot.stage(id).name}: ${control.name}`), label, from, to);
    return { id, control, box, label, from, to, node };
  }));
  picks.sort((a, b) => Number(b.control.changed) - Number(a.control.changed));
  const make = async () => {
    if (!name.value.trim()) return toast("give the tool a name", true);
    const faceplate = picks.filter((pick) => pick.box.checked).map((pick) => {
      const range = [Number(pick.from.value), Number(pick.to.value)];
      const slides = pick.from.value !== "" && pick.to.value !== "" && range.every(Number.isFinite);
      return { label: pick.label.value.trim() || pick.control.name, stage: pick.id, control: pick.control.id, range: slides ? range : null, default: pick.control.setting };
    });
    dialog.close();
    const state = await shot.edit({ do: "make_tool", rows, name: name.value.trim(), inputs: inputs.map((input) => input.value), faceplate });
    if (!state) return;
    const row = state.step.row;
    shot.select([row]);
    const kept = await trying(() => post(`${shot.base}/keep-tool`, { stage: row }));
    if (kept) toast(`${name.value.trim()} is on the rack as number ${kept.number}`);
  };
  openDialog("make a tool", [
    line("name", name),
    ...inputs.map((input, index) => line(index === 0 ? "takes" : "and", input)),
    el("p", { class: "quiet" }, "What its faceplate shows: label, least and most of the slider. The values now are its defaults."),
    el("div", { style: "display:grid;gap:3px;max-height:38vh;overflow:auto" }, ...picks.map((pick) => pick.node)),
  ], [el("button", { class: "button veil", onclick: () => dialog.close() }, "cancel"), el("button", { class: "button veil brass", id: "make-it", onclick: make }, "make the tool")]);
  name.focus();
}

export function render(shot) {
  const { first, last } = shot.state.setup.picture.frames;
  const frames = el("input", { class: "veil-field num", value: `${first}-${last}`, "aria-label": "frames" });
  const form = el("select", { "aria-label": "form" }, el("option", { value: "exr" }, "OpenEXR, half"), el("option", { value: "png" }, "PNG, 16 bit, sRGB"), el("option", { value: "tif" }, "TIFF, float, linear"), el("option", { value: "jpg" }, "JPEG, sRGB"),
    el("option", { value: "mp4" }, "clip: MP4, H.264"), el("option", { value: "webm" }, "clip: WebM, VP9 with alpha"));
  const scale = el("select", { "aria-label": "scale" }, ...[1, 2, 3, 4].map((one) => el("option", { value: one }, one === 1 ? "full" : `1/${one}`)));
  const row = el("select", { "aria-label": "row" }, ...shot.state.braid.rows.map((one) => el("option", { value: one.id, selected: one.knot === "final" }, one.name)));
  const baked = shot.state.setup.stages.some((stage) => stage.bake);
  const bakes = el("select", { "aria-label": "bakes" }, el("option", { value: "ignored" }, "worked out anew"), el("option", { value: "used" }, "used where they fit"));
  const start = async () => {
    const queued = await trying(() => post(`${shot.base}/render`, { stage: Number(row.value), frames: frames.value, form: form.value, scale: Number(scale.value), bakes: bakes.value }));
    if (!queued) return;
    dialog.close();
    location.href = "/renders";
  };
  openDialog("render", [
    line("row", el("span", { class: "select veil" }, row)),
    line("frames", frames),
    line("files", el("span", { class: "select veil" }, form)),
    line("scale", el("span", { class: "select veil" }, scale)),
    ...(baked ? [line("bakes", el("span", { class: "select veil" }, bakes))] : []),
  ], [el("button", { class: "button veil", onclick: () => dialog.close() }, "cancel"), el("button", { class: "button veil brass", id: "start-render", onclick: start }, "render")]);
  frames.focus();
}

// Versions: keep one, see what came after it, go on from it.
export async function versions(shot) {
  const name = el("input", { class: "veil-field", "aria-label": "name of the version", placeholder: "may be left empty" });
  const number = (version) => `v${String(version.number).padStart(3, "0")}`;
  const list = el("ul", { class: "versions" });
  const told = el("div", { class: "told", role: "status" });
  const keep = async () => {
    const kept = await trying(() => post(`${shot.base}/versions`, { name: name.value }));
    if (!kept) return;
    dialog.close();
    toast(`kept as ${number(kept)}`);
    shot.refresh();
  };
  const goOn = async (version) => {
    dialog.close();
    if (await shot.change(`versions/${version.number}/go-on`, {})) toast(`goes on from ${number(version)}`);
  };
  const leave = async (version) => {
    dialog.close();
    if (await trying(() => remove(`${shot.base}/versions/${version.number}`))) toast(`${number(version)} is in the bin`);
    shot.refresh();
  };
  const still = (version, words) => {
    const stage = shot.state.setup.stages[shot.state.setup.stages.length - 1].id;
    const at = query({ stage, frame: shot.view.frame, revision: shot.state.revision, version });
    return el("figure", {}, el("img", { alt: words, src: `${shot.base}/still?${at}` }), el("figcaption", {}, words));
  };
  // What came between a version and another, or the live setup.
  const compare = async (from, to) => {
    const found = await trying(() => get(`${shot.base}/versions/difference?${query({ from: from.number, to: to?.number })}`));
    if (!found) return;
    const rows = found.map((row) => el("li", {}, el("b", {}, row.row), ` ${row.what.join("; ")}`));
    told.replaceChildren(
      el("div", { class: "pair" }, still(from.number, number(from)), still(to?.number, to ? number(to) : "now")),
      rows.length ? el("ul", {}, ...rows) : el("p", { class: "quiet" }, "the rows are the same"));
  };
  const known = (await trying(() => get(`${shot.base}/versions`))) ?? [];
  for (const [index, version] of known.entries()) {
    const with_ = el("select", { "aria-label": `compare ${number(version)} with`, onchange: () => with_.value && compare(version, known.find((one) => String(one.number) === with_.value)) },
      el("option", { value: "" }, "compare with"), el("option", { value: "now" }, "now"),
      ...known.slice(0, index).map((one) => el("option", { value: one.number }, number(one))));
    list.append(el("li", {}, el("span", { class: "num" }, number(version)), el("span", { class: "grow" }, version.name),
      el("span", { class: "quiet" }, new Date(version.at * 1000).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })),
      el("span", { class: "select veil" }, with_),
      el("a", { class: "button veil bare", title: "to look at, read-only", href: `/shots/${encodeURIComponent(shot.show)}/${encodeURIComponent(shot.code.split("@")[0])}@${version.number}` }, "open"),
      el("button", { class: "button veil", title: "this version becomes the live setup; undo takes it back", onclick: () => goOn(version) }, "go on from here"),
      el("button", { class: "button veil bare", "aria-label": `delete ${number(version)}`, title: "delete", onclick: () => leave(version) }, icon("trash-2"))));
  }
  openDialog("versions", [line("keep as it is now", el("span", { style: "display:flex;gap:6px" }, name, el("button", { class: "button veil brass", onclick: keep }, "keep it"))), list, told]);
  dialog.classList.toggle("wide", true);
  dialog.onclose = () => dialog.classList.remove("wide");
  name.onkeydown = (event) => {
    if (event.key === "Enter") keep();
  };
  name.focus();
}

export function faultList(shot) {
  const goTo = (id) => {
    dialog.close();
    shot.select([id]);
    shot.bring(id);
  };
  openDialog("to check", [el("ul", { class: "tocheck" }, ...shot.told().map((fault) => el("li", {},
    el("button", { class: "button veil bare", title: "to the row", onclick: () => goTo(fault.stage) }, el("b", {}, shot.stage(fault.stage)?.name ?? "")),
    el("span", { class: "grow" }, fault.message),
    fault.mend ? el("button", { class: "button veil", onclick: () => { goTo(fault.stage); shot.edit(fault.mend.command); } }, fault.mend.name) : null)))]);
}

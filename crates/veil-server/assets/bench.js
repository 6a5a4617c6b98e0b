// The bench: every control of the selected row.

import { get, post, query } from "./api.js";
import { feedWord, openFeed } from "./feeds.js";
import { formulaField } from "./formulas.js";
import { matchingNode } from "./matching.js";
import { paceNode } from "./pace.js";
import { shapesNode } from "./shapelist.js";
import { stopsNode } from "./stops.js";
import { toneNode } from "./tones.js";
import { attached, TRACK, tracksNode } from "./tracks.js";
import { arithmetic, el, feedsOf, feedValue, icon, short, takes, toast, trying } from "./parts.js";

// A number with its unit, as many digits as the field has room for.
const told = (value, unit) => `${short(value, Math.abs(value) >= 100 ? 1 : 4)}${unit}`;
const UNITS = { px: " px", degrees: "°", frames: " fr", stops: " EV", kelvin: " K", none: "" };

// What a control of media offers, by the endings of files, and what it is called.
const SORTS = { lut: /\.cube$/i, camera: /\.(gltf|glb|csv)$/i, figure: /\.svg$/i, font: /\.(ttf|otf)$/i };
const WANTED = { plate: "plate", lut: "table", camera: "camera", figure: "drawing", font: "font" };
const sortOf = (path) => Object.keys(SORTS).find((sort) => SORTS[sort].test(path)) ?? "plate";

export function bench(shot, nodes) {
  const { panel, name, tools, help } = nodes;
  let picking = null;
  // The row whose things are listed; they stay so while it is edited.
  let thingsOpen = null;
  // The selected row's main input and its result, small, while they are asked for.
  let pair = false;
  let showPresets = false;

  function draw() {
    const focused = document.activeElement?.dataset?.field;
    const stage = shot.stage(shot.selected);
    const several = together();
    document.getElementById("own").setAttribute("aria-pressed", shot.selected === 0);
    name.textContent = several.length > 1 ? `${several.length} rows` : stage?.name ?? "";
    tools.replaceChildren();
    if (!stage && !shot.view.kept.length) {
      panel.replaceChildren(el("p", { class: "hint" }, "Select a row to see its controls."));
      help.textContent = "";
      return;
    }
    const scroll = panel.scrollTop;
    const kept = shot.view.kept.filter((id) => id !== shot.selected).map(shot.stage, shot);
    const parts = stage ? (several.length > 1 ? sharedParts(stage, several) : partsOf(stage)) : [];
    panel.replaceChildren(...parts, ...(stage ? [passes] : []), ...kept.flatMap((one) => [keptHead(one), ...partsOf(one)]));
    panel.scrollTop = scroll;
    help.textContent = stage ? nodes.helpOf(stage) : "";
    if (stage) {
      askPasses(stage);
      headTools(stage);
    }
    if (focused) panel.querySelector(`[data-field="${CSS.escape(focused)}"]`)?.focus();
  }

  // The selected rows whose controls are edited together.
  const together = () => shot.view.selected.filter((id) => shot.row(id) && shot.row(id).knot !== "final");

  // What several rows share: controls of one id, name and type.
  function sharedParts(stage, ids) {
    const same = (control) => ids.every((id) => shot.controls(id).some((one) => one.id === control.id && one.name === control.name && one.kind.type === control.kind.type));
    const shared = counting(stage, shot.controls(stage.id)).filter((control) => same(control) && !["media", "names", "text", "formula", "stops", "curve", "shapes"].includes(control.kind.type));
    const words = shared.length ? "What is changed here is changed on all of them." : "These rows share no control.";
    return [el("p", { class: "aside" }, words), ...grouped(shared.map((control) => ({ id: stage.id, control })))];
  }

  // Controls that do not count for what the stage's choices are, and lines of a formula for what is given, are not shown.
  function counting(stage, all) {
    const controls = all.filter((control) => shot.counts(stage.id, control));
    const lines = { field: 1, map: 2, picture: 4 }[stage.controls?.gives ?? "field"];
    let line = 0;
    return controls.filter((control) => control.kind.type !== "formula" || ++line <= lines);
  }

  // Controls under the names of their groups; only the changed ones where that is asked for.
  function grouped(controls) {
    let group = "";
    return controls.filter(({ control }) => !shot.view.changedOnly || control.changed).flatMap(({ id, control }) => {
      const head = control.group !== group && control.group ? [el("div", { class: "group" }, control.group)] : [];
      group = control.group;
      return [...head, ...controlNodes(id, control)];
    });
  }

  const partsOf = (stage) => (stage.id === 0 ? ownParts(stage) : [...stageParts(stage), ...(stage.tool ? ownParts(stage) : [])]);

  // Controls that a person added to the setup or to a tool, and a line to add another.
  function ownParts(stage) {
    const own = shot.controls(stage.id).filter((control) => control.own);
    const name = el("input", { class: "veil-field", placeholder: "name", "aria-label": "name of a new control", onkeydown: (event) => { event.stopPropagation(); if (event.key === "Enter") add(); } });
    const kind = el("select", { "aria-label": "what the new control holds" }, ...["number", "point", "colour", "switch"].map((one) => el("option", { value: one }, one)));
    const add = () => shot.edit({ do: "add_own", stage: stage.id, name: name.value, kind: kind.value });
    const head = (control) => el("div", { class: "ownhead" },
      el("input", { class: "veil-field", value: control.name, "aria-label": `name of ${control.name}`, onkeydown: (event) => event.stopPropagation(), onchange: (event) => shot.edit({ do: "rename_own", stage: stage.id, control: control.id, name: event.target.value }) }),
      el("span", { class: "num quiet", title: "what formulas call it" }, control.word), el("span", { class: "grow" }),
      el("button", { class: "button veil bare quiet", "aria-label": `remove ${control.name}`, onclick: () => shot.edit({ do: "remove_own", stage: stage.id, control: control.id }) }, "×"));
    const words = stage.id === 0 ? "Controls of the whole setup: key them, name them in formulas, let others follow them." : "Controls of this tool, for formulas inside of it.";
    return [el("div", { class: "group" }, "own controls"), el("p", { class: "aside" }, words), ...own.flatMap((control) => [head(control), ...controlNodes(stage.id, control)]),
      el("div", { class: "ownhead" }, name, el("span", { class: "select veil" }, kind), el("button", { class: "button veil", onclick: add }, "add"))];
  }

  function stageParts(stage) {
    const row = shot.row(stage.id);
    const parts = [];
    const all = shot.controls(stage.id);
    const common = (id) => id === "amount" || /^matte\d*_/.test(id);
    parts.push(...grouped(all.filter((control) => control.id === "amount").map((control) => ({ id: stage.id, control }))));
    const ofSlot = (id) => (row?.slots ?? []).some((slot) => id.startsWith(`${slot.id}_`));
    for (const slot of row?.slots ?? []) {
      // Controls of an entry of a list stand below its slot; of an empty one none is needed.
      const below = slot.source ? all.filter((control) => control.id.startsWith(`${slot.id}_`)) : [];
      parts.push(slotNode(stage, slot), ...grouped(below.map((control) => ({ id: stage.id, control }))));
    }
    if (row?.slots.some((slot) => /^matte\d/.test(slot.id) && slot.source)) {
      parts.push(el("div", { class: "deeds" }, el("button", { class: "button veil", title: "the list of mattes becomes a Combine fields row above this one", onclick: () => shot.edit({ do: "mattes_to_row", stage: stage.id }) }, "make the mattes a row")));
    }
    const own = stage.tool ? faceplate(stage) : counting(stage, all.filter((control) => !common(control.id) && !ofSlot(control.id) && !control.own)).map((control) => ({ id: stage.id, control }));
    parts.push(...grouped(own));
    if (stage.tool) parts.push(...paceNode(shot, stage));
    if (stage.kind === "grade") parts.push(...matchingNode(shot, stage, draw));
    if (nodes.places(stage)) parts.push(placingNode(stage));
    if (row?.gives === "picture" && row.knot !== "final") parts.push(...tracksNode(shot, stage));
    if (row && row.sampled_in !== null && row.sampled_in !== row.id) {
      parts.push(el("p", { class: "aside" }, `Sampled once, together with ${shot.row(row.sampled_in)?.name}: only that row's reading counts.`));
    }
    return parts;
  }

  // What is placed, laid on the frame or on a matte, and seen as a ghost meanwhile.
  function placingNode(stage) {
    const mattes = shot.state.braid.rows.filter((one) => one.gives === "field").map((one) => el("option", { value: one.id }, one.name));
    const onto = el("select", { "aria-label": "what it is fitted to" }, el("option", { value: "" }, "the frame"), ...mattes);
    const fit = (words, title, way) => el("button", { class: "button veil", title, onclick: async () => {
      const command = await trying(() => get(`${shot.base}/fit?${query({ stage: stage.id, frame: shot.view.frame, way, ...(onto.value ? { matte: onto.value } : {}) })}`));
      if (command) shot.edit(command);
    } }, words);
    const ghost = el("button", { class: "button veil", "aria-pressed": Boolean(shot.view.ghost), title: "what is placed, half seen over the shown picture, whatever its amount", onclick: () => { shot.view.ghost = !shot.view.ghost; shot.tell("view"); } }, "ghost");
    return el("div", { class: "deeds", role: "group", "aria-label": "fit" }, el("span", { class: "quiet" }, "fit to"), el("span", { class: "select veil" }, onto), fit("inside", "as large as it can be with all of it inside", "inside"), fit("over", "as small as it can be with all of that covered", "over"), fit("stretch", "width and height each", "stretch"), ghost);
  }

  function keptHead(stage) {
    return el("div", { class: "kept" },
      el("button", { class: "button veil bare", title: "select this row", onclick: () => shot.select([stage.id]) }, stage.name), el("span", { class: "grow" }),
      el("button", { class: "button veil bare quiet", "aria-label": `keep ${stage.name} here no longer`, onclick: () => shot.keep(stage.id) }, "×"));
  }

  function headTools(stage) {
    const row = shot.row(stage.id);
    const before = stage.links?.main?.from?.stage;
    const button = (words, title, run, pressed) => el("button", { class: "button veil", title, onclick: run, ...(pressed === undefined ? {} : { "aria-pressed": pressed }) }, words);
    tools.append(
      button("keep", "keep this row's controls here while others are selected", () => shot.keep(stage.id), shot.view.kept.includes(stage.id)),
      button("changed", "only the controls that were changed", () => { shot.view.changedOnly = !shot.view.changedOnly; shot.tell("view"); }, Boolean(shot.view.changedOnly)));
    const deeds = el("div", { class: "deeds" });
    if (before !== undefined && row?.knot !== "final") {
      deeds.append(button("before/after", "small pictures of before and after this row", () => { pair = !pair; draw(); }, pair));
    }
    if (row && row.knot !== "final") {
      deeds.append(button(stage.bake ? "baked" : "bake", stage.bake ? "give the bake up: the row is worked out again" : "write this row's result to files over the range, and use them until something above changes", () => bake(stage), Boolean(stage.bake)));
    }
    const presets = nodes.presetsOf(stage);
    if (presets.length) deeds.append(button("presets", "settings to start from, as they look on this shot", () => { showPresets = !showPresets; draw(); }, showPresets));
    if (stage.copy_of !== undefined) deeds.append(button("stand alone", "keep the values it has, and follow no more", () => shot.edit({ do: "stand_alone", stage: stage.id })));
    if (stage.tool) toolDeeds(stage, deeds, button);
    if (showPresets && presets.length) panel.prepend(presetNode(stage, presets));
    if (pair && before !== undefined && row?.knot !== "final") panel.prepend(pairNode(before, stage.id));
    if (deeds.childElementCount) panel.prepend(deeds);
  }

  // Which number of its tool a row has, and which there are.
  async function toolDeeds(stage, deeds, button) {
    const known = (await rack()).find((one) => one.tool.about.name === stage.tool.name);
    const newest = known?.tool.about.number ?? 0;
    if (stage.id !== shot.selected) return;
    const said = stage.tool.own ? `own copy of ${stage.tool.name} ${stage.tool.number}` : `${stage.tool.name} ${stage.tool.number}`;
    deeds.append(el("span", { class: "quiet" }, newest > stage.tool.number ? `${said}; ${newest} exists` : said));
    const takes = (number, title) => button(`take ${number}`, title, () => shot.change("take-tool", { stage: stage.id, tool: known.id }));
    if (newest > stage.tool.number) deeds.append(takes(newest, "the newest number, with the values of the faceplate"));
    else if (stage.tool.own && newest === stage.tool.number) deeds.append(takes(newest, "put back as the rack has it, with the values of the faceplate"));
    deeds.append(button(`keep as ${newest + 1}`, "on the rack, under a new number; other uses stay as they are", () => keepTool(stage.id)));
  }

  // The tools of the rack, asked once a revision.
  let racked = {};
  function rack() {
    if (racked.of !== shot.state.revision) racked = { of: shot.state.revision, tools: get("/api/tools").catch(() => []) };
    return racked.tools;
  }

  function bake(stage) {
    if (!stage) return;
    if (stage.bake) shot.edit({ do: "bake", stage: stage.id, frames: null });
    else trying(() => post(`${shot.base}/bake`, { stage: stage.id }));
  }

  // Which passes come with the row's picture, and where they end.
  const passes = el("div", { class: "passes" });
  let passesOf = null;
  async function askPasses(stage) {
    const of = `${shot.state.revision}/${stage.id}`;
    if (passesOf === of) return;
    passesOf = of;
    passes.replaceChildren();
    if (shot.row(stage.id)?.gives !== "picture") return;
    const found = await get(`${shot.base}/passes?${query({ stage: stage.id, frame: shot.view.frame })}`).catch(() => null);
    if (passesOf !== of || !found) return;
    const names = found.roles.map((role) => role.replaceAll("_", " ")).join(", ");
    const name = (id) => shot.row(id)?.name ?? shot.stage(id)?.name;
    const where = found.dropped_by !== null
      ? `dropped by ${name(found.dropped_by)}`
      : found.moved_by.length ? `moved with the picture by ${found.moved_by.map(name).join(", ")}` : "where the plate has them";
    passes.replaceChildren(el("div", { class: "group" }, "passes"), el("p", { class: "aside" }, `${names}: ${where}`));
  }

  // Each preset as a thumbnail made on this shot; a click sets it as one step.
  function presetNode(stage, presets) {
    const known = new Set(shot.controls(stage.id).filter((control) => control.changed && !/^(amount|matte)/.test(control.id) && !["media", "names"].includes(control.kind.type)).map((control) => control.id));
    return el("div", { class: "presets", role: "group", "aria-label": "presets" }, ...presets.map((preset) => {
      const named = new Set(preset.settings.map(([id]) => id));
      const commands = [...[...known].filter((id) => !named.has(id)).map((id) => [id, null]), ...preset.settings].map(([control, setting]) => ({ do: "set", stage: stage.id, control, setting }));
      const at = query({ stage: stage.id, frame: shot.view.frame, revision: shot.state.revision, trial: JSON.stringify(commands) });
      return el("button", { class: "preset", onclick: () => shot.edit({ do: "together", commands }) }, el("img", { alt: "", loading: "lazy", src: `${shot.base}/thumb?${at}` }), el("span", {}, preset.name));
    }));
  }

  function pairNode(before, after) {
    const picture = (id, words) => el("figure", {},
      el("img", { alt: `${words} ${shot.row(after)?.name}`, src: `${shot.base}/still?${query({ stage: id, frame: shot.view.frame, revision: shot.state.revision })}` }),
      el("figcaption", {}, words));
    return el("div", { class: "pair" }, picture(before, "before"), picture(after, "after"));
  }

  // What a tool's row shows: controls of rows inside, under its own labels.
  function faceplate(stage) {
    return stage.tool.faceplate.flatMap((entry) => {
      const control = shot.controls(entry.stage).find((one) => one.id === entry.control);
      if (!control) return [];
      const slider = entry.range ?? control.kind.slider;
      return [{ id: entry.stage, control: { ...control, name: entry.label, group: "", kind: { ...control.kind, slider } } }];
    });
  }

  async function keepTool(id) {
    const kept = await trying(() => post(`${shot.base}/keep-tool`, { stage: id }));
    if (!kept) return;
    racked = {};
    toast(`on the rack as number ${kept.number}`);
    shot.refresh();
  }

  function slotNode(stage, slot) {
    const inside = stage.inside ?? null;
    const candidates = shot.state.braid.rows.filter((row) => {
      const other = shot.stage(row.id);
      return row.id !== stage.id && row.knot !== "final" && takes(slot, row.gives) && (other.inside ?? null) === inside;
    });
    const here = stage.links?.[slot.id]?.from;
    const options = [el("option", { value: "" }, slot.source && !slot.from ? slot.source : "empty")];
    for (const row of candidates) options.push(el("option", { value: row.id, selected: here?.stage === row.id }, row.name));
    const select = el("select", { "aria-label": `${slot.name} of ${stage.name}`, "data-field": `slot-${slot.id}`, onchange: () => {
      const from = select.value ? { stage: Number(select.value) } : null;
      shot.edit({ do: "link", stage: stage.id, slot: slot.id, from });
    } }, ...options);
    const chosen = [el("span", { class: "select veil", style: "flex:1;min-width:0" }, select)];
    const taps = slot.from === null ? 0 : shot.row(slot.from)?.taps ?? 0;
    const filling = shot.filling?.stage === stage.id && shot.filling.slot === slot.id;
    chosen.push(el("button", { class: "button veil bare", "aria-pressed": filling, title: "click a row to take it here", "aria-label": `pick a row for ${slot.name} by clicking it`, onclick: () => {
      shot.filling = filling ? null : { stage: stage.id, slot: slot.id };
      shot.tell("view");
    } }, "pick"));
    if (slot.from) chosen.push(el("button", { class: "button veil bare", "aria-label": `go to ${slot.source}`, onclick: () => shot.select([slot.from]) }, icon("crosshair")));
    if (slot.take) {
      const take = el("select", { "aria-label": `which float of ${slot.source}`, onchange: () => shot.edit({ do: "link", stage: stage.id, slot: slot.id, from: here, take: take.value }) },
        ...["luma", "alpha", "red", "green", "blue"].map((one) => el("option", { value: one, selected: one === slot.take }, one)));
      chosen.push(el("span", { class: "select veil" }, take));
    }
    const others = otherTakers(stage, slot);
    const shared = taps < 2 ? null : el("span", { class: "shared" }, `${taps} take this`,
      el("button", { class: "button veil bare", title: `a copy of ${slot.source} that only ${stage.name} takes`, "aria-label": `split off ${slot.name} for ${stage.name} only`,
        onclick: () => shot.edit({ do: "split_off", stage: stage.id, slot: slot.id }) }, "split off for this one"),
      slot.id === "main" && others.length ? el("button", { class: "button veil bare", title: `${names(others)} will take ${stage.name} instead`, onclick: () => takeAlong(stage, others) }, "take them along") : null);
    return el("div", { class: "ctl wide" }, el("span", { class: "lab" }, /\d$/.test(slot.id) && !slot.source ? `another ${slot.name.replace(/ \d+$/, "")}` : slot.name), el("span", { style: "display:flex;gap:4px;align-items:center;flex-wrap:wrap" }, ...chosen, shared));
  }

  const names = (others) => others.map((one) => `${one.row.name} (${one.slot.name})`).join(", ");

  // The slots of rows below that take the same as this one, and could take what this one gives.
  function otherTakers(stage, slot) {
    const rows = shot.state.braid.rows;
    const at = rows.findIndex((row) => row.id === stage.id);
    return rows.slice(at + 1).flatMap((row) => row.slots.filter((one) => one.from === slot.from && slot.from !== null && takes(one, rows[at].gives)).map((one) => ({ row, slot: one })));
  }

  function takeAlong(stage, others) {
    shot.edit({ do: "together", commands: others.map((one) => ({ do: "link", stage: one.row.id, slot: one.slot.id, from: { stage: stage.id }, take: one.slot.take ?? null })) });
  }

  function controlNodes(id, control) {
    const kind = control.kind.type;
    if (kind === "number" || kind === "point" || kind === "size" || kind === "colour") {
      const numbers = control.axes.map((axis, index) => numberNode(id, control, axis, index));
      return kind === "colour" ? [...numbers, takeNode(id, control)] : numbers;
    }
    const body = { switch: switchNode, choice: choiceNode, media: mediaNode, names: namesNode, text: textNode, formula: formulaNode, shapes: (_, one) => shapesNode(shot, id, one), curve: (_, one) => toneNode(`${id}-${one.id}`, one, (curve) => set(id, one, { curve })), stops: (_, one) => stopsNode(`${id}-${one.id}`, one, (stops) => set(id, one, { stops })) }[kind](id, control);
    const wide = ["stops", "curve", "shapes"].includes(kind) ? "whole" : "wide";
    return [el("div", { class: `ctl ${wide}${control.changed ? " changed" : ""}`, title: control.help }, el("span", { class: "lab" }, control.name), body)];
  }

  // A colour can be taken from what comes into the row, within the box that is measured.
  function takeNode(id, control) {
    const take = async () => {
      if (!shot.measured) return toast("first drag a box on the picture with Shift held");
      const [x0, y0, x1, y1] = shot.measured.split(",");
      const from = shot.stage(id)?.links?.main?.from?.stage ?? shot.view.shown;
      const found = await trying(() => get(`${shot.base}/region?${query({ stage: from, frame: shot.view.frame, x0, y0, x1, y1 })}`));
      if (found?.mean.length === 4) putAll(id, control, found.mean.slice(0, 3));
    };
    return el("div", { class: "ctl wide" }, el("span"), el("button", { class: "button veil", title: "the mean of what comes into this row, within the box dragged with Shift", "aria-label": `take ${control.name} from the box`, onclick: take }, "take from the box"));
  }

  function putAll(id, control, values) {
    const commands = sharing(id).map((one) => shot.byHand(one, control.id, values));
    return shot.edit(commands.length === 1 ? commands[0] : { do: "together", commands });
  }

  function numberNode(id, control, axis, index) {
    const feeds = feedsOf(control.setting);
    const feed = feeds[index];
    const tried = shot.trial?.find((command) => command.stage === id && command.control === control.id)?.values?.[index];
    const value = tried ?? feedValue(feed, shot.view.frame);
    const slider = control.kind.slider ?? [0, 2000];
    const step = control.kind.whole ? 1 : (slider[1] - slider[0]) / 1000;
    const label = axis ? `${control.name} ${axis}` : control.name;
    const field = `${id}-${control.id}-${index}`;
    const put = (number, keep) => {
      if (!Number.isFinite(number)) return;
      const values = feeds.map((_, at) => (at === index ? number : null));
      const commands = sharing(id).map((one) => shot.byHand(one, control.id, values));
      if (!keep) shot.try(commands);
      else shot.edit(commands.length === 1 ? commands[0] : { do: "together", commands });
    };
    const unit = UNITS[control.kind.unit ?? (control.kind.type === "colour" ? "none" : "px")];
    const text = value === undefined ? "…" : told(value, unit);
    const range = el("input", {
      type: "range", min: slider[0], max: slider[1], step, value: value ?? slider[0], "aria-label": `${label}, slider`, "data-field": `${field}-slider`,
      oninput: () => { box.value = told(Number(range.value), unit); put(Number(range.value), false); },
      onchange: () => put(Number(range.value), true),
    });
    const box = el("input", {
      class: "veil-field num", value: text, "aria-label": label, "data-field": field, title: control.help,
      onfocus: () => box.select(),
      onkeydown: (event) => {
        if (event.key === "Enter") typed();
        const turn = { ArrowUp: 1, ArrowDown: -1 }[event.key];
        if (turn) {
          event.preventDefault();
          const size = (control.kind.whole ? 1 : Math.max(step * 10, 1e-4)) * (event.shiftKey ? 10 : 1) * (event.altKey ? 0.1 : 1);
          put((value ?? 0) + turn * size, true);
        }
        event.stopPropagation();
      },
      onchange: typed,
    });
    let taken = text;
    function typed() {
      // Enter and leaving the field both end here; a value is taken once.
      if (box.value === taken) return;
      taken = box.value;
      const number = arithmetic(box.value);
      if (Number.isNaN(number)) {
        box.setAttribute("aria-invalid", "true");
        toast(`\`${box.value}\` is not a number; ${label} stays as it was`, true);
        return;
      }
      put(number, true);
    }
    const word = feedWord(feed);
    const keyed = feed?.keys;
    const here = keyed?.some((key) => key.frame === shot.view.frame);
    const bead = index > 0 ? el("span") : el("button", {
      class: `keybead${keyed ? " keyed" : ""}${here ? " here" : ""}`, "aria-label": here ? `remove the key of ${control.name} here` : `key ${control.name} here`, "data-key": `${id}-${control.id}`,
      onclick: () => shot.edit({ do: here ? "unkey" : "key", stage: id, control: control.id, frame: shot.view.frame }),
    }, el("i"));
    const back = (event) => {
      event.preventDefault();
      openFeed(shot, event.target, id, control, index);
    };
    const head = nameNode(id, control, index, label, back);
    const say = word
      ? el("button", { class: "feedword", onclick: back }, word)
      : el("button", { class: "feedword", style: "border:0;opacity:.75", "aria-label": `where ${label} comes from`, onclick: back }, "·");
    const node = el("div", { class: `ctl${control.changed ? " changed" : ""}`, title: control.help }, head, range, say, box, bead);
    if (value === undefined) asked(id, control, index, box, range, unit);
    return node;
  }

  // A number's name. Dropped on another's, that one follows it; the feed's choice `follow` is the way by keys.
  function nameNode(id, control, index, label, menu) {
    const mark = "application/x-veil-number";
    const take = (event) => {
      const track = Number(event.dataTransfer.getData(TRACK));
      const going = track ? attached(shot, control, track) : null;
      if (going) {
        event.preventDefault();
        return shot.edit({ do: "set", stage: id, control: control.id, setting: going });
      }
      const follow = JSON.parse(event.dataTransfer.getData(mark) || "null");
      if (!follow) return;
      event.preventDefault();
      const feed = { follow, scale: 1, offset: 0 };
      const setting = control.kind.type === "number" ? feed : { axes: feedsOf(control.setting).map((one, at) => (at === index ? feed : one)) };
      shot.edit({ do: "set", stage: id, control: control.id, setting });
    };
    return el("label", {
      title: `${control.help} Drop this name on another to let that one follow it.`, draggable: "true", oncontextmenu: menu, ondrop: take,
      ondragover: (event) => (event.dataTransfer.types.includes(mark) || event.dataTransfer.types.includes(TRACK)) && event.preventDefault(),
      ondragstart: (event) => event.dataTransfer.setData(mark, JSON.stringify({ stage: id, control: control.id, axis: index })),
    }, label);
  }

  // What only the server knows: a formula's value at this frame.
  async function asked(id, control, index, box, range, unit) {
    const found = await get(`${shot.base}/values?${query({ stage: id, frame: shot.view.frame })}`).catch(() => null);
    const value = found?.[control.id]?.[index];
    if (value === undefined || document.activeElement === box) return;
    box.value = told(value, unit);
    range.value = value;
  }

  // The rows that an edit on one of them is for.
  const sharing = (id) => (id === shot.selected && together().length > 1 ? together() : [id]);

  function set(id, control, setting) {
    const commands = sharing(id).map((stage) => ({ do: "set", stage, control: control.id, setting }));
    return shot.edit(commands.length === 1 ? commands[0] : { do: "together", commands });
  }

  function switchNode(id, control) {
    const box = el("input", { type: "checkbox", "aria-label": control.name, checked: control.setting === true, onchange: () => set(id, control, box.checked) });
    return box;
  }

  function choiceNode(id, control) {
    const select = el("select", { "aria-label": control.name, "data-field": `${id}-${control.id}`, onchange: () => set(id, control, select.value) },
      ...control.kind.options.map((option) => el("option", { value: option.id, selected: option.id === control.setting }, option.name)));
    return el("span", { class: "select veil" }, select);
  }

  function textNode(id, control) {
    const box = el("textarea", { class: "veil-field words", rows: Math.min(6, control.setting.split("\n").length + 1), spellcheck: "false", "aria-label": control.name, "data-field": `${id}-${control.id}`,
      onkeydown: (event) => event.stopPropagation(),
      oninput: () => shot.try([{ do: "set", stage: id, control: control.id, setting: box.value }]),
      onchange: () => set(id, control, box.value) });
    box.value = control.setting;
    return box;
  }

  function mediaNode(id, control) {
    const here = control.setting?.media;
    // Tables are offered where a table is wanted, plates where a plate is.
    const fits = (media) => sortOf(media.path) === control.kind.of;
    const used = shot.state.setup.media.filter(fits);
    const other = nodes.plates().filter(fits).filter((plate) => !plate.reference && !used.some((media) => media.path === plate.path));
    const select = el("select", { "aria-label": control.name, onchange: async () => {
      if (select.value.startsWith("use ")) {
        const plate = other.find((one) => `use ${one.path}` === select.value);
        const { record: _, reference: __, ...media } = plate;
        const state = await shot.edit({ do: "use_media", media });
        const added = state?.setup.media.find((media) => media.path === plate.path);
        if (added) set(id, control, { media: added.id });
      } else set(id, control, { media: Number(select.value) });
    } },
      here === undefined ? el("option", { value: "" }, `choose a ${WANTED[control.kind.of]}`) : null,
      ...used.map((media) => el("option", { value: media.id, selected: media.id === here }, media.name)),
      ...other.map((plate) => el("option", { value: `use ${plate.path}` }, `${plate.name} (from plates)`)));
    return el("span", { class: "select veil" }, select);
  }

  function namesNode(id, control) {
    const names = Array.isArray(control.setting) ? control.setting : [];
    const stage = shot.stage(id);
    const media = mediaOf(stage);
    const of = stage.controls?.of ?? "object";
    const change = (next) => set(id, control, next);
    const chips = names.map((one) => el("span", { class: "chip" }, one, el("button", { "aria-label": `leave out ${one}`, onclick: () => change(names.filter((name) => name !== one)) }, "×")));
    const list = el("datalist", { id: `things-${id}` });
    const field = el("input", { class: "veil-field", list: `things-${id}`, placeholder: "name or pattern *", "aria-label": "add a thing by name", style: "width:100%", "data-field": `${id}-names`,
      onkeydown: (event) => event.stopPropagation(),
      onchange: () => field.value.trim() && change([...names.filter((name) => name !== field.value.trim()), field.value.trim()]),
      onfocus: async () => {
        if (media === undefined || list.childElementCount) return;
        const found = await trying(() => get(`${shot.base}/things?${query({ media, of, frame: shot.view.frame })}`));
        list.replaceChildren(...(found?.names ?? []).map((thing) => el("option", { value: thing.name })));
      } });
    const all = el("details", { class: "things", open: thingsOpen === id, ontoggle: async () => {
      if (!all.open) thingsOpen = thingsOpen === id ? null : thingsOpen;
      if (!all.open || all.childElementCount > 1) return;
      thingsOpen = id;
      const found = await trying(() => get(`${shot.base}/things?${query({ media, of, frame: shot.view.frame })}`));
      if (all.childElementCount === 1) all.append(...(found?.names ?? []).map((thing) => el("button", {
        class: "thing", "aria-pressed": names.includes(thing.name),
        onclick: () => change(names.includes(thing.name) ? names.filter((name) => name !== thing.name) : [...names, thing.name]),
      }, el("i", { style: `background:rgb(${thing.swatch.join(" ")})` }), thing.name)));
    } }, el("summary", { class: "quiet" }, "all of them by name"));
    const pick = el("button", { class: "button veil", "aria-pressed": picking === id, disabled: media === undefined, onclick: () => { picking = picking === id ? null : id; draw(); } }, "pick on the picture");
    return el("div", { style: "display:grid;gap:5px;padding:3px 0" }, el("span", { class: "chips" }, ...chips), field, list, media === undefined ? null : all, pick);
  }

  // A formula of pixels; the last good one stays in force while it is written.
  function formulaNode(id, control) {
    const feed = typeof control.setting === "string" ? { formula: control.setting } : control.setting;
    const written = formulaField(shot, { stage: id, pixels: true, text: feed.formula, named: feed.names, lines: 2, label: control.name, field: `${id}-${control.id}`, kept: keep, left: keep });
    async function keep() {
      if (written.value() === feed.formula || !(await written.understood())) return;
      const names = written.names();
      set(id, control, Object.keys(names).length ? { formula: written.value(), names } : written.value());
    }
    return written.node;
  }

  // The plate whose things a row picks: its own, or the one at the head of the picture it takes.
  function mediaOf(stage) {
    let at = stage;
    const taken = stage.links?.picture?.from?.stage;
    if (taken !== undefined) at = shot.stage(taken);
    for (let step = 0; at && step < 500; step++) {
      const media = at.controls?.media?.media;
      if (media !== undefined) return media;
      at = shot.stage(at.links?.main?.from?.stage);
    }
    return stage.controls?.media?.media;
  }

  // A click on the picture while a list of names is being picked: adds the thing there, or leaves it out.
  async function picked(at) {
    const stage = picking === null ? null : shot.stage(picking);
    if (!stage) return;
    const [media, of] = [mediaOf(stage), stage.controls?.of ?? "object"];
    const found = await trying(() => get(`${shot.base}/pick?${query({ media, of, frame: shot.view.frame, x: Math.floor(at.x), y: Math.floor(at.y) })}`));
    if (!found?.name) return toast("nothing named is there");
    const names = stage.controls?.names ?? [];
    const next = names.includes(found.name) ? names.filter((name) => name !== found.name) : [...names, found.name];
    shot.edit({ do: "set", stage: picking, control: "names", setting: next });
  }

  shot.watch((what) => {
    if (what === "view" && picking !== shot.selected) picking = null;
    if (what === "setup" || what === "view" || what === "frame") {
      if (!nodes.playing()) draw();
    }
  });
  return { draw, picked, bake };
}

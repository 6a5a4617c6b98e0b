// The braid: one row a stage, strands drawn beside the names.

import { get, query } from "./api.js";
import { entries } from "./entries.js";
import { el, svg, toast, trying } from "./parts.js";
import { rowDrag } from "./rowdrag.js";
import { attachTo, TRACK } from "./tracks.js";

// Rows that are built above and below those in sight, and so many at once while they pass by.
const [MARGIN, AT_ONCE] = [6, 4];
// Lines of a row with many takers are drawn whole up to this many rows.
const FAR = 5;
// Heights of a row, as it comes and compact.
const HEIGHTS = { usual: 38, compact: 24 };
const LANE = 20;
const COLOURS = { picture: "var(--bone)", field: "var(--verdigris)", map: "var(--brass)" };
const x = (lane) => 16 + lane * LANE;

export function braid(shot, panel, { deeds, menu, filter, gutter }) {
  let ROW = HEIGHTS[shot.view.rows ?? "usual"];
  const y = (row) => row * ROW + ROW / 2;
  const effects = new Map();
  // At which revision and frame each was asked.
  const measured = new Map();
  // What each row costs, while that is asked for: "", "here" or "range".
  const costs = new Map();
  let costing = "";
  // How much of each baked row's files still fits.
  const bakes = new Map();
  let asked = null;
  // Rows that stand in the panel, with what they were built from.
  const built = new Map();
  let layout = null;
  let drawnLines = null;
  let drawnSpan = [0, 0];
  const { grab, openSlots, dragged } = rowDrag(shot, panel, { rows: () => layout.rows, height: () => ROW, redraw: () => drawInSight() });
  const listed = entries(shot, { selectJoin });
  const lanes = svg("svg", { class: "lanes", width: 84, height: 0, "aria-hidden": true });
  // As tall as all rows, whatever is built of them.
  const whole = el("div", { class: "whole", "aria-hidden": true });
  panel.append(whole, lanes);
  // What the thumbnails are of. They follow once the picture is there, since a person waits for that.
  let pictured = null;

  // A row as text. The server tells rows anew with each state, so one that is the same object is the same row.
  const texts = new WeakMap();
  function written(row) {
    if (!texts.has(row)) texts.set(row, JSON.stringify(row));
    return texts.get(row);
  }

  function draw() {
    const { rows, strands } = listed.unfold(filtered());
    ROW = HEIGHTS[shot.view.rows ?? "usual"];
    panel.classList.toggle("compact", ROW === HEIGHTS.compact);
    panel.classList.toggle("filling", Boolean(shot.filling));
    pictured ??= { frame: shot.view.frame, revision: shot.state.revision };
    layout = { rows, strands };
    layout.clasps = brackets(rows);
    whole.style.height = `${rows.length * ROW}px`;
    panel.setAttribute("aria-rowcount", rows.length);
    drawInSight();
    drawGutter(rows.filter((row) => !row.entry));
  }

  // The rows that are to stand in the panel.
  function spanInSight() {
    const step = ROW * AT_ONCE;
    const [above, below] = [Math.floor(panel.scrollTop / step), Math.ceil((panel.scrollTop + panel.clientHeight) / step)];
    return [Math.max(0, above * AT_ONCE - MARGIN), Math.min(layout.rows.length, below * AT_ONCE + MARGIN)];
  }

  // Only the rows in sight are built, and of those only what has changed.
  function drawInSight() {
    const { rows, strands } = layout;
    const [from, to] = drawnSpan = spanInSight();
    const lines = strands.filter((strand) => strand.to_row >= from && strand.from_row < to);
    const content = JSON.stringify([from, to, lines, rows.slice(from, to).map(written), shot.view.selected, shot.join, ROW, dragged()]);
    if (content !== drawnLines) {
      drawnLines = content;
      // Only as tall as what is in sight, since all of it is painted anew.
      lanes.style.top = `${from * ROW}px`;
      lanes.setAttribute("height", (to - from) * ROW);
      lanes.setAttribute("viewBox", `0 ${from * ROW} 84 ${Math.max(1, (to - from) * ROW)}`);
      lanes.replaceChildren(...lines.flatMap(line), ...rows.slice(from, to).flatMap((row, at) => (row.entry ? listed.knot(row, x(row.lane), y(from + at)) : knot(row, from + at))), ...layout.clasps);
    }
    const seen = new Set();
    let before = lanes;
    for (let index = from; index < to; index++) {
      const row = rows[index];
      const key = row.entry ? `${row.id} ${row.entry.id}` : row.id;
      seen.add(key);
      const mark = JSON.stringify([written(row), index, row.entry && [shot.join, dragged(), shot.controls(row.id).filter((one) => one.id.startsWith(`${row.entry.id}_`)).map((one) => one.setting), shot.row(row.id)?.slots], shot.view.selected.includes(row.id), shot.view.shown === row.id, shot.marked(row.id), costs.get(row.id), costing, bakes.get(row.id), ROW, row.entry ? 0 : openSlots(row).length, shot.filling, !row.entry && listed.isOpen(row)]);
      const known = built.get(key);
      const node = known?.mark === mark ? known.node : row.entry ? listed.node(row, index, { height: ROW, droppable: openSlots(shot.row(row.id)).some((slot) => slot.id === row.entry.id) }) : rowNode(row, index);
      if (known && known.node !== node) known.node.remove();
      // The order of the rows is that in which they are read out.
      if (before.nextElementSibling !== node) before.after(node);
      before = node;
      built.set(key, { mark, node });
    }
    const inList = shot.join && `row-${shot.join.stage}-${shot.join.slot}`;
    const chosen = inList && document.getElementById(inList) ? inList : `row-${shot.selected}`;
    if (document.getElementById(chosen)) panel.setAttribute("aria-activedescendant", chosen);
    else panel.removeAttribute("aria-activedescendant");
    for (const [id, { node }] of built) {
      if (seen.has(id)) continue;
      node.remove();
      built.delete(id);
    }
  }

  let scrolling = null;
  // Rows that are only passed by ask for no thumbnail; those that are there already show theirs.
  let passing = false;
  const pictures = new Set();
  panel.addEventListener("scroll", () => {
    scrolling ??= requestAnimationFrame(() => {
      scrolling = null;
      if (layout && String(spanInSight()) !== String(drawnSpan)) drawInSight();
      clearTimeout(soon);
      passing = true;
      soon = setTimeout(followPicture, 200);
    });
  }, { passive: true });

  // Brings a row into sight.
  shot.bring = (id, middle = false) => {
    const index = layout?.rows.findIndex((row) => row.id === id && !row.entry) ?? -1;
    if (index < 0) return;
    const [top, high] = [index * ROW, panel.clientHeight];
    if (middle) panel.scrollTop = top - (high - ROW) / 2;
    else if (top < panel.scrollTop) panel.scrollTop = top;
    else if (top + ROW > panel.scrollTop + high) panel.scrollTop = top + ROW - high;
    drawInSight();
  };

  // Every row as a tick, however many there are: longer where it is selected, across the whole gutter at a fault.
  function drawGutter(rows) {
    const tall = gutter.clientHeight / Math.max(1, rows.length);
    gutter.replaceChildren(...rows.map((row, index) => {
      const fault = shot.marked(row.id);
      const [width, fill] = fault ? [12, "var(--fault)"] : shot.view.selected.includes(row.id) ? [9, "var(--salt)"] : [4, row.on ? "var(--bound)" : "var(--rule)"];
      return svg("rect", { x: 1, y: index * tall + tall / 2 - 1, width, height: Math.min(3, Math.max(1, tall - 1)), fill });
    }));
  }

  gutter.addEventListener("click", (event) => {
    const { rows } = filtered();
    const at = Math.floor(((event.clientY - gutter.getBoundingClientRect().top) / gutter.clientHeight) * rows.length);
    const row = rows[Math.min(Math.max(at, 0), rows.length - 1)];
    if (!row) return;
    shot.select([row.id]);
    shot.bring(row.id, true);
  });

  // The rows that the filter lets through, with the strands between them.
  function filtered() {
    const { rows, strands } = shot.state.braid;
    const { words, way } = filter();
    if (!words && !way) return { rows, strands };
    const near = way ? reached(way === "above") : null;
    const wanted = words.toLowerCase();
    const fits = (row) => (!near || near.has(row.id)) && (!wanted || `${row.name} ${row.stage.replaceAll("_", " ")} ${row.note} ${row.group}`.toLowerCase().includes(wanted));
    const kept = rows.flatMap((row, index) => (fits(row) ? [index] : []));
    const place = new Map(kept.map((index, at) => [index, at]));
    return {
      rows: kept.map((index) => rows[index]),
      strands: strands.filter((strand) => place.has(strand.from_row) && place.has(strand.to_row))
        .map((strand) => ({ ...strand, from_row: place.get(strand.from_row), to_row: place.get(strand.to_row) })),
    };
  }

  // The rows that lead to the selected one, or that it leads to, with itself.
  function reached(above) {
    const { rows, strands } = shot.state.braid;
    const near = new Set([shot.selected]);
    const ordered = above ? strands.toSorted((a, b) => b.to_row - a.to_row) : strands.toSorted((a, b) => a.from_row - b.from_row);
    for (const strand of ordered) {
      const [here, there] = above ? [strand.to_row, strand.from_row] : [strand.from_row, strand.to_row];
      if (near.has(rows[here].id)) near.add(rows[there].id);
    }
    return near;
  }

  async function followPicture() {
    passing = false;
    pictured = { frame: shot.view.frame, revision: shot.state.revision };
    for (const image of panel.querySelectorAll("img.thumb")) {
      const source = thumb(Number(image.closest(".row").dataset.id));
      if (image.getAttribute("src") !== source) image.src = source;
    }
    await meters();
  }

  // A line from knot to knot. Of a row that many take, only the ends are drawn, unless one of the two is selected.
  function line(strand) {
    const [x1, y1, x2, y2] = [x(strand.from_lane), y(strand.from_row), x(strand.to_lane), y(strand.to_row)];
    const rows = layout.rows;
    const near = [strand.from_row, strand.to_row].some((at) => shot.view.selected.includes(rows[at].id));
    const chosen = shot.join?.stage === strand.join[0] && shot.join.slot === strand.join[1];
    const cut = rows[strand.from_row].taps > 2 && strand.to_row - strand.from_row > FAR && !near && !chosen;
    const colour = COLOURS[strand.kind];
    const into = (shift) => `C${x1 + shift} ${y2 + shift} ${x2 + 14} ${y2 + shift} ${x2 + 6} ${y2 + shift}`;
    const path = (shift) => {
      if (x1 === x2) return `M${x1 + shift} ${y1}V${y2}`;
      return cut ? `M${x1 + shift} ${y1}v${ROW * 0.8}M${x1 + shift} ${y2 - ROW * 0.8}V${y2 - 16}${into(shift)}` : `M${x1 + shift} ${y1}V${y2 - 16}${into(shift)}`;
    };
    const stroke = (d, width) => svg("path", { d, stroke: chosen ? "var(--salt)" : colour, "stroke-width": chosen ? width + 1.6 : width, fill: "none" });
    const hit = strand.main ? [] : [svg("path", { class: "joinhit", d: path(0), stroke: "transparent", "stroke-width": 12, fill: "none", "data-join": strand.join.join(" "), onclick: () => selectJoin({ stage: strand.join[0], slot: strand.join[1] }) })];
    if (strand.kind === "picture") return [stroke(path(0), 3), ...hit];
    if (strand.kind === "field") return [stroke(path(0), 1.6), ...hit];
    return [stroke(path(-2), 1.4), stroke(path(2), 1.4), ...hit];
  }

  // A slot by its line: what is added next goes before it alone.
  function selectJoin(join) {
    panel.focus({ preventScroll: true });
    const row = shot.row(join.stage);
    shot.select([join.stage]);
    shot.join = join;
    toast(`${row?.slots.find((slot) => slot.id === join.slot)?.name ?? join.slot} of ${row?.name ?? ""} is selected: a new row goes before it alone`);
    draw();
  }

  // The slots of the selected row in turn, then none.
  function nextJoin() {
    const row = shot.row(shot.selected);
    const slots = row?.slots.filter((slot) => slot.from !== null) ?? [];
    if (!slots.length) return;
    const at = shot.join?.stage === row.id ? slots.findIndex((slot) => slot.id === shot.join.slot) : -1;
    if (at + 1 < slots.length) return selectJoin({ stage: row.id, slot: slots[at + 1].id });
    shot.join = null;
    draw();
  }

  // A clasp beside each run of rows that are sampled together.
  function brackets(rows) {
    const lowest = new Map(rows.map((row, index) => [row.sampled_in, index]));
    return rows.flatMap((row, from) => {
      if (row.sampled_in === null || rows[from - 1]?.sampled_in === row.sampled_in) return [];
      const to = lowest.get(row.sampled_in);
      return [svg("path", { class: "clasp", d: `M82 ${y(from) - 11}h-4V${y(to) + 11}h4`, fill: "none", stroke: "var(--quiet)", "stroke-width": 1.2 })];
    });
  }

  // What stands below a row's name.
  function detailOf(row) {
    const parts = [row.detail];
    if (row.group) parts.unshift(row.fold?.shut ? `${row.fold.rows} rows` : `in ${row.group}`);
    else if (row.fold?.shut) parts.unshift(`${row.fold.rows} rows`);
    if (row.sampled_in !== null && row.sampled_in !== row.id) parts.unshift(`sampled in ${shot.row(row.sampled_in)?.name ?? "another row"}`);
    const bake = bakes.get(row.id);
    if (bake) parts.unshift(bake.fresh === bake.frames ? "baked" : `stale bake: ${bake.fresh} of ${bake.frames} fit`);
    if (!listed.isOpen(row)) parts.push(...listed.lists(row).filter((one) => one.count > 1).map((one) => `${one.count} ${one.list}`));
    if (row.taps > 1) parts.push(`${row.taps} taps`);
    if (row.note) parts.unshift(`“${row.note}”`);
    return parts.filter(Boolean).join(" · ");
  }

  function knot(row, index) {
    const [cx, cy, colour, hollow] = [x(row.lane), y(index), COLOURS[row.gives], "var(--panel)"];
    const ring = (r, fill, width) => svg("circle", { cx, cy, r, fill, stroke: colour, "stroke-width": width });
    if (!row.on) return [ring(4.5, hollow, 1.6)];
    if (row.knot === "source") return [ring(6, hollow, 2.4)];
    if (row.knot === "final") {
      const d = `M${cx - 7} ${cy}l3.5-6h7l3.5 6-3.5 6h-7z`;
      return [svg("path", { d, fill: hollow, stroke: colour, "stroke-width": 2 })];
    }
    if (row.knot === "join") return [ring(8, colour, 0), svg("circle", { cx, cy, r: 3, fill: hollow })];
    if (row.gives === "map") {
      const bar = (left) => svg("rect", { x: cx + left, y: cy - 6, width: 3.4, height: 12, fill: colour });
      return [svg("rect", { x: cx - 6, y: cy - 6, width: 12, height: 12, fill: hollow }), bar(-5), bar(1.6)];
    }
    return [ring(5, colour, 0)];
  }

  function rowNode(row, index) {
    const selected = shot.view.selected.includes(row.id);
    const shown = shot.view.shown === row.id;
    const told = shot.marked(row.id);
    const classes = ["row", shown && "shown", !row.on && "off"].filter(Boolean).join(" ");
    const bake = bakes.get(row.id);
    const stale = bake && bake.fresh < bake.frames ? { message: `the bake no longer fits ${bake.frames - bake.fresh} of its ${bake.frames} frames; they are worked out` } : null;
    const fault = told ?? stale;
    const node = el(
      "div",
      {
        class: classes, id: `row-${row.id}`, role: "row", "aria-rowindex": index + 1, "aria-selected": selected, "data-id": row.id,
        style: `top:${index * ROW}px;padding-left:${84 + row.depth * 12}px`,
        onpointerdown: (event) => grab(row, event),
        onclick: (event) => choose(row.id, event), ondblclick: () => shot.show_row(row.id),
        ondragover: (event) => event.dataTransfer.types.includes(TRACK) && event.preventDefault(),
        ondrop: (event) => attachTo(shot, row.id, Number(event.dataTransfer.getData(TRACK))),
        oncontextmenu: (event) => {
          event.preventDefault();
          if (!selected) shot.select([row.id]);
          menu({ x: event.clientX, y: event.clientY });
        },
      },
      cell("gridcell",
      el("button", {
        class: "knot", style: `left:${x(row.lane) - 12}px`, tabindex: -1, "aria-label": `show ${row.name}`, title: `show ${row.name}`,
        onclick: (event) => { event.stopPropagation(); shot.show_row(row.id); },
      }),
      folding(row) ? el("button", {
        class: "fold", tabindex: -1, "aria-label": `${folding(row).shut ? "open" : "fold"} ${folding(row).name}`, title: `${folding(row).shut ? "open" : "fold"} ${folding(row).name}`,
        onclick: (event) => { event.stopPropagation(); folding(row).turn(); },
      }, el("i", {}, folding(row).shut ? "+" : "−")) : null,
      el("img", { class: "thumb", alt: "", loading: "lazy", src: passing && !pictures.has(thumb(row.id)) ? null : thumb(row.id), onload: (event) => pictures.add(event.target.getAttribute("src")) })),
      cell("rowheader",
      row.tab ? el("i", { class: `tab tab-${row.tab}`, title: row.tab }) : null,
      el("span", { class: "name" }, el("span", {}, row.fold?.shut && row.fold.group ? row.fold.group : row.name), el("small", {}, detailOf(row)))),
      cell("gridcell",
      openSlots(row).length ? el("span", { class: "dropslots" }, ...openSlots(row).filter((slot) => !slot.belongs.to_list || !listed.isOpen(row)).map((slot) => el("span", { class: `dropslot${slot.source ? " full" : ""}`, "data-slot": slot.id, "data-stage": row.id, title: slot.source ? `now takes ${slot.source}` : "empty" }, slot.name))) : null,
      costs.has(row.id) ? el("span", { class: "ms num", title: `milliseconds of this row alone, ${costing === "range" ? "mean over the range" : "at this frame"}` }, ms(costs.get(row.id))) : null,
      fault ? el("span", { class: "fault-mark", title: fault.message, role: "img", "aria-label": fault.message }, "!") : null,
      el("span", { class: "meter", title: "how much it changes" }, el("i", { style: `width:${width(effects.get(row.id))}%` })),
      row.knot === "final" ? el("span", { class: "onoff" }) : el("button", {
        class: "onoff", role: "switch", tabindex: -1, "aria-checked": row.on, "aria-label": `${row.name} on or off`,
        onclick: (event) => { event.stopPropagation(); shot.edit({ do: "switch", stage: row.id, on: !row.on }); },
      }, el("i")),),
    );
    return node;
  }

  // What opens and shuts at a row: what folds to it while that is shut, then the tool, its lists, the fold itself.
  function folding(row) {
    const fold = row.fold && { name: row.fold.group ?? `the strand to ${row.name}`, shut: row.fold.shut, turn: () => turnFold(row) };
    const tool = row.unfolded === null ? null : { name: row.name, shut: !row.unfolded, turn: () => keepPlace(row.id, () => shot.fold("open", row.id)) };
    const list = listed.lists(row).length ? { name: `the lists of ${row.name}`, shut: !listed.isOpen(row), turn: () => keepPlace(row.id, () => listed.turn(row)) } : null;
    return fold?.shut ? fold : tool ?? list ?? fold;
  }

  const turnFold = (row) => keepPlace(row.id, () => (row.fold.group ? shot.fold("groups", row.fold.group) : shot.fold("shut", row.id)));

  // The row one is on stays where it is on the screen.
  async function keepPlace(id, turn) {
    const place = () => (layout.rows.findIndex((row) => row.id === id && !row.entry) * ROW) - panel.scrollTop;
    const before = place();
    await turn();
    panel.scrollTop += place() - before;
    drawInSight();
  }

  const cell = (role, ...children) => el("span", { role, class: "cell" }, ...children);
  const ms = (value) => (value < 10 ? value.toFixed(1) : String(Math.round(value)));
  const thumb = (id) => `${shot.base}/thumb?${query({ stage: id, ...pictured })}`;
  // A log scale from a ten-thousandth to one.
  const width = (effect) => (effect > 0 ? Math.max(4, Math.min(100, 100 + 25 * Math.log10(effect))) : 0);

  async function meters() {
    const mark = `${shot.state.revision}/${shot.view.frame}`;
    asked = mark;
    for (const [id] of built) {
      const row = shot.row(id);
      if (!row || row.knot === "source" || measured.get(id) === mark) continue;
      const at = query({ stage: row.id, frame: shot.view.frame });
      const answer = await get(`${shot.base}/effect?${at}`).catch(() => null);
      if (asked !== mark) return;
      measured.set(id, mark);
      effects.set(row.id, answer?.effect ?? 0);
      const bar = panel.querySelector(`#row-${row.id} .meter i`);
      if (bar) bar.style.width = `${width(answer?.effect)}%`;
    }
  }

  async function askBakes() {
    const marked = shot.state.setup.stages.some((stage) => stage.bake);
    const found = marked ? await get(`${shot.base}/bakes`).catch(() => []) : [];
    bakes.clear();
    for (const row of found) bakes.set(row.stage, row);
    draw();
  }

  // What rows cost: of the shown row and all that it needs.
  async function askCosts(kind) {
    costing = kind;
    costs.clear();
    draw();
    if (!kind) return;
    const found = await trying(() => get(`${shot.base}/costs?${query({ stage: shot.view.shown, frame: shot.view.frame, range: kind === "range" })}`));
    if (costing !== kind) return;
    for (const row of found ?? []) costs.set(row.stage, row.ms);
    draw();
  }

  function choose(id, event) {
    panel.focus({ preventScroll: true });
    if (shot.filling) {
      const { stage, slot } = shot.filling;
      shot.filling = null;
      shot.edit({ do: "link", stage, slot, from: { stage: id } });
      return;
    }
    if (event.ctrlKey || event.metaKey) {
      const others = shot.view.selected.filter((one) => one !== id);
      shot.select(others.length === shot.view.selected.length ? [...others, id] : others);
    } else if (event.shiftKey && shot.selected !== undefined) {
      const ids = shot.state.braid.rows.map((row) => row.id);
      const [a, b] = [ids.indexOf(shot.selected), ids.indexOf(id)].sort((one, other) => one - other);
      shot.select([...ids.slice(a, b + 1).filter((one) => one !== id), id]);
    } else {
      shot.select([id]);
    }
  }

  panel.addEventListener("keydown", (event) => {
    const ids = filtered().rows.map((row) => row.id);
    const at = ids.indexOf(shot.selected);
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const to = { ArrowUp: at - 1, ArrowDown: at + 1, Home: 0, End: ids.length - 1 }[event.key];
    const row = shot.row(shot.selected);
    if (to !== undefined) {
      const id = ids[Math.min(Math.max(to, 0), ids.length - 1)];
      shot.select(event.shiftKey ? [...shot.view.selected.filter((one) => one !== id), id] : [id]);
      shot.bring(id);
    } else if (row && event.key === "ContextMenu") menu(beside(row));
    else if (event.key === "Escape" && (shot.join || shot.filling)) {
      shot.join = null;
      shot.filling = null;
      shot.tell("view");
    } else if (row && folding(row)?.shut && event.key === "ArrowRight") folding(row).turn();
    else if (row && (row.unfolded || listed.isOpen(row)) && event.key === "ArrowLeft") folding(row).turn();
    else if (row && event.key === "ArrowLeft") foldFrom(row);
    else return;
    event.preventDefault();
    event.stopPropagation();
  });

  // The selected row, or the entry that is selected in its list, one place on; -1 is up.
  function moveBy(step) {
    if (listed.ofEntry(step < 0 ? "up" : "down")) return undefined;
    const at = shot.state.setup.stages.findIndex((stage) => stage.id === shot.selected);
    return at < 0 ? undefined : shot.edit({ do: "move", stage: shot.selected, to: Math.max(0, at + step) });
  }

  // The smallest thing around a row that folds: its strand, or its group.
  function foldFrom(row) {
    const { rows, strands } = layout;
    let index = rows.indexOf(row);
    for (let step = 0; step < rows.length; step++) {
      if (rows[index].fold && !rows[index].fold.shut) return turnFoldTo(rows[index]);
      const next = strands.find((strand) => strand.from_row === index && strand.main);
      if (!next || rows[next.to_row].lane === 0) break;
      index = next.to_row;
    }
    const group = row.group && rows.find((one) => one.fold?.group === row.group);
    return group ? turnFoldTo(group) : undefined;
  }

  // What is folded away is selected by the row that stands for it.
  function turnFoldTo(row) {
    shot.select([row.id]);
    turnFold(row);
  }

  // Below a row's name.
  function beside(row) {
    const box = panel.querySelector(`#row-${row.id}`)?.getBoundingClientRect() ?? panel.getBoundingClientRect();
    return { x: box.left + 90, y: box.bottom };
  }

  panel.addEventListener("paste", (event) => {
    if (event.target.closest("input")) return;
    event.preventDefault();
    deeds.paste(event.clipboardData?.getData("text") ?? "");
  });

  function rename(row) {
    const name = panel.querySelector(`#row-${row.id} .name`);
    const field = el("input", { class: "veil-field", value: row.name, "aria-label": "name" });
    const done = async (keep) => {
      field.onblur = null;
      if (keep && field.value.trim() && field.value !== row.name) await shot.edit({ do: "rename", stage: row.id, name: field.value });
      else {
        built.get(row.id)?.node.remove();
        built.delete(row.id);
        draw();
      }
      panel.focus();
    };
    field.onblur = () => done(true);
    field.onkeydown = (event) => {
      event.stopPropagation();
      if (event.key === "Enter") done(true);
      if (event.key === "Escape") done(false);
    };
    name.replaceChildren(field);
    field.focus();
    field.select();
  }

  let soon;
  shot.watch((what) => {
    if (what === "setup" || what === "view" || what === "faults") draw();
    if (what === "setup") pictures.clear();
    if (what !== "faults" && what !== "measured") clearTimeout(soon);
    if (what === "painted") soon = setTimeout(() => followPicture().then(() => shot.look()), 200);
    if (what === "setup") {
      askBakes();
      if (costing) askCosts("");
    }
  });
  return { askCosts, costing: () => costing, rename: () => shot.row(shot.selected) && rename(shot.row(shot.selected)), draw, nextJoin, moveBy, ofEntry: listed.ofEntry, menu: () => shot.row(shot.selected) && menu(beside(shot.row(shot.selected))) };
}

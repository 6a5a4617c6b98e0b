// The braid: one row a stage, strands drawn beside the names.

import { get, query } from "./api.js";
import { el, svg, trying } from "./parts.js";

// Heights of a row, as it comes and compact.
const HEIGHTS = { usual: 38, compact: 24 };
const LANE = 20;
const COLOURS = { picture: "var(--bone)", field: "var(--verdigris)", map: "var(--brass)" };
const x = (lane) => 16 + lane * LANE;

export function braid(shot, panel, { deeds, menu, filter, gutter }) {
  let ROW = HEIGHTS[shot.view.rows ?? "usual"];
  const y = (row) => row * ROW + ROW / 2;
  const effects = new Map();
  // What each row costs, while that is asked for: "", "here" or "range".
  const costs = new Map();
  let costing = "";
  // How much of each baked row's files still fits.
  const bakes = new Map();
  let asked = null;
  // What the thumbnails are of. They follow once the picture is there, since a person waits for that.
  let pictured = null;
  let drawn = null;

  function draw() {
    const { rows, strands } = filtered();
    ROW = HEIGHTS[shot.view.rows ?? "usual"];
    panel.classList.toggle("compact", ROW === HEIGHTS.compact);
    pictured ??= { frame: shot.view.frame, revision: shot.state.revision };
    const content = JSON.stringify([rows, strands, shot.view.selected, shot.view.shown, shot.faults, [...costs], [...bakes], ROW]);
    if (content === drawn) return;
    drawn = content;
    const keep = panel.scrollTop;
    const lanes = svg("svg", { class: "lanes", width: 84, height: rows.length * ROW, "aria-hidden": "true" });
    for (const strand of strands) lanes.append(...line(strand));
    rows.forEach((row, index) => lanes.append(...knot(row, index)));
    lanes.append(...brackets(rows));
    panel.replaceChildren(lanes, ...rows.map(rowNode));
    panel.scrollTop = keep;
    drawGutter(rows);
  }

  // Every row as a tick, however many there are: longer where it is selected, across the whole gutter at a fault.
  function drawGutter(rows) {
    const tall = gutter.clientHeight / Math.max(1, rows.length);
    gutter.replaceChildren(...rows.map((row, index) => {
      const fault = shot.faults.some((one) => one.stage === row.id);
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
    document.getElementById(`row-${row.id}`)?.scrollIntoView({ block: "center" });
  });

  // The rows that the filter lets through, with the strands between them.
  function filtered() {
    const { rows, strands } = shot.state.braid;
    const { words, way } = filter();
    if (!words && !way) return { rows, strands };
    const near = way ? reached(way === "above") : null;
    const wanted = words.toLowerCase();
    const fits = (row) => (!near || near.has(row.id)) && (!wanted || `${row.name} ${row.stage.replaceAll("_", " ")} ${row.note}`.toLowerCase().includes(wanted));
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

  function followPicture() {
    pictured = { frame: shot.view.frame, revision: shot.state.revision };
    for (const image of panel.querySelectorAll("img.thumb")) {
      const source = thumb(Number(image.closest(".row").dataset.id));
      if (image.getAttribute("src") !== source) image.src = source;
    }
    meters();
  }

  function line(strand) {
    const [x1, y1, x2, y2] = [x(strand.from_lane), y(strand.from_row), x(strand.to_lane), y(strand.to_row)];
    const colour = COLOURS[strand.kind];
    const path = (shift) =>
      x1 === x2
        ? `M${x1 + shift} ${y1}V${y2}`
        : `M${x1 + shift} ${y1}V${y2 - 16}C${x1 + shift} ${y2 + shift} ${x2 + 14} ${y2 + shift} ${x2 + 6} ${y2 + shift}`;
    const stroke = (d, width) => svg("path", { d, stroke: colour, "stroke-width": width, fill: "none" });
    if (strand.kind === "picture") return [stroke(path(0), 3)];
    if (strand.kind === "field") return [stroke(path(0), 1.6)];
    return [stroke(path(-2), 1.4), stroke(path(2), 1.4)];
  }

  // A clasp beside each run of rows that are sampled together.
  function brackets(rows) {
    const drawn = [];
    for (let from = 0; from < rows.length; from++) {
      const lowest = rows[from].sampled_in;
      if (lowest === null || rows[from - 1]?.sampled_in === lowest) continue;
      const to = rows.findLastIndex((row) => row.sampled_in === lowest);
      drawn.push(svg("path", { class: "clasp", d: `M82 ${y(from) - 11}h-4V${y(to) + 11}h4`, fill: "none", stroke: "var(--quiet)", "stroke-width": 1.2 }));
    }
    return drawn;
  }

  // What stands below a row's name.
  function detailOf(row) {
    const parts = [row.detail];
    if (row.sampled_in !== null && row.sampled_in !== row.id) parts.unshift(`sampled in ${shot.row(row.sampled_in)?.name ?? "another row"}`);
    const bake = bakes.get(row.id);
    if (bake) parts.unshift(bake.fresh === bake.frames ? "baked" : `stale bake: ${bake.fresh} of ${bake.frames} fit`);
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
    const told = shot.faults.find((one) => one.stage === row.id);
    const classes = ["row", shown && "shown", !row.on && "off"].filter(Boolean).join(" ");
    const bake = bakes.get(row.id);
    const stale = bake && bake.fresh < bake.frames ? { message: `the bake no longer fits ${bake.frames - bake.fresh} of its ${bake.frames} frames; they are worked out` } : null;
    const fault = told ?? stale;
    const node = el(
      "div",
      {
        class: classes, id: `row-${row.id}`, role: "option", "aria-selected": selected, "data-id": row.id,
        style: `top:${index * ROW}px;padding-left:${84 + row.depth * 12}px`,
        onclick: (event) => choose(row.id, event), ondblclick: () => shot.show_row(row.id),
        oncontextmenu: (event) => {
          event.preventDefault();
          if (!selected) shot.select([row.id]);
          menu({ x: event.clientX, y: event.clientY });
        },
      },
      el("button", {
        class: "knot", style: `left:${x(row.lane) - 12}px`, tabindex: -1, "aria-label": `show ${row.name}`, title: `show ${row.name}`,
        onclick: (event) => { event.stopPropagation(); shot.show_row(row.id); },
      }),
      row.unfolded === null ? null : el("button", {
        class: "fold", tabindex: -1, "aria-label": row.unfolded ? `fold ${row.name}` : `unfold ${row.name}`,
        onclick: (event) => { event.stopPropagation(); shot.fold(row.id); },
      }, row.unfolded ? "−" : "+"),
      el("img", { class: "thumb", alt: "", loading: "lazy", src: thumb(row.id) }),
      row.tab ? el("i", { class: `tab tab-${row.tab}`, title: row.tab }) : null,
      el("span", { class: "name" }, el("span", {}, row.name), el("small", {}, detailOf(row))),
      costs.has(row.id) ? el("span", { class: "ms num", title: `milliseconds of this row alone, ${costing === "range" ? "mean over the range" : "at this frame"}` }, ms(costs.get(row.id))) : null,
      fault ? el("span", { class: "fault-mark", title: fault.message, role: "img", "aria-label": fault.message }, "!") : null,
      el("span", { class: "meter", title: "how much it changes" }, el("i", { style: `width:${width(effects.get(row.id))}%` })),
      row.knot === "final" ? el("span", { class: "onoff" }) : el("button", {
        class: "onoff", role: "switch", tabindex: -1, "aria-checked": row.on, "aria-label": `${row.name} on or off`,
        onclick: (event) => { event.stopPropagation(); shot.edit({ do: "switch", stage: row.id, on: !row.on }); },
      }, el("i")),
    );
    return node;
  }

  const ms = (value) => (value < 10 ? value.toFixed(1) : String(Math.round(value)));
  const thumb = (id) => `${shot.base}/thumb?${query({ stage: id, ...pictured })}`;
  // A log scale from a ten-thousandth to one.
  const width = (effect) => (effect > 0 ? Math.max(4, Math.min(100, 100 + 25 * Math.log10(effect))) : 0);

  async function meters() {
    const mark = `${shot.state.revision}/${shot.view.frame}`;
    if (asked === mark) return;
    asked = mark;
    for (const row of shot.state.braid.rows) {
      if (row.knot === "source") continue;
      const at = query({ stage: row.id, frame: shot.view.frame });
      const answer = await get(`${shot.base}/effect?${at}`).catch(() => null);
      if (asked !== mark) return;
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
    const held = event.ctrlKey || event.metaKey;
    if (held) {
      const run = { c: deeds.copy, x: deeds.cut, d: () => deeds.duplicate(event.shiftKey) }[event.key.toLowerCase()];
      if (!run) return;
      event.preventDefault();
      event.stopPropagation();
      run();
      return;
    }
    const to = { ArrowUp: at - 1, ArrowDown: at + 1, Home: 0, End: ids.length - 1 }[event.key];
    const row = shot.row(shot.selected);
    if (event.altKey && event.key === "ArrowLeft") shot.back();
    else if (event.altKey && to !== undefined && row) {
      const target = shot.state.setup.stages.findIndex((stage) => stage.id === row.id) + (event.key === "ArrowUp" ? -1 : 1);
      shot.edit({ do: "move", stage: row.id, to: Math.max(0, target) });
    } else if (to !== undefined) {
      const id = ids[Math.min(Math.max(to, 0), ids.length - 1)];
      shot.select(event.shiftKey ? [...shot.view.selected.filter((one) => one !== id), id] : [id]);
      document.getElementById(`row-${id}`)?.scrollIntoView({ block: "nearest" });
    } else if (row && event.key === "Enter") shot.show_row(row.id);
    else if (row && event.key === "o") deeds.onOff();
    else if (row && (event.key === "Delete" || event.key === "Backspace")) deeds.remove();
    else if (row && (event.key === "ContextMenu" || (event.shiftKey && event.key === "F10"))) menu(beside(row));
    else if (row && event.key === "F2") rename(row);
    else if (row?.unfolded === false && event.key === "ArrowRight") shot.fold(row.id);
    else if (row?.unfolded && event.key === "ArrowLeft") shot.fold(row.id);
    else return;
    event.preventDefault();
    event.stopPropagation();
  });

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
        drawn = null;
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
    if (what !== "faults") clearTimeout(soon);
    if (what === "painted") soon = setTimeout(followPicture, 200);
    if (what === "setup") {
      askBakes();
      if (costing) askCosts("");
    }
  });
  return { askCosts, costing: () => costing, rename: () => shot.row(shot.selected) && rename(shot.row(shot.selected)), draw, menu: () => shot.row(shot.selected) && menu(beside(shot.row(shot.selected))) };
}

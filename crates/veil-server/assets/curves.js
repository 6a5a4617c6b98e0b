// Curves over time: the keys of several controls together, below the ruler and in step with it.

import { el, feedsOf, feedValue, keyedOf, short, slopesOf, svg, withKeyAt } from "./parts.js";

const HIGH = 168;
const [TOP, BOTTOM] = [14, 12];
// Ways from a key to the next, beside straight and step; handles as shares of time and change.
const EASES = { "slow both ends": "smooth", "slow out": { curve: [0.5, 0, 0.8, 0.6] }, "slow in": { curve: [0.2, 0.4, 0.5, 1] }, "late rush": { curve: [0.9, 0, 1, 0.4] }, "quick start": { curve: [0, 0.7, 0.1, 1] }, "past it and back": { curve: [0.3, 0, 0.4, 1.5] }, "back, then on": { curve: [0.6, -0.5, 0.7, 1] } };

export function curves(shot, panel, scale) {
  // What is picked: a set of frames by the mark of its curve.
  let picked = new Map();
  let chosen = new Set();
  let own = true;
  let snap = true;
  let everyRow = false;
  let words = "";
  let dragging = null;

  const markOf = (line) => `${line.of.stage}/${line.of.control}/${line.of.axis}`;
  const count = () => [...picked.values()].reduce((sum, frames) => sum + frames.size, 0);

  // Every keyed number of the rows at hand, with what is being tried in it.
  function lines() {
    const rows = everyRow ? shot.state.setup.stages.map((stage) => stage.id) : shot.atHand();
    const wanted = words.toLowerCase();
    return rows.flatMap((id) => {
      const stage = shot.stage(id);
      const inside = stage?.tool ? stage.tool.faceplate.map((entry) => [entry.stage, entry.control]) : shot.controls(id).map((control) => [id, control.id]);
      return inside.flatMap(([of, name]) => {
        const control = shot.controls(of).find((one) => one.id === name);
        return feedsOf(control?.setting).flatMap((whole, axis) => {
          const feed = keyedOf(whole);
          if (!feed) return [];
          const mends = feed === whole ? "" : ", offset";
          const title = `${shot.stage(of).name}: ${[control.name, control.axes[axis]].filter(Boolean).join(" ")}${mends}`;
          return [{ of: { stage: of, control: name, axis }, title, feed, whole, control }];
        });
      });
    }).filter((line, at, all) => line.title.toLowerCase().includes(wanted) && all.findIndex((one) => markOf(one) === markOf(line)) === at);
  }

  const within = (line) => chosen.has(markOf(line));
  const pickedKeys = () => lines().filter((line) => picked.get(markOf(line))?.size).map((line) => ({ of: line.of, frames: [...picked.get(markOf(line))] }));

  // How values stand on the panel: each curve by its own reach, or all by one.
  function reaches(all) {
    const ends = all.map((line) => {
      const { first, last } = shot.state.setup.picture.frames;
      const values = line.feed.keys.map((key) => key.value + (line.feed.offset ?? 0));
      for (let frame = first; frame <= last; frame += Math.max(1, (last - first) / 200)) values.push(feedValue(line.feed, frame));
      return [Math.min(...values), Math.max(...values)];
    });
    const whole = [Math.min(...ends.map((one) => one[0])), Math.max(...ends.map((one) => one[1]))];
    return new Map(all.map((line, at) => [markOf(line), own ? ends[at] : whole]));
  }
  let reach = new Map();
  const spanOf = (line) => {
    const [low, high] = reach.get(markOf(line)) ?? [0, 1];
    return high - low < 1e-9 ? [low - 0.5, high + 0.5] : [low, high];
  };
  const toY = (line, value) => {
    const [low, high] = spanOf(line);
    return HIGH - BOTTOM - ((value - low) / (high - low)) * (HIGH - TOP - BOTTOM);
  };
  const perPixel = (line) => {
    const [low, high] = spanOf(line);
    return (high - low) / (HIGH - TOP - BOTTOM);
  };

  const plot = svg("svg", { id: "curve-plot", class: "curveplot", height: HIGH, tabindex: 0, role: "group", "aria-label": "curves over time" });
  const chips = el("div", { class: "curvechips", role: "group", "aria-label": "curves" });
  const tools = el("div", { class: "curvetools" });
  const filter = el("input", { class: "veil-field", type: "search", placeholder: "filter curves", "aria-label": "filter curves", oninput: () => { words = filter.value.trim(); draw(); } });
  panel.append(tools, chips, plot);

  const button = (name, title, run, pressed) => el("button", { class: "button veil bare quiet", title, onclick: run, ...(pressed === undefined ? {} : { "aria-pressed": pressed }) }, name);
  const shape = (made) => count() && shot.edit({ do: "shape_keys", picked: pickedKeys(), shape: made });

  function drawTools(all) {
    const typing = tools.contains(document.activeElement) ? document.activeElement.getAttribute("aria-label") : null;
    const one = single(all);
    const number = (name, value, kept) => {
      const field = el("input", { class: "veil-field num", "aria-label": `${name} of the picked keys`, value: value ?? "", disabled: !count(), placeholder: count() ? "…" : "", onkeydown: (event) => event.stopPropagation(), onchange: () => Number.isFinite(Number(field.value)) && field.value.trim() && kept(Number(field.value)) });
      return el("label", { class: "quiet" }, name, field);
    };
    const ease = el("select", { "aria-label": "way to the next key", disabled: !count(), onchange: () => shape({ ease: EASES[ease.value] }) },
      el("option", { value: "" }, "ease"), ...Object.keys(EASES).map((name) => el("option", { value: name }, name)));
    const source = all.find(within);
    const others = all.filter((line) => source && markOf(line) !== markOf(source));
    const timing = el("select", { "aria-label": "give the chosen curve's timing to", disabled: !others.length, onchange: () => {
      const to = timing.value === "all" ? others : [others[Number(timing.value)]];
      shot.edit({ do: "copy_timing", from: source.of, to: to.map((line) => line.of) });
    } }, el("option", { value: "" }, "timing to"), ...others.map((line, at) => el("option", { value: at }, line.title)), others.length > 1 ? el("option", { value: "all" }, "all of these") : null);
    const first = Math.min(...[...picked.values()].flatMap((frames) => [...frames]));
    filter.remove();
    tools.replaceChildren(
      filter,
      button("every row", "curves of every row, not only of those at hand", () => { everyRow = !everyRow; draw(); }, everyRow),
      button("own scale", "each curve as high as the panel", () => { own = !own; draw(); }, own),
      button("whole frames", "moved keys land on whole frames", () => { snap = !snap; draw(); }, snap),
      button("all keys", "pick every key of the curves here", () => pickAll()),
      el("span", { class: "grow" }),
      number("frame", one?.key.frame, (to) => move({ later: to - (one?.key.frame ?? first) })),
      number("value", one && short(one.key.value + (one.line.feed.offset ?? 0), 4), (to) => move(one ? { higher: to - one.key.value - (one.line.feed.offset ?? 0) } : { level: to, scale: 0 })),
      number("stretch %", count() > 1 ? 100 : null, (to) => move({ about: first, stretch: to / 100 })),
      button("smooth", "through the key, without rising above its neighbours", () => shape("smooth")),
      button("flat", "level at the key", () => shape("flat")),
      button("broken", "another slope on either side", breakThem),
      button("straight", "a straight line to the next key", () => shape({ ease: "straight" })),
      button("step", "the value stays until the next key", () => shape({ ease: "step" })),
      el("span", { class: "select veil" }, ease), el("span", { class: "select veil" }, timing),
    );
    if (typing) tools.querySelector(`[aria-label="${typing}"]`)?.focus();
  }

  function single(all) {
    if (count() !== 1) return null;
    const line = all.find((one) => picked.get(markOf(one))?.size);
    const key = line?.feed.keys.find((one) => picked.get(markOf(line)).has(one.frame));
    return key ? { line, key } : null;
  }

  // Each side straight to its neighbour; from there the two are dragged apart.
  function breakThem() {
    const commands = lines().flatMap((line) => [...(picked.get(markOf(line)) ?? [])].map((frame) => {
      const keys = line.feed.keys;
      const at = keys.findIndex((key) => key.frame === frame);
      const to = (a, b) => (a && b ? (b.value - a.value) / (b.frame - a.frame) : 0);
      return { do: "shape_keys", picked: [{ of: line.of, frames: [frame] }], shape: { slopes: { arrive: to(keys[at - 1], keys[at]), leave: to(keys[at], keys[at + 1]) } } };
    }));
    if (commands.length) shot.edit({ do: "together", commands });
  }

  function pickAll() {
    picked = new Map(lines().map((line) => [markOf(line), new Set(line.feed.keys.map((key) => key.frame))]));
    draw();
  }

  const command = (by) => ({ do: "move_keys", picked: pickedKeys(), by: { ...by, snap: by.snap ?? snap } });

  // The picked keys go where they are moved, and stay picked there.
  async function move(by) {
    if (!count()) return;
    const keys = command(by);
    const whole = (frame) => (keys.by.snap ? Math.round(frame) : frame);
    const next = new Map([...picked].map(([mark, frames]) => [mark, new Set([...frames].map((frame) => whole((frame - (by.about ?? 0)) * (by.stretch ?? 1) + (by.about ?? 0) + (by.later ?? 0))))]));
    const before = picked;
    picked = next;
    if (!(await shot.edit(keys))) {
      picked = before;
      draw();
    }
  }

  // Where keys stand while they are dragged.
  function seen(line) {
    const feed = dragging?.feeds?.get(markOf(line));
    return feed ? { ...line, feed } : line;
  }

  function pathOf(line) {
    const { first, last } = shot.state.setup.picture.frames;
    const step = Math.max(0.25, (last - first) / 600);
    const frames = [];
    for (let frame = first; frame < last; frame += step) frames.push(frame);
    for (const key of line.feed.keys) frames.push(key.frame, key.frame - 1e-6);
    frames.push(last);
    return frames.sort((a, b) => a - b).map((frame, at) => `${at ? "L" : "M"}${scale.toX(frame).toFixed(1)} ${toY(line, feedValue(line.feed, frame)).toFixed(1)}`).join("");
  }

  function draw() {
    if (panel.hidden || !shot.state) return;
    const all = lines();
    const marks = new Set(all.map(markOf));
    chosen = new Set([...chosen].filter((mark) => marks.has(mark)));
    if (!chosen.size && all.length) chosen.add(markOf(all[0]));
    for (const [mark, frames] of picked) {
      const line = all.find((one) => markOf(one) === mark);
      for (const frame of frames) if (!line?.feed.keys.some((key) => key.frame === frame)) frames.delete(frame);
      if (!frames.size) picked.delete(mark);
    }
    if (!dragging) reach = reaches(all);
    drawTools(all);
    const none = el("span", { class: "quiet" }, "no keys here: the bead beside a control sets one");
    chips.replaceChildren(...(all.length ? [] : [none]), ...all.map((line) => el("button", {
      class: "curvechip", "aria-pressed": within(line), title: "bring to the front; with Ctrl beside others",
      onclick: (event) => {
        if (!event.ctrlKey && !event.metaKey) chosen.clear();
        if (!chosen.delete(markOf(line))) chosen.add(markOf(line));
        draw();
      },
    }, line.title)));
    drawPlot(all);
  }

  function drawPlot(all) {
    const focused = plot.contains(document.activeElement) ? document.activeElement.dataset?.key : null;
    const parts = [];
    // The chosen curves lie on top, so that every key can be reached.
    for (const line of [...all].sort((a, b) => within(a) - within(b)).map(seen)) parts.push(...lineParts(line));
    parts.push(...boxParts(all));
    const x = scale.toX(shot.view.frame);
    parts.push(svg("path", { d: `M${x} 0V${HIGH}`, stroke: "#ece8de", "pointer-events": "none" }));
    if (dragging?.box) parts.push(svg("rect", { ...dragging.box, fill: "none", stroke: "#ece8de", "stroke-dasharray": "3 3" }));
    plot.replaceChildren(...parts);
    if (focused) plot.querySelector(`[data-key="${CSS.escape(focused)}"]`)?.focus();
  }

  function lineParts(line) {
    const front = within(line);
    const colour = front ? "#c9a35b" : "#6f7472";
    const parts = [svg("path", { d: pathOf(line), fill: "none", stroke: colour, "stroke-width": front ? 1.8 : 1.2, "pointer-events": "none" })];
    const [low, high] = spanOf(line);
    if (front && own) {
      parts.push(svg("text", { x: scale.side + 2, y: 11, class: "curvetext" }, short(high, 3)), svg("text", { x: scale.side + 2, y: HIGH - 2, class: "curvetext" }, short(low, 3)));
    }
    const mine = picked.get(markOf(line));
    line.feed.keys.forEach((key, at) => {
      const [cx, cy] = [scale.toX(key.frame), toY(line, key.value + (line.feed.offset ?? 0))];
      const on = dragging?.feeds ? dragging.on.get(markOf(line))?.has(at) : mine?.has(key.frame);
      if (on && front) parts.push(...tangents(line, at, cx, cy));
      parts.push(svg("circle", { cx, cy, r: on ? 6 : 4.5, fill: on ? "#ece8de" : colour, stroke: "#1f2120", "stroke-width": 2, "pointer-events": "none" }));
      const hit = svg("circle", { class: "bead", cx, cy, r: 12, fill: "transparent", tabindex: 0, role: "button", "aria-pressed": Boolean(on), "aria-label": `key of ${line.title} at ${short(key.frame)}, ${short(key.value, 3)}`, "data-key": `${markOf(line)}@${key.frame}` });
      hit.addEventListener("pointerdown", (event) => grab(event, line, key));
      hit.addEventListener("keydown", (event) => {
        if (event.key !== "Enter") return;
        event.preventDefault();
        event.stopPropagation();
        pick(line, key.frame, event.shiftKey);
        shot.go(key.frame);
      });
      parts.push(hit);
    });
    return parts;
  }

  // Handles a third of the way to the neighbours; Alt moves one side alone.
  function tangents(line, at, cx, cy) {
    const keys = line.feed.keys;
    const slopes = slopesOf(keys, at);
    const parts = [];
    for (const [side, other, way] of [["arrive", keys[at - 1], -1], ["leave", keys[at + 1], 1]]) {
      const before = way < 0 ? other : keys[at];
      if (!other || before.ease !== "through") continue;
      const gap = Math.abs(other.frame - keys[at].frame) / 3;
      const [hx, hy] = [scale.toX(keys[at].frame + way * gap), cy - (slopes[side] * way * gap) / perPixel(line)];
      const hit = svg("circle", { class: "bead", cx: hx, cy: hy, r: 12, fill: "transparent", "data-tangent": `${side}@${keys[at].frame}` });
      hit.addEventListener("pointerdown", (event) => dragTangent(event, line, at, side, way * gap, slopes));
      parts.push(svg("path", { d: `M${cx} ${cy}L${hx} ${hy}`, stroke: "#ece8de", "pointer-events": "none" }), svg("circle", { cx: hx, cy: hy, r: 3.5, fill: "#ece8de", "pointer-events": "none" }), hit);
    }
    return parts;
  }

  function pick(line, frame, adding) {
    const mark = markOf(line);
    const had = picked.get(mark)?.has(frame);
    if (!adding && !had) picked = new Map();
    if (!picked.has(mark)) picked.set(mark, new Set());
    if (adding && had) picked.get(mark).delete(frame);
    else picked.get(mark).add(frame);
    if (!chosen.has(mark)) chosen = adding ? chosen.add(mark) : new Set([mark]);
    draw();
  }

  // Where the picked keys are, with sides that stretch time and scale values.
  function boxParts(all) {
    if (count() < 2 || dragging) return [];
    const at = all.flatMap((line) => line.feed.keys.filter((key) => picked.get(markOf(line))?.has(key.frame)).map((key) => [scale.toX(key.frame), toY(line, key.value + (line.feed.offset ?? 0)), key.frame]));
    const [left, right] = [Math.min(...at.map((one) => one[0])) - 9, Math.max(...at.map((one) => one[0])) + 9];
    const [top, bottom] = [Math.max(2, Math.min(...at.map((one) => one[1])) - 9), Math.min(HIGH - 2, Math.max(...at.map((one) => one[1])) + 9)];
    const [first, last] = [Math.min(...at.map((one) => one[2])), Math.max(...at.map((one) => one[2]))];
    const parts = [svg("rect", { x: left, y: top, width: right - left, height: bottom - top, fill: "none", stroke: "#a9a79e", "stroke-dasharray": "2 4", "pointer-events": "none" })];
    const side = (x, y, name, drag) => {
      const hit = svg("rect", { x: x - 12, y: y - 12, width: 24, height: 24, fill: "transparent", class: "bead", "data-side": name });
      hit.addEventListener("pointerdown", (event) => follow(event, drag));
      parts.push(svg("rect", { x: x - 4, y: y - 4, width: 8, height: 8, fill: "#1f2120", stroke: "#ece8de", "pointer-events": "none" }), hit);
    };
    const middle = (top + bottom) / 2;
    const stretch = (about, from) => (dx) => {
      const to = from + dx / scale.perFrame();
      return { about, stretch: Math.max(0.02, ((snap ? Math.round(to) : to) - about) / (from - about)) };
    };
    if (last > first) {
      side(right, middle, "later", stretch(first, last));
      side(left, middle, "earlier", stretch(last, first));
    }
    const lines = all.filter((line) => picked.get(markOf(line))?.size);
    if (lines.length === 1 && bottom - top > 30) {
      const values = lines[0].feed.keys.filter((key) => picked.get(markOf(lines[0])).has(key.frame)).map((key) => key.value + (lines[0].feed.offset ?? 0));
      const [low, high] = [Math.min(...values), Math.max(...values)];
      const grow = (level, from) => (_, dy) => ({ level, scale: (from - dy * perPixel(lines[0]) - level) / (from - level) });
      side((left + right) / 2, top, "higher", grow(low, high));
      side((left + right) / 2, bottom, "lower", grow(high, low));
    }
    return parts;
  }

  function grab(event, line, key) {
    if (event.button) return;
    const had = picked.get(markOf(line))?.has(key.frame);
    if (!had || event.shiftKey) pick(line, key.frame, event.shiftKey);
    plot.focus({ preventScroll: true });
    if (!picked.get(markOf(line))?.has(key.frame)) return event.stopPropagation();
    follow(event, (dx, dy, next) => {
      // With Shift along one axis only.
      const [wide, high] = next.shiftKey ? (Math.abs(dx) > Math.abs(dy) ? [dx, 0] : [0, dy]) : [dx, dy];
      const later = wide / scale.perFrame();
      return { later: snap ? Math.round(later) : later, higher: -high * perPixel(line) };
    }, () => {
      if (!event.shiftKey) picked = new Map([[markOf(line), new Set([key.frame])]]);
      shot.go(key.frame);
      draw();
    });
  }

  // Follows the pointer with a move of the picked keys; one edit at the end.
  function follow(event, byOf, clicked = () => {}) {
    event.stopPropagation();
    event.preventDefault();
    const start = [event.clientX, event.clientY];
    const all = lines();
    const on = new Map(all.map((line) => [markOf(line), new Set(line.feed.keys.flatMap((key, at) => (picked.get(markOf(line))?.has(key.frame) ? [at] : [])))]));
    let by = null;
    const step = (next) => {
      const [dx, dy] = [next.clientX - start[0], next.clientY - start[1]];
      if (!by && Math.hypot(dx, dy) < 3) return;
      by = byOf(dx, dy, next);
      dragging = { on, feeds: new Map(all.map((line) => [markOf(line), movedFeed(line, on.get(markOf(line)), by)])) };
      drawPlot(all);
      shot.try([command(by)]);
    };
    const up = () => {
      window.removeEventListener("pointermove", step);
      window.removeEventListener("pointerup", up);
      dragging = null;
      if (by) move(by);
      else clicked();
    };
    window.addEventListener("pointermove", step);
    window.addEventListener("pointerup", up);
  }

  // What a move makes of a curve, for drawing only; the server's move counts.
  function movedFeed(line, on, by) {
    const { about = 0, stretch = 1, later = 0, level = 0, scale: times = 1, higher = 0 } = by;
    const offset = line.feed.offset ?? 0;
    return { ...line.feed, keys: line.feed.keys.map((key, at) => {
      if (!on.has(at)) return key;
      const slopes = key.slopes && { arrive: (key.slopes.arrive * times) / stretch, leave: (key.slopes.leave * times) / stretch };
      return { ...key, slopes, frame: (key.frame - about) * stretch + about + later, value: (key.value + offset - level) * times + level + higher - offset };
    }).sort((a, b) => a.frame - b.frame) };
  }

  function dragTangent(event, line, at, side, reachOf, slopes) {
    event.stopPropagation();
    event.preventDefault();
    const joined = slopes.arrive === slopes.leave;
    const frame = line.feed.keys[at].frame;
    const start = event.clientY;
    let made = null;
    const step = (next) => {
      const slope = slopes[side] - ((next.clientY - start) * perPixel(line)) / reachOf;
      made = joined && !next.altKey ? { arrive: slope, leave: slope } : { ...slopes, [side]: slope };
      const keys = line.feed.keys.map((key, one) => (one === at ? { ...key, slopes: made } : key));
      dragging = { on: new Map([[markOf(line), new Set([at])]]), feeds: new Map([[markOf(line), { ...line.feed, keys }]]) };
      drawPlot(lines());
      shot.try([{ do: "shape_keys", picked: [{ of: line.of, frames: [frame] }], shape: { slopes: made } }]);
    };
    const up = () => {
      window.removeEventListener("pointermove", step);
      window.removeEventListener("pointerup", up);
      dragging = null;
      if (made) shot.edit({ do: "shape_keys", picked: [{ of: line.of, frames: [frame] }], shape: { slopes: made } });
    };
    window.addEventListener("pointermove", step);
    window.addEventListener("pointerup", up);
  }

  // A drag over nothing picks what lies in the box; a click there goes to the frame.
  plot.addEventListener("pointerdown", (event) => {
    if (event.button) return;
    const bounds = plot.getBoundingClientRect();
    const [x0, y0] = [event.clientX - bounds.left, event.clientY - bounds.top];
    let moved = false;
    const step = (next) => {
      const [x1, y1] = [next.clientX - bounds.left, next.clientY - bounds.top];
      moved ||= Math.hypot(x1 - x0, y1 - y0) > 3;
      if (!moved) return;
      dragging = { box: { x: Math.min(x0, x1), y: Math.min(y0, y1), width: Math.abs(x1 - x0), height: Math.abs(y1 - y0) } };
      drawPlot(lines());
    };
    const up = () => {
      window.removeEventListener("pointermove", step);
      window.removeEventListener("pointerup", up);
      const box = dragging?.box;
      dragging = null;
      if (!event.shiftKey) picked = new Map();
      if (box) pickBox(box);
      else shot.go(scale.toFrame(x0));
      draw();
    };
    window.addEventListener("pointermove", step);
    window.addEventListener("pointerup", up);
  });

  function pickBox({ x, y, width, height }) {
    for (const line of lines()) {
      for (const key of line.feed.keys) {
        const [cx, cy] = [scale.toX(key.frame), toY(line, key.value + (line.feed.offset ?? 0))];
        if (cx < x || cx > x + width || cy < y || cy > y + height) continue;
        if (!picked.has(markOf(line))) picked.set(markOf(line), new Set());
        picked.get(markOf(line)).add(key.frame);
      }
    }
  }

  // A double click sets a key on the chosen curve, where the curve already is.
  plot.addEventListener("dblclick", (event) => {
    const line = lines().find(within);
    if (!line) return;
    const frame = Math.round(scale.toFrame(event.clientX - plot.getBoundingClientRect().left));
    if (line.feed !== line.whole) return mend(line, frame);
    const values = Array(line.of.axis + 1).fill(null);
    values[line.of.axis] = feedValue(line.feed, frame);
    shot.edit({ do: "put", stage: line.of.stage, control: line.of.control, values, frame, keys: "key" });
  });

  // A key more on what is added to a feed.
  function mend({ of, feed, whole, control }, frame) {
    const made = { ...whole, offset: withKeyAt(feed, frame, feedValue(feed, frame)) };
    const setting = control.kind.type === "number" ? made : { axes: feedsOf(control.setting).map((one, axis) => (axis === of.axis ? made : one)) };
    return shot.edit({ do: "set", stage: of.stage, control: of.control, setting });
  }

  plot.addEventListener("keydown", (event) => {
    const size = (event.shiftKey ? 10 : 1) * (event.altKey ? 0.1 : 1);
    const front = lines().find((line) => picked.get(markOf(line))?.size);
    const rise = front ? perPixel(front) * size : 0;
    const by = { ArrowLeft: { later: -size }, ArrowRight: { later: size }, ArrowUp: { higher: rise }, ArrowDown: { higher: -rise } }[event.key];
    if (by && count()) move(by);
    else if (event.key === "Delete" && count()) shot.edit({ do: "remove_keys", picked: pickedKeys() });
    else if (event.key.toLowerCase() === "a" && (event.ctrlKey || event.metaKey)) pickAll();
    else if (event.key === "Escape" && count()) { picked = new Map(); draw(); }
    else return;
    event.preventDefault();
    event.stopPropagation();
  });

  shot.watch((what) => ["setup", "view", "frame"].includes(what) && draw());
  return { draw };
}

// The time strip: ruler, playhead, held frames, and a line of beads for each keyed control.

import { shapeFrames } from "./drawn.js";
import { feedsOf, keyedOf, svg } from "./parts.js";

const SIDE = 14;
const LINE = 18;
const RULER = 26;
// More lines would take the picture's room; the curves show the rest.
const MOST_LINES = 6;

export function strip(shot, node, nodes) {
  const range = () => shot.state.setup.picture.frames;
  const wide = () => node.clientWidth || 600;
  const toX = (frame) => SIDE + ((frame - range().first) / Math.max(1, range().last - range().first)) * (wide() - 2 * SIDE);
  const toFrame = (x) => range().first + ((x - SIDE) / (wide() - 2 * SIDE)) * (range().last - range().first);

  // Keyed controls of the rows at hand, and of what a tool's row shows.
  function lines() {
    const rows = shot.atHand();
    return rows.flatMap((row) => {
      const stage = shot.stage(row);
      const targets = stage.tool ? stage.tool.faceplate.map((entry) => [entry.stage, entry.control]) : shot.controls(row).map((control) => [row, control.id]);
      return targets.flatMap(([id, controlId]) => {
        const control = shot.controls(id).find((one) => one.id === controlId);
        const frames = new Set([...feedsOf(control?.setting).flatMap((feed) => (keyedOf(feed)?.keys ?? []).map((key) => key.frame)), ...shapeFrames(control)]);
        const title = rows.length > 1 ? `${stage.name}: ${control?.name}` : control?.name;
        return frames.size ? [{ stage: id, row, control, title, frames: [...frames].sort((a, b) => a - b) }] : [];
      });
    });
  }

  function draw() {
    if (!shot.state) return;
    const { first, last } = range();
    const beads = lines().slice(0, MOST_LINES);
    const high = RULER + 12 + beads.length * LINE;
    node.setAttribute("height", high);
    node.setAttribute("aria-valuemin", first);
    node.setAttribute("aria-valuemax", last);
    node.setAttribute("aria-valuenow", shot.view.frame);
    const parts = [svg("rect", { x: SIDE, y: 4, width: Math.max(0, wide() - 2 * SIDE), height: 18, fill: "#191b1a" })];
    const step = (wide() - 2 * SIDE) / Math.max(1, last - first);
    const played = shot.range();
    if (played.first > first || played.last < last) {
      const [from, to] = [toX(played.first), toX(played.last)];
      parts.push(svg("rect", { class: "played", x: from, y: 4, width: Math.max(1, to - from), height: 18, fill: "#323634" }), svg("path", { d: `M${from + 4} 4h-4v18h4M${to - 4} 4h4v18h-4`, fill: "none", stroke: "#ece8de" }));
    }
    for (const frame of nodes.held()) parts.push(svg("rect", { x: toX(frame) - step / 2, y: 19, width: step + 0.5, height: 3, fill: "#6f7472" }));
    const every = [1, 2, 5, 10, 20, 50, 100, 200, 500].find((count) => count * step >= 52) ?? 1000;
    const small = every / 5 >= 1 ? every / 5 : 1;
    for (let frame = first; frame <= last; frame += small) {
      const long = (frame - first) % every === 0;
      parts.push(svg("path", { d: `M${toX(frame)} 22v${long ? -9 : -4}`, stroke: "#4a4e4c" }));
      if (long) parts.push(svg("text", { x: toX(frame) + 3, y: 15, fill: "#a9a79e", "font-size": 10.5, "font-family": "Chivo Mono" }, String(frame)));
    }
    beads.forEach((line, index) => {
      const y = RULER + 12 + index * LINE;
      parts.push(svg("path", { d: `M${SIDE} ${y}H${wide() - SIDE}`, stroke: "#2f3331" }));
      for (const frame of line.frames) {
        const bead = svg("circle", { class: "bead", cx: toX(frame), cy: y, r: 5, fill: "#c9a35b", stroke: "#1f2120", "stroke-width": 2 });
        const hit = svg("circle", {
          class: "bead", cx: toX(frame), cy: y, r: 12, fill: "transparent", tabindex: 0, role: "button",
          "aria-label": `key of ${line.title} at ${frame}`, "data-bead": frame,
        });
        hit.addEventListener("pointerdown", (event) => event.stopPropagation());
        hit.addEventListener("click", () => {
          shot.select([line.row]);
          shot.go(frame);
        });
        hit.addEventListener("keydown", (event) => {
          if (event.key === "Enter") shot.go(frame);
          else if (event.key === "Delete") shot.edit({ do: "unkey", stage: line.stage, control: line.control.id, frame });
          else return;
          event.stopPropagation();
        });
        parts.push(bead, hit);
      }
      parts.push(svg("text", { x: SIDE + 4, y: y - 4, fill: "#a9a79e", "font-size": 11, "pointer-events": "none" }, line.title));
    });
    const x = toX(shot.view.frame);
    parts.push(svg("path", { d: `M${x} 4V${high}`, stroke: "#ece8de" }), svg("path", { d: `M${x - 5} 0h10l-5 7z`, fill: "#ece8de" }));
    node.replaceChildren(...parts);
    nodes.frame.value = shot.view.frame;
  }

  node.addEventListener("pointerdown", (event) => {
    const go = (next) => shot.go(toFrame(next.clientX - node.getBoundingClientRect().left));
    const up = () => {
      node.removeEventListener("pointermove", go);
      node.removeEventListener("pointerup", up);
    };
    node.setPointerCapture(event.pointerId);
    node.addEventListener("pointermove", go);
    node.addEventListener("pointerup", up);
    go(event);
  });

  node.addEventListener("keydown", (event) => {
    const to = { ArrowLeft: shot.view.frame - 1, ArrowRight: shot.view.frame + 1, Home: range().first, End: range().last }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    shot.go(to);
  });

  // To the next or previous key of the shown lines.
  function toKey(direction) {
    const frames = lines().flatMap((line) => line.frames).sort((a, b) => a - b);
    const next = direction > 0 ? frames.find((frame) => frame > shot.view.frame) : frames.reverse().find((frame) => frame < shot.view.frame);
    if (next !== undefined) shot.go(next);
  }

  new ResizeObserver(draw).observe(node);
  shot.watch((what) => ["setup", "view", "frame"].includes(what) && draw());
  return { draw, toKey, scale: { toX, toFrame, side: SIDE, perFrame: () => toX(range().first + 1) - toX(range().first) } };
}

// A tone curve on the bench: a click makes a point, a drag moves one, Delete takes it away.

import { el, short, svg } from "./parts.js";

const WIDE = 256;
const HIGH = 150;
const STEPS = 64;

const ordered = (points) => points.toSorted((a, b) => a[0] - b[0]);

// Slopes at the points, as the server has them: Fritsch and Carlson's, which never swing beyond a point.
function slopesOf(points) {
  const secants = points.slice(1).map((point, at) => (point[1] - points[at][1]) / (point[0] - points[at][0]));
  if (!secants.length) return points.map(() => 1);
  const slopes = [secants[0], ...secants.slice(1).map((secant, at) => (secant * secants[at] <= 0 ? 0 : (secant + secants[at]) / 2)), secants[secants.length - 1]];
  secants.forEach((secant, at) => {
    const far = Math.hypot(slopes[at] / secant, slopes[at + 1] / secant);
    if (secant === 0) slopes[at] = slopes[at + 1] = 0;
    else if (far > 3) [slopes[at], slopes[at + 1]] = [(3 * slopes[at]) / far, (3 * slopes[at + 1]) / far];
  });
  return slopes;
}

function valueAt(points, slopes, x) {
  const next = points.findIndex((point) => point[0] > x);
  if (!points.length) return x;
  if (next === 0) return points[0][1] + (x - points[0][0]) * slopes[0];
  if (next < 0) return points[points.length - 1][1] + (x - points[points.length - 1][0]) * slopes[slopes.length - 1];
  const [[from, start], [to, end]] = [points[next - 1], points[next]];
  const [t, wide] = [(x - from) / (to - from), to - from];
  const u = 1 - t;
  return u * u * (1 + 2 * t) * start + t * t * (1 + 2 * u) * end + u * u * t * wide * slopes[next - 1] - t * t * u * wide * slopes[next];
}

// `set` takes the new points, as one step.
export function toneNode(key, control, set) {
  const points = ordered(control.setting.curve);
  // What is seen: 0 to 1, and as far as points lie beyond.
  const low = [0, 1].map((axis) => Math.min(0, ...points.map((point) => point[axis])));
  const high = [0, 1].map((axis) => Math.max(1, ...points.map((point) => point[axis])));
  const toScreen = ([x, y]) => [((x - low[0]) / (high[0] - low[0])) * WIDE, HIGH - ((y - low[1]) / (high[1] - low[1])) * HIGH];
  const node = svg("svg", { class: "tone", viewBox: `-6 -6 ${WIDE + 12} ${HIGH + 12}`, role: "group", "aria-label": `curve of ${control.name}` });
  const fromEvent = (event) => {
    const box = node.getBoundingClientRect();
    const [x, y] = [((event.clientX - box.left) / box.width) * (WIDE + 12) - 6, ((event.clientY - box.top) / box.height) * (HIGH + 12) - 6];
    return [low[0] + (x / WIDE) * (high[0] - low[0]), low[1] + ((HIGH - y) / HIGH) * (high[1] - low[1])];
  };

  function draw(run) {
    const slopes = slopesOf(run);
    const path = Array.from({ length: STEPS + 1 }, (_, at) => {
      const x = low[0] + ((high[0] - low[0]) * at) / STEPS;
      const [px, py] = toScreen([x, valueAt(run, slopes, x)]);
      return `${at ? "L" : "M"}${px.toFixed(1)} ${Math.min(HIGH + 6, Math.max(-6, py)).toFixed(1)}`;
    }).join("");
    const line = (a, b) => svg("path", { d: `M${toScreen(a).join(" ")}L${toScreen(b).join(" ")}`, stroke: "var(--rule)", fill: "none" });
    node.replaceChildren(
      svg("rect", { x: 0, y: 0, width: WIDE, height: HIGH, fill: "var(--sunk)", stroke: "var(--bound)" }),
      ...[0.25, 0.5, 0.75].flatMap((at) => [line([at, low[1]], [at, high[1]]), line([low[0], at], [high[0], at])]),
      line([0, 0], [1, 1]),
      svg("path", { d: path, stroke: "var(--salt)", "stroke-width": 1.6, fill: "none" }),
      ...run.flatMap((point, index) => mark(run, point, index)));
  }

  function mark(run, point, index) {
    const [cx, cy] = toScreen(point);
    const hit = svg("circle", {
      cx, cy, r: 12, fill: "transparent", tabindex: 0, role: "button", "aria-label": `point ${index + 1}: ${short(point[0], 3)} becomes ${short(point[1], 3)}`, "data-field": `${key}-${index}`, class: "tonepoint",
      onpointerdown: (event) => grab(event, index),
      onkeydown: (event) => {
        const step = { ArrowLeft: [-0.01, 0], ArrowRight: [0.01, 0], ArrowUp: [0, 0.01], ArrowDown: [0, -0.01] }[event.key];
        event.stopPropagation();
        if (step) set(run.map((one, at) => (at === index ? [one[0] + step[0] * (event.shiftKey ? 10 : 1), one[1] + step[1] * (event.shiftKey ? 10 : 1)] : one)));
        else if ((event.key === "Delete" || event.key === "Backspace") && run.length > 1) set(run.filter((_, at) => at !== index));
        else return;
        event.preventDefault();
      },
    });
    return [svg("circle", { cx, cy, r: 4, fill: "var(--panel)", stroke: "var(--salt)", "stroke-width": 1.6 }), hit];
  }

  function grab(event, index) {
    event.preventDefault();
    event.stopPropagation();
    event.target.focus();
    let moved = null;
    const move = (next) => {
      moved = points.map((point, at) => (at === index ? fromEvent(next).map((value) => Math.round(value * 1000) / 1000) : point));
      draw(ordered(moved));
    };
    const up = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      if (moved) set(moved);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
  }

  node.addEventListener("click", (event) => {
    if (event.target.classList.contains("tonepoint")) return;
    const [x] = fromEvent(event);
    const slopes = slopesOf(points);
    set([...points, [Math.round(x * 1000) / 1000, Math.round(valueAt(points, slopes, x) * 1000) / 1000]]);
  });
  draw(points);
  return el("div", { class: "stops" }, node);
}

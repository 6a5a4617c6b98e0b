// The stops of a gradient: a bar to click and drag on, and the numbers of the chosen one.

import { arithmetic, el, short } from "./parts.js";

const WIDE = 240;
const HIGH = 22;

// A linear value as the screen shows it.
const shown = (value) => {
  const v = Math.min(1, Math.max(0, value));
  return Math.round(255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055));
};

const ordered = (stops) => stops.toSorted((a, b) => a.at - b.at);

// The colour and alpha at a place, mixed premultiplied as the picture is.
function mixed(stops, at) {
  const run = ordered(stops);
  const next = run.findIndex((stop) => stop.at > at);
  if (next <= 0) return next ? run[run.length - 1] : run[0];
  const [a, b] = [run[next - 1], run[next]];
  let share = (at - a.at) / (b.at - a.at);
  if (a.smooth) share = share * share * (3 - 2 * share);
  const alpha = a.alpha + (b.alpha - a.alpha) * share;
  const colour = a.colour.map((value, axis) => (alpha > 0 ? (value * a.alpha + (b.colour[axis] * b.alpha - value * a.alpha) * share) / alpha : value));
  return { at, colour, alpha, smooth: a.smooth };
}

// Which stop of each control is chosen; it stays so while the bench is drawn anew.
const chosen = new Map();

// `set` takes the new stops, as one step.
export function stopsNode(key, control, set) {
  const stops = control.setting.stops;
  const at = Math.min(chosen.get(key) ?? 0, stops.length - 1);
  const canvas = el("canvas", { class: "ramp", width: WIDE, height: HIGH, role: "img", "aria-label": `${control.name}: click for another stop` });
  const marks = el("div", { class: "stopmarks" });
  const node = el("div", { class: "stops" }, canvas, marks, numbers());

  function paint(run) {
    const context = canvas.getContext("2d");
    const pixels = context.createImageData(WIDE, HIGH);
    for (let x = 0; x < WIDE; x++) {
      const { colour, alpha } = mixed(run, x / (WIDE - 1));
      for (let y = 0; y < HIGH; y++) {
        const check = ((x >> 3) + (y >> 3)) % 2 ? 0.12 : 0.05;
        pixels.data.set([...colour.map((value) => shown(value * alpha + check * (1 - alpha))), 255], (y * WIDE + x) * 4);
      }
    }
    context.putImageData(pixels, 0, 0);
    marks.replaceChildren(...run.map((stop, index) => mark(run, stop, index)));
  }

  function mark(run, stop, index) {
    const button = el("button", {
      class: "stopmark", style: `left:${stop.at * 100}%`, "aria-pressed": index === at, "aria-label": `stop ${index + 1} at ${short(stop.at, 3)}`, "data-field": `${key}-stop-${index}`,
      onkeydown: (event) => {
        const step = { ArrowLeft: -0.01, ArrowRight: 0.01 }[event.key];
        event.stopPropagation();
        if (step) change(index, { at: stop.at + step * (event.shiftKey ? 10 : 1) });
        else if (event.key === "Delete" && run.length > 1) set(run.filter((_, one) => one !== index));
        else return;
        event.preventDefault();
      },
      onpointerdown: (event) => grab(event, index),
      onclick: () => choose(index),
    }, el("i", { style: `background:rgb(${stop.colour.map((value) => shown(value)).join(" ")})` }));
    return button;
  }

  function choose(index) {
    chosen.set(key, index);
    node.replaceWith(stopsNode(key, control, set));
  }

  function change(index, values) {
    const bound = (value) => Math.min(1, Math.max(0, value));
    chosen.set(key, index);
    set(stops.map((stop, one) => {
      const next = { ...stop, ...values };
      return one === index ? { ...next, at: bound(next.at), alpha: bound(next.alpha) } : stop;
    }));
  }

  function grab(event, index) {
    event.preventDefault();
    const box = canvas.getBoundingClientRect();
    let moved = null;
    const move = (next) => {
      moved = Math.min(1, Math.max(0, (next.clientX - box.left) / box.width));
      paint(stops.map((stop, one) => (one === index ? { ...stop, at: moved } : stop)));
    };
    const up = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      if (moved === null) choose(index);
      else change(index, { at: moved });
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
  }

  canvas.onclick = (event) => {
    const box = canvas.getBoundingClientRect();
    const place = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
    chosen.set(key, stops.length);
    set([...stops, { ...mixed(stops, place), at: place }]);
  };

  function numbers() {
    const stop = stops[at];
    const field = (name, value, take) => el("label", {}, el("span", { class: "quiet" }, name), el("input", {
      class: "veil-field num", value: short(value, 4), "aria-label": `${name} of stop ${at + 1}`, "data-field": `${key}-${name}`, onfocus: (event) => event.target.select(), onkeydown: (event) => event.stopPropagation(),
      onchange: (event) => { const number = arithmetic(event.target.value); if (Number.isFinite(number)) change(at, take(number)); else event.target.setAttribute("aria-invalid", "true"); },
    }));
    const part = (axis) => (value) => ({ colour: stop.colour.map((old, one) => (one === axis ? value : old)) });
    return el("div", { class: "stopnumbers" },
      field("place", stop.at, (value) => ({ at: value })), field("red", stop.colour[0], part(0)), field("green", stop.colour[1], part(1)), field("blue", stop.colour[2], part(2)), field("alpha", stop.alpha, (value) => ({ alpha: value })),
      el("label", { class: "wide" }, el("input", { type: "checkbox", checked: Boolean(stop.smooth), "aria-label": `smooth from stop ${at + 1}`, onchange: (event) => change(at, { smooth: event.target.checked }) }), " smooth"),
      stops.length > 1 ? el("button", { class: "button veil bare quiet", "aria-label": `remove stop ${at + 1}`, onclick: () => set(stops.filter((_, one) => one !== at)) }, "×") : null);
  }

  paint(stops);
  return node;
}

// What is drawn of a curve: its line, its keys with the tangents of the picked ones, and the box about picked keys.

import { short, svg } from "../base/parts.js";
import { keyValue, slopesOf } from "../shot/keys.js";
import { HIGH, valueOf } from "./curvelines.js";

const [BRASS, GREY, SALT] = ["#c9a35b", "#6f7472", "#ece8de"];
// Places that a curve is drawn through, beside its keys.
const PLACES = 600;
// Room between the outermost picked keys and the box about them.
const ROOM = 9;
// A box that is lower than this shows no sides to scale by.
const LOW = 30;

/** @typedef {import("./curves.js").Curves} Curves */
/** @typedef {import("./curvelines.js").Curve} Curve */

/**
 * @param {Curves} curves
 * @param {Curve} curve
 */
function pathOf({ shot, lines, scale }, curve) {
  const { first, last } = shot.state.setup.picture.frames;
  const step = Math.max(0.25, (last - first) / PLACES);
  const frames = [];
  for (let frame = first; frame < last; frame += step) frames.push(frame);
  // Beside a step the line stands upright.
  for (const key of curve.feed.keys) frames.push(key.frame, key.frame - 1e-6);
  frames.push(last);
  return frames.sort((a, b) => a - b).map((frame, at) => `${at ? "L" : "M"}${scale.toX(frame).toFixed(1)} ${lines.toY(curve, keyValue(curve.feed, frame)).toFixed(1)}`).join("");
}

/**
 * @param {Curves} curves
 * @param {Curve} curve
 */
export function curveParts(curves, curve) {
  const { lines, scale } = curves;
  const front = lines.inFront(curve);
  const line = svg("path", { d: pathOf(curves, curve), fill: "none", stroke: front ? BRASS : GREY, "stroke-width": front ? 1.8 : 1.2, "pointer-events": "none" });
  const [low, high] = lines.span(curve);
  const text = (/** @type {number} */ y, /** @type {number} */ value) => svg("text", { x: scale.side + 2, y, class: "curvetext" }, short(value, 3));
  return [line, ...(front && lines.own ? [text(11, high), text(HIGH - 2, low)] : []), ...curve.feed.keys.flatMap((_key, at) => keyParts(curves, curve, at, front))];
}

/**
 * @param {Curves} curves
 * @param {Curve} curve
 * @param {number} at
 * @param {boolean} front
 */
function keyParts(curves, curve, at, front) {
  const { lines, scale, drag, shot } = curves;
  const key = curve.feed.keys[at];
  const [cx, cy] = [scale.toX(key.frame), lines.toY(curve, valueOf(curve, key))];
  const on = drag.on(curve, at) ?? lines.picked.get(curve.mark)?.has(key.frame) ?? false;
  const enter = (/** @type {KeyboardEvent} */ event) => {
    if (event.key !== "Enter") return;
    event.preventDefault();
    event.stopPropagation();
    lines.pick(curve, key.frame, event.shiftKey);
    shot.go(key.frame);
    curves.draw();
  };
  return [
    ...(on && front ? tangents(curves, curve, at, cx, cy) : []),
    svg("circle", { cx, cy, r: on ? 6 : 4.5, fill: on ? SALT : front ? BRASS : GREY, stroke: "#1f2120", "stroke-width": 2, "pointer-events": "none" }),
    svg("circle", {
      class: "bead", cx, cy, r: 12, fill: "transparent", tabindex: 0, role: "button", "aria-pressed": on, "aria-label": `key of ${curve.title} at ${short(key.frame)}, ${short(key.value, 3)}`, "data-key": `${curve.mark}@${key.frame}`,
      onpointerdown: (event) => drag.key(event, curve, key), onkeydown: enter,
    }),
  ];
}

/**
 * Handles a third of the way to the neighbours; Alt moves one side alone.
 * @param {Curves} curves
 * @param {Curve} curve
 * @param {number} at
 * @param {number} cx
 * @param {number} cy
 */
function tangents({ lines, scale, drag }, curve, at, cx, cy) {
  const { keys } = curve.feed;
  const slopes = slopesOf(keys, at);
  /** @type {["arrive" | "leave", Key | undefined, number][]} */
  const sides = [["arrive", keys[at - 1], -1], ["leave", keys[at + 1], 1]];
  return sides.flatMap(([side, other, way]) => {
    const before = way < 0 ? other : keys[at];
    if (!other || before?.ease !== "through") return [];
    const reach = (way * Math.abs(other.frame - keys[at].frame)) / 3;
    const [hx, hy] = [scale.toX(keys[at].frame + reach), cy - (slopes[side] * reach) / lines.perPixel(curve)];
    return [
      svg("path", { d: `M${cx} ${cy}L${hx} ${hy}`, stroke: SALT, "pointer-events": "none" }), svg("circle", { cx: hx, cy: hy, r: 3.5, fill: SALT, "pointer-events": "none" }),
      svg("circle", { class: "bead", cx: hx, cy: hy, r: 12, fill: "transparent", "data-tangent": `${side}@${keys[at].frame}`, onpointerdown: (event) => drag.tangent(event, curve, { at, side, reach, slopes }) }),
    ];
  });
}

/**
 * Where the picked keys are, with sides that stretch time and scale values.
 * @param {Curves} curves
 * @param {Curve[]} all
 */
export function pickedBox({ lines, scale, drag }, all) {
  if (lines.count < 2) return [];
  const held = all.flatMap((curve) => curve.feed.keys.filter((key) => lines.picked.get(curve.mark)?.has(key.frame)).map((key) => ({ curve, frame: key.frame, value: valueOf(curve, key) })));
  const xs = held.map(({ frame }) => scale.toX(frame));
  const ys = held.map(({ curve, value }) => lines.toY(curve, value));
  const [left, right] = [Math.min(...xs) - ROOM, Math.max(...xs) + ROOM];
  const [top, bottom] = [Math.max(2, Math.min(...ys) - ROOM), Math.min(HIGH - 2, Math.max(...ys) + ROOM)];
  const side = (/** @type {number} */ x, /** @type {number} */ y, /** @type {string} */ name, /** @type {(dx: number, dy: number) => import("./curvemoves.js").Move} */ by) => [
    svg("rect", { x: x - 4, y: y - 4, width: 8, height: 8, fill: "#1f2120", stroke: SALT, "pointer-events": "none" }),
    svg("rect", { x: x - 12, y: y - 12, width: 24, height: 24, fill: "transparent", class: "bead", "data-side": name, onpointerdown: (event) => drag.keys(event, by) }),
  ];
  const stretch = (/** @type {number} */ about, /** @type {number} */ from) => (/** @type {number} */ dx) => {
    const to = from + dx / scale.perFrame();
    return { about, stretch: Math.max(0.02, ((lines.snap ? Math.round(to) : to) - about) / (from - about)) };
  };
  const frames = held.map(({ frame }) => frame);
  const [first, last, middle] = [Math.min(...frames), Math.max(...frames), (top + bottom) / 2];
  const wide = last > first ? [...side(right, middle, "later", stretch(first, last)), ...side(left, middle, "earlier", stretch(last, first))] : [];
  const one = new Set(held.map(({ curve }) => curve)).size === 1 ? held[0].curve : null;
  const values = held.map(({ value }) => value);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const grow = (/** @type {Curve} */ curve, /** @type {number} */ level, /** @type {number} */ from) => (/** @type {number} */ _dx, /** @type {number} */ dy) => ({ level, scale: (from - dy * lines.perPixel(curve) - level) / (from - level) });
  const tall = one && bottom - top > LOW ? [...side((left + right) / 2, top, "higher", grow(one, low, high)), ...side((left + right) / 2, bottom, "lower", grow(one, high, low))] : [];
  return [svg("rect", { x: left, y: top, width: right - left, height: bottom - top, fill: "none", stroke: "#a9a79e", "stroke-dasharray": "2 4", "pointer-events": "none" }), ...wide, ...tall];
}

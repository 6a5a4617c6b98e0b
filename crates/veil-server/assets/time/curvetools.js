// What stands above the curves: which are shown, the numbers of the picked keys, and their shapes.

import { apart, choose, el, framed, short } from "../base/parts.js";
import { valueOf } from "./curvelines.js";

/** Ways from a key to the next, beside straight and step; handles as shares of time and change. @type {{ [name: string]: Ease }} */
const EASES = { "slow both ends": "smooth", "slow out": { curve: [0.5, 0, 0.8, 0.6] }, "slow in": { curve: [0.2, 0.4, 0.5, 1] }, "late rush": { curve: [0.9, 0, 1, 0.4] }, "quick start": { curve: [0, 0.7, 0.1, 1] }, "past it and back": { curve: [0.3, 0, 0.4, 1.5] }, "back, then on": { curve: [0.6, -0.5, 0.7, 1] } };

/** @typedef {import("./curvelines.js").Curve} Curve */

const tool = (/** @type {string} */ name, /** @type {string} */ title, /** @type {() => unknown} */ run, /** @type {boolean | undefined} */ pressed = undefined) => el("button", { class: "button is-ghost quiet", title, onclick: run, ...(pressed === undefined ? {} : { "aria-pressed": pressed }) }, name);

export class CurveTools {
  /**
   * @param {Shot} shot
   * @param {import("./curvelines.js").CurveLines} lines
   * @param {import("./curvemoves.js").CurveMoves} moves
   * @param {() => void} redraw
   */
  constructor(shot, lines, moves, redraw) {
    this.shot = shot;
    this.lines = lines;
    this.moves = moves;
    this.redraw = redraw;
    this.node = el("div", { class: "curvetools" });
    this.chips = el("div", { class: "curvechips", role: "group", "aria-label": "curves" });
    this.filter = el("input", { class: "input", type: "search", placeholder: "filter curves", "aria-label": "filter curves", oninput: (event) => {
      lines.words = event.target.value.trim();
      redraw();
    } });
  }

  /** @param {Curve[]} all */
  draw(all) {
    const typing = this.node.contains(document.activeElement) ? document.activeElement?.getAttribute("aria-label") : null;
    this.filter.remove();
    this.node.replaceChildren(this.filter, ...this.#switches(), el("span", { class: "grow" }), ...this.#numbers(all), ...this.#shapes(), framed(this.#ease()), framed(this.#timing(all)));
    if (typing) /** @type {HTMLElement | null} */ (this.node.querySelector(`[aria-label="${CSS.escape(typing)}"]`))?.focus();
    this.#drawChips(all);
  }

  /** @param {"everyRow" | "own" | "snap"} which */
  #turn(which) {
    return () => {
      this.lines[which] = !this.lines[which];
      this.redraw();
    };
  }

  #switches() {
    const { lines } = this;
    return [
      tool("every row", "curves of every row, not only of those at hand", this.#turn("everyRow"), lines.everyRow),
      tool("own scale", "each curve as high as the panel", this.#turn("own"), lines.own),
      tool("whole frames", "moved keys land on whole frames", this.#turn("snap"), lines.snap),
      tool("all keys", "pick every key of the curves here", () => {
        lines.pickAll();
        this.redraw();
      }),
    ];
  }

  /** @param {Curve[]} all */
  #numbers(all) {
    const { lines, moves } = this;
    const one = lines.single(all);
    const first = Math.min(...[...lines.picked.values()].flatMap((frames) => [...frames]));
    const value = one && valueOf(one.curve, one.key);
    const number = (/** @type {string} */ name, /** @type {string | number | null | undefined} */ shown, /** @type {(to: number) => unknown} */ kept) => {
      const take = (/** @type {string} */ text) => text.trim() && Number.isFinite(Number(text)) && kept(Number(text));
      const field = el("input", { class: "input num", "aria-label": `${name} of the picked keys`, value: shown ?? "", disabled: !lines.count, placeholder: lines.count ? "…" : "", onkeydown: apart, onchange: (event) => take(event.target.value) });
      return el("label", { class: "quiet" }, name, field);
    };
    return [
      number("frame", one?.key.frame, (to) => moves.move({ later: to - (one?.key.frame ?? first) })),
      number("value", value === null ? null : short(value, 4), (to) => moves.move(value === null ? { level: to, scale: 0 } : { higher: to - value })),
      number("stretch %", lines.count > 1 ? 100 : null, (to) => moves.move({ about: first, stretch: to / 100 })),
    ];
  }

  #shapes() {
    const { moves } = this;
    return [
      tool("smooth", "through the key, without rising above its neighbours", () => moves.shape("smooth")),
      tool("flat", "level at the key", () => moves.shape("flat")),
      tool("broken", "another slope on either side", () => moves.breakApart()),
      tool("straight", "a straight line to the next key", () => moves.shape({ ease: "straight" })),
      tool("step", "the value stays until the next key", () => moves.shape({ ease: "step" })),
    ];
  }

  #ease() {
    const names = Object.keys(EASES).map((name) => [name, name]);
    return choose("way to the next key", "", [["", "ease"], ...names], (name) => this.moves.shape({ ease: EASES[name] }), { disabled: !this.lines.count });
  }

  /** @param {Curve[]} all */
  #timing(all) {
    const source = all.find((curve) => this.lines.inFront(curve));
    const others = all.filter((curve) => source && curve !== source);
    const give = (/** @type {string} */ to) => this.shot.edit({ do: "copy_timing", from: source?.of, to: (to === "all" ? others : [others[Number(to)]]).map((curve) => curve.of) });
    const entries = [["", "timing to"], ...others.map((curve, at) => [at, curve.title]), ...(others.length > 1 ? [["all", "all of these"]] : [])];
    return choose("give the chosen curve's timing to", "", entries, give, { disabled: !others.length });
  }

  /** @param {Curve[]} all */
  #drawChips(all) {
    const { lines } = this;
    const choose = (/** @type {MouseEvent} */ event, /** @type {string} */ mark) => {
      if (!event.ctrlKey && !event.metaKey) lines.chosen.clear();
      if (!lines.chosen.delete(mark)) lines.chosen.add(mark);
      this.redraw();
    };
    const chips = all.map((curve) => el("button", { class: "curvechip", "aria-pressed": lines.inFront(curve), title: "bring to the front; with Ctrl beside others", onclick: (event) => choose(event, curve.mark) }, curve.title));
    this.chips.replaceChildren(...(all.length ? chips : [el("span", { class: "quiet" }, "no keys here: the bead beside a control sets one")]));
  }
}

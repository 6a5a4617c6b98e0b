// Outlines as they are and as they shall be, and fences: the list on the bench, drawn and tied on the picture.

import { button, byId, el } from "../base/parts.js";
import { toast } from "../base/telling.js";
import { goesWith, keyButton, wayField } from "../bench/drawnfields.js";
import { nameField, pairChoice } from "../bench/fieldparts.js";
import { PairMarks, PairPress, crossedTies, withPair } from "../viewer/pairmarks.js";

const SIDES = [["0", "as it is"], ["1", "as it shall be"]];

/** @type {ControlType} */
export const pairs = {
  alone: true,
  lines: (lines, id, control) => [lines.line(control, new PairList(lines, id, control).node(), "whole")],
  hand: ({ shot, overlay, well, carry, remark }) => new PairPress(new PairMarks(shot, overlay, well, carry, remark)),
};

class PairList {
  /**
   * @param {Lines} lines
   * @param {number} id the row
   * @param {Control} control
   */
  constructor(lines, id, control) {
    this.lines = lines;
    this.shot = lines.shot;
    this.id = id;
    this.control = control;
    /** @type {PairSet} */
    this.held = control.setting.pairs;
    // A row that is kept here beside the selected one has nothing at hand.
    this.mine = this.shot.selected === id;
    const [pairs, most] = [this.held.pairs.length, 2 * this.held.pairs.length + this.held.fences.length - 1];
    this.shape = this.mine ? Math.min(this.shot.outline.shape, most) : 0;
    /** Which of the list is chosen: the pairs, then the fences. */
    this.at = this.shape < 2 * pairs ? this.shape >> 1 : this.shape - pairs;
  }

  node() {
    const { held, mine, shot } = this;
    const drawing = mine ? shot.outline.drawing : null;
    const makes = shot.outline.own.makes;
    const draw = (/** @type {string} */ name, /** @type {boolean} */ closed, /** @type {string} */ what) => button(name, closed ? "closed" : "open", () => this.#begin(closed, what), Boolean(drawing && drawing.closed === closed && makes === what));
    return el("div", { class: "shapes" },
      el("div", { class: "deeds" }, draw("draw a pair", true, "pair"), draw("draw an open pair", false, "pair"), draw("draw a fence", true, "fence"), draw("draw an open fence", false, "fence")),
      this.#copied(),
      ...held.pairs.map((pair, at) => this.#line(pair, at, 2 * at + 1)), ...held.fences.map((fence, at) => this.#line(fence, held.pairs.length + at, 2 * held.pairs.length + at)),
      held.pairs.length + held.fences.length ? this.#chosen() : null);
  }

  /** A choice of what is drawn in other rows, to begin a pair with; null where nothing is. */
  #copied() {
    const drawn = this.shot.state.setup.stages.flatMap((row) => (row.controls?.shapes?.shapes ?? []).map((/** @type {Outline} */ outline) => ({ outline, name: `${row.name}: ${outline.name}` })));
    if (!drawn.length) return null;
    const take = (/** @type {string} */ number) => number && this.#add(drawn[Number(number)].outline);
    return el("div", { class: "shapefields" }, pairChoice("a pair from", this.control.name, "", [["", "an outline"], ...drawn.map(({ name }, at) => [String(at), name])], take));
  }

  /** @param {Outline} outline */
  #add({ name, width, keys, way, carried }) {
    const { pairs } = this.held;
    const line = { keys, ...(way ? { way } : {}), ...(carried ? { carried } : {}) };
    if (this.mine) this.shot.newOutline({ shape: 2 * pairs.length + 1 });
    const ties = keys[0].points.map((_point, at) => /** @type {Place} */ ([at, at]));
    return this.#keep(withPair(this.held, { name, closed: !width, rest: line, goal: line, ties }, this.#dissolves));
  }

  /**
   * @param {boolean} closed
   * @param {string} makes
   */
  #begin(closed, makes) {
    if (!this.mine) this.shot.select([this.id]);
    this.shot.newOutline({ shape: this.shape, drawing: { closed, points: [] }, own: { makes } });
    toast(closed ? "click to place points, drag to bend; the first point closes, Escape leaves it" : "click to place points, drag to bend; Enter ends the line, Escape leaves it");
    byId("well").focus();
  }

  /**
   * @param {Pair | Fence} one
   * @param {number} at
   * @param {number} shape which outline is taken up with it
   */
  #line(one, at, shape) {
    const ties = "ties" in one ? one.ties ?? [] : null;
    const crossed = ties && "goal" in one ? crossedTies(ties, one.closed === false ? null : one.goal.keys[0].points.length).size : 0;
    const facts = [ties ? `${ties.length} ties` : "fence", crossed ? `${crossed} crossed` : "", "own" in one && one.own ? "own amount" : "", "own_dissolve" in one && one.own_dissolve && this.#dissolves ? "own dissolve" : "", one.counts === false ? "off" : "", one.locked ? "locked" : "", one.hidden ? "hidden" : ""];
    const chosen = at === this.at;
    return el("button", { class: `shapeline${chosen ? " chosen" : ""}`, "aria-pressed": chosen, onclick: () => this.#take(shape) },
      el("span", {}, one.name), el("span", { class: "quiet" }, facts.filter(Boolean).join(" · ")));
  }

  /** @param {number} shape */
  #take(shape) {
    if (!this.mine) this.shot.select([this.id]);
    this.shot.newOutline({ shape });
  }

  /** @param {PairSet} held */
  #keep(held) {
    return this.shot.edit({ do: "set", stage: this.id, control: this.control.id, setting: { pairs: held } });
  }

  get #fenceAt() {
    return this.at - this.held.pairs.length;
  }

  get #one() {
    return this.held.pairs[this.at] ?? this.held.fences[this.#fenceAt];
  }

  /** @param {Partial<Pair & Fence>} values */
  #change(values) {
    const { held, at } = this;
    const changed = (/** @type {any[]} */ all, /** @type {number} */ number) => all.map((one, index) => (index === number ? { ...one, ...values } : one));
    return this.#keep({ ...held, pairs: changed(held.pairs, at), fences: changed(held.fences, this.#fenceAt) });
  }

  #chosen() {
    const one = this.#one;
    const pair = this.held.pairs[this.at];
    return el("div", { class: "shapeparts" }, nameField(one.name, (name) => this.#change({ name })), this.#fields(pair),
      ...this.#own(pair).map(([name, index]) => this.#number(name, index)), this.#deeds(one, pair));
  }

  /**
   * The numbers that are a line's own, each with which of the control's it is.
   * @param {Pair | undefined} pair
   * @returns {[string, number][]}
   */
  #own(pair) {
    if (!pair) return [["firmness", this.at]];
    const { pairs, fences } = this.held;
    return [
      ...(pair.own ? [/** @type {[string, number]} */ (["own amount", this.at])] : []),
      ...(pair.own_dissolve && this.#dissolves ? [/** @type {[string, number]} */ (["own dissolve", pairs.length + fences.length + this.at])] : []),
    ];
  }

  /**
   * @param {string} name
   * @param {number} index
   */
  #number(name, index) {
    const { control } = this;
    return this.lines.number(this.id, { ...control, name, apart: true, kind: { ...control.kind, unit: "none", slider: [0, 1] } }, index);
  }

  get #dissolves() {
    return this.control.kind.own === "amount_and_dissolve";
  }

  /** @param {Pair | undefined} pair */
  #fields(pair) {
    const side = this.shape & 1;
    const said = this.#said(pair, side);
    const at = (/** @type {string} */ value) => this.#take(2 * this.at + Number(value));
    return el("div", { class: "shapefields" }, pair ? pairChoice("at hand", pair.name, String(side), SIDES, at) : null, wayField(said), ...goesWith(said));
  }

  /**
   * @param {Pair | undefined} pair
   * @param {number} side
   * @returns {import("../bench/drawnfields.js").Said}
   */
  #said(pair, side) {
    const { shot, id, control, shape: index } = this;
    const part = /** @type {"line" | "rest" | "goal"} */ (pair ? ["rest", "goal"][side] : "line");
    const points = /** @type {any} */ (this.#one)[part];
    return { shot, stage: id, control, index, name: this.#one.name, points, change: (values) => this.#change({ [part]: { ...points, ...values } }) };
  }

  /**
   * @param {Pair | Fence} one
   * @param {Pair | undefined} pair
   */
  #deeds(one, pair) {
    const { shot } = this;
    const { own } = shot.outline;
    const tie = () => shot.atOutline({ own: { ...own, tying: !own.tying }, points: new Set() });
    const ofPair = pair ? [
      button("tie", "drag from one outline to the other; press on the end of a tie to take it away", tie, Boolean(this.mine && own.tying)),
      button("own amount", "goes as far as its own amount says", () => this.#change({ own: !pair.own }), Boolean(pair.own)),
      ...(this.#dissolves ? [button("own dissolve", "as much of the other is seen at it as its own dissolve says", () => this.#change({ own_dissolve: !pair.own_dissolve }), Boolean(pair.own_dissolve))] : []),
      button("goal as it is", "as it shall be becomes as it is, tied point by point", () => this.#change({ goal: pair.rest, ties: pair.rest.keys[0].points.map((_point, at) => [at, at]) })),
    ] : [];
    return el("div", { class: "deeds" }, keyButton(this.#said(pair, this.shape & 1)), ...ofPair,
      button("counts", "whether it is used", () => this.#change({ counts: one.counts === false }), one.counts !== false),
      button("lock", "keep it from being changed on the picture", () => this.#change({ locked: !one.locked }), Boolean(one.locked)),
      button("hide", "leave its lines out on the picture", () => this.#change({ hidden: !one.hidden }), Boolean(one.hidden)),
      button("remove", "", () => this.#remove()));
  }

  #remove() {
    const { held, at } = this;
    this.#take(0);
    const without = (/** @type {any[]} */ all, /** @type {number} */ number) => all.filter((_one, index) => index !== number);
    const dissolve = this.#dissolves && at < held.pairs.length ? held.pairs.length + held.fences.length + at : -1;
    const amounts = held.amounts.filter((_amount, index) => index !== at && index !== dissolve);
    return this.#keep({ pairs: without(held.pairs, at), fences: without(held.fences, this.#fenceAt), amounts });
  }
}

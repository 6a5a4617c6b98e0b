// The outlines of a row as the bench lists them, with what each is like.

import { button, byId, el } from "../base/parts.js";
import { toast } from "../base/telling.js";
import { shapeAt } from "../shot/drawn.js";
import { goesWith, keyButton, wayField } from "../bench/drawnfields.js";
import { nameField, pairChoice, pairField } from "../bench/fieldparts.js";
import { OutlinePress } from "../viewer/outlinepress.js";
import { OutlineMarks } from "../viewer/outlines.js";

const named = (/** @type {string[]} */ ...names) => names.map((name) => [name, name]);
const JOINS = named("add", "cut", "intersect", "soften");
const SIDES = named("both", "inward", "outward");
const STROKES = [["add", "add"], ["cut", "take away"], ["soften", "soften"]];
// What a brush begins with.
const BRUSH = { width: 40, softness: 30, joins: "add", softens: 8 };

/** @type {ControlType} */
export const shapes = {
  alone: true,
  lines: (lines, id, control) => [lines.line(control, new ShapeList(lines.shot, id, control).node(), "whole")],
  hand: ({ shot, overlay, well, carry, remark }) => new OutlinePress(new OutlineMarks(shot, overlay, well, carry, remark)),
};

class ShapeList {
  /**
   * @param {Shot} shot
   * @param {number} id
   * @param {Control} control
   */
  constructor(shot, id, control) {
    this.shot = shot;
    this.id = id;
    this.control = control;
    /** @type {Outline[]} */
    this.shapes = control.setting.shapes;
    // A row that is kept here beside the selected one has nothing at hand.
    this.mine = shot.selected === id;
    this.state = shot.outline;
    this.chosen = this.mine ? Math.min(this.state.shape, this.shapes.length - 1) : 0;
  }

  node() {
    const { state, shapes } = this;
    const drawing = this.mine ? state.drawing : null;
    return el("div", { class: "shapes" },
      el("div", { class: "deeds" },
        button("draw an outline", "closed", () => this.#begin(true), Boolean(drawing?.closed)),
        button("draw a line", "open, with a width", () => this.#begin(false), Boolean(drawing && !drawing.closed && !state.brush)),
        button("brush", "strokes along the way of the pointer, until Escape", () => this.#brush(), Boolean(this.mine && state.brush))),
      this.mine && state.brush ? this.#brushParts(state.brush) : null,
      ...shapes.map((shape, index) => this.#line(shape, index)),
      shapes.length ? this.#chosenParts(shapes[this.chosen]) : null);
  }

  /** @param {Outline[]} shapes */
  #set(shapes) {
    return this.shot.edit({ do: "set", stage: this.id, control: this.control.id, setting: { shapes } });
  }

  /** @param {Partial<Outline>} values */
  #change(values) {
    return this.#set(this.shapes.map((shape, index) => (index === this.chosen ? { ...shape, ...values } : shape)));
  }

  /**
   * What is at hand from now on; its row is selected where it was not.
   * @param {Partial<OutlineState>} changes
   */
  #atHand(changes) {
    if (!this.mine) this.shot.select([this.id]);
    this.shot.newOutline(changes);
  }

  /** @param {boolean} closed */
  #begin(closed) {
    this.#atHand({ shape: this.shapes.length, drawing: { closed, points: [] } });
    toast(closed ? "click to place points, drag to bend; the first point closes, Escape leaves it" : "click to place points, drag to bend; Enter ends the line, Escape leaves it");
    byId("well").focus();
  }

  #brush() {
    this.#atHand({ shape: this.chosen, brush: this.mine && this.state.brush ? null : { ...BRUSH } });
    byId("well").focus();
  }

  /**
   * What the next strokes are like.
   * @param {Brush} brush
   */
  #brushParts(brush) {
    const change = (/** @type {Partial<Brush>} */ values) => this.shot.atOutline({ brush: { ...brush, ...values } });
    const field = (/** @type {string} */ name, /** @type {"width" | "softness" | "softens"} */ key) => pairField(name, "the brush", brush[key], (value) => change({ [key]: Math.max(0, value) }));
    return el("div", { class: "shapefields" }, pairChoice("strokes", "the brush", brush.joins, STROKES, (joins) => change({ joins }), "what strokes of the brush do"),
      field("width", "width"), field("softness", "softness"), brush.joins === "soften" ? field("blur", "softens") : null);
  }

  /** @param {number | undefined} track */
  #trackName(track) {
    return this.shot.state.setup.tracks?.find((one) => one.id === track)?.name ?? "a track";
  }

  /**
   * @param {Outline} shape
   * @param {number} index
   */
  #line(shape, index) {
    const facts = [
      shape.joins && shape.joins !== "add" ? shape.joins : "", shape.carried ? `with ${this.#trackName(shape.carried.track)}` : "", shape.counts === false ? "off" : "", shape.seen ? `${shape.seen.first}–${shape.seen.last}` : "",
      shape.locked ? "locked" : "", shape.hidden ? "hidden" : "", shape.keys.length > 1 ? `${shape.keys.length} keys` : "",
    ];
    const chosen = index === this.chosen;
    return el("button", { class: `shapeline${chosen ? " chosen" : ""}`, "aria-pressed": chosen, onclick: () => this.#atHand({ shape: index }) },
      el("span", {}, shape.name), el("span", { class: "quiet" }, facts.filter(Boolean).join(" · ")));
  }

  /** @param {Outline} shape */
  #chosenParts(shape) {
    return el("div", { class: "shapeparts" }, nameField(shape.name, (name) => this.#change({ name })), this.#fields(shape), this.#deeds(shape));
  }

  /** @param {Outline} shape */
  #fields(shape) {
    const field = (/** @type {string} */ name, /** @type {number} */ value, /** @type {(value: number) => Partial<Outline>} */ take) => pairField(name, shape.name, value, (number) => this.#change(take(number)));
    const pick = (/** @type {string} */ name, /** @type {string} */ value, /** @type {string[][]} */ entries, /** @type {(value: string) => Partial<Outline>} */ take) => pairChoice(name, shape.name, value, entries, (one) => this.#change(take(one)));
    return el("div", { class: "shapefields" },
      pick("joins", shape.joins ?? "add", JOINS, (joins) => ({ joins })), field("opacity", shape.opacity ?? 1, (value) => ({ opacity: Math.min(1, Math.max(0, value)) })),
      field("softness", shape.softness ?? 0, (value) => ({ softness: Math.max(0, value) })), pick("soft side", shape.side ?? "both", SIDES, (side) => ({ side })),
      ...this.#life(shape), wayField(this.#said(shape)), shape.width == null ? null : field("width", shape.width, (value) => ({ width: Math.max(0, value) })),
      shape.joins === "soften" ? field("blur", shape.softens ?? 0, (value) => ({ softens: Math.max(0, value) })) : null,
      ...goesWith(this.#said(shape)), this.#softHere(shape));
  }

  /**
   * The frames that it is seen at: all of the shot's where it says none.
   * @param {Outline} shape
   */
  #life(shape) {
    const shot = this.shot.state.setup.picture.frames;
    const { first, last } = shape.seen ?? shot;
    const lives = (/** @type {number} */ from, /** @type {number} */ to) => {
      const [one, other] = [Math.round(from), Math.round(to)];
      const isAll = one <= shot.first && other >= shot.last;
      this.#change({ seen: isAll ? undefined : { first: Math.min(one, other), last: Math.max(one, other) } });
    };
    return [pairField("seen from", shape.name, first, (from) => lives(from, last)), pairField("seen to", shape.name, last, (to) => lives(first, to))];
  }

  /**
   * @param {Outline} shape
   * @returns {import("../bench/drawnfields.js").Said}
   */
  #said(shape) {
    return { shot: this.shot, stage: this.id, control: this.control, index: this.chosen, name: shape.name, points: shape, change: (values) => this.#change(values) };
  }

  /**
   * The soft edge at the selected points alone.
   * @param {Outline} shape
   */
  #softHere(shape) {
    const { shot, id, control, chosen } = this;
    const frame = shot.frameOf(id);
    const points = this.mine ? [...this.state.points] : [];
    if (!points.length) return null;
    const soft = shapeAt(shape, frame)[points[0]]?.soft ?? 0;
    const soften = (/** @type {number} */ value) => shot.edit({ do: "put_shape", stage: id, control: control.id, shape: chosen, frame, keys: shot.keying, points: shapeAt(shape, frame).map((point, index) => (points.includes(index) ? { ...point, soft: Math.max(0, value) } : point)) });
    return pairField("soft here", shape.name, Math.round(soft * 100) / 100, soften, "soft edge at the selected points");
  }

  /** @param {Outline} shape */
  #deeds(shape) {
    const { shapes, chosen } = this;
    const copy = () => {
      this.#atHand({ shape: chosen + 1 });
      this.#set([...shapes.slice(0, chosen + 1), { ...shape, name: `${shape.name} copy` }, ...shapes.slice(chosen + 1)]);
    };
    const remove = () => {
      this.#atHand({ shape: Math.max(0, chosen - 1) });
      this.#set(shapes.filter((_shape, index) => index !== chosen));
    };
    return el("div", { class: "deeds" }, keyButton(this.#said(shape)),
      button("counts", "whether it is joined", () => this.#change({ counts: shape.counts === false }), shape.counts !== false),
      button("lock", "keep it from being changed on the picture", () => this.#change({ locked: !shape.locked }), Boolean(shape.locked)),
      button("hide", "leave its line out on the picture", () => this.#change({ hidden: !shape.hidden }), Boolean(shape.hidden)),
      button("up", "joined earlier", () => this.#move(-1)), button("down", "joined later", () => this.#move(1)),
      button("copy", "another like it", copy), button("remove", "", remove));
  }

  /** @param {number} by */
  #move(by) {
    const { shapes, chosen } = this;
    const to = Math.min(Math.max(0, chosen + by), shapes.length - 1);
    const next = shapes.filter((_shape, index) => index !== chosen);
    next.splice(to, 0, shapes[chosen]);
    this.#atHand({ shape: to });
    this.#set(next);
  }
}

// A number on the bench: its name, a slider, where it comes from, a field to type in, and its key.

import { apart, arithmetic, el, short, together } from "../base/parts.js";
import { toast } from "../base/telling.js";
import { feedsOf, feedValue, numberName, withFeed } from "../shot/keys.js";
import { attached, TRACK } from "../viewer/trackdrop.js";
import { feedWord } from "./feedkinds.js";
import { FeedPop } from "./feedpop.js";

const UNITS = { px: " px", degrees: "°", frames: " fr", stops: " EV", kelvin: " K", metres: " m", millimetres: " mm", none: "" };
// What is dragged when a number's name is.
const NUMBER = "application/x-veil-number";

export class NumberField {
  /**
   * @param {Shot} shot
   * @param {number} id the row
   * @param {Control} control
   * @param {number} index which of the control's numbers
   * @param {number[]} rows those that an edit is for
   */
  constructor(shot, id, control, index, rows) {
    this.shot = shot;
    this.id = id;
    this.control = control;
    this.index = index;
    this.rows = rows;
    this.feeds = feedsOf(control.setting);
    this.feed = this.feeds[index];
    this.label = numberName(control, index);
    const { kind } = control;
    this.unit = UNITS[/** @type {keyof UNITS} */ (kind.unit ?? (kind.type === "colour" ? "none" : "px"))];
    this.slider = kind.slider ?? [0, 2000];
    this.step = kind.whole ? 1 : (this.slider[1] - this.slider[0]) / 1000;
    const tried = shot.trial?.find((command) => command.stage === id && command.control === control.id)?.values?.[index];
    /** @type {number | undefined} */
    this.value = tried ?? feedValue(this.feed, shot.frameOf(id));
    this.range = this.#range();
    this.box = this.#box();
    this.taken = this.box.value;
    this.node = this.#node();
    if (this.value === undefined) this.#ask();
  }

  /** With its unit, as many digits as the field has room for. @param {number} value */
  #told(value) {
    return `${short(value, Math.abs(value) >= 100 ? 1 : 4)}${this.unit}`;
  }

  /**
   * @param {number} number
   * @param {boolean} keep
   */
  #put(number, keep) {
    if (!Number.isFinite(number)) return;
    const values = this.feeds.map((_feed, at) => (at === this.index ? number : null));
    const commands = this.rows.map((row) => this.shot.byHand(row, this.control.id, values));
    if (keep) this.shot.edit(together(commands));
    else this.shot.try(commands);
  }

  #range() {
    return el("input", {
      type: "range", min: this.slider[0], max: this.slider[1], step: this.step, value: this.value ?? this.slider[0], "aria-label": `${this.label}, slider`, "data-field": `${this.#field()}-slider`,
      oninput: (event) => {
        this.box.value = this.#told(Number(event.target.value));
        this.#put(Number(event.target.value), false);
      },
      onchange: (event) => this.#put(Number(event.target.value), true),
    });
  }

  #field() {
    return `${this.id}-${this.control.id}-${this.index}`;
  }

  #box() {
    return el("input", {
      class: "input num", value: this.value === undefined ? "…" : this.#told(this.value), "aria-label": this.label, "data-field": this.#field(), title: this.control.help,
      onfocus: (event) => event.target.select(), onkeydown: (event) => this.#keyed(event), onchange: () => this.#typed(),
    });
  }

  /** @param {KeyboardEvent} event */
  #keyed(event) {
    apart(event);
    if (event.key === "Enter") this.#typed();
    const turn = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (!turn) return;
    event.preventDefault();
    const size = (this.control.kind.whole ? 1 : Math.max(this.step * 10, 1e-4)) * (event.shiftKey ? 10 : 1) * (event.altKey ? 0.1 : 1);
    this.#put((this.value ?? 0) + turn * size, true);
  }

  /** Enter and leaving the field both end here; a value is taken once. */
  #typed() {
    const { box } = this;
    if (box.value === this.taken) return;
    this.taken = box.value;
    const number = arithmetic(box.value);
    if (!Number.isNaN(number)) return this.#put(number, true);
    box.setAttribute("aria-invalid", "true");
    toast(`\`${box.value}\` is not a number; ${this.label} stays as it was`, true);
  }

  #node() {
    const { shot, control } = this;
    const word = feedWord(this.feed);
    const open = (/** @type {Event & { target: any }} */ event) => {
      event.preventDefault();
      new FeedPop(shot, event.target, this.id, control, this.index);
    };
    const say = el("button", { class: `feedword${word ? "" : " none"}`, "aria-label": word ? null : `where ${this.label} comes from`, onclick: open }, word ?? "·");
    return el("div", { class: `ctl${control.changed ? " changed" : ""}`, title: control.help }, this.#name(open), this.range, say, this.box, this.#bead());
  }

  #bead() {
    const { shot, id, control } = this;
    // The numbers of a list's lines are keyed each for itself, axes together.
    const axis = control.apart ? this.index : undefined;
    if (this.index > 0 && axis === undefined) return el("span");
    const frame = shot.frameOf(id);
    const keys = typeof this.feed === "object" ? this.feed.keys : undefined;
    const here = keys?.some((key) => key.frame === frame);
    return el("button", {
      class: `keybead${keys ? " keyed" : ""}${here ? " here" : ""}`, "aria-label": here ? `remove the key of ${control.name} here` : `key ${control.name} here`, "data-key": `${id}-${control.id}${axis === undefined ? "" : `-${axis}`}`,
      onclick: () => shot.edit({ do: here ? "unkey" : "key", stage: id, control: control.id, frame, axis }),
    }, el("i"));
  }

  /**
   * Its name. Dropped on another's, that one follows it; the feed's choice `follow` is the way by keys.
   * @param {(event: any) => void} menu
   */
  #name(menu) {
    const { id, control, index } = this;
    return el("label", {
      title: `${control.help} Drop this name on another to let that one follow it.`, draggable: "true", oncontextmenu: menu,
      ondrop: (event) => this.#dropped(event),
      ondragover: (event) => [NUMBER, TRACK].some((mark) => event.dataTransfer.types.includes(mark)) && event.preventDefault(),
      ondragstart: (event) => event.dataTransfer.setData(NUMBER, JSON.stringify({ stage: id, control: control.id, axis: index })),
    }, this.label);
  }

  /** @param {DragEvent & { dataTransfer: DataTransfer }} event */
  #dropped(event) {
    const { shot, id, control, index } = this;
    const track = Number(event.dataTransfer.getData(TRACK));
    const follow = JSON.parse(event.dataTransfer.getData(NUMBER) || "null");
    const feed = { follow, scale: 1, offset: 0 };
    const following = withFeed(control.setting, index, feed);
    const setting = (track ? attached(shot, control, track) : null) ?? (follow && following);
    if (!setting) return;
    event.preventDefault();
    shot.edit({ do: "set", stage: id, control: control.id, setting });
  }

  /** What only the server knows: a formula's value at this frame. */
  async #ask() {
    const value = (await this.shot.values(this.id))?.[this.control.id]?.[this.index];
    if (value === undefined || document.activeElement === this.box) return;
    this.box.value = this.taken = this.#told(value);
    this.range.value = String(value);
    this.value = value;
  }
}

// Where a value comes from: the choice of a feed, its numbers, and the curve it will give before it is applied.

import { post } from "../base/api.js";
import { apart, button, choose, el, framed, short, svg } from "../base/parts.js";
import { openPopup } from "../base/popup.js";
import { feedsOf, feedValue, numberName, withFeed, withKeyAt } from "../shot/keys.js";
import { FEEDS, kindOf } from "./feedkinds.js";
import { followed, tracked } from "./feedsources.js";
import { FormulaField } from "./formulas.js";

const FRAMES = 100;
const [WIDE, HIGH] = [238, 64];
const EASES = ["smooth", "straight", "step", "ease"];

/** @typedef {import("./feedkinds.js").Numbers} Numbers */

export class FeedPop {
  /** @type {Numbers} */
  #values = {};
  /** @type {any} */
  #worded = "";
  /** @type {any} */
  #offset = 0;
  /** @type {{ [word: string]: object }} */
  #names = {};
  #curveOf = 0;

  /**
   * Opens beside what was clicked.
   * @param {Shot} shot
   * @param {HTMLElement} anchor
   * @param {number} id the row
   * @param {Control} control
   * @param {number} index which of its numbers
   */
  constructor(shot, anchor, id, control, index) {
    this.shot = shot;
    this.id = id;
    this.control = control;
    this.index = index;
    this.feeds = feedsOf(control.setting);
    this.feed = this.feeds[index];
    this.kind = kindOf(this.feed);
    if (typeof this.feed === "object") this.#offset = this.feed.offset ?? 0;
    const label = numberName(control, index);
    this.body = el("div", { class: "feedbody" });
    this.curve = svg("svg", { class: "feedcurve", width: WIDE, height: HIGH, role: "img", "aria-label": `${label} over the next ${FRAMES} frames` });
    this.wrong = el("p", { class: "aside fault", role: "alert", hidden: true });
    this.apply = el("button", { class: "button is-primary is-outlined", onclick: () => this.#keep() }, "use this");
    const pick = choose("kind of feed", this.kind, Object.keys(FEEDS).map((one) => [one, one]), (kind) => this.#become(kind));
    const back = control.changed && button("default", "", () => {
      this.close();
      shot.edit({ do: "set", stage: id, control: control.id, setting: null });
    });
    const pop = el("div", { class: "dropdown dropdown-content pop feedpop", role: "dialog", "aria-label": `where ${label} comes from` },
      el("b", {}, `${label}: where it comes from`), el("label", {}, el("span", {}, "feed"), framed(pick)), this.body, this.curve, this.wrong,
      el("div", { class: "deeds" }, this.apply, back));
    const box = anchor.getBoundingClientRect();
    this.close = openPopup(pop, { back: anchor, place: () => [innerWidth, box.bottom + 4] });
    this.#fields();
    pick.focus();
  }

  /** @param {string} kind */
  #become(kind) {
    this.kind = kind;
    this.#fields();
  }

  /** @param {any} next */
  #settingOf(next) {
    return withFeed(this.control.setting, this.index, next);
  }

  #written() {
    return FEEDS[this.kind].write?.(this.#values, this.#worded, this.#offset, this.#names);
  }

  #keep() {
    const { shot, id, control } = this;
    this.close();
    if (this.kind === "keys") return shot.edit({ do: "key", stage: id, control: control.id, frame: shot.frameOf(this.id), axis: control.apart ? this.index : undefined });
    return shot.edit({ do: "set", stage: id, control: control.id, setting: this.#settingOf(this.#written()) });
  }

  /** @param {KeyboardEvent & { target: any }} event */
  #typed(event) {
    if (event.key !== "Escape") apart(event);
    if (event.key === "Enter" && event.target.tagName === "INPUT") this.#keep();
  }

  /**
   * @param {string} name
   * @param {number} value
   * @param {(value: number) => void} change
   */
  #number(name, value, change) {
    const take = (/** @type {string} */ text) => {
      const next = Number(text);
      if (!Number.isFinite(next)) return;
      change(name === "seed" ? Math.max(0, Math.round(next)) : next);
      this.#draw();
    };
    const field = el("input", { class: "input num", value: short(value, 4), "aria-label": name, onkeydown: (event) => this.#typed(event), oninput: (event) => take(event.target.value) });
    return el("label", { class: "number" }, el("span", {}, name), field);
  }

  /** What of the feed as it is stands in the fields of its kind, and what it is made of. */
  #begin() {
    const asked = FEEDS[this.kind];
    const read = (this.kind === kindOf(this.feed) && typeof this.feed === "object" && asked.read?.(this.feed)) || null;
    this.#values = { ...asked.fields };
    if (read) for (const name of Object.keys(asked.fields)) this.#values[name] = read[0][name] ?? asked.fields[name];
    else this.#beginFresh();
    this.#worded = read?.[1] ?? asked.choice?.[1][0] ?? (asked.asks === "formula" ? "2 + sin(since * 0.3)" : "");
  }

  /** A kind that is new begins at the value that there is. */
  #beginFresh() {
    const now = feedValue(this.feed, this.shot.frameOf(this.id));
    if (this.kind === "fixed") this.#values.value = now ?? 0;
    if (now !== undefined && "high" in this.#values) Object.assign(this.#values, { low: now, high: now + Math.max(Math.abs(now) * 0.5, 1) });
    if (now && this.kind === "gate") this.#values.open = now;
  }

  #fields() {
    this.#begin();
    const { choice } = FEEDS[this.kind];
    const named = (/** @type {any} */ worded) => {
      this.#worded = worded;
      this.#draw();
    };
    /** @type {HTMLElement[]} */
    const parts = choice ? [el("label", {}, el("span", {}, choice[0]), framed(choose(choice[0], this.#worded, choice[1].map((one) => [one, one]), named)))] : [];
    parts.push(...this.#sources(named));
    for (const name of Object.keys(this.#values)) parts.push(this.#number(name, this.#values[name], (next) => { this.#values[name] = next; }));
    if (!["fixed", "keys"].includes(this.kind)) parts.push(...this.#offsetParts());
    if (this.kind === "keys") parts.push(...this.#keyParts());
    this.body.replaceChildren(...parts);
    this.#draw();
  }

  /**
   * What a feed asks for that is no number.
   * @param {(worded: any) => void} named
   * @returns {HTMLElement[]}
   */
  #sources(named) {
    const { shot, id, control, index } = this;
    const { asks } = FEEDS[this.kind];
    if (asks === "formula") return [this.#formula()];
    const typed = (/** @type {any} */ event) => this.#typed(event);
    if (asks === "control") return followed(shot, { but: { stage: id, control: control.id, axis: index }, worded: this.#worded, typed, named });
    if (asks !== "track") return [];
    const tracks = shot.state.setup.tracks ?? [];
    if (!tracks.length) return [el("p", { class: "aside" }, "No point is followed yet: select a row with a picture and follow one there.")];
    this.#worded ||= { track: tracks[0].id, axis: "x", since: shot.frameOf(this.id) };
    return tracked(tracks, { worded: this.#worded, frame: shot.frameOf(this.id), named });
  }

  #formula() {
    this.#names = (typeof this.feed === "object" && this.feed.names) || {};
    const typed = (/** @type {string} */ text, /** @type {{ [word: string]: object }} */ used) => {
      this.#worded = text;
      this.#names = used;
      this.#draw();
    };
    const field = new FormulaField(this.shot, { stage: this.id, pixels: false, text: this.#worded, named: this.#names, lines: 1, label: "formula", kept: () => this.#keep(), typed });
    return el("div", { class: "wide" }, el("span", { class: "quiet" }, "formula of now, since, secs and other controls"), field.node);
  }

  /** What is added: a number, or keys, of which the one at this frame is shown. */
  #offsetParts() {
    const frame = this.shot.frameOf(this.id);
    const here = () => feedValue(this.#offset, frame) ?? 0;
    const keyed = () => typeof this.#offset === "object";
    const change = (/** @type {Event & { target: any }} */ event) => {
      this.#offset = event.target.checked ? withKeyAt({ keys: [] }, frame, here()) : here();
      this.#draw();
    };
    const keys = el("input", { type: "checkbox", checked: keyed(), "aria-label": "keys on the offset", onchange: change });
    return [
      this.#number("offset", here(), (next) => { this.#offset = keyed() ? withKeyAt(this.#offset, frame, next) : next; }),
      el("label", { class: "wide" }, keys, " keys on the offset: a frame is mended by hand where it is wrong"),
    ];
  }

  /** The way from the key here to the next one. */
  #keyParts() {
    const { shot, id, control } = this;
    const frame = shot.frameOf(id);
    const key = typeof this.feed === "object" ? this.feed.keys?.find((one) => one.frame === frame) : undefined;
    if (!key) return [el("p", { class: "aside" }, "A key is set here, with the value there is.")];
    const now = typeof key.ease === "object" ? "ease" : key.ease ?? "";
    const select = choose("way from this key to the next", now, EASES.map((one) => [one, one]), (ease) => {
      this.close();
      shot.edit({ do: "ease", stage: id, control: control.id, frame, ease: ease === "ease" ? { curve: [0.25, 0.1, 0.25, 1] } : ease });
    });
    return [el("label", {}, el("span", {}, "to the next key"), framed(select))];
  }

  /** The curve that it will give, as the server works it out. */
  async #draw() {
    const { shot, id, control, index } = this;
    const mine = ++this.#curveOf;
    const next = this.kind === "keys" ? this.feed : this.#written();
    this.wrong.hidden = true;
    this.apply.disabled = next === undefined || next === "";
    if (this.apply.disabled) return this.curve.replaceChildren();
    try {
      const found = await post(`${shot.base}/curve`, { stage: id, control: control.id, axis: index, setting: this.#settingOf(next), from: shot.frameOf(this.id), count: FRAMES });
      if (mine === this.#curveOf) this.#plot(found);
    } catch (error) {
      if (mine !== this.#curveOf) return;
      this.curve.replaceChildren();
      this.apply.disabled = true;
      this.wrong.textContent = error instanceof Error ? error.message : String(error);
      this.wrong.hidden = false;
    }
  }

  /** @param {number[]} values */
  #plot(values) {
    const frame = this.shot.frameOf(this.id);
    const [least, most] = [Math.min(...values), Math.max(...values)];
    const y = (/** @type {number} */ value) => (most === least ? HIGH / 2 : HIGH - 6 - ((value - least) / (most - least)) * (HIGH - 22));
    const d = values.map((value, at) => `${at ? "L" : "M"}${(at / (values.length - 1)) * WIDE} ${y(value)}`).join("");
    const text = (/** @type {number} */ x, /** @type {string} */ words, /** @type {string} */ anchor) => svg("text", { x, y: 11, fill: "#a9a79e", "font-size": 10.5, "font-family": "Chivo Mono", "text-anchor": anchor }, words);
    this.curve.replaceChildren(svg("path", { d, fill: "none", stroke: "#c9a35b", "stroke-width": 1.6 }), text(2, `${short(values[0], 3)} now, ${short(least)} to ${short(most)}`, "start"), text(WIDE - 2, `${frame}–${frame + values.length - 1}`, "end"));
    this.curve.dataset.values = String(values.length);
  }
}

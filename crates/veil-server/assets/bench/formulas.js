// Writing a formula: what is wrong is underlined, names are completed, and other controls are named by words.

import { get, orElse, query } from "../base/api.js";
import { apart, el } from "../base/parts.js";

const FRAME = ["now", "since", "secs", "pi"];
const PIXEL = ["px", "py", "wide", "high", "in1.r", "in1.g", "in1.b", "in1.a", "in2.r", "in3.r", "in4.r"];
const FUNCTIONS = ["sin", "cos", "tan", "asin", "acos", "atan", "radians", "degrees", "pow", "exp", "log", "sqrt", "abs", "sign", "floor", "ceil", "round", "fract", "mod", "min", "max", "clamp", "mix", "step", "smoothstep", "length", "noise"];
const MOST = 8;

/** @typedef {{ word: string, about: string, follow?: object }} Completion */
/** @typedef {{ [word: string]: object }} Names */

/**
 * @typedef {{
 *   stage: number, pixels: boolean, text: string, named: Names | undefined, lines: number, label: string, mark?: string,
 *   typed?: (text: string, names: Names) => void, kept: () => unknown, left?: () => unknown,
 * }} Asked `named` says which words stand for other controls
 */

export class FormulaField {
  /** @type {Completion[]} */
  #found = [];
  #at = 0;

  /**
   * @param {Shot} shot
   * @param {Asked} asked
   */
  constructor(shot, asked) {
    this.shot = shot;
    this.asked = asked;
    /** @type {Names} */
    this.named = { ...asked.named };
    this.wrong = el("p", { class: "wrong num", role: "alert", hidden: true });
    this.list = el("ul", { class: "completions", role: "listbox", "aria-label": "names that fit", hidden: true });
    const { lines } = asked;
    this.field = /** @type {HTMLInputElement | HTMLTextAreaElement} */ (el(lines > 1 ? "textarea" : "input", {
      class: "input num formula", rows: lines > 1 ? lines : null, "aria-label": asked.label, spellcheck: "false", autocomplete: "off", "data-field": asked.mark,
      onkeydown: (event) => this.#keys(event), oninput: () => this.#typed(), onchange: () => asked.left?.(),
      onblur: () => setTimeout(() => this.#hide(), 150),
    }));
    this.field.value = asked.text;
    this.node = el("div", { class: "formulabox" }, this.field, this.list, this.wrong);
  }

  value() {
    return this.field.value;
  }

  /** The names that the text has words of. */
  names() {
    const used = (/** @type {string} */ word) => new RegExp(`(^|[^\\w.])${word}($|[^\\w])`).test(this.field.value);
    return Object.fromEntries(Object.entries(this.named).filter(([word]) => used(word)));
  }

  /**
   * Every name there is: the frame's, the pixel's, functions, own controls, and numbers of rows.
   * @returns {Completion[]}
   */
  #known() {
    const { shot, asked: { stage, pixels } } = this;
    const owners = new Set();
    for (let id = /** @type {number | undefined} */ (stage); id !== undefined; id = shot.stage(id)?.inside) owners.add(id);
    const axes = (/** @type {Control} */ control) => control.axes.map((axis, index) => ({ axis, index }));
    const own = [...owners.add(0)].flatMap((of) => shot.controls(of).filter((control) => control.own).flatMap((control) => axes(control).map(({ axis, index }) => ({
      word: index || axis ? `${control.word}.${axis[0]}` : control.word ?? "", about: control.name,
    }))));
    const rows = shot.state.setup.stages.filter((row) => row.id !== stage).flatMap((row) => shot.controls(row.id).filter((control) => !control.own).flatMap((control) => axes(control).map(({ axis, index }) => ({
      word: [row.name, control.name, axis].filter(Boolean).join("_").toLowerCase().replace(/[^a-z0-9]+/g, "_"), about: `${row.name}: ${[control.name, axis].filter(Boolean).join(" ")}`,
      follow: { stage: row.id, control: control.id, axis: index },
    }))));
    const plain = [...FRAME, ...(pixels ? PIXEL : [])].map((word) => ({ word, about: "" }));
    return [...own, ...plain, ...FUNCTIONS.map((word) => ({ word: `${word}(`, about: "function" })), ...rows];
  }

  #begun() {
    return /[A-Za-z][\w.]*$/.exec(this.field.value.slice(0, this.field.selectionStart ?? 0))?.[0] ?? "";
  }

  #typed() {
    this.#complete();
    this.#tell();
  }

  #tell() {
    this.understood();
    this.asked.typed?.(this.field.value, this.names());
  }

  #complete() {
    const begun = this.#begun().toLowerCase();
    const fit = begun ? this.#known().filter((one) => one.word !== begun && (one.word.startsWith(begun) || one.about.toLowerCase().includes(begun))) : [];
    this.#found = fit.sort((a, b) => Number(b.word.startsWith(begun)) - Number(a.word.startsWith(begun))).slice(0, MOST);
    this.#at = 0;
    this.list.hidden = !this.#found.length;
    const take = (/** @type {Completion} */ one) => (/** @type {Event} */ event) => {
      event.preventDefault();
      this.#take(one);
    };
    this.list.replaceChildren(...this.#found.map((one, index) => el("li", { role: "option", "aria-selected": index === 0, onpointerdown: take(one) }, el("b", { class: "num" }, one.word), one.about)));
  }

  /** @param {Completion} completion */
  #take({ word, follow }) {
    const end = this.field.selectionStart ?? 0;
    this.field.setRangeText(word, end - this.#begun().length, end, "end");
    if (follow) this.named[word] = { follow };
    this.#hide();
    this.field.focus();
    this.#tell();
  }

  #hide() {
    this.list.hidden = true;
  }

  /** @param {KeyboardEvent} event */
  #keys(event) {
    // Escape leaves the names first, and only then what the field stands in.
    if (event.key !== "Escape" || !this.list.hidden) apart(event);
    if (!(this.list.hidden ? false : this.#listKeys(event)) && !this.#enter(event)) return;
    event.preventDefault();
  }

  /** @param {KeyboardEvent} event */
  #listKeys(event) {
    const move = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const items = [...this.list.children];
    if (move) {
      this.#at = (this.#at + move + items.length) % items.length;
      items.forEach((item, index) => item.setAttribute("aria-selected", String(index === this.#at)));
    } else if (event.key === "Tab" || (event.key === "Enter" && this.#at > 0)) this.#take(this.#found[this.#at]);
    else if (event.key === "Escape") this.#hide();
    else return false;
    return true;
  }

  /** @param {KeyboardEvent} event */
  #enter(event) {
    if (event.key !== "Enter" || event.shiftKey) return false;
    this.#hide();
    this.asked.kept();
    return true;
  }

  /** Underlines what is wrong; true where nothing is. */
  async understood() {
    const { stage, pixels } = this.asked;
    const written = this.field.value;
    const found = await orElse(get(`${this.shot.base}/formula?${query({ text: written, stage, pixels, named: Object.keys(this.named).join(",") })}`), {});
    if (written !== this.field.value) return false;
    const bad = found.at !== undefined;
    this.wrong.hidden = !bad;
    this.field.setAttribute("aria-invalid", String(bad));
    if (bad) {
      const letters = [...written];
      const end = found.at + (found.length ?? 1);
      this.wrong.replaceChildren(letters.slice(0, found.at).join(""), el("u", {}, letters.slice(found.at, end).join("") || "\u00a0"), letters.slice(end).join(""), el("br"), `expected ${found.expected}`);
    }
    return !bad;
  }
}

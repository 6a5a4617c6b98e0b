// How the picture is looked at: backing, overlays, screens and switches, and the stills that are kept of it.

import { post, query } from "../base/api.js";
import { button, choose, el, framed } from "../base/parts.js";
import { closePopup, openPopup } from "../base/popup.js";
import { toast, trying } from "../base/telling.js";
import { openSheet } from "./sheet.js";

const named = (/** @type {string[]} */ ...names) => names.map((name) => [name, name]);
const BACKINGS = named("black", "grey", "white", "green", "checks");
const SCREENS = [["srgb", "sRGB"], ["bt1886", "BT.1886"], ["gamma22", "gamma 2.2"], ["straight", "straight"]];
/** @typedef {"ghost" | "windows" | "foldView" | "moves" | "motion" | "scopes"} Switch */
/** @type {[Switch, string, string][]} */
const SWITCHES = [
  ["ghost", "ghost", "the selected row's picture, half seen over the shown one, whatever its amount"],
  ["windows", "windows", "the display and data windows, drawn"],
  ["foldView", "folds", "stripes where the picture is laid over itself"],
  ["moves", "moves", "how far all warps above move each place together, as arrows"],
  ["motion", "motion", "how far each pixel travels over the range, in false colour"],
  ["scopes", "scopes", "histogram and waveform of what is seen"],
];
const SHEETS = [12, 24, 48];

export class Looking {
  /**
   * @param {Shot} shot
   * @param {import("../workbench/known.js").Known} known
   */
  constructor(shot, known) {
    this.shot = shot;
    this.known = known;
  }

  /** @param {Switch} name */
  toggle(name) {
    this.shot.look({ [name]: !this.shot.view[name] });
  }

  /** Opens below a button; that button closes it too. @param {HTMLElement} anchor */
  open(anchor) {
    if (document.querySelector(".pop.looking") && closePopup()) return;
    const { shot } = this;
    const { view } = shot;
    const rows = shot.state.braid.rows;
    const pictures = rows.filter((row) => row.gives === "picture").map((row) => [`row ${row.id}`, row.name]);
    const backed = (/** @type {string} */ value) => shot.look(value.startsWith("row ") ? { behind: Number(value.slice(4)), backing: "black" } : { backing: value, behind: null });
    const switches = SWITCHES.map(([name, words, title]) => el("label", { title }, el("input", { type: "checkbox", checked: view[name], onchange: () => this.toggle(name) }), words));
    const then = (/** @type {() => unknown} */ run) => () => {
      close();
      run();
    };
    const pop = el("div", { class: "dropdown dropdown-content pop looking", tabindex: -1, role: "dialog", "aria-label": "how it is looked at", onkeydown: (event) => event.key !== "Escape" && event.stopPropagation() },
      chooser("behind it", view.behind === null ? view.backing : `row ${view.behind}`, [...BACKINGS, ...pictures], backed),
      chooser("over it, as coverage", view.over ?? "", [["", "nothing"], ...rows.map((row) => [row.id, row.name])], (id) => shot.look({ over: id ? Number(id) : null })),
      chooser("on which screen", view.screen, SCREENS, (screen) => shot.look({ screen })),
      el("div", { class: "switches" }, ...switches),
      el("div", { class: "deeds" }, button("keep a still", "", then(() => this.keepStill())), ...SHEETS.map((count) => button(`sheet of ${count}`, "frames across the range, side by side", then(() => openSheet(shot, count))))),
      this.#stills(() => close()));
    const box = anchor.getBoundingClientRect();
    const close = openPopup(pop, { back: anchor, anchor, place: () => [box.left, box.bottom + 4] });
    pop.querySelector("select")?.focus();
  }

  /** @param {() => void} close */
  #stills(close) {
    const { shot, known } = this;
    const list = el("ul", { class: "stills" });
    const compare = (/** @type {Still} */ still) => {
      close();
      shot.look({ compare: shot.view.compare || "split", sideA: `still:${still.number}` });
    };
    const back = (/** @type {Still} */ still) => {
      close();
      shot.change(`stills/${still.number}/return`, {});
    };
    const drop = async (/** @type {Still} */ still) => {
      await trying(() => known.dropStill(still));
      draw();
      shot.tell("view");
    };
    const draw = () => list.replaceChildren(...known.stills.map((still) => el("li", {},
      el("button", { class: "button is-ghost", title: "compare with it", onclick: () => compare(still) },
        el("img", { alt: "", src: `${shot.base}/still?${query({ stage: still.stage, frame: still.frame, still: still.number })}` }), `${still.number}: ${still.name}`),
      el("span", { class: "grow" }),
      el("button", { class: "button is-ghost quiet", title: "the setup as it was then becomes the live one; undo takes it back", onclick: () => back(still) }, "return to it"),
      el("button", { class: "button is-ghost quiet", "aria-label": `keep still ${still.number} no longer`, onclick: () => drop(still) }, "×"))));
    draw();
    return list;
  }

  async keepStill() {
    const { shot, known } = this;
    const kept = await trying(() => post(`${shot.base}/stills`, { stage: shot.view.shown, frame: shot.view.frame }));
    if (!kept) return;
    await known.refresh();
    toast(`still ${kept.number} is kept: ${kept.name}`);
    shot.tell("view");
  }
}

/**
 * @param {string} label
 * @param {string | number} value
 * @param {(string | number)[][]} entries
 * @param {(value: string) => unknown} take
 */
const chooser = (label, value, entries, take) => el("label", {}, el("span", {}, label), framed(choose(label, value, entries, take)));

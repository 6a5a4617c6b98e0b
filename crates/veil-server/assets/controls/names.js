// Things of a plate picked by name: typed, chosen from a list, or clicked on the picture.

import { get, query } from "../base/api.js";
import { apart, el } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";

/** @typedef {{ name: string, swatch: number[] }} Thing */

/** @type {ControlType} */
export const names = {
  alone: true,
  lines: (lines, id, control) => [lines.line(control, lines.nodes.names.node(id, control, (setting) => lines.set(id, control, setting)))],
};

export class NamesField {
  /** The row that is picked for by clicks on the picture. @type {number | null} */
  picking = null;
  /** The row whose things are listed; they stay so while it is edited. @type {number | null} */
  #open = null;

  /**
   * @param {Shot} shot
   * @param {() => void} redraw
   */
  constructor(shot, redraw) {
    this.shot = shot;
    this.redraw = redraw;
  }

  /**
   * @param {number} id
   * @param {Control} control
   * @param {(names: string[]) => unknown} change
   */
  node(id, control, change) {
    const names = /** @type {string[]} */ (Array.isArray(control.setting) ? control.setting : []);
    const turn = (/** @type {string} */ name) => change(names.includes(name) ? names.filter((one) => one !== name) : [...names, name]);
    const media = this.#plateOf(this.shot.stage(id))?.controls?.media?.media;
    const chips = names.map((one) => el("span", { class: "tag" }, one, el("button", { "aria-label": `leave out ${one}`, onclick: () => turn(one) }, "×")));
    const pick = el("button", { class: "button", "aria-pressed": this.picking === id, disabled: media === undefined, onclick: () => this.#pick(id) }, "pick on the picture");
    return el("div", { class: "names" }, el("span", { class: "tags" }, ...chips), ...this.#typed(id, names, change), media === undefined ? null : this.#list(id, names, turn), pick);
  }

  /** @param {number} id */
  #pick(id) {
    this.picking = this.picking === id ? null : id;
    this.redraw();
  }

  /**
   * The things of the plate that a row picks from.
   * @param {number} id
   * @returns {Promise<Thing[]>}
   */
  async #things(id) {
    const stage = this.shot.stage(id);
    const media = this.#plateOf(stage)?.controls?.media?.media;
    if (media === undefined) return [];
    const found = await trying(() => get(`${this.shot.base}/things?${query({ media, of: stage?.controls?.of ?? "object", frame: this.shot.view.frame })}`));
    return found?.names ?? [];
  }

  /**
   * @param {number} id
   * @param {string[]} names
   * @param {(names: string[]) => unknown} change
   */
  #typed(id, names, change) {
    const list = el("datalist", { id: `things-${id}` });
    const fill = async () => {
      if (!list.childElementCount) list.replaceChildren(...(await this.#things(id)).map((thing) => el("option", { value: thing.name })));
    };
    const take = (/** @type {string} */ name) => name && change([...names.filter((one) => one !== name), name]);
    const field = el("input", { class: "input", list: list.id, placeholder: "name or pattern *", "aria-label": "add a thing by name", "data-field": `${id}-names`, onkeydown: apart, onchange: (event) => take(event.target.value.trim()), onfocus: fill });
    return [field, list];
  }

  /**
   * @param {number} id
   * @param {string[]} names
   * @param {(name: string) => unknown} turn
   */
  #list(id, names, turn) {
    const toggled = async () => {
      if (!all.open) {
        if (this.#open === id) this.#open = null;
        return;
      }
      this.#open = id;
      if (all.childElementCount > 1) return;
      const things = await this.#things(id);
      if (all.childElementCount > 1) return;
      all.append(...things.map((thing) => el("button", { class: "thing", "aria-pressed": names.includes(thing.name), onclick: () => turn(thing.name) }, el("i", { style: `background:rgb(${thing.swatch.join(" ")})` }), thing.name)));
    };
    const all = el("details", { class: "things", open: this.#open === id, ontoggle: () => toggled() }, el("summary", { class: "quiet" }, "all of them by name"));
    return all;
  }

  /**
   * The row whose plate another picks things from: itself, or the one at the head of the picture it takes.
   * @param {Stage | undefined} stage
   * @returns {Stage | undefined}
   */
  #plateOf(stage) {
    const taken = stage?.links?.picture?.from?.stage;
    const seen = new Set();
    for (let at = taken === undefined ? stage : this.shot.stage(taken); at && !seen.has(at.id); at = this.shot.stage(at.links?.main?.from?.stage)) {
      const media = at.controls?.media?.media;
      if (media !== undefined) return at;
      seen.add(at.id);
    }
    return stage;
  }

  /**
   * A click on the picture while names are picked: adds the thing there, or leaves it out.
   * @param {{ x: number, y: number }} at
   */
  async picked({ x, y }) {
    const stage = this.picking === null ? undefined : this.shot.stage(this.picking);
    if (!stage) return;
    const from = this.#plateOf(stage);
    const asked = query({ media: from?.controls?.media?.media, placed: from?.controls?.placed ?? "top_left", of: stage.controls?.of ?? "object", frame: this.shot.view.frame, x: Math.floor(x), y: Math.floor(y) });
    const found = await trying(() => get(`${this.shot.base}/pick?${asked}`));
    if (!found?.name) return toast("nothing named is there");
    const names = stage.controls?.names ?? [];
    const next = names.includes(found.name) ? names.filter((/** @type {string} */ name) => name !== found.name) : [...names, found.name];
    this.shot.edit({ do: "set", stage: stage.id, control: "names", setting: next });
  }
}

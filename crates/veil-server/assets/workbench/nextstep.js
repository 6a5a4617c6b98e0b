// What comes next in a shot that is still empty, said below its rows.

import { button, el } from "../base/parts.js";
import { useMedia } from "../controls/media.js";
import { addRow } from "../shot/adding.js";

const MOST_PLATES = 4;
const PICTURES = /\.(exr|png|tiff?|jpe?g|hdr|webp|mp4|mov|mkv|webm|avi)$/i;

export class NextStep {
  /**
   * @param {Shot} shot
   * @param {HTMLElement} node
   * @param {() => Plate[]} plates those of the show
   * @param {() => void} add opens the list of stages
   */
  constructor(shot, node, plates, add) {
    this.shot = shot;
    this.node = node;
    this.plates = plates;
    this.add = add;
  }

  draw() {
    const said = this.shot.code.includes("@") ? [] : this.#content();
    this.node.hidden = said.length === 0;
    this.node.replaceChildren(...said);
  }

  /** @returns {HTMLElement[]} */
  #content() {
    const { stages } = this.shot.state.setup;
    if (stages.length === 1) return this.#firstPlate();
    if (stages.length !== 2 || stages[0].kind !== "plate" || !stages[0].controls?.media) return [];
    const words = el("span", {}, "add a stage ", el("span", { class: "num" }, "/"));
    return [el("p", {}, "Next: a stage after the plate, or a tool of the rack."), el("button", { class: "button is-primary is-outlined", onclick: this.add }, words)];
  }

  #firstPlate() {
    const own = this.plates().filter((plate) => !plate.reference && PICTURES.test(plate.path)).slice(0, MOST_PLATES);
    if (own.length) {
      const begin = (/** @type {Plate} */ plate) => el("button", { class: "button is-primary is-outlined", onclick: () => this.#begin(plate) }, plate.name);
      return [el("p", {}, "Begin with a plate:"), ...own.map(begin), button("something else", "", this.add)];
    }
    const address = `/plates?show=${encodeURIComponent(this.shot.show)}`;
    return [el("p", {}, "This show has no footage yet."), el("a", { class: "button is-primary is-outlined", href: address }, "bring in footage"), button("begin with a stage", "", this.add)];
  }

  /** A plate row that the last row takes. @param {Plate} plate */
  async #begin(plate) {
    const { shot } = this;
    const last = shot.state.setup.stages.at(-1)?.id;
    const media = await useMedia(shot, plate);
    if (media === undefined) return;
    const added = await addRow(shot, { do: "add", kind: "plate", after: null, into: [last, "main"] });
    const row = added?.step?.row;
    if (row !== undefined && row !== null) await shot.edit({ do: "set", stage: row, control: "media", setting: { media } });
  }
}

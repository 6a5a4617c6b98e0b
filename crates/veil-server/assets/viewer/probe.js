// The numbers under the pointer: one question at a time, and only the newest place is asked for next.

import { get, orElse, query } from "../base/api.js";

export class Probe {
  #asking = false;
  /** @type {{ x: number, y: number } | null} */
  #next = null;

  /**
   * @param {Shot} shot
   * @param {import("./well.js").Well} well
   * @param {{ place: HTMLElement, values: HTMLElement }} nodes
   */
  constructor(shot, well, nodes) {
    this.shot = shot;
    this.well = well;
    this.nodes = nodes;
  }

  /** @param {PointerEvent} event */
  moved(event) {
    if (!this.shot.loaded) return;
    const [x, y] = this.well.toPicture(event).map(Math.floor);
    this.nodes.place.textContent = `x ${x} y ${y}`;
    const { width, height } = this.well.size;
    const outside = x < 0 || y < 0 || x >= width || y >= height;
    if (outside || this.shot.trial || event.buttons) return;
    this.#next = { x, y };
    if (!this.#asking) this.#ask();
  }

  async #ask() {
    const { shot } = this;
    this.#asking = true;
    while (this.#next) {
      const at = this.#next;
      const { measured } = shot;
      this.#next = null;
      const found = await orElse(get(`${shot.base}/probe?${query({ stage: shot.view.shown, frame: shot.view.frame, ...at })}`), null);
      // The numbers of a box that was measured meanwhile stay.
      if (found && shot.measured === measured) this.#tell(found);
    }
    this.#asking = false;
  }

  /** @param {{ kind: Kind, values: number[] }} found */
  #tell({ kind, values }) {
    const map = kind === "map";
    this.nodes.values.textContent = values.map((value) => value.toFixed(map ? 2 : 4)).join("  ") + (map ? " px" : "");
  }
}

// Which passes come with the row's picture, and where they end.

import { get, orElse, query } from "../base/api.js";
import { el } from "../base/parts.js";

export class Passes {
  #of = "";

  /** @param {Shot} shot */
  constructor(shot) {
    this.shot = shot;
    this.node = el("div", { class: "passes" });
  }

  /** @param {Stage} stage */
  async ask(stage) {
    const { shot } = this;
    const of = `${shot.state.revision}/${stage.id}`;
    if (this.#of === of) return;
    this.#of = of;
    this.node.replaceChildren();
    if (shot.row(stage.id)?.gives !== "picture") return;
    const found = await orElse(get(`${shot.base}/passes?${query({ stage: stage.id, frame: shot.view.frame })}`), null);
    if (this.#of !== of || !found) return;
    const names = found.roles.map((/** @type {string} */ role) => role.replaceAll("_", " ")).join(", ");
    this.node.replaceChildren(el("div", { class: "group" }, "passes"), el("p", { class: "aside" }, `${names}: ${this.#where(found)}`));
  }

  /** @param {{ dropped_by: number | null, moved_by: number[] }} found */
  #where({ dropped_by, moved_by }) {
    const name = (/** @type {number} */ id) => this.shot.stage(id)?.name;
    if (dropped_by !== null) return `dropped by ${name(dropped_by)}`;
    return moved_by.length ? `moved with the picture by ${moved_by.map(name).join(", ")}` : "where the plate has them";
  }
}

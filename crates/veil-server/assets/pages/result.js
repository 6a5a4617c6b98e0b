// A render's result: looked at, played, and carried away frame by frame.

import { openDialog } from "../base/dialog.js";
import { el, icon } from "../base/parts.js";

// So many frames ahead are asked for while it plays.
const AHEAD = 3;

/** @param {HTMLElement} row the render's line in the table */
export const openResult = (row) => new Result(row).open();

class Result {
  /** @type {Map<number, Promise<HTMLImageElement>>} */
  #held = new Map();
  #playing = false;

  /** @param {HTMLElement} row */
  constructor(row) {
    this.name = row.querySelector("a")?.textContent ?? "";
    this.id = row.dataset.id;
    this.beside = row.dataset.beside;
    this.first = Number(row.dataset.first);
    this.last = Number(row.dataset.last);
    this.fps = Number(row.dataset.fps);
    this.frame = this.first;
    this.picture = el("img", { class: "result", alt: "" });
    /** @type {HTMLInputElement} */
    this.place = el("input", { type: "range", min: this.first, max: this.last, value: this.first, "aria-label": "frame", class: "grow", oninput: () => this.#seek() });
    this.said = el("span", { class: "num" });
    this.keep = el("a", { class: "button", download: "" }, icon("download"), "this frame");
    this.play = el("button", { class: "button is-ghost", "aria-label": "play", onclick: () => this.#setPlaying(!this.#playing) }, icon("play"));
  }

  open() {
    this.dialog = openDialog(this.name, [this.picture, el("div", { class: "resultbar" }, this.play, this.place, this.said)], [
      this.keep, el("a", { class: "button is-primary is-outlined", href: this.beside }, "look at it beside the shot"),
    ], { size: "widest", closed: () => { this.#playing = false; } });
    this.#show(this.first);
  }

  #seek() {
    this.#setPlaying(false);
    this.#show(Number(this.place.value));
  }

  /**
   * A frame's picture, asked for once; one that was not there is asked for again.
   * @param {number} frame
   */
  #pictureOf(frame) {
    let held = this.#held.get(frame);
    if (!held) {
      const made = new Image();
      made.src = `/api/renders/${this.id}/frame/${frame}`;
      held = made.decode().then(() => made);
      held.catch(() => this.#held.delete(frame));
      this.#held.set(frame, held);
    }
    return held;
  }

  /** @param {number} frame */
  async #show(frame) {
    this.frame = frame;
    this.place.value = String(frame);
    this.said.textContent = `${frame} of ${this.first}–${this.last}`;
    this.keep.href = `/api/renders/${this.id}/file/${frame}`;
    try {
      const made = await this.#pictureOf(frame);
      if (this.frame === frame) this.picture.src = made.src;
    } catch (error) {
      console.warn(error);
      if (this.frame === frame) this.said.textContent = `${frame} is not there`;
    }
  }

  /** @param {number} frame */
  #round(frame) {
    return this.first + (frame % (this.last - this.first + 1));
  }

  async #run() {
    const [start, from] = [performance.now(), this.frame];
    while (this.#playing && this.dialog?.open) {
      const passed = Math.floor(((performance.now() - start) / 1000) * this.fps);
      const next = this.#round(from - this.first + passed);
      this.#pictureOf(this.#round(next - this.first + AHEAD));
      if (next !== this.frame) await this.#show(next);
      await new Promise((done) => requestAnimationFrame(done));
    }
  }

  /** @param {boolean} on */
  #setPlaying(on) {
    this.#playing = on;
    this.play.replaceChildren(icon(on ? "pause" : "play"));
    this.play.setAttribute("aria-label", on ? "stop" : "play");
    if (on) this.#run();
  }
}

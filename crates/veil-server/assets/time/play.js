// Frames held in the browser, and playing them.

import { frame as fetchFrame } from "../base/api.js";
import { trying } from "../base/telling.js";

// Most bytes of held pictures.
const LIMIT = 700e6;
const AT_ONCE = 2;

export class Player {
  /** @type {Map<number, Answer>} */
  #frames = new Map();
  /** What the held frames are of. */
  #mark = "";
  #bytes = 0;
  /** Frames that are on their way. @type {Set<number>} */
  #coming = new Set();
  /** @type {{ last: number, shown: number[], request: number } | null} */
  #playing = null;

  /**
   * @param {Shot} shot
   * @param {import("../viewer/viewer.js").Viewer} viewer
   * @param {{ heldChanged: () => void, playing: (on: boolean) => void, fps: (real: number) => void, loops: () => boolean }} nodes
   */
  constructor(shot, viewer, nodes) {
    this.shot = shot;
    this.viewer = viewer;
    this.nodes = nodes;
  }

  get running() {
    return this.#playing !== null;
  }

  /**
   * The picture of a frame, where it is there.
   * @param {number} frame
   */
  held(frame) {
    return this.#current().get(frame) ?? null;
  }

  frames() {
    return [...this.#current().keys()];
  }

  toggle() {
    if (this.#playing) this.stop();
    else this.#start();
  }

  get #signature() {
    const { shown, look, exposure, screen, backing, behind } = this.shot.view;
    return [this.shot.state.revision, shown, look, exposure, screen, backing, behind, this.viewer.well.across].join("/");
  }

  #current() {
    if (this.#mark !== this.#signature) {
      for (const one of this.#frames.values()) one.bitmap?.close();
      this.#frames.clear();
      this.#bytes = 0;
      this.#mark = this.#signature;
    }
    return this.#frames;
  }

  /** @param {number} frame */
  async #load(frame) {
    const wanted = this.#signature;
    const answer = await trying(() => fetchFrame(this.viewer.asker.address(1, { frame })));
    this.#coming.delete(frame);
    if (!answer) return this.stop();
    if (wanted !== this.#signature) return answer.bitmap?.close();
    this.#current().set(frame, answer);
    this.#bytes += (answer.bitmap?.width ?? 0) * (answer.bitmap?.height ?? 0) * 4;
    this.nodes.heldChanged();
    if (this.#playing) this.#fetchAhead();
  }

  /** The next frames that are not held, from the playhead on. */
  #fetchAhead() {
    const { first, last } = this.shot.range();
    const count = last - first + 1;
    for (let step = 0; step < count && this.#coming.size < AT_ONCE && this.#bytes <= LIMIT; step++) {
      const frame = first + ((((this.shot.view.frame - first) % count) + count + step) % count);
      if (this.#current().has(frame) || this.#coming.has(frame)) continue;
      this.#coming.add(frame);
      this.#load(frame);
    }
  }

  #start() {
    const playing = { last: performance.now(), shown: [], request: 0 };
    this.#playing = playing;
    this.nodes.playing(true);
    const tick = (/** @type {number} */ now) => {
      if (this.#playing !== playing) return;
      this.#fetchAhead();
      if (now - playing.last >= 1000 / this.shot.state.setup.picture.fps - 2) this.#advance(playing, now);
      playing.request = requestAnimationFrame(tick);
    };
    playing.request = requestAnimationFrame(tick);
  }

  /**
   * @param {{ last: number, shown: number[] }} playing
   * @param {number} now
   */
  #advance(playing, now) {
    const beat = 1000 / this.shot.state.setup.picture.fps;
    const { first, last } = this.shot.range();
    const atEnd = this.shot.view.frame >= last;
    if (atEnd && !this.nodes.loops()) return this.stop();
    const next = atEnd ? first : Math.max(first, this.shot.view.frame + 1);
    const held = this.held(next);
    if (!held) return;
    // Keep the beat when a frame was a little late; start anew when it was very late.
    playing.last = now - playing.last > 3 * beat ? now : playing.last + beat;
    this.viewer.showHeld(held);
    this.shot.seek(next);
    playing.shown = [...playing.shown, now].filter((at) => now - at < 1000);
    this.nodes.fps(playing.shown.length);
  }

  stop() {
    if (!this.#playing) return;
    cancelAnimationFrame(this.#playing.request);
    this.#playing = null;
    this.nodes.playing(false);
    this.shot.seek(this.shot.view.frame);
  }
}

// A camera solved from the tracks of a row: what is known before, how far off it is, and the ground that its world stands on.

import { get, post, query } from "../base/api.js";
import { button, choose, el, framed, short, svg } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";
import { useMedia } from "../controls/media.js";
import { pairChoice, pairField } from "./fieldparts.js";

// Fewer points than these are no beginning.
const FEWEST = 4;
const KEPT = /^cameras\/.*\.gltf$/;
// The drawing of errors by frame: its size, and an error that fills it at least, in pixels.
const [WIDE, HIGH, TALL] = [250, 28, 1];
// A point is told of that is farther off than others so many times.
const FAR = 3;

/** @param {Track} track */
const isPoint = (track) => !track.region && !track.surface;

/**
 * @param {Shot} shot
 * @param {Track[]} tracks of the row
 */
export function solvingNode(shot, tracks) {
  const points = tracks.filter(isPoint);
  if (points.length < FEWEST) return null;
  return new Solving(shot, points).node();
}

class Solving {
  /**
   * @param {Shot} shot
   * @param {Track[]} points
   */
  constructor(shot, points) {
    this.shot = shot;
    this.points = points;
    this.state = shot.tracking.solve;
  }

  node() {
    const { state } = this;
    const { found } = state;
    const kept = this.shot.state.setup.media.filter((media) => KEPT.test(media.path));
    return el("div", { class: "shapeparts", role: "group", "aria-label": "camera from tracks" }, el("div", { class: "quiet" }, "camera from these points"),
      el("div", { class: "shapefields" },
        pairChoice("the camera", "camera from tracks", state.goes, [["moves", "moves"], ["turns", "only turns"]], (goes) => this.#at({ goes: /** @type {"moves" | "turns"} */ (goes) }), "how the camera goes"),
        this.#focalField(), pairField("sensor, mm", "camera from tracks", short(state.sensor, 2), (sensor) => this.#at({ sensor }), "width of the sensor in millimetres")),
      el("div", { class: "deeds" }, button(state.busy ? "solving…" : "solve the camera", `from ${this.points.length} points; it is kept as a glTF file of the show`, () => this.#solve(), state.busy),
        kept.length ? framed(choose("solved camera that is looked at", found?.path ?? "", [["", "look at one"], ...kept.map((media) => [media.path, media.name])], (path) => this.#look(path))) : null),
      found ? this.#foundParts(found) : null);
  }

  #focalField() {
    const { state } = this;
    const take = (/** @type {string} */ text) => {
      const focal = Number(text);
      this.#at({ focal: text.trim() && focal > 0 ? focal : null });
    };
    const field = el("input", { class: "input num", value: state.focal === null ? "" : short(state.focal, 2), placeholder: "find", "aria-label": "focal length in millimetres", title: "in millimetres; empty, it is found", onchange: (event) => take(event.target.value) });
    return el("label", { class: "shapefield" }, el("span", { class: "quiet" }, "focal length, mm"), field);
  }

  /** @param {Partial<SolveState>} changes */
  #at(changes) {
    const { shot } = this;
    shot.atTrack({ solve: { ...shot.tracking.solve, ...changes } });
  }

  async #solve() {
    const { shot, state } = this;
    if (state.busy) return;
    this.#at({ busy: true });
    const found = await trying(() => post(`${shot.base}/tracks/solve`, { tracks: this.points.map((one) => one.id), goes: state.goes, focal_mm: state.focal, sensor_width_mm: state.sensor }));
    this.#at({ busy: false });
    if (!found) return;
    // From now on stages that look through a camera's file offer it.
    await useMedia(shot, found.media);
    toast(`solved: ${short(found.error, 2)} px off`);
    await this.#look(found.path);
  }

  /** @param {string} path */
  async #look(path) {
    const { shot } = this;
    if (!path) return this.#at({ found: null });
    const found = await trying(() => get(`${shot.base}/tracks/solved?${query({ path, frame: shot.here })}`));
    if (found) this.#at({ found });
  }

  /** @param {SolvedCamera} found */
  #foundParts(found) {
    const { state } = this;
    const known = found.points.length;
    const off = [...found.points].filter((point) => point.error > FAR * found.error || point.fits < 0.5).sort((a, b) => b.error - a.error);
    return el("div", { class: "shapeparts" },
      el("div", {}, `${short(found.error, 2)} px off, ${short(found.focal * state.sensor, 1)} mm, ${known} of ${this.points.length} points, ${found.frames.length} frames`),
      errors(found),
      off.length ? el("div", { class: "quiet" }, `fit badly: ${off.slice(0, 6).map((point) => `${point.name} (${short(point.error, 1)} px)`).join(", ")}`) : null,
      this.#groundParts(found));
  }

  /** @param {SolvedCamera} found */
  #groundParts(found) {
    const { state } = this;
    const names = found.points.map((point) => [point.name, point.name]);
    const which = (/** @type {string} */ word, /** @type {string} */ value, /** @type {(name: string) => void} */ take) => pairChoice(word, "solved camera", value, [["", "choose"], ...names], take, `${word} of the solved camera`);
    const ground = ["at the origin", "along x", "on the ground too"].map((word, index) => which(word, state.ground[index], (name) => this.#at({ ground: state.ground.map((one, at) => (at === index ? name : one)) })));
    const [from, to, metres] = state.distance;
    return el("div", { class: "shapefields" }, ...ground,
      button("set it down", "these three points lie on the ground then, where y is 0", () => this.#setDown(found, { ground: state.ground }, state.ground)),
      which("from", from, (name) => this.#at({ distance: [name, to, metres] })), which("to", to, (name) => this.#at({ distance: [from, name, metres] })),
      pairField("metres", "solved camera", short(metres, 3), (length) => this.#at({ distance: [from, to, length] }), "metres between both"),
      button("measure it", "the two points are so far apart then", () => this.#setDown(found, { distance: state.distance }, [from, to])));
  }

  /**
   * @param {SolvedCamera} found
   * @param {object} by
   * @param {string[]} names
   */
  async #setDown(found, by, names) {
    if (names.some((name) => !name)) return toast("choose the points first", true);
    const done = await trying(() => post(`${this.shot.base}/tracks/solved`, { path: found.path, ground: null, distance: null, ...by }));
    if (!done) return;
    toast("done");
    await this.#look(found.path);
  }
}

/**
 * How far off points are in each frame.
 * @param {SolvedCamera} found
 */
function errors({ frames }) {
  if (frames.length < 2) return null;
  const [first, last] = [frames[0][0], frames[frames.length - 1][0]];
  const worst = Math.max(TALL, ...frames.map(([, error]) => error));
  const d = frames.map(([frame, error], at) => `${at && frames[at - 1][0] === frame - 1 ? "L" : "M"}${(((frame - first) / Math.max(1, last - first)) * WIDE).toFixed(1)} ${(HIGH - (error / worst) * (HIGH - 2)).toFixed(1)}`).join("");
  return svg("svg", { class: "likeness", viewBox: `0 0 ${WIDE} ${HIGH}`, role: "img", "aria-label": `error from frame to frame, ${short(Math.max(...frames.map((one) => one[1])), 2)} px at most` }, svg("path", { d, fill: "none", stroke: "var(--salt)" }));
}

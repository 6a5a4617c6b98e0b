// What is followed through the shot, on the picture: points, regions and surfaces, placed and mended there.

import { followPointer } from "../base/drag.js";
import { svg } from "../base/parts.js";
import { add, less, mix } from "../shot/drawn.js";
import { Marks } from "./marks.js";
import { pulled, surfaceMarks, surfaceOver } from "./surfacemarks.js";
import { solvedMarks } from "./solvedmarks.js";
import { freeNames, freshTrack, putTracks, sampleAt } from "./tracking.js";

// A mark is met within so many pixels of the screen.
const NEAR = 11;
// The largest half of a pattern or of a search, in pixels of the picture.
const MOST = 500;
const SALT = "#ece8de";

/** @typedef {(event: MouseEvent) => Track} Change */

/** @param {Place[]} corners */
const middle = (corners) => mix([0, 0], corners.reduce(add), 1 / corners.length);
/** @param {Place} at @returns {Place} */
const round = ([x, y]) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100];
/** How far a track is searched for from its place. @param {Track} track @returns {Place} */
const reachOf = ({ pattern, search }) => add(pattern, search);

export class Tracks extends Marks {
  /** The chosen track while it is dragged. @type {Track | null} */
  #dragged = null;
  /** A region or a surface while it is drawn. @type {Place[] | null} */
  #boxed = null;

  get #all() {
    return this.shot.tracksOf(this.shot.selected ?? null);
  }

  get #chosen() {
    return this.#dragged ?? this.#all.find((track) => track.id === this.shot.tracking.id);
  }

  /**
   * @param {Place} at
   * @param {Attributes} attributes
   */
  #cross(at, attributes) {
    const [x, y] = this.seen(at);
    return svg("path", { d: `M${x - 7} ${y}h14M${x} ${y - 7}v14`, stroke: SALT, "stroke-width": 1.4, ...attributes });
  }

  /**
   * @param {Place[]} places
   * @param {Attributes} attributes
   * @param {string} [end]
   */
  #way(places, attributes, end = "") {
    const d = places.map((place) => this.seen(place)).map(([x, y], at) => `${at ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");
    return svg("path", { d: d && d + end, fill: "none", stroke: SALT, ...attributes });
  }

  /**
   * @param {Place} at
   * @param {string} name
   */
  #knob(at, name) {
    const [cx, cy] = this.seen(at);
    return svg("circle", { cx, cy, r: 3.5, fill: "#1f2120", stroke: SALT, "data-track": name });
  }

  draw() {
    if (!this.shot.selected) return;
    const frame = this.shot.here;
    this.overlay.append(...solvedMarks(this.shot, (at) => this.seen(at)));
    const track = this.#chosen;
    for (const other of this.#all.filter((one) => one.id !== track?.id)) {
      const here = sampleAt(other, frame);
      if (here) this.overlay.append(this.#cross(here.at, { "stroke-opacity": 0.5, "data-track-of": other.id }));
    }
    if (this.#boxed) this.overlay.append(this.#way(this.#boxed, { "stroke-width": 1.2, "stroke-dasharray": "3 3" }, "z"));
    if (!track) return;
    const found = Object.entries(track.samples ?? {}).map(([at, sample]) => ({ frame: Number(at), sample })).sort((a, b) => a.frame - b.frame);
    const path = this.#way(found.map(({ sample }) => sample.at), { class: "trackpath", "stroke-opacity": 0.6 });
    const here = sampleAt(track, frame);
    this.overlay.append(path, ...this.#marksOf(track, here));
  }

  /**
   * @param {Track} track
   * @param {Sample | null} here
   */
  #marksOf(track, here) {
    if (track.region) return this.#region(track, here, track.region);
    if (!track.surface) return this.#point(track, here);
    const sample = here?.surface ?? { corners: track.surface.corners, likeness: [] };
    return [surfaceMarks(track.surface, sample, { seen: (at) => this.seen(at), known: here !== null }), this.#cross(here?.at ?? track.at, { "data-track": "point" })];
  }

  /**
   * @param {Track} track
   * @param {Sample | null} here
   * @param {Place[]} region
   */
  #region(track, here, region) {
    const corners = here?.corners ?? region;
    return [
      this.#way(corners, { "stroke-width": 1.2, "stroke-dasharray": here ? null : "3 3", "data-track": "region" }, "z"),
      ...corners.map((one, index) => this.#knob(one, `corner${index}`)), this.#cross(here?.at ?? track.at, { "data-track": "point" }),
    ];
  }

  /**
   * @param {Track} track
   * @param {Sample | null} here
   */
  #point(track, here) {
    const at = here?.at ?? track.at;
    const box = (/** @type {Place} */ half, /** @type {string | null} */ dash) => {
      const [x, y] = this.seen(less(at, half));
      return svg("rect", { x, y, width: 2 * half[0] * this.well.wideZoom, height: 2 * half[1] * this.well.zoom, fill: "none", stroke: SALT, "stroke-width": 1.2, "stroke-dasharray": dash });
    };
    const reach = reachOf(track);
    return [box(track.pattern, here ? null : "3 3"), box(reach, "2 4"), this.#cross(at, { "data-track": "point" }), this.#knob(add(at, track.pattern), "pattern"), this.#knob(add(at, reach), "search")];
  }

  /**
   * The place of the row under the pointer.
   * @param {MouseEvent} event
   */
  #own(event) {
    return this.carry.toOwn(this.well.toPicture(event));
  }

  /**
   * A press on the picture; true where it was for a track.
   * @param {PointerEvent} event
   */
  down(event) {
    const { placing } = this.shot.tracking;
    if (event.button) return false;
    if (placing === "point") this.#begin(this.#own(event));
    else if (placing) this.#drawBox(event, placing === "region" ? (box) => this.#beginRegion(box) : (box) => this.#beginSurface(box));
    else return this.#mend(event);
    return true;
  }

  /** @param {PointerEvent} event */
  #mend(event) {
    const track = this.#chosen;
    const press = this.well.placeOf(event);
    const change = track && this.#grabbed(track, (at) => Math.hypot(...less(this.seen(at), press)) < NEAR);
    if (!change) return false;
    const drop = () => {
      this.#dragged = null;
      this.shot.tell("view");
    };
    followPointer(event, {
      moved: (next) => {
        this.#dragged = change(next);
        this.remark();
      },
      done: async () => {
        if (this.#dragged) await this.shot.edit({ do: "put_track", track: this.#dragged });
        drop();
      },
      left: drop,
    });
    return true;
  }

  /**
   * What a drag on a mark of a track changes. What was found already is mended at this frame alone.
   * @param {Track} track
   * @param {(at: Place) => boolean} near
   * @returns {Change | null}
   */
  #grabbed(track, near) {
    const { at, corners, surface } = sampleAt(track, this.shot.here) ?? { at: track.at, corners: track.region };
    if (track.surface) return this.#surfaceChange(track, track.surface, { at, corners: surface?.corners ?? track.surface.corners }, near);
    if (track.region) return this.#regionChange(track, at, corners ?? track.region, near);
    const size = (/** @type {MouseEvent} */ event) => /** @type {Place} */ (less(this.#own(event), at).map((off) => Math.min(MOST, Math.max(2, Math.round(Math.abs(off))))));
    if (near(at)) return (event) => this.#moved(track, { at: round(this.#own(event)) });
    if (near(add(at, track.pattern))) return (event) => ({ ...track, pattern: size(event) });
    if (!near(add(at, reachOf(track)))) return null;
    return (event) => ({ ...track, search: /** @type {Place} */ (less(size(event), track.pattern).map((value) => Math.max(1, value))) });
  }

  /**
   * @param {Track} track
   * @param {Place} at
   * @param {Place[]} corners
   * @param {(at: Place) => boolean} near
   * @returns {Change | null}
   */
  #regionChange(track, at, corners, near) {
    const moved = (/** @type {Place[]} */ next) => this.#moved(track, { at: middle(next), corners: next });
    const which = corners.findIndex(near);
    if (which >= 0) return (event) => moved(corners.map((corner, index) => (index === which ? round(this.#own(event)) : corner)));
    if (!near(at)) return null;
    return (event) => {
      const by = less(this.#own(event), at);
      return moved(corners.map((corner) => round(add(corner, by))));
    };
  }

  /**
   * @param {Track} track
   * @param {TrackSurface} of
   * @param {{ at: Place, corners: Place[] }} here
   * @param {(at: Place) => boolean} near
   * @returns {Change | null}
   */
  #surfaceChange(track, of, { at, corners }, near) {
    const laid = (/** @type {Place[]} */ next) => this.#moved(track, { at: middle(next), surface: { corners: next.map(round), likeness: Array(of.rows * of.columns).fill(1), by_hand: true } });
    const which = corners.findIndex(near);
    if (which >= 0) return (event) => laid(pulled(of, corners, { which, to: this.#own(event), reach: this.shot.tracking.reach }));
    if (!near(at)) return null;
    return (event) => {
      const by = less(this.#own(event), at);
      return laid(corners.map((corner) => add(corner, by)));
    };
  }

  /**
   * A track with another place at this frame: mended there, or begun anew where nothing was found yet.
   * @param {Track} track
   * @param {Sample} sample
   * @returns {Track}
   */
  #moved(track, sample) {
    const frame = Math.round(this.shot.here);
    const surface = track.surface && sample.surface ? { surface: { ...track.surface, corners: sample.surface.corners } } : {};
    const begun = { at: sample.at, ...(sample.corners ? { region: sample.corners } : {}), ...surface };
    const known = track.samples?.[frame];
    if (!known || Object.keys(track.samples ?? {}).length < 2) return { ...track, ...begun, begins: frame, samples: {} };
    return { ...track, samples: { ...track.samples, [frame]: { ...known, ...sample, likeness: 1 } }, ...(frame === track.begins ? begun : {}) };
  }

  /** @param {Place} at */
  async #begin(at) {
    const [name] = freeNames(this.shot, "track", 1);
    this.shot.atTrack({ placing: null });
    await putTracks(this.shot, [{ ...freshTrack(this.shot, name), at: round(at) }]);
  }

  /**
   * @param {PointerEvent} event
   * @param {(corners: Place[]) => unknown} begin
   */
  #drawBox(event, begin) {
    const from = this.#own(event);
    const end = () => {
      const drawn = this.#boxed;
      this.#boxed = null;
      this.shot.atTrack({ placing: null });
      return drawn;
    };
    followPointer(event, {
      moved: (next) => {
        const to = this.#own(next);
        this.#boxed = [from, [to[0], from[1]], to, [from[0], to[1]]];
        this.remark();
      },
      done: () => {
        const drawn = end();
        if (drawn) begin(drawn.map(round));
      },
      left: end,
    });
  }

  /** @param {Place[]} region */
  #beginRegion(region) {
    const [name] = freeNames(this.shot, "region", 1);
    return putTracks(this.shot, [{ ...freshTrack(this.shot, name), at: middle(region), region, motion: "perspective", least_likeness: 0.5 }]);
  }

  /** @param {Place[]} box */
  #beginSurface(box) {
    const [name] = freeNames(this.shot, "surface", 1);
    const surface = surfaceOver(box[0], box[2]);
    return putTracks(this.shot, [{ ...freshTrack(this.shot, name), at: middle(box), surface, least_likeness: 0.3 }]);
  }
}

// What is said on the bench of a surface that is followed: its cells, how firm it is, and where it was laid by hand.

import { button, el, short } from "../base/parts.js";
import { sampleAt } from "../viewer/tracking.js";
import { pairField } from "./fieldparts.js";

/**
 * @param {Shot} shot
 * @param {Track} track
 * @param {TrackSurface} of
 */
export function surfaceNode(shot, track, of) {
  const change = (/** @type {Partial<TrackSurface>} */ values) => shot.edit({ do: "put_track", track: { ...track, surface: { ...of, ...values } } });
  const cut = (/** @type {{ rows?: number, columns?: number }} */ cells) => shot.edit({ do: "cut_surface", track: track.id, rows: of.rows, columns: of.columns, ...cells });
  const whole = (/** @type {number} */ value) => Math.max(1, Math.round(value));
  const share = (/** @type {number} */ value) => Math.min(1, Math.max(0, value));
  const { reach } = shot.tracking;
  return el("div", { class: "surfaceparts" }, el("p", { class: "quiet" }, ...facts(shot, track)),
    el("div", { class: "shapefields" },
      pairField("rows", track.name, String(of.rows), (rows) => cut({ rows: whole(rows) }), "rows of cells; the surface stays where it lies at every frame"),
      pairField("columns", track.name, String(of.columns), (columns) => cut({ columns: whole(columns) }), "columns of cells; the surface stays where it lies at every frame"),
      pairField("stiffness", track.name, short(of.stiffness, 2), (stiffness) => change({ stiffness: share(stiffness) }), "how firmly the corners hold each other: 0 bends freely, 1 hardly bends"),
      pairField("a drag reaches", track.name, short(reach, 1), (value) => shot.atTrack({ reach: Math.max(0, value) }), "how far about a corner that is dragged others go along, in cells; 0 moves it alone")),
    byHand(shot, track));
}

/**
 * @param {Shot} shot
 * @param {Track} track
 */
function facts(shot, track) {
  const here = sampleAt(track, shot.here)?.surface;
  const laid = Object.entries(track.samples ?? {}).filter(([, sample]) => sample.surface?.by_hand).map(([frame]) => frame);
  const least = here?.likeness.length ? ` · least alike cell here ${short(Math.min(...here.likeness), 2)}` : "";
  return [`laid by hand at ${laid.length ? laid.join(", ") : track.begins}${least}`];
}

/**
 * Where it lies at this frame counts as laid by hand, or does so no more.
 * @param {Shot} shot
 * @param {Track} track
 */
function byHand(shot, track) {
  const frame = Math.round(shot.here);
  const sample = track.samples?.[frame];
  if (!sample?.surface) return null;
  const { by_hand } = sample.surface;
  const put = () => shot.edit({ do: "put_track", track: { ...track, samples: { ...track.samples, [frame]: { ...sample, surface: { ...sample.surface, by_hand: !by_hand } } } } });
  return el("div", { class: "deeds" }, by_hand
    ? button("not laid by hand here", "it is followed through this frame as through others", put)
    : button("it lies right here", "counts as laid by hand: what is followed begins and ends here", put));
}

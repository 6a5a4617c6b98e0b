// What is said on the bench of points that are keyed together: how they go from key to key, which track they go with, and a key.

import { button } from "../base/parts.js";
import { shapeAt } from "../shot/drawn.js";
import { ALONG } from "../viewer/trackdrop.js";
import { pairChoice } from "./fieldparts.js";

const WAYS = ["smooth", "straight", "step"].map((way) => [way, way]);

/**
 * @typedef {{
 *   shot: Shot, stage: number, control: Control, index: number, name: string, points: KeyedPoints,
 *   change: (values: Partial<KeyedPoints>) => unknown,
 * }} Said `index` counts what the control has drawn, `name` is what the points are called
 */

/** @param {Said} said */
export const wayField = ({ name, points, change }) => pairChoice("between keys", name, points.way ?? "smooth", WAYS, (way) => change({ way }));

/**
 * From this frame on they go with a track; without one they stay where they are, by keys.
 * @param {Said} said
 */
export function goesWith({ shot, stage, control, index, name, points: { carried }, change }) {
  const tracks = shot.state.setup.tracks ?? [];
  if (!tracks.length && !carried) return [];
  const choose = (/** @type {string} */ value) => (value
    ? change({ carried: { track: Number(value), since: shot.here, along: carried?.along ?? "whole" } })
    : shot.edit({ do: "free_shape", stage, control: control.id, shape: index }));
  return [
    pairChoice("goes with", name, carried?.track ?? "", [["", "nothing"], ...tracks.map((track) => [track.id, track.name])], choose),
    carried && pairChoice("by", name, carried.along ?? "whole", Object.entries(ALONG), (along) => change({ carried: { ...carried, along } })),
  ];
}

/** @param {Said} said */
export function keyButton({ shot, points, change }) {
  const frame = shot.here;
  const others = points.keys.filter((key) => key.frame !== frame);
  if (others.length && others.length < points.keys.length) return button("remove the key here", "it goes on by the keys that are left", () => change({ keys: others }));
  const key = { frame, points: shapeAt(points, frame) };
  return button("key here", "a key with the points as they are", () => change({ keys: [...others, key].sort((a, b) => a.frame - b.frame) }));
}

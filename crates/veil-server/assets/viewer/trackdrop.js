// A track that is dropped: what of a row or of a control goes with it from this frame on, so that nothing jumps there.

import { toast } from "../base/telling.js";
import { drawnOf, withDrawn } from "../shot/drawn.js";
import { feedsOf, feedValue } from "../shot/keys.js";

// What is dragged when a track's name is.
export const TRACK = "application/x-veil-track";
// What of a track a thing goes with when it is dropped there.
export const ALONG = { place: "its place", size: "place and size", turn: "place, size and turn", whole: "all of it" };

/** @typedef {{ id: number, control: Control }} Owned a control, and the row that it is of */

/**
 * How places, sizes and turns are fed by a track.
 * @param {Shot} shot
 * @param {number} track
 */
function feedsFor(shot, track) {
  const frame = shot.here;
  const { along } = shot.tracking;
  const sized = along !== "place";
  const turned = along === "turn" || along === "whole";
  return {
    place: (/** @type {number[]} */ at, offset = [0, 0]) => ["x", "y"].map((axis, index) => ({ track, axis, since: frame, carries: at, along, offset: offset[index] })),
    grown: (/** @type {number} */ value) => (sized ? { track, axis: "scale", since: frame, times: value } : value),
    turned: (/** @type {number} */ value) => (turned ? { track, axis: "turn", since: frame, offset: value } : value),
  };
}

/**
 * The numbers of a setting at this frame; none where only the server knows one of them.
 * @param {Shot} shot
 * @param {any} setting
 * @returns {number[] | null}
 */
function numbersOf(shot, setting) {
  const values = feedsOf(setting).map((feed) => feedValue(feed, shot.here));
  return values.every((value) => value !== undefined) ? values : null;
}

/**
 * A setting that lets a control go with a track; none where it has nothing to go by.
 * @param {Shot} shot
 * @param {Control} control
 * @param {number} track
 * @returns {any}
 */
export function attached(shot, control, track) {
  const values = numbersOf(shot, control.setting);
  if (!values) return null;
  const to = feedsFor(shot, track);
  if (control.kind.type === "point") return { axes: to.place(values) };
  if (control.kind.type === "size") return { axes: values.map(to.grown) };
  if (control.kind.type !== "number") return null;
  return control.kind.unit === "degrees" ? to.turned(values[0]) : to.grown(values[0]);
}

/**
 * A Transform goes as what it places is carried: its pivot stays where it is.
 * @param {Shot} shot
 * @param {number} row
 * @param {number} track
 * @returns {{ id: number, control: string, setting: any }[]}
 */
function transformed(shot, row, track) {
  const values = (/** @type {string} */ id) => numbersOf(shot, shot.controls(row).find((control) => control.id === id)?.setting);
  const [x, y, pivot] = ["move_x", "move_y", "pivot"].map(values);
  if (!x || !y || !pivot) return [];
  const to = feedsFor(shot, track);
  const [right, down] = to.place([pivot[0] + x[0], pivot[1] + y[0]], [-pivot[0], -pivot[1]]);
  const settings = { move_x: right, move_y: down, scale_x: to.grown(values("scale_x")?.[0] ?? 1), scale_y: to.grown(values("scale_y")?.[0] ?? 1), angle: to.turned(values("angle")?.[0] ?? 0) };
  return Object.entries(settings).map(([control, setting]) => ({ id: row, control, setting }));
}

/**
 * The controls of a row; of a tool's row those that it shows.
 * @param {Shot} shot
 * @param {number} row
 * @returns {Owned[]}
 */
function rowControls(shot, row) {
  const own = shot.controls(row).map((control) => ({ id: row, control: control.own && control.kind.type === "point" ? { ...control, grip: "point" } : control }));
  const shown = (shot.stage(row)?.tool?.faceplate ?? []).flatMap((entry) => shot.controls(entry.stage).filter((one) => one.id === entry.control).map((control) => ({ id: entry.stage, control })));
  return [...own, ...shown];
}

/**
 * Whether a control is one that a track carries.
 * @param {Control} control
 * @param {string} along
 */
function goes(control, along) {
  if (control.grip === "drawn") return drawnOf(control.setting).length > 0;
  if (control.kind.type === "point") return control.grip !== "none";
  const sized = ["radii", "sides", "softness", "reach", "length"].includes(control.grip);
  return (sized && along !== "place") || (control.grip === "turn" && (along === "turn" || along === "whole"));
}

/**
 * The settings with which a row goes with a track.
 * @param {Shot} shot
 * @param {number} row
 * @param {number} track
 */
function settingsFor(shot, row, track) {
  if (shot.stage(row)?.kind === "transform") return transformed(shot, row, track);
  const { along } = shot.tracking;
  const carried = { track, since: shot.here, along };
  return rowControls(shot, row).filter(({ id, control }) => shot.counts(id, control) && goes(control, along)).map(({ id, control }) => {
    const setting = control.grip === "drawn" ? withDrawn(control.setting, (points) => (points.carried ? points : { ...points, carried })) : attached(shot, control, track);
    return { id, control: control.id, setting };
  });
}

/**
 * A row goes with a track from this frame on.
 * @param {Shot} shot
 * @param {number} row
 * @param {number} track
 */
export function attachTo(shot, row, track) {
  if (!track) return;
  const commands = settingsFor(shot, row, track).filter(({ setting }) => setting).map(({ id, control, setting }) => ({ do: "set", stage: id, control, setting }));
  if (commands.length) shot.edit({ do: "together", commands });
  else toast(`${shot.row(row)?.name} has nothing that could go with a track`, true);
}

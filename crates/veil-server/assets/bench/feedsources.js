// What a feed may follow: a number of another row, or one of a track.

import { choose, el, framed } from "../base/parts.js";

/** @typedef {{ stage: number, control: string, axis: number }} Axis one number of a control */
/** @typedef {{ track: number, axis: string, since?: number, carries?: Place, along?: string }} OfTrack */

/**
 * Every number of every other row that may be followed.
 * @param {Shot} shot
 * @param {{ but: Axis, worded: any, typed: (event: any) => void, named: (worded: any) => void }} asked
 */
export function followed(shot, { but, worded, typed, named }) {
  // What of a control others may follow: its numbers, or where its first outline stands.
  const axes = (/** @type {Control} */ control) => control.follows ?? control.axes;
  const stages = [/** @type {Stage} */ (shot.stage(0)), ...shot.state.setup.stages];
  const rows = stages.flatMap((stage) => shot.controls(stage.id).flatMap((one) => axes(one).map((axis, at) => ({
    of: { stage: stage.id, control: one.id, axis: at }, name: `${stage.name}: ${axis ? `${one.name} ${axis}` : one.name}`,
  })))).filter(({ of }) => of.stage !== but.stage || of.control !== but.control || of.axis !== but.axis);
  const now = rows.find(({ of }) => worded && of.stage === worded.stage && of.control === worded.control && of.axis === (worded.axis ?? 0));
  const field = el("input", {
    class: "input", list: "followed", "aria-label": "control to follow", placeholder: "Row: control", value: now?.name ?? "", onkeydown: typed,
    oninput: (event) => named(rows.find((row) => row.name === event.target.value)?.of ?? ""),
  });
  return [field, el("datalist", { id: "followed" }, ...rows.map((row) => el("option", { value: row.name })))];
}

/**
 * Which number of which track, and whether only what it changes from this frame on counts.
 * @param {Track[]} tracks
 * @param {{ worded: OfTrack, frame: number, named: (worded: OfTrack) => void }} asked
 */
export function tracked(tracks, { worded, frame, named }) {
  let now = worded;
  const change = (/** @type {Partial<OfTrack>} */ values) => named((now = { ...now, ...values }));
  const track = tracks.find((one) => one.id === now.track);
  const pick = (/** @type {string} */ name, /** @type {(string | number)[][]} */ entries, /** @type {string | number} */ value, /** @type {(value: string) => Partial<OfTrack>} */ take) =>
    el("label", {}, el("span", {}, name), framed(choose(name, value, entries, (one) => change(take(one)))));
  const since = el("input", { type: "checkbox", checked: now.since !== undefined, "aria-label": "only what it changes from this frame on", onchange: (event) => change({ since: event.target.checked ? frame : undefined }) });
  return [
    pick("track", tracks.map((one) => [one.id, one.name]), now.track, (id) => ({ track: Number(id) })),
    pick("number", numbersOf(track, now), chosenOf(track, now), (choice) => taken(track, choice)),
    ...(now.carries ? [] : [el("label", { class: "wide" }, since, " only what it changes from this frame on")]),
  ];
}

/**
 * The numbers of a track. A corner of a region is a place that is carried from where the region begins.
 * @param {Track | undefined} track
 * @param {OfTrack} now
 */
function numbersOf(track, now) {
  const plain = [["x", "x"], ["y", "y"], ["scale", "scale"], ["turn", "turn"]];
  const corners = (track?.region ?? []).flatMap((_corner, at) => [[`x ${at}`, `corner ${at + 1}, x`], [`y ${at}`, `corner ${at + 1}, y`]]);
  return [...plain, ...corners, ...(now.carries ? [["x carried", "x of what it carries"], ["y carried", "y of what it carries"]] : [])];
}

/**
 * @param {Track | undefined} track
 * @param {OfTrack} now
 */
function chosenOf(track, { axis, carries }) {
  if (!carries) return axis;
  const at = (track?.region ?? []).findIndex((corner) => corner.every((value, one) => value === carries[one]));
  return at >= 0 ? `${axis} ${at}` : `${axis} carried`;
}

/**
 * @param {Track | undefined} track
 * @param {string} choice
 * @returns {Partial<OfTrack>}
 */
function taken(track, choice) {
  const [axis, at] = choice.split(" ");
  if (at === "carried") return { axis };
  return at === undefined ? { axis, carries: undefined } : { axis, since: track?.begins, carries: track?.region?.[Number(at)] };
}

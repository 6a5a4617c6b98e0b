// The tracks of a row on the bench: placing, following, reading and writing them, and what the chosen one is like.

import { get, post, query } from "../base/api.js";
import { apart, button, el, short, svg } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";
import { addRow } from "../shot/adding.js";
import { ALONG, TRACK } from "../viewer/trackdrop.js";
import { freeNames, freshTrack, putTracks, sampleAt } from "../viewer/tracking.js";
import { nameField, pairChoice, pairField } from "./fieldparts.js";
import { solvingNode } from "./solving.js";
import { surfaceNode } from "./surfaceparts.js";

const MOTIONS = { shift: "moves", similarity: "moves, turns, grows", affine: "is sheared too", perspective: "as a plane in space" };
const WAYS = [["« both »", "to the first frame and to the last", "both"], ["« back", "to the first frame", "back"], ["‹ one", "one frame back", "one_back"], ["one ›", "one frame on", "one_on"], ["on »", "to the last frame", "on"]];
// The drawing of how alike it was, and how many points are looked for at most.
const [WIDE, HIGH] = [250, 28];
const MOST = 60;

/**
 * @param {Shot} shot
 * @param {Stage} stage
 */
export const tracksNode = (shot, stage) => new TrackList(shot, stage).nodes();

class TrackList {
  /**
   * @param {Shot} shot
   * @param {Stage} stage
   */
  constructor(shot, stage) {
    this.shot = shot;
    this.stage = stage;
    this.all = shot.tracksOf(stage.id);
    this.mine = shot.selected === stage.id;
    this.state = shot.tracking;
    this.track = this.all.find((one) => this.mine && one.id === this.state.id) ?? this.all[0];
  }

  nodes() {
    const placing = (/** @type {"point" | "region" | "surface"} */ what) => this.mine && this.state.placing === what;
    const place = (/** @type {"point" | "region" | "surface"} */ what) => this.#atHand({ placing: placing(what) ? null : what });
    return [el("div", { class: "group" }, "tracks in this picture"), el("div", { class: "ctl whole" }, el("div", { class: "shapes" },
      el("div", { class: "deeds" },
        button("follow a point", "click it on the picture", () => place("point"), placing("point")),
        button("follow a region", "drag a box on the picture; its corners can be moved then", () => place("region"), placing("region")),
        button("follow a surface", "drag a box on the picture: a lattice that bends as what it lies on does; its corners can be moved then", () => place("surface"), placing("surface"))),
      el("div", { class: "deeds" }, button("find points", "places that can be followed well, in the box dragged with Shift or in the whole picture", () => this.#find()), this.#countField(), ...this.#tableParts()),
      el("div", { class: "tracklist" }, ...this.all.map((one) => this.#line(one))), this.track ? this.#chosenParts(this.track) : null, solvingNode(this.shot, this.all)))];
  }

  /**
   * What is at hand from now on; its row is selected where it was not.
   * @param {Partial<TrackState>} changes
   */
  #atHand(changes) {
    if (!this.mine) this.shot.select([this.stage.id]);
    this.shot.atTrack(changes);
  }

  /** @param {Track} one */
  #line(one) {
    const count = Object.keys(one.samples ?? {}).length;
    return el("button", {
      class: `shapeline${one === this.track ? " chosen" : ""}`, "aria-pressed": one === this.track, draggable: "true", title: "drop it on a row, which goes with it then, or on the name of one number",
      ondragstart: (event) => event.dataTransfer.setData(TRACK, String(one.id)), onclick: () => this.#atHand({ id: one.id }),
    }, el("span", {}, one.name), el("span", { class: "quiet" }, count ? `${count} frames` : `begins at ${one.begins}`));
  }

  #countField() {
    const take = (/** @type {string} */ text) => this.#atHand({ most: Math.min(MOST, Math.max(1, Math.round(Number(text)) || 12)) });
    return el("input", { class: "input num most", value: this.state.most, "aria-label": "how many points are looked for", onkeydown: apart, onchange: (event) => take(event.target.value) });
  }

  async #find() {
    const { shot, stage, state } = this;
    const found = await trying(() => get(`${shot.base}/tracks/find?${query({ stage: stage.id, frame: shot.view.frame, most: state.most, within: shot.measured?.join(",") })}`));
    if (!found) return;
    if (!found.length) return toast("nothing there can be followed well", true);
    const names = freeNames(shot, "point", found.length);
    await putTracks(shot, found.map((/** @type {Place} */ at, /** @type {number} */ index) => ({ ...freshTrack(shot, names[index]), stage: stage.id, at })));
  }

  /** Tracks as a table of text, out and in. */
  #tableParts() {
    const { shot } = this;
    /** @type {HTMLInputElement} */
    const file = el("input", { type: "file", accept: ".csv,text/csv", hidden: true, "aria-label": "a table of tracks", onchange: () => this.#readTable(file) });
    const any = (shot.state.setup.tracks ?? []).length > 0;
    return [
      button("read a table", "tracks from a file of comma separated text", () => file.click()), file,
      any && el("a", { class: "button", href: `${shot.base}/tracks/table`, download: "", title: "all tracks of this shot, as comma separated text" }, "as a table"),
    ];
  }

  /** @param {HTMLInputElement} field */
  async #readTable(field) {
    const { shot, stage } = this;
    const [chosen] = field.files ?? [];
    if (!chosen) return;
    const read = /** @type {Track[] | undefined} */ (await trying(async () => post(`${shot.base}/tracks/table`, { stage: stage.id, text: await chosen.text() })));
    field.value = "";
    if (!read) return;
    const taken = new Set((shot.state.setup.tracks ?? []).map((one) => one.name));
    await putTracks(shot, read.map((one) => ({ ...one, name: taken.has(one.name) ? `${one.name}, read` : one.name })));
    toast(`${read.length} tracks are read`);
  }

  /**
   * Each way begins where the tracks are at this frame.
   * @param {Track[]} which
   * @param {string} way
   */
  async #follow(which, way) {
    const { shot } = this;
    // One that is just being kept has its number only afterwards.
    await shot.kept;
    const kept = new Map((shot.state.setup.tracks ?? []).map((one) => [one.name, one]));
    const frame = Math.round(shot.here);
    const begun = which.map((one) => kept.get(one.name) ?? one).flatMap((one) => {
      if (frame === one.begins) return [one];
      const here = sampleAt(one, frame);
      if (!here) return [];
      return one.surface ? [one] : [{ ...one, at: here.at, begins: frame, ...(one.region ? { region: here.corners ?? one.region } : {}) }];
    });
    if (!begun.length) return toast("none of them is known at this frame; go to one where it is", true);
    const { without } = begun[0];
    await trying(() => post(`${shot.base}/tracks/follow`, { tracks: begun.filter((one) => one.without === without), way, frame }));
  }

  /** @param {Track} track */
  #chosenParts(track) {
    const { shot, all } = this;
    const change = (/** @type {Partial<Track>} */ values) => shot.edit({ do: "put_track", track: { ...track, ...values } });
    const ways = (/** @type {Track[]} */ which) => WAYS.map(([words, title, way]) => button(words, title, () => this.#follow(which, way)));
    const remove = (/** @type {Track} */ one) => ({ do: "remove_track", track: one.id });
    return el("div", { class: "shapeparts" }, nameField(track.name, (name) => change({ name })),
      el("div", { class: "deeds", role: "group", "aria-label": `follow ${track.name}` }, el("span", { class: "quiet" }, "follow"), ...ways([track])),
      all.length > 1 ? el("div", { class: "deeds", role: "group", "aria-label": "follow all" }, el("span", { class: "quiet" }, "all"), ...ways(all)) : null,
      likeness(track, shot.state.setup.picture.frames), track.surface ? surfaceNode(shot, track, track.surface) : null, this.#fields(track, change),
      el("div", { class: "deeds" },
        track.surface ? null : button("hold still", "a row below that takes the track's motion off, from this frame", () => steady(shot, track, false)),
        track.surface ? null : button("put back", "a row below that puts the track's motion on again", () => steady(shot, track, true)),
        button("remove", "what it drives keeps its values, as keys", () => shot.edit(remove(track))),
        all.length > 1 ? button("remove all", "all tracks in this picture", () => shot.edit({ do: "together", commands: all.map(remove) })) : null));
  }

  /**
   * @param {Track} track
   * @param {(values: Partial<Track>) => unknown} change
   */
  #fields(track, change) {
    const field = (/** @type {string} */ name, /** @type {number} */ value, /** @type {(value: number) => Partial<Track>} */ take) => pairField(name, track.name, short(value, 2), (number) => change(take(number)));
    const mattes = this.shot.state.braid.rows.filter((row) => row.gives === "field").map((row) => [row.id, row.name]);
    const motions = Object.entries(MOTIONS).filter(([id]) => id !== "perspective" || track.region);
    const sizes = track.region || track.surface ? [] : [field("pattern", track.pattern[0], (value) => ({ pattern: [value, value] })), field("search", track.search[0], (value) => ({ search: [value, value] }))];
    return el("div", { class: "shapefields" }, ...sizes,
      field("least likeness", track.least_likeness, (value) => ({ least_likeness: value })), field("smoothing", track.smooth ?? 0, (value) => ({ smooth: Math.max(0, value) })),
      track.surface ? null : pairChoice("what it does", track.name, track.motion ?? "shift", motions, (motion) => change({ motion })),
      track.region || track.surface ? pairChoice("without", track.name, track.without ?? "", [["", "nothing"], ...mattes], (id) => change({ without: id ? Number(id) : undefined })) : null,
      pairChoice("a drop takes", track.name, this.state.along, Object.entries(ALONG), (along) => this.#atHand({ along })));
  }
}

/**
 * A row that holds the picture still as the track moves, or one that lets it move again.
 * @param {Shot} shot
 * @param {Track} track
 * @param {boolean} back
 */
function steady(shot, track, back) {
  const frame = Math.round(shot.here);
  const id = Math.max(...shot.state.setup.stages.map((one) => one.id)) + 1;
  const here = sampleAt(track, frame);
  if (!here) return toast(`${track.name} is not known at this frame`, true);
  const set = (/** @type {string} */ control, /** @type {any} */ setting) => ({ do: "set", stage: id, control, setting });
  const since = (/** @type {string} */ axis, /** @type {object} */ more = {}) => ({ track: track.id, axis, since: frame, ...more });
  const carried = (/** @type {Place} */ at) => ({ axes: ["x", "y"].map((axis) => since(axis, { carries: at })) });
  const corners = here.corners ?? track.region ?? [];
  const names = ["top_left", "top_right", "bottom_right", "bottom_left"];
  const turns = track.motion && track.motion !== "shift";
  const settings = track.region
    ? names.flatMap((name, at) => [set(`from_${name}`, { axes: corners[at] }), set(name, carried(corners[at]))])
    : [set("pivot", { axes: here.at }), set("move_x", since("x")), set("move_y", since("y")), ...(turns ? [set("angle", since("turn")), set("scale_x", since("scale")), set("scale_y", since("scale"))] : [])];
  const after = shot.selected;
  const begun = [{ do: "add", kind: track.region ? "corner_pin" : "transform", after }, { do: "rename", stage: id, name: back ? `put back by ${track.name}` : `still by ${track.name}` }];
  return addRow(shot, { do: "together", commands: [...begun, ...settings, ...(back ? [] : [set("inverse", true)])] }, { after });
}

/**
 * How alike a track was in each frame; nothing where it was lost.
 * @param {Track} track
 * @param {Frames} frames
 */
function likeness(track, { first, last }) {
  const found = Object.entries(track.samples ?? {}).map(([frame, sample]) => [Number(frame), sample.likeness ?? 1]).sort((a, b) => a[0] - b[0]);
  if (found.length < 2) return null;
  const x = (/** @type {number} */ frame) => ((frame - first) / Math.max(1, last - first)) * WIDE;
  const y = (/** @type {number} */ value) => HIGH - Math.max(0, value) * (HIGH - 2);
  const d = found.map(([frame, value], at) => `${at && found[at - 1][0] === frame - 1 ? "L" : "M"}${x(frame).toFixed(1)} ${y(value).toFixed(1)}`).join("");
  return svg("svg", { class: "likeness", viewBox: `0 0 ${WIDE} ${HIGH}`, role: "img", "aria-label": `likeness from frame to frame, ${short(Math.min(...found.map((one) => one[1])), 2)} at least` },
    svg("path", { d: `M0 ${y(track.least_likeness)}H${WIDE}`, stroke: "var(--rule)" }), svg("path", { d, fill: "none", stroke: "var(--salt)" }));
}

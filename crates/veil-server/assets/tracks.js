// What is followed through the shot: points and regions, placed on the picture, dropped on what they are to drive.

import { get, post, query } from "./api.js";
import { el, feedsOf, feedValue, short, svg, toast, trying } from "./parts.js";

// What is dragged when a track's name is.
export const TRACK = "application/x-veil-track";
const NEAR = 11;
const MOTIONS = { shift: "moves", similarity: "moves, turns, grows", affine: "is sheared too", perspective: "as a plane in space" };
// What of a track a thing goes with when it is dropped there.
export const ALONG = { place: "its place", size: "place and size", turn: "place, size and turn", whole: "all of it" };
const WIDE = 250;
const HIGH = 28;

export const trackState = () => ({ row: null, id: null, placing: null, along: "whole", most: 12 });

// The tracks in the picture of a row.
const tracksOf = (shot, row) => (shot.state.setup.tracks ?? []).filter((track) => track.stage === row);

const chosenOf = (shot) => tracksOf(shot, shot.selected).find((track) => track.id === shot.tracking.id);

// Where a track is at a frame, as it was found; none where it was not.
const sampleAt = (track, frame) => track.samples?.[frame] ?? (frame === track.begins ? { at: track.at, likeness: 1, corners: track.region } : null);

const middle = (corners) => [0, 1].map((axis) => corners.reduce((sum, corner) => sum + corner[axis], 0) / 4);
const round = (at) => at.map((value) => Math.round(value * 100) / 100);

export function put(shot, track) {
  return shot.edit({ do: "put_track", track });
}

// What places and sizes go with, from this frame on, so that nothing jumps there.
function feedsFor(shot, track) {
  const { frame } = shot.view;
  const { along } = shot.tracking;
  const sized = along !== "place";
  const turned = along === "turn" || along === "whole";
  return {
    place: (at, offset = [0, 0]) => ["x", "y"].map((axis, index) => ({ track, axis, since: frame, carries: at, along, offset: offset[index] })),
    grown: (value) => (sized ? { track, axis: "scale", since: frame, times: value } : value),
    turned: (value) => (turned ? { track, axis: "turn", since: frame, offset: value } : value),
  };
}

// A setting that lets a control go with a track; none where it has nothing to go by.
export function attached(shot, control, track) {
  const feeds = feedsOf(control.setting);
  const values = feeds.map((feed) => feedValue(feed, shot.view.frame));
  if (values.some((value) => value === undefined)) return null;
  const to = feedsFor(shot, track);
  const kind = control.kind.type;
  if (kind === "point") return { axes: to.place(values) };
  if (kind === "size") return { axes: values.map(to.grown) };
  if (kind !== "number") return null;
  return control.kind.unit === "degrees" ? to.turned(values[0]) : to.grown(values[0]);
}

// A Transform goes as what it places is carried: its pivot stays where it is.
function transformed(shot, row, track) {
  const of = (id) => shot.controls(row).find((control) => control.id === id);
  const values = (id) => feedsOf(of(id).setting).map((feed) => feedValue(feed, shot.view.frame));
  const [[x], [y], pivot] = ["move_x", "move_y", "pivot"].map(values);
  if ([x, y, ...pivot].some((value) => value === undefined)) return [];
  const to = feedsFor(shot, track);
  const [right, down] = to.place([pivot[0] + x, pivot[1] + y], [-pivot[0], -pivot[1]]);
  const scales = ["scale_x", "scale_y"].map((id) => [id, to.grown(values(id)[0] ?? 1)]);
  return [["move_x", right], ["move_y", down], ...scales, ["angle", to.turned(values("angle")[0] ?? 0)]];
}

// The settings with which a row goes with a track.
function settingsFor(shot, row, track) {
  const stage = shot.stage(row);
  if (stage?.kind === "transform") return transformed(shot, row, track);
  const { along } = shot.tracking;
  const goes = (control) => {
    if (control.kind.type === "shapes") return control.setting.shapes.length > 0;
    if (control.kind.type === "point") return control.grip !== "none";
    const sized = ["radii", "sides", "softness", "reach", "length"].includes(control.grip);
    return (sized && along !== "place") || (control.grip === "turn" && (along === "turn" || along === "whole"));
  };
  return rowControls(shot, row).filter(({ id, control }) => shot.counts(id, control) && goes(control)).map(({ id, control }) => {
    if (control.kind.type !== "shapes") return [control.id, attached(shot, control, track), id];
    const carried = { track, since: shot.view.frame, along };
    return [control.id, { shapes: control.setting.shapes.map((shape) => (shape.carried ? shape : { ...shape, carried })) }, id];
  });
}

// The controls of a row; of a tool's row those that it shows.
function rowControls(shot, row) {
  const stage = shot.stage(row);
  const own = shot.controls(row).map((control) => ({ id: row, control: control.own && control.kind.type === "point" ? { ...control, grip: "point" } : control }));
  const shown = (stage?.tool?.faceplate ?? []).map((entry) => ({ id: entry.stage, control: shot.controls(entry.stage).find((one) => one.id === entry.control) }));
  return [...own, ...shown.filter(({ control }) => control)];
}

// A row goes with a track from this frame on.
export function attachTo(shot, row, track) {
  if (!track) return undefined;
  const commands = settingsFor(shot, row, track).filter(([, setting]) => setting).map(([control, setting, id]) => ({ do: "set", stage: id ?? row, control, setting }));
  if (!commands.length) return toast(`${shot.row(row)?.name} has nothing that could go with a track`, true);
  return shot.edit({ do: "together", commands });
}

// `remark` draws all marks anew.
export function tracks(shot, overlay, place, carry, remark) {
  const state = () => {
    if (shot.tracking.row !== shot.selected) Object.assign(shot.tracking, { placing: null, row: shot.selected, id: tracksOf(shot, shot.selected)[0]?.id ?? null });
    return shot.tracking;
  };
  // The chosen track while it is dragged, and a region while it is drawn.
  let dragged = null;
  let boxed = null;
  const chosen = () => (state(), dragged ?? chosenOf(shot));
  const seen = (at) => {
    const [x, y] = carry.toShown(at) ?? at;
    return [place.x + x * place.zoom, place.y + y * place.zoom];
  };
  const cross = ([x, y], attributes) => svg("path", { d: `M${x - 7} ${y}h14M${x} ${y - 7}v14`, stroke: "#ece8de", "stroke-width": 1.4, ...attributes });
  const quad = (corners, attributes) => svg("path", { d: `${corners.map(seen).map(([x, y], at) => `${at ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("")}z`, fill: "none", stroke: "#ece8de", "stroke-width": 1.2, ...attributes });

  function draw() {
    if (!shot.selected) return;
    const track = chosen();
    for (const other of tracksOf(shot, shot.selected).filter((one) => one.id !== track?.id)) {
      const here = sampleAt(other, shot.view.frame);
      if (here) overlay.append(cross(seen(here.at), { "stroke-opacity": 0.5, "data-track-of": other.id }));
    }
    if (boxed) overlay.append(quad(boxed, { "stroke-dasharray": "3 3" }));
    if (!track) return;
    const found = Object.entries(track.samples ?? {}).map(([frame, sample]) => [Number(frame), sample]).sort((a, b) => a[0] - b[0]);
    const path = found.map(([, { at }], index) => { const [x, y] = seen(at); return `${index ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`; }).join("");
    const here = sampleAt(track, shot.view.frame);
    const at = here?.at ?? track.at;
    const corner = ([x, y], name) => { const [cx, cy] = seen([x, y]); return svg("circle", { cx, cy, r: 3.5, fill: "#1f2120", stroke: "#ece8de", "data-track": name }); };
    overlay.append(svg("path", { d: path, class: "trackpath", fill: "none", stroke: "#ece8de", "stroke-opacity": 0.6 }));
    if (track.region) {
      const corners = here?.corners ?? track.region;
      overlay.append(quad(corners, { "stroke-dasharray": here ? null : "3 3", "data-track": "region" }), ...corners.map((one, index) => corner(one, `corner${index}`)), cross(seen(at), { "data-track": "point" }));
      return;
    }
    const box = (half, dash) => {
      const [x, y] = seen([at[0] - half[0], at[1] - half[1]]);
      return svg("rect", { x, y, width: 2 * half[0] * place.zoom, height: 2 * half[1] * place.zoom, fill: "none", stroke: "#ece8de", "stroke-width": 1.2, "stroke-dasharray": dash ?? (here ? null : "3 3") });
    };
    const reach = [0, 1].map((axis) => track.pattern[axis] + track.search[axis]);
    const off = (half) => [at[0] + half[0], at[1] + half[1]];
    overlay.append(box(track.pattern), box(reach, "2 4"), cross(seen(at), { "data-track": "point" }), corner(off(track.pattern), "pattern"), corner(off(reach), "search"));
  }

  // Follows the pointer; `done` hears whether it went far.
  function follow(event, moved, done) {
    let far = false;
    const move = (next) => {
      far ||= Math.hypot(next.clientX - event.clientX, next.clientY - event.clientY) > 2;
      if (far) moved(next);
    };
    const up = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      done(far);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
  }

  // A press on the picture; true where it was for a track.
  function down(event, toPicture) {
    const own = (one) => { const { x, y } = toPicture(one); return carry.toOwn([x, y]); };
    if (state().placing === "point") {
      state().placing = null;
      begin(own(event));
      return true;
    }
    if (state().placing === "region") {
      const from = own(event);
      follow(event, (next) => {
        const to = own(next);
        boxed = [from, [to[0], from[1]], to, [from[0], to[1]]];
        remark();
      }, (far) => {
        if (far && boxed) beginRegion(boxed);
        boxed = null;
        state().placing = null;
        shot.tell("view");
      });
      return true;
    }
    const track = chosen();
    if (!track || event.button) return false;
    const box = overlay.getBoundingClientRect();
    const near = (at) => Math.hypot(seen(at)[0] - event.clientX + box.left, seen(at)[1] - event.clientY + box.top) < NEAR;
    const change = grabbed(track, near, own);
    if (!change) return false;
    follow(event, (next) => { dragged = change(next); remark(); }, async () => {
      if (dragged) await put(shot, dragged);
      dragged = null;
      shot.tell("view");
    });
    return true;
  }

  // What a drag on a mark of a track changes. What was found already is mended at this frame alone.
  function grabbed(track, near, own) {
    const { frame } = shot.view;
    const here = sampleAt(track, frame) ?? { at: track.at, corners: track.region };
    const { at } = here;
    const known = track.samples?.[frame] && Object.keys(track.samples).length > 1;
    const moved = (sample) => (known
      ? { ...track, samples: { ...track.samples, [frame]: { ...here, ...sample, likeness: 1 } }, ...(frame === track.begins ? { at: sample.at, ...(sample.corners ? { region: sample.corners } : {}) } : {}) }
      : { ...track, at: sample.at, ...(sample.corners ? { region: sample.corners } : {}), begins: frame, samples: {} });
    if (track.region) {
      const corners = here.corners ?? track.region;
      const which = corners.findIndex(near);
      if (which >= 0) return (one) => { const next = corners.map((corner, index) => (index === which ? round(own(one)) : corner)); return moved({ at: middle(next), corners: next }); };
      if (!near(at)) return null;
      return (one) => { const to = own(one); const next = corners.map(([x, y]) => round([x + to[0] - at[0], y + to[1] - at[1]])); return moved({ at: middle(next), corners: next }); };
    }
    const offset = (half) => [at[0] + half[0], at[1] + half[1]];
    const reach = [0, 1].map((axis) => track.pattern[axis] + track.search[axis]);
    const size = (one) => [0, 1].map((axis) => Math.min(500, Math.max(2, Math.round(Math.abs(own(one)[axis] - at[axis])))));
    if (near(at)) return (one) => moved({ at: round(own(one)) });
    if (near(offset(track.pattern))) return (one) => ({ ...track, pattern: size(one) });
    return near(offset(reach)) ? (one) => ({ ...track, search: size(one).map((value, axis) => Math.max(1, value - track.pattern[axis])) }) : null;
  }

  async function begin(at) {
    const [name] = freeNames(shot, "track", 1);
    await putNew([{ ...fresh(shot, name), at: round(at) }]);
  }

  async function beginRegion(corners) {
    const [name] = freeNames(shot, "region", 1);
    const region = corners.map(round);
    await putNew([{ ...fresh(shot, name), at: middle(region), region, motion: "perspective", least_likeness: 0.5 }]);
  }

  async function putNew(tracks) {
    await putAll(shot, tracks);
    shot.tell("view");
  }

  return { draw, down };
}

const fresh = (shot, name) => ({ id: 0, name, stage: shot.selected, begins: shot.view.frame, at: [0, 0], pattern: [15, 15], search: [15, 15], least_likeness: 0.7, samples: {} });

function freeNames(shot, word, count) {
  const taken = new Set((shot.state.setup.tracks ?? []).map((track) => track.name));
  const names = [];
  for (let number = 1; names.length < count; number++) if (!taken.has(`${word} ${number}`)) names.push(`${word} ${number}`);
  return names;
}

// Puts new tracks in as one step; the last of them is chosen.
async function putAll(shot, tracks) {
  if (!tracks.length) return;
  const made = await shot.edit({ do: "together", commands: tracks.map((track) => ({ do: "put_track", track })) });
  const { name } = tracks[tracks.length - 1];
  shot.tracking.id = made?.setup.tracks.find((track) => track.name === name)?.id ?? null;
}

// The tracks of a row on the bench.
export function tracksNode(shot, stage) {
  const all = tracksOf(shot, stage.id);
  const state = shot.tracking;
  const track = all.find((one) => one.id === state.id) ?? all[0];
  const button = (words, title, onclick, pressed) => el("button", { class: "button veil", title, onclick, ...(pressed === undefined ? {} : { "aria-pressed": pressed }) }, words);
  const place = (what) => {
    Object.assign(state, { row: stage.id, placing: state.placing === what ? null : what });
    shot.tell("view");
  };
  const placing = (what) => state.placing === what && state.row === stage.id;
  const line = (one) => el("button", {
    class: `shapeline${one === track ? " chosen" : ""}`, "aria-pressed": one === track, draggable: "true", title: "drop it on a row, which goes with it then, or on the name of one number",
    ondragstart: (event) => event.dataTransfer.setData(TRACK, String(one.id)), onclick: () => { Object.assign(state, { row: stage.id, id: one.id }); shot.tell("view"); },
  }, el("span", {}, one.name), el("span", { class: "quiet" }, Object.keys(one.samples ?? {}).length ? `${Object.keys(one.samples).length} frames` : `begins at ${one.begins}`));
  return [el("div", { class: "group" }, "tracks in this picture"), el("div", { class: "ctl whole" }, el("div", { class: "shapes" },
    el("div", { class: "deeds" }, button("follow a point", "click it on the picture", () => place("point"), placing("point")), button("follow a region", "drag a box on the picture; its corners can be moved then", () => place("region"), placing("region"))),
    el("div", { class: "deeds" }, button("find points", "places that can be followed well, in the box dragged with Shift or in the whole picture", find), countField(), ...tableParts()),
    el("div", { class: "tracklist" }, ...all.map(line)), track ? chosenParts() : null))];

  function countField() {
    return el("input", { class: "veil-field num most", value: state.most, "aria-label": "how many points are looked for", onkeydown: (event) => event.stopPropagation(), onchange: (event) => { state.most = Math.min(60, Math.max(1, Math.round(Number(event.target.value)) || 12)); event.target.value = state.most; } });
  }

  async function find() {
    const found = await trying(() => get(`${shot.base}/tracks/find?${query({ stage: stage.id, frame: shot.view.frame, most: state.most, ...(shot.measured ? { within: shot.measured } : {}) })}`));
    if (!found) return;
    if (!found.length) return toast("nothing there can be followed well", true);
    const names = freeNames(shot, "point", found.length);
    await putAll(shot, found.map((at, index) => ({ ...fresh(shot, names[index]), stage: stage.id, at })));
    shot.tell("view");
  }

  // Tracks as a table of text, out and in.
  function tableParts() {
    const file = el("input", { type: "file", accept: ".csv,text/csv", hidden: true, "aria-label": "a table of tracks", onchange: async () => {
      const [chosen] = file.files;
      if (!chosen) return;
      const read = await trying(async () => post(`${shot.base}/tracks/table`, { stage: stage.id, text: await chosen.text() }));
      file.value = "";
      if (!read) return;
      const taken = new Set((shot.state.setup.tracks ?? []).map((one) => one.name));
      await putAll(shot, read.map((one) => ({ ...one, name: taken.has(one.name) ? `${one.name}, read` : one.name })));
      toast(`${read.length} tracks are read`);
    } });
    const any = (shot.state.setup.tracks ?? []).length;
    return [button("read a table", "tracks from a file of comma separated text", () => file.click()), file, any ? el("a", { class: "button veil", href: `${shot.base}/tracks/table`, download: "", title: "all tracks of this shot, as comma separated text" }, "as a table") : null];
  }

  // Each way begins where the tracks are at this frame.
  async function follow(which, way) {
    // One that is just being kept has its number only afterwards.
    await shot.last;
    const kept = new Map((shot.state.setup.tracks ?? []).map((one) => [one.name, one]));
    const { frame } = shot.view;
    const begun = which.map((one) => kept.get(one.name) ?? one).flatMap((one) => {
      const here = sampleAt(one, frame);
      if (!here) return frame === one.begins ? [one] : [];
      return [frame === one.begins ? one : { ...one, at: here.at, begins: frame, ...(one.region ? { region: here.corners ?? one.region } : {}) }];
    });
    if (!begun.length) return toast("none of them is known at this frame; go to one where it is", true);
    const { without } = begun[0];
    return trying(() => post(`${shot.base}/tracks/follow`, { tracks: begun.filter((one) => one.without === without), way }));
  }

  // A row that holds the picture still as the track moves, or one that lets it move again.
  function steady(back) {
    const { frame } = shot.view;
    const id = Math.max(...shot.state.setup.stages.map((one) => one.id)) + 1;
    const here = sampleAt(track, frame);
    if (!here) return toast(`${track.name} is not known at this frame`, true);
    const kind = track.region ? "corner_pin" : "transform";
    const set = (control, setting) => ({ do: "set", stage: id, control, setting });
    const pair = (at, axes) => ({ axes: axes ?? at });
    const carried = (at) => ["x", "y"].map((axis) => ({ track: track.id, axis, since: frame, carries: at }));
    const corners = here.corners ?? track.region;
    const names = ["top_left", "top_right", "bottom_right", "bottom_left"];
    const since = (axis, more) => ({ track: track.id, axis, since: frame, ...more });
    const settings = track.region
      ? names.flatMap((name, at) => [set(`from_${name}`, pair(corners[at])), set(name, pair(null, carried(corners[at])))])
      : [set("pivot", pair(here.at)), set("move_x", since("x")), set("move_y", since("y")), ...(track.motion && track.motion !== "shift" ? [set("angle", since("turn")), set("scale_x", since("scale")), set("scale_y", since("scale"))] : [])];
    const after = shot.selected;
    return shot.add({ do: "together", commands: [{ do: "add", kind, after }, { do: "rename", stage: id, name: back ? `put back by ${track.name}` : `still by ${track.name}` }, ...settings, ...(back ? [] : [set("inverse", true)])] }, after);
  }

  function chosenParts() {
    const change = (values) => put(shot, { ...track, ...values });
    const field = (name, value, take) => el("label", { class: "shapefield" }, el("span", { class: "quiet" }, name), el("input", {
      class: "veil-field num", value: short(value, 2), "aria-label": `${name} of ${track.name}`, onkeydown: (event) => event.stopPropagation(),
      onchange: (event) => { const number = Number(event.target.value); if (Number.isFinite(number)) change(take(number)); },
    }));
    const pick = (name, value, entries, take) => el("label", { class: "shapefield" }, el("span", { class: "quiet" }, name), el("span", { class: "select veil" }, el("select", { "aria-label": `${name} of ${track.name}`, onchange: (event) => take(event.target.value) },
      ...entries.map(([id, words]) => el("option", { value: id, selected: String(id) === String(value ?? "") }, words)))));
    const mattes = shot.state.braid.rows.filter((row) => row.gives === "field").map((row) => [row.id, row.name]);
    const motions = Object.entries(MOTIONS).filter(([id]) => id !== "perspective" || track.region);
    const ways = (which) => [["« back", "to the first frame", "back"], ["‹ one", "one frame back", "one_back"], ["one ›", "one frame on", "one_on"], ["on »", "to the last frame", "on"]].map(([words, title, way]) => button(words, title, () => follow(which, way)));
    const sizes = track.region ? [] : [field("pattern", track.pattern[0], (value) => ({ pattern: [value, value] })), field("search", track.search[0], (value) => ({ search: [value, value] }))];
    return el("div", { class: "shapeparts" },
      el("input", { class: "veil-field", value: track.name, "aria-label": `name of ${track.name}`, onkeydown: (event) => event.stopPropagation(), onchange: (event) => event.target.value.trim() && change({ name: event.target.value.trim() }) }),
      el("div", { class: "deeds", role: "group", "aria-label": `follow ${track.name}` }, el("span", { class: "quiet" }, "follow"), ...ways([track])),
      all.length > 1 ? el("div", { class: "deeds", role: "group", "aria-label": "follow all" }, el("span", { class: "quiet" }, "all"), ...ways(all)) : null,
      likeness(),
      el("div", { class: "shapefields" }, ...sizes,
        field("least likeness", track.least_likeness, (value) => ({ least_likeness: value })), field("smoothing", track.smooth ?? 0, (value) => ({ smooth: Math.max(0, value) })),
        pick("what it does", track.motion ?? "shift", motions, (motion) => change({ motion })),
        track.region ? pick("without", track.without, [["", "nothing"], ...mattes], (id) => change({ without: id ? Number(id) : undefined })) : null,
        pick("a drop takes", state.along, Object.entries(ALONG), (along) => { state.along = along; })),
      el("div", { class: "deeds" }, button("hold still", "a row below that takes the track's motion off, from this frame", () => steady(false)), button("put back", "a row below that puts the track's motion on again", () => steady(true)),
        button("remove", "what it drives keeps its values, as keys", () => shot.edit({ do: "remove_track", track: track.id })),
        all.length > 1 ? button("remove all", "all tracks in this picture", () => shot.edit({ do: "together", commands: all.map((one) => ({ do: "remove_track", track: one.id })) })) : null));
  }

  // How alike it was in each frame; nothing where it was lost.
  function likeness() {
    const { first, last } = shot.state.setup.picture.frames;
    const found = Object.entries(track.samples ?? {}).map(([frame, sample]) => [Number(frame), sample.likeness ?? 1]).sort((a, b) => a[0] - b[0]);
    if (found.length < 2) return null;
    const x = (frame) => ((frame - first) / Math.max(1, last - first)) * WIDE;
    const y = (value) => HIGH - Math.max(0, value) * (HIGH - 2);
    const d = found.map(([frame, value], at) => `${at && found[at - 1][0] === frame - 1 ? "L" : "M"}${x(frame).toFixed(1)} ${y(value).toFixed(1)}`).join("");
    return svg("svg", { class: "likeness", viewBox: `0 0 ${WIDE} ${HIGH}`, role: "img", "aria-label": `likeness from frame to frame, ${short(Math.min(...found.map((one) => one[1])), 2)} at least` },
      svg("path", { d: `M0 ${y(track.least_likeness)}H${WIDE}`, stroke: "var(--rule)" }), svg("path", { d, fill: "none", stroke: "var(--salt)" }));
  }
}

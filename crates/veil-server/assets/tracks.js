// Points followed through the shot: placed on the picture, found frame by frame, dropped on what they are to drive.

import { post } from "./api.js";
import { el, feedsOf, feedValue, short, svg, toast, trying } from "./parts.js";

// What is dragged when a track's name is.
export const TRACK = "application/x-veil-track";
const NEAR = 11;
const MOTIONS = { shift: "moves", similarity: "moves, turns, grows", affine: "is sheared too" };
const WIDE = 250;
const HIGH = 28;

export const trackState = () => ({ row: null, id: null, placing: false });

// The tracks in the picture of a row.
const tracksOf = (shot, row) => (shot.state.setup.tracks ?? []).filter((track) => track.stage === row);

const chosenOf = (shot) => tracksOf(shot, shot.selected).find((track) => track.id === shot.tracking.id);

// Where a track is at a frame, as it was found; none where it was not.
const sampleAt = (track, frame) => track.samples?.[frame] ?? (frame === track.begins ? { at: track.at, likeness: 1 } : null);

export function put(shot, track) {
  return shot.edit({ do: "put_track", track });
}

// Feeds that let a control go with a track, so that nothing jumps at this frame; none where it has nothing to go by.
export function attached(shot, control, track) {
  const frame = shot.view.frame;
  const feeds = feedsOf(control.setting);
  const values = feeds.map((feed) => feedValue(feed, frame));
  if (values.some((value) => value === undefined)) return null;
  const moved = (axis, value) => ({ track, axis, since: frame, offset: value });
  const grown = (value) => ({ track, axis: "scale", since: frame, times: value });
  const kind = control.kind.type;
  if (kind === "point") return { axes: [moved("x", values[0]), moved("y", values[1])] };
  if (kind === "size") return { axes: values.map(grown) };
  if (kind !== "number") return null;
  return control.kind.unit === "degrees" ? moved("turn", values[0]) : grown(values[0]);
}

// Every point of a row goes with a track from this frame on.
export function attachTo(shot, row, track) {
  if (!track) return undefined;
  const points = shot.controls(row).filter((control) => control.kind.type === "point" && shot.counts(row, control));
  const commands = points.map((control) => ({ do: "set", stage: row, control: control.id, setting: attached(shot, control, track) })).filter((command) => command.setting);
  if (!commands.length) return toast(`${shot.row(row)?.name} has no point that could go with a track`, true);
  return shot.edit({ do: "together", commands });
}

export function tracks(shot, overlay, place, carry) {
  const state = () => {
    if (shot.tracking.row !== shot.selected) Object.assign(shot.tracking, trackState(), { row: shot.selected, id: tracksOf(shot, shot.selected)[0]?.id ?? null });
    return shot.tracking;
  };
  // The chosen track while it is dragged.
  let dragged = null;
  const chosen = () => (state(), dragged ?? chosenOf(shot));
  const seen = (at) => {
    const [x, y] = carry.toShown(at) ?? at;
    return [place.x + x * place.zoom, place.y + y * place.zoom];
  };

  function draw() {
    const track = chosen();
    if (!track) return;
    const found = Object.entries(track.samples ?? {}).map(([frame, sample]) => [Number(frame), sample]).sort((a, b) => a[0] - b[0]);
    const path = found.map(([, { at }], index) => { const [x, y] = seen(at); return `${index ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`; }).join("");
    const here = sampleAt(track, shot.view.frame);
    const at = here?.at ?? track.at;
    const box = (half, dash) => {
      const [x, y] = seen([at[0] - half[0], at[1] - half[1]]);
      return svg("rect", { x, y, width: 2 * half[0] * place.zoom, height: 2 * half[1] * place.zoom, fill: "none", stroke: "#ece8de", "stroke-width": 1.2, "stroke-dasharray": dash ?? (here ? null : "3 3") });
    };
    const [x, y] = seen(at);
    const reach = [0, 1].map((axis) => track.pattern[axis] + track.search[axis]);
    const corner = (half, name) => { const [cx, cy] = seen([at[0] + half[0], at[1] + half[1]]); return svg("circle", { cx, cy, r: 3.5, fill: "#1f2120", stroke: "#ece8de", "data-track": name }); };
    overlay.append(svg("path", { d: path, class: "trackpath", fill: "none", stroke: "#ece8de", "stroke-opacity": 0.6 }), box(track.pattern), box(reach, "2 4"),
      svg("path", { d: `M${x - 7} ${y}h14M${x} ${y - 7}v14`, stroke: "#ece8de", "stroke-width": 1.4, "data-track": "point" }), corner(track.pattern, "pattern"), corner(reach, "search"));
  }

  // A press on the picture; true where it was for a track.
  function down(event, toPicture) {
    const own = (one) => { const { x, y } = toPicture(one); return carry.toOwn([x, y]); };
    if (state().placing) {
      state().placing = false;
      begin(own(event));
      return true;
    }
    const track = chosen();
    if (!track || event.button) return false;
    const box = overlay.getBoundingClientRect();
    const near = (at) => Math.hypot(seen(at)[0] - event.clientX + box.left, seen(at)[1] - event.clientY + box.top) < NEAR;
    const at = sampleAt(track, shot.view.frame)?.at ?? track.at;
    const offset = (half) => [at[0] + half[0], at[1] + half[1]];
    const reach = [0, 1].map((axis) => track.pattern[axis] + track.search[axis]);
    const size = (one) => [0, 1].map((axis) => Math.min(500, Math.max(2, Math.round(Math.abs(own(one)[axis] - at[axis])))));
    const change = near(at) ? (one) => ({ ...track, at: own(one), begins: shot.view.frame, samples: {} })
      : near(offset(track.pattern)) ? (one) => ({ ...track, pattern: size(one) })
        : near(offset(reach)) ? (one) => ({ ...track, search: size(one).map((value, axis) => Math.max(1, value - track.pattern[axis])) }) : null;
    if (!change) return false;
    const move = (next) => { dragged = change(next); shot.tell("view"); };
    const up = async () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      if (dragged) await put(shot, dragged);
      dragged = null;
      shot.tell("view");
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
    return true;
  }

  async function begin(at) {
    const names = new Set((shot.state.setup.tracks ?? []).map((track) => track.name));
    let number = names.size + 1;
    while (names.has(`track ${number}`)) number++;
    const name = `track ${number}`;
    const round = at.map((value) => Math.round(value * 100) / 100);
    const made = await put(shot, { id: 0, name, stage: shot.selected, begins: shot.view.frame, at: round, pattern: [15, 15], search: [15, 15], least_likeness: 0.7, samples: {} });
    state().id = made?.setup.tracks.find((track) => track.name === name)?.id ?? null;
    shot.tell("view");
  }

  return { draw, down };
}

// The tracks of a row on the bench.
export function tracksNode(shot, stage) {
  const all = tracksOf(shot, stage.id);
  const state = shot.tracking;
  const track = all.find((one) => one.id === state.id) ?? all[0];
  const button = (words, title, onclick, pressed) => el("button", { class: "button veil", title, onclick, ...(pressed === undefined ? {} : { "aria-pressed": pressed }) }, words);
  const place = () => {
    Object.assign(state, { row: stage.id, placing: !state.placing });
    shot.tell("view");
  };
  const line = (one) => el("button", {
    class: `shapeline${one === track ? " chosen" : ""}`, "aria-pressed": one === track, draggable: "true", title: "drop it on a row, whose points go with it then, or on the name of one number",
    ondragstart: (event) => event.dataTransfer.setData(TRACK, String(one.id)), onclick: () => { Object.assign(state, { row: stage.id, id: one.id }); shot.tell("view"); },
  }, el("span", {}, one.name), el("span", { class: "quiet" }, Object.keys(one.samples ?? {}).length ? `${Object.keys(one.samples).length} frames` : `begins at ${one.begins}`));
  return [el("div", { class: "group" }, "tracks in this picture"), el("div", { class: "ctl whole" }, el("div", { class: "shapes" },
    el("div", { class: "deeds" }, button("follow a point", "click it on the picture", place, state.placing && state.row === stage.id)), ...all.map(line), track ? chosenParts() : null))];

  function chosenParts() {
    const change = (values) => put(shot, { ...track, ...values });
    // Each way begins where the point is at this frame.
    const follow = (way) => {
      const here = sampleAt(track, shot.view.frame);
      const begun = here && shot.view.frame !== track.begins ? { ...track, at: here.at, begins: shot.view.frame } : track;
      return trying(() => post(`${shot.base}/tracks/follow`, { track: begun, way }));
    };
    const field = (name, value, take) => el("label", { class: "shapefield" }, el("span", { class: "quiet" }, name), el("input", {
      class: "veil-field num", value: short(value, 2), "aria-label": `${name} of ${track.name}`, onkeydown: (event) => event.stopPropagation(),
      onchange: (event) => { const number = Number(event.target.value); if (Number.isFinite(number)) change(take(number)); },
    }));
    return el("div", { class: "shapeparts" },
      el("input", { class: "veil-field", value: track.name, "aria-label": `name of ${track.name}`, onkeydown: (event) => event.stopPropagation(), onchange: (event) => event.target.value.trim() && change({ name: event.target.value.trim() }) }),
      el("div", { class: "deeds" }, button("« follow back", "to the first frame", () => follow("back")), button("‹ one", "one frame back", () => follow("one_back")), button("one ›", "one frame on", () => follow("one_on")), button("follow on »", "to the last frame", () => follow("on"))),
      likeness(),
      el("div", { class: "shapefields" },
        field("pattern", track.pattern[0], (value) => ({ pattern: [value, value] })), field("search", track.search[0], (value) => ({ search: [value, value] })),
        field("least likeness", track.least_likeness, (value) => ({ least_likeness: value })), field("smoothing", track.smooth ?? 0, (value) => ({ smooth: Math.max(0, value) })),
        el("label", { class: "shapefield" }, el("span", { class: "quiet" }, "what it does"), el("span", { class: "select veil" }, el("select", { "aria-label": `motion of ${track.name}`, onchange: (event) => change({ motion: event.target.value }) },
          ...Object.entries(MOTIONS).map(([id, words]) => el("option", { value: id, selected: id === (track.motion ?? "shift") }, words)))))),
      el("div", { class: "deeds" }, button("remove", "what it drives keeps its values, as keys", () => shot.edit({ do: "remove_track", track: track.id }))));
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

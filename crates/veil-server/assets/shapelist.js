// The outlines of a row as the bench lists them, with what each is like.

import { shapeAt } from "./drawn.js";
import { outlineState } from "./outlines.js";
import { el, toast } from "./parts.js";
import { ALONG } from "./tracks.js";

const JOINS = { add: "add", cut: "cut", intersect: "intersect", soften: "soften" };
const SIDES = { both: "both", inward: "inward", outward: "outward" };
const WAYS = { smooth: "smooth", straight: "straight", step: "step" };
// What a brush begins with.
const BRUSH = { width: 40, softness: 30, joins: "add", softens: 8 };

export function shapesNode(shot, id, control) {
  const shapes = control.setting.shapes;
  const state = shot.outline;
  const set = (next) => shot.edit({ do: "set", stage: id, control: control.id, setting: { shapes: next } });
  const chosen = state.row === id ? Math.min(state.shape, shapes.length - 1) : 0;
  const change = (values) => set(shapes.map((shape, index) => (index === chosen ? { ...shape, ...values } : shape)));
  const button = (words, title, onclick, pressed) => el("button", { class: "button veil", title, onclick, ...(pressed === undefined ? {} : { "aria-pressed": pressed }) }, words);
  const begin = (closed) => {
    Object.assign(state, outlineState(), { row: id, shape: shapes.length, drawing: { closed, points: [] } });
    shot.tell("view");
    toast(closed ? "click to place points, drag to bend; the first point closes, Escape leaves it" : "click to place points, drag to bend; Enter ends the line, Escape leaves it");
    document.getElementById("well").focus();
  };
  const brush = () => {
    const at = state.brush && state.row === id ? null : { ...BRUSH };
    Object.assign(state, outlineState(), { row: id, shape: chosen, brush: at });
    shot.tell("view");
    document.getElementById("well").focus();
  };
  // What the next strokes are like.
  function brushParts() {
    const change = (values) => { Object.assign(state.brush, values); shot.tell("view"); };
    const field = (name, key) => el("label", { class: "shapefield" }, el("span", { class: "quiet" }, name), el("input", {
      class: "veil-field num", value: state.brush[key], "aria-label": `${name} of the brush`, onkeydown: (event) => event.stopPropagation(),
      onchange: (event) => Number.isFinite(Number(event.target.value)) && change({ [key]: Math.max(0, Number(event.target.value)) }),
    }));
    return el("div", { class: "shapefields" },
      el("label", { class: "shapefield" }, el("span", { class: "quiet" }, "strokes"), el("span", { class: "select veil" }, el("select", { "aria-label": "what strokes of the brush do", onchange: (event) => change({ joins: event.target.value }) },
        ...Object.entries({ add: "add", cut: "take away", soften: "soften" }).map(([one, words]) => el("option", { value: one, selected: one === state.brush.joins }, words))))),
      field("width", "width"), field("softness", "softness"), state.brush.joins === "soften" ? field("blur", "softens") : null);
  }
  const line = (shape, index) => el("button", {
    class: `shapeline${index === chosen ? " chosen" : ""}`, "aria-pressed": index === chosen,
    onclick: () => { Object.assign(state, outlineState(), { row: id, shape: index }); shot.tell("view"); },
  }, el("span", {}, shape.name), el("span", { class: "quiet" }, [shape.joins && shape.joins !== "add" ? shape.joins : "", shape.carried ? `with ${trackName(shape.carried.track)}` : "", shape.counts === false ? "off" : "", shape.locked ? "locked" : "", shape.hidden ? "hidden" : "", shape.keys.length > 1 ? `${shape.keys.length} keys` : ""].filter(Boolean).join(" · ")));
  return el("div", { class: "shapes" },
    el("div", { class: "deeds" }, button("draw an outline", "closed", () => begin(true), Boolean(state.drawing?.closed)), button("draw a line", "open, with a width", () => begin(false), Boolean(state.drawing && !state.drawing.closed && !state.brush)), button("brush", "strokes along the way of the pointer, until Escape", brush, Boolean(state.brush))), state.brush && state.row === id ? brushParts() : null,
    ...shapes.map(line), shapes.length ? chosenParts() : null);

  function trackName(track) {
    return shot.state.setup.tracks?.find((one) => one.id === track)?.name ?? "a track";
  }

  function chosenParts() {
    const shape = shapes[chosen];
    const field = (name, value, take) => el("label", { class: "shapefield" }, el("span", { class: "quiet" }, name), el("input", {
      class: "veil-field num", value, "aria-label": `${name} of ${shape.name}`, onkeydown: (event) => event.stopPropagation(),
      onchange: (event) => { const number = Number(event.target.value); if (Number.isFinite(number)) change(take(number)); },
    }));
    const pick = (name, value, entries, take) => el("label", { class: "shapefield" }, el("span", { class: "quiet" }, name), el("span", { class: "select veil" }, el("select", { "aria-label": `${name} of ${shape.name}`, onchange: (event) => change(take(event.target.value)) },
      ...Object.entries(entries).map(([one, words]) => el("option", { value: one, selected: one === value }, words)))));
    // From this frame on it goes with a track; without one it stays where it is, by keys.
    function goesWith() {
      const tracks = shot.state.setup.tracks ?? [];
      if (!tracks.length && !shape.carried) return [];
      const choose = (value) => (value ? change({ carried: { track: Number(value), since: shot.view.frame, along: shape.carried?.along ?? "whole" } }) : shot.edit({ do: "free_shape", stage: id, control: control.id, shape: chosen }));
      const select = (name, value, entries, take) => el("label", { class: "shapefield" }, el("span", { class: "quiet" }, name), el("span", { class: "select veil" }, el("select", { "aria-label": `${name} of ${shape.name}`, onchange: (event) => take(event.target.value) }, ...entries.map(([one, words]) => el("option", { value: one, selected: String(one) === String(value) }, words)))));
      return [select("goes with", shape.carried?.track ?? "", [["", "nothing"], ...tracks.map((track) => [track.id, track.name])], choose), shape.carried ? select("by", shape.carried.along ?? "whole", Object.entries(ALONG), (along) => change({ carried: { ...shape.carried, along } })) : null];
    }
    const frame = shot.view.frame;
    const keyed = shape.keys.some((key) => key.frame === frame);
    const keys = keyed && shape.keys.length > 1
      ? button("remove the key here", "the outline goes on by the keys that are left", () => change({ keys: shape.keys.filter((key) => key.frame !== frame) }))
      : button("key here", "a key with the outline as it is", () => change({ keys: [...shape.keys.filter((key) => key.frame !== frame), { frame, points: shapeAt(shape, frame) }].sort((a, b) => a.frame - b.frame) }));
    const moved = (by) => {
      const next = [...shapes];
      const [taken] = next.splice(chosen, 1);
      next.splice(Math.max(0, chosen + by), 0, taken);
      state.shape = Math.min(Math.max(0, chosen + by), shapes.length - 1);
      set(next);
    };
    const points = state.row === id ? [...state.points] : [];
    const softOf = points.length ? shapeAt(shape, frame)[points[0]]?.soft ?? 0 : 0;
    const soften = (number) => shot.edit({ do: "put_shape", stage: id, control: control.id, shape: chosen, frame, keys: shot.view.autoKey ? "key" : "moves_all", points: shapeAt(shape, frame).map((point, index) => (points.includes(index) ? { ...point, soft: Math.max(0, number) } : point)) });
    return el("div", { class: "shapeparts" },
      el("input", { class: "veil-field", value: shape.name, "aria-label": `name of ${shape.name}`, onkeydown: (event) => event.stopPropagation(), onchange: (event) => event.target.value.trim() && change({ name: event.target.value.trim() }) }),
      el("div", { class: "shapefields" },
        pick("joins", shape.joins ?? "add", JOINS, (joins) => ({ joins })), field("opacity", shape.opacity ?? 1, (value) => ({ opacity: Math.min(1, Math.max(0, value)) })),
        field("softness", shape.softness ?? 0, (value) => ({ softness: Math.max(0, value) })), pick("soft side", shape.side ?? "both", SIDES, (side) => ({ side })),
        pick("between keys", shape.way ?? "smooth", WAYS, (way) => ({ way })), shape.width == null ? null : field("width", shape.width, (value) => ({ width: Math.max(0, value) })),
        shape.joins === "soften" ? field("blur", shape.softens ?? 0, (value) => ({ softens: Math.max(0, value) })) : null,
        ...goesWith(),
        points.length ? el("label", { class: "shapefield" }, el("span", { class: "quiet" }, "soft here"), el("input", { class: "veil-field num", value: Math.round(softOf * 100) / 100, "aria-label": "soft edge at the selected points", onkeydown: (event) => event.stopPropagation(), onchange: (event) => Number.isFinite(Number(event.target.value)) && soften(Number(event.target.value)) })) : null),
      el("div", { class: "deeds" }, keys,
        button("counts", "whether it is joined", () => change({ counts: shape.counts === false }), shape.counts !== false), button("lock", "keep it from being changed on the picture", () => change({ locked: !shape.locked }), Boolean(shape.locked)), button("hide", "leave its line out on the picture", () => change({ hidden: !shape.hidden }), Boolean(shape.hidden)),
        button("up", "joined earlier", () => moved(-1)), button("down", "joined later", () => moved(1)),
        button("copy", "another like it", () => { state.shape = chosen + 1; set([...shapes.slice(0, chosen + 1), { ...shape, name: `${shape.name} copy` }, ...shapes.slice(chosen + 1)]); }),
        button("remove", "", () => { state.shape = Math.max(0, chosen - 1); state.points = new Set(); set(shapes.filter((_, index) => index !== chosen)); })));
  }
}

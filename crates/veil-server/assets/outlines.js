// Outlines drawn on the picture: placed by clicks, bent by drags, keyed by changing them on another frame.

import { post } from "./api.js";
import { add, carriedPoint, cutCurve, full, inverse, less, mix, onCurve, pairs, shapeAt, strokePoints } from "./drawn.js";
import { svg } from "./parts.js";

// Pieces that a curve is drawn in, since a warp may bend it.
const PIECES = 14;
// A mark is met within so many pixels of the screen.
const NEAR = 11;
const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

// Places on the screen are drawn to a tenth of a pixel.
const tenth = (at) => Math.round(at * 10) / 10;

export function outlineState() {
  return { row: null, shape: 0, points: new Set(), drawing: null, pivot: null, brush: null };
}

// `remark` draws all marks anew, which a move of the pointer needs and nothing else does.
export function outlines(shot, overlay, place, carry, remark) {
  // The points of the chosen outline while they are dragged, and whether a handle is what is dragged.
  let dragged = null;
  let bending = false;
  let boxed = null;
  const state = () => {
    if (shot.outline.row !== shot.selected) Object.assign(shot.outline, outlineState(), { row: shot.selected });
    return shot.outline;
  };
  const control = () => shot.controls(shot.selected).find((one) => one.kind.type === "shapes");
  const shapes = () => control()?.setting.shapes ?? [];
  const chosen = () => shapes()[state().shape];
  // What carries the outlines that go with a track to where they are at this frame, as rows of a matrix.
  let placings = { of: null, rows: new Map() };
  const placing = (index) => (shapes()[index]?.carried ? placings.rows.get(index) : null);
  async function askPlacings() {
    const carried = shapes().flatMap((shape, index) => (shape.carried ? [[index, shape.carried]] : []));
    if (!carried.length) return;
    const of = [shot.state.revision, shot.view.frame, shot.selected].join("/");
    if (placings.of === of) return;
    placings.of = of;
    const found = await post(`${shot.base}/tracks/placed`, { carried: carried.map(([, by]) => by), frame: shot.view.frame }).catch(() => []);
    if (placings.of !== of) return;
    placings.rows = new Map(found.flatMap((rows, at) => (rows ? [[carried[at][0], rows]] : [])));
    remark();
  }
  // The points of an outline where they are seen at this frame.
  const pointsOf = (index) => {
    if (dragged && index === state().shape) return dragged;
    const own = shapeAt(shapes()[index], shot.view.frame);
    const rows = placing(index);
    return rows ? own.map((point) => carriedPoint(rows, point)) : own;
  };

  const seen = (at) => {
    const [x, y] = carry.toShown(at) ?? at;
    return [place.x + x * place.zoom, place.y + y * place.zoom];
  };

  function set(next) {
    return shot.edit({ do: "set", stage: shot.selected, control: control().id, setting: { shapes: next } });
  }

  const asDrawn = (points) => {
    const rows = placing(state().shape);
    return rows ? points.map((point) => carriedPoint(inverse(rows), point)) : points;
  };
  const command = (points) => ({ do: "put_shape", stage: shot.selected, control: control().id, shape: state().shape, points: asDrawn(points), frame: shot.view.frame, keys: shot.view.autoKey ? "key" : "moves_all" });

  async function put(points, keep) {
    dragged = points;
    if (!keep) return shot.try([command(points)]);
    await shot.edit(command(points));
    dragged = null;
    shot.tell("view");
  }

  // The way of a curve on the screen. What no warp bends is the curve itself; what one bends goes through pieces of it.
  function wayOf(shape, points) {
    const bent = carry.carries();
    const word = (letter, at) => { const [x, y] = seen(at); return `${letter}${tenth(x)} ${tenth(y)}`; };
    let last = null;
    return pairs(shape, points).map(([a, b]) => {
      const [from, to] = [points[a], points[b]];
      const begin = a === last ? "" : word("M", from.at);
      last = b;
      if (bent) return begin + Array.from({ length: PIECES }, (_, piece) => word("L", onCurve(from, to, (piece + 1) / PIECES))).join("");
      if ([from.after, to.before].every(([x, y]) => !x && !y)) return begin + word("L", to.at);
      return begin + word("C", add(from.at, from.after)) + word(" ", add(to.at, to.before)) + word(" ", to.at);
    }).join("");
  }

  const curve = (shape, points, attributes) => line(wayOf(shape, points), attributes);

  function line(d, attributes) {
    // Dark below light, to be seen on any picture.
    return svg("g", attributes, svg("path", { d, fill: "none", stroke: "#1f2120", "stroke-width": 3.4, "stroke-opacity": 0.55, "stroke-dasharray": "none" }), svg("path", { d, fill: "none", stroke: "#ece8de", "stroke-width": 1.3 }));
  }

  function draw() {
    if (!control()) return;
    askPlacings();
    const all = shapes();
    const parts = [];
    all.forEach((shape, index) => {
      if (shape.hidden || index === state().shape) return;
      parts.push(curve(shape, pointsOf(index), { opacity: 0.55, "data-shape": index }));
    });
    const shape = chosen();
    if (shape && !shape.hidden) parts.push(...ghosts(shape), ...whole(shape));
    if (state().drawing) parts.push(...begun(state().drawing));
    if (boxed) parts.push(svg("rect", { ...boxed, fill: "none", stroke: "#ece8de", "stroke-dasharray": "3 3" }));
    overlay.append(...parts);
  }

  // The way of the outline at a key, as it was last seen.
  const ghostWays = new WeakMap();

  // The outline at the keys before and after this frame.
  function ghosts(shape) {
    const near = [shape.keys.findLast((key) => key.frame < shot.view.frame), shape.keys.find((key) => key.frame > shot.view.frame)];
    const seenFrom = [place.x, place.y, place.zoom, carry.carries() && shot.view.frame].join("/");
    return near.filter(Boolean).map((key) => {
      // They stay where they are while the outline is dragged.
      if (ghostWays.get(key)?.seenFrom !== seenFrom) ghostWays.set(key, { seenFrom, d: wayOf(shape, key.points.map(full)) });
      return svg("path", { d: ghostWays.get(key).d, class: "ghostline", fill: "none", stroke: "#ece8de", "stroke-opacity": 0.35, "stroke-width": 1 });
    });
  }

  function whole(shape) {
    const points = pointsOf(state().shape);
    // All of a kind are one path: a hundred points are moved at once.
    let [lines, knobs] = ["", ""];
    const marks = { plain: [], picked: [] };
    points.forEach((point, index) => {
      const [x, y] = seen(point.at);
      const on = state().points.has(index);
      for (const side of on && (!dragged || bending) ? ["before", "after"] : []) {
        if (!point[side][0] && !point[side][1]) continue;
        const [hx, hy] = seen(add(point.at, point[side]));
        lines += `M${tenth(x)} ${tenth(y)}L${tenth(hx)} ${tenth(hy)}`;
        knobs += `M${tenth(hx - 3)} ${tenth(hy)}a3 3 0 1 0 6 0a3 3 0 1 0 -6 0`;
      }
      (on ? marks.picked : marks.plain).push(`M${tenth(x - 3.5)} ${tenth(y - 3.5)}h7v7h-7z`);
    });
    const squares = (kind) => marks[kind].length && svg("path", { class: `outlinepoints ${kind}`, "data-count": marks[kind].length, d: marks[kind].join("") });
    const handles = lines ? [svg("path", { d: lines, stroke: "#ece8de", "stroke-opacity": 0.6 }), svg("path", { d: knobs, fill: "#1f2120", stroke: "#ece8de" })] : [];
    return [curve(shape, points, shape.locked ? { "stroke-dasharray": "6 3" } : {}), ...handles, ...["plain", "picked"].map(squares).filter(Boolean), ...turnFrame(points)];
  }

  function begun(drawing) {
    const shape = { width: drawing.closed ? 0 : 1 };
    return [curve(shape, drawing.points, {}), ...drawing.points.map((point, at) => {
      const [x, y] = seen(point.at);
      return svg("rect", { x: x - 3.5, y: y - 3.5, width: 7, height: 7, fill: at ? "#1f2120" : "#ece8de", stroke: "#ece8de" });
    })];
  }

  // Where the corners of the box about the selected points are, and the pivot; none for fewer than two.
  function frameOf(points) {
    const at = [...state().points].filter((index) => points[index]).map((index) => points[index].at);
    if (at.length < 2) return null;
    const low = [0, 1].map((axis) => Math.min(...at.map((one) => one[axis])));
    const high = [0, 1].map((axis) => Math.max(...at.map((one) => one[axis])));
    const middle = mix(low, high, 0.5);
    const pivot = state().pivot ?? middle;
    return { corners: [low, [high[0], low[1]], high, [low[0], high[1]]], pivot, top: [middle[0], low[1] - 26 / place.zoom] };
  }

  function turnFrame(points) {
    const frame = frameOf(points);
    if (!frame || chosen().locked) return [];
    const [px, py] = seen(frame.pivot);
    const corner = (at) => { const [x, y] = seen(at); return svg("circle", { cx: x, cy: y, r: 3.5, fill: "#1f2120", stroke: "#ece8de" }); };
    const d = frame.corners.map(seen).map(([x, y], at) => `${at ? "L" : "M"}${x} ${y}`).join("");
    return [svg("path", { d: `${d}Z`, fill: "none", stroke: "#ece8de", "stroke-opacity": 0.35 }), ...frame.corners.map(corner), corner(frame.top),
      svg("path", { d: `M${px - 6} ${py}h12M${px} ${py - 6}v12`, stroke: "#ece8de", "stroke-width": 1.3, class: "pivot" })];
  }

  // Follows a drag: `moved` gets where it is in the row's own places and how far it has come, `done` whether it moved.
  function follow(event, toPicture, moved, done) {
    const own = (at) => { const { x, y } = toPicture(at); return carry.toOwn([x, y]); };
    const start = own(event);
    let far = false;
    const move = (next) => {
      far ||= Math.hypot(next.clientX - event.clientX, next.clientY - event.clientY) > 2;
      if (!far) return;
      const here = own(next);
      moved(here, less(here, start), next);
    };
    const up = (last) => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      done(far, last);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
  }

  // A press on the picture; true where it was for an outline.
  function down(event, toPicture) {
    if (!control() || event.button) return false;
    const { x, y } = toPicture(event);
    const own = carry.toOwn([x, y]);
    if (state().brush) return brushed(event, toPicture, own);
    const box = overlay.getBoundingClientRect();
    const screen = [event.clientX - box.left, event.clientY - box.top];
    const far = (at) => Math.hypot(...less(seen(at), screen));
    const near = (at) => far(at) < NEAR;
    if (state().drawing) return placed(event, toPicture, own, near);
    const shape = chosen();
    if (shape && !shape.hidden && !shape.locked && grabbed(event, toPicture, near, far)) return true;
    const other = shapes().findIndex((one, index) => !one.hidden && index !== state().shape && pointsOf(index).some((point) => near(point.at)));
    if (other >= 0) {
      Object.assign(state(), { shape: other, points: new Set(), pivot: null });
      shot.tell("view");
      return true;
    }
    if (!(event.ctrlKey || event.metaKey) || !shape) return false;
    follow(event, toPicture, (_, __, next) => {
      const to = [next.clientX - box.left, next.clientY - box.top];
      boxed = { x: Math.min(screen[0], to[0]), y: Math.min(screen[1], to[1]), width: Math.abs(to[0] - screen[0]), height: Math.abs(to[1] - screen[1]) };
      remark();
    }, () => {
      if (boxed) state().points = new Set(pointsOf(state().shape).flatMap((point, index) => { const [px, py] = seen(point.at); return px >= boxed.x && px <= boxed.x + boxed.width && py >= boxed.y && py <= boxed.y + boxed.height ? [index] : []; }));
      boxed = null;
      shot.tell("view");
    });
    return true;
  }

  // A press on a mark of the chosen outline: the frame's, a handle, a point.
  function grabbed(event, toPicture, near, far) {
    const points = pointsOf(state().shape);
    const frame = frameOf(points);
    const drag = (change, handle = false) => {
      bending = handle;
      follow(event, toPicture, (at, by) => { put(change(at, by), false); }, (far) => (far ? put(dragged, true) : shot.tell("view")));
      return true;
    };
    const selected = (change) => points.map((point, index) => (state().points.has(index) ? change(point) : point));
    if (frame && near(frame.pivot)) {
      follow(event, toPicture, (at) => { state().pivot = at; remark(); }, () => {});
      return true;
    }
    if (frame && near(frame.top)) {
      const angle = ([x, y]) => Math.atan2(y - frame.pivot[1], x - frame.pivot[0]);
      return drag((at) => {
        const turn = angle(at) - angle(frame.top);
        const [c, s] = [Math.cos(turn), Math.sin(turn)];
        const turned = ([x, y]) => [c * x - s * y, s * x + c * y];
        return selected((point) => ({ ...point, at: add(frame.pivot, turned(less(point.at, frame.pivot))), before: turned(point.before), after: turned(point.after) }));
      });
    }
    // Of marks that lie close together the nearest is meant.
    const knobs = points.flatMap((point, index) => (state().points.has(index) ? ["after", "before"] : []).flatMap((side) => (point[side][0] || point[side][1] ? [{ index, side, away: far(add(point.at, point[side])) }] : [])));
    const marks = [...points.map((point, index) => ({ index, away: far(point.at) })), ...knobs].filter(({ away }) => away < NEAR);
    const hit = marks.reduce((best, mark) => (best && best.away <= mark.away ? best : mark), null);
    if (hit?.side) {
      return drag((at) => points.map((one, number) => {
        if (number !== hit.index) return one;
        const way = less(at, one.at);
        const mirrored = hit.side === "after" ? "before" : "after";
        // With Ctrl the other handle stays, and the line has a corner.
        return { ...one, [hit.side]: way, ...(event.ctrlKey || event.metaKey ? {} : { [mirrored]: [-way[0], -way[1]] }) };
      }), true);
    }
    if (hit) {
      const now = state();
      if (event.shiftKey) now.points.has(hit.index) ? now.points.delete(hit.index) : now.points.add(hit.index);
      else if (!now.points.has(hit.index)) now.points = new Set([hit.index]);
      now.pivot = null;
      shot.tell("view");
      return drag((_, by) => points.map((point, index) => (now.points.has(index) ? { ...point, at: add(point.at, by) } : point)));
    }
    const corner = frame?.corners.find(near);
    if (!corner) return false;
    const from = Math.max(1e-6, Math.hypot(...less(corner, frame.pivot)));
    return drag((at) => {
      const factor = Math.hypot(...less(at, frame.pivot)) / from;
      const scaled = ([x, y]) => [x * factor, y * factor];
      return selected((point) => ({ ...point, at: add(frame.pivot, scaled(less(point.at, frame.pivot))), before: scaled(point.before), after: scaled(point.after) }));
    });
  }

  // A press while a brush is at hand: a stroke along the way of the pointer.
  function brushed(event, toPicture, own) {
    const { brush } = state();
    const drawing = { closed: false, points: [{ at: own, before: [0, 0], after: [0, 0], soft: 0 }] };
    const places = [own];
    state().drawing = drawing;
    follow(event, toPicture, (at) => {
      places.push(at);
      drawing.points = strokePoints(places, 1.2 / place.zoom);
      remark();
    }, () => {
      state().drawing = null;
      // A dab is a stroke of no length.
      const points = places.length > 1 ? strokePoints(places, 1.2 / place.zoom) : [drawing.points[0], { ...drawing.points[0], at: add(own, [0.01, 0]) }];
      const { width, softness, joins, softens } = brush;
      state().shape = shapes().length;
      set([...shapes(), { name: freeName("stroke"), keys: [{ frame: shot.view.frame, points }], width, softness, joins, ...(joins === "soften" ? { softens } : {}) }]);
    });
    return true;
  }

  function freeName(word) {
    const names = new Set(shapes().map((shape) => shape.name));
    let number = shapes().length + 1;
    while (names.has(`${word} ${number}`)) number++;
    return `${word} ${number}`;
  }

  // A press while an outline is being drawn: a point, or the first one again, which closes it.
  function placed(event, toPicture, own, near) {
    const { drawing } = state();
    if (drawing.closed && drawing.points.length > 2 && near(drawing.points[0].at)) {
      finish();
      return true;
    }
    const point = { at: own, before: [0, 0], after: [0, 0], soft: 0 };
    drawing.points.push(point);
    follow(event, toPicture, (_, by) => { Object.assign(point, { after: by, before: [-by[0], -by[1]] }); remark(); }, () => {});
    shot.tell("view");
    return true;
  }

  function finish() {
    const { drawing } = state();
    state().drawing = null;
    if (!drawing || drawing.points.length < 2) return shot.tell("view");
    const made = { name: freeName("outline"), keys: [{ frame: shot.view.frame, points: drawing.points }], ...(drawing.closed ? {} : { width: 6 }) };
    state().shape = shapes().length;
    state().points = new Set();
    return set([...shapes(), made]);
  }

  // A double press on a curve of the chosen outline puts a point there, in every key.
  function twice(event, toPicture) {
    const shape = chosen();
    if (!shape || shape.locked || state().drawing) return false;
    const { x, y } = toPicture(event);
    const own = carry.toOwn([x, y]);
    const points = pointsOf(state().shape);
    let best = { far: NEAR / place.zoom };
    for (const [a, b] of pairs(shape, points)) {
      for (let step = 1; step < 40; step++) {
        const far = Math.hypot(...less(onCurve(points[a], points[b], step / 40), own));
        if (far < best.far) best = { far, a, b, t: step / 40 };
      }
    }
    if (best.a === undefined) return false;
    change((all) => {
      const { after, point, before } = cutCurve(all[best.a], all[best.b], best.t);
      const next = all.map((one, at) => (at === best.a ? { ...one, after } : at === best.b ? { ...one, before } : one));
      next.splice(best.a + 1, 0, point);
      return next;
    });
    state().points = new Set([best.a + 1]);
    return true;
  }

  // Changes the points of every key of the chosen outline.
  function change(turn) {
    return set(shapes().map((shape, index) => (index === state().shape ? { ...shape, keys: shape.keys.map((key) => ({ ...key, points: turn(key.points.map(full)) })) } : shape)));
  }

  // A key on the picture; true where it was for an outline.
  function key(event) {
    if (!control()) return false;
    const { drawing, points, brush } = state();
    if (brush && (event.key === "Enter" || event.key === "Escape")) {
      state().brush = null;
      shot.tell("view");
      return true;
    }
    if (drawing && (event.key === "Enter" || event.key === "Escape")) {
      if (event.key === "Escape") drawing.points.length = 0;
      finish();
      return true;
    }
    const shape = chosen();
    if (!shape || shape.locked) return false;
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "a") {
      state().points = new Set(pointsOf(state().shape).keys());
      shot.tell("view");
      return true;
    }
    if (!points.size) return false;
    if (event.key === "Escape") {
      state().points = new Set();
      shot.tell("view");
      return true;
    }
    if (event.key === "Delete" || event.key === "Backspace") {
      const left = pointsOf(state().shape).length - points.size;
      if (left < 2) set(shapes().filter((_, index) => index !== state().shape));
      else change((all) => all.filter((_, index) => !points.has(index)));
      state().points = new Set();
      return true;
    }
    const step = STEP[event.key];
    if (!step) return false;
    const size = event.shiftKey ? 10 : 1;
    put(pointsOf(state().shape).map((point, index) => (points.has(index) ? { ...point, at: add(point.at, [step[0] * size, step[1] * size]) } : point)), true);
    return true;
  }

  return { draw, down, twice, key, dragging: () => dragged !== null };
}

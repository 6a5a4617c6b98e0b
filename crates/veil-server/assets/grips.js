// Marks on the picture that are dragged: points, vectors, ellipses and their soft edges, where the eye sees them.

import { feedsOf, feedValue, svg } from "./parts.js";

const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const AROUND = 72;

export function grips(shot, overlay, place, carry, repaint) {
  // Controls with a grip and their values at this frame, with what is being tried in them.
  function controls() {
    return shot.controls(shot.selected).filter((control) => !["none", "shapes"].includes(control.grip) && shot.counts(shot.selected, control)).map((control) => {
      const tried = shot.trial?.find((command) => command.stage === shot.selected && command.control === control.id);
      const values = feedsOf(control.setting).map((feed, axis) => tried?.values?.[axis] ?? feedValue(feed, shot.view.frame) ?? shot.numbers(shot.selected, repaint)?.[control.id]?.[axis]);
      return { id: control.id, name: control.name, grip: control.grip, values };
    }).filter((control) => control.values.every((value) => value !== undefined));
  }

  function put(changes, keep) {
    const commands = changes.map(({ control, values }) => shot.byHand(shot.selected, control, values));
    if (!keep) shot.try(commands);
    else shot.edit(commands.length === 1 ? commands[0] : { do: "together", commands });
  }

  const toScreen = ([x, y]) => [place.x + x * place.zoom, place.y + y * place.zoom];
  // Where a place of the row is seen, and whether that is where it is.
  function seen(at) {
    const shown = carry.toShown(at);
    return { at: toScreen(shown ?? at), sure: shown !== null && !carry.unreached() };
  }

  function handle(at, name, drag) {
    const { at: [cx, cy], sure } = seen(at);
    const mark = svg("circle", { cx, cy, r: 5, fill: "#1f2120", stroke: "#ece8de", "stroke-width": 2, "stroke-dasharray": sure ? null : "3 2" });
    const hit = svg("circle", { class: "grip", cx, cy, r: 12, tabindex: 0, role: "button", "aria-label": `${name}: drag, or use the arrow keys`, "data-grip": name });
    hit.addEventListener("pointerdown", (event) => {
      event.stopPropagation();
      event.preventDefault();
      const start = [event.clientX, event.clientY];
      const from = carry.toShown(at) ?? at;
      let last = null;
      const move = (next) => {
        last = drag(carry.toOwn([from[0] + (next.clientX - start[0]) / place.zoom, from[1] + (next.clientY - start[1]) / place.zoom]));
        put(last, false);
      };
      const up = () => {
        window.removeEventListener("pointermove", move);
        window.removeEventListener("pointerup", up);
        if (last) put(last, true);
      };
      window.addEventListener("pointermove", move);
      window.addEventListener("pointerup", up);
    });
    hit.addEventListener("keydown", (event) => {
      const step = STEP[event.key];
      if (!step) return;
      event.preventDefault();
      event.stopPropagation();
      const size = event.shiftKey ? 10 : 1;
      put(drag([at[0] + step[0] * size, at[1] + step[1] * size]), true);
    });
    return [mark, hit];
  }

  // A line through places of the row, dashed where one of them is not seen.
  function lineOf(places, dash) {
    const points = places.map(seen);
    const d = points.map(({ at }, index) => `${index ? "L" : "M"}${at[0].toFixed(1)} ${at[1].toFixed(1)}`).join("");
    return svg("path", { d, fill: "none", stroke: "#ece8de", "stroke-width": 1.2, "stroke-dasharray": points.every((point) => point.sure) ? dash : "4 4" });
  }

  const oval = ([cx, cy], [rx, ry], along, across) => Array.from({ length: AROUND + 1 }, (_, at) => {
    const turn = (at / AROUND) * 2 * Math.PI;
    return [0, 1].map((axis) => [cx, cy][axis] + along[axis] * rx * Math.cos(turn) + across[axis] * ry * Math.sin(turn));
  });

  // Straight sides in many pieces, since a warp may bend them.
  const frame = ([cx, cy], [rx, ry], along, across) => Array.from({ length: AROUND + 1 }, (_, at) => {
    const [side, way] = [Math.floor((at * 4) / AROUND) % 4, (((at * 4) / AROUND) % 1) * 2 - 1];
    const [x, y] = [[way, -1], [1, way], [-way, 1], [-1, -way]][side];
    return [0, 1].map((axis) => [cx, cy][axis] + along[axis] * rx * x + across[axis] * ry * y);
  });

  function draw() {
    const focused = document.activeElement?.dataset?.grip;
    overlay.replaceChildren();
    const found = controls();
    if (found.length) overlay.append(...marks(found));
    if (focused) overlay.querySelector(`[data-grip="${focused}"]`)?.focus();
  }

  function marks(found) {
    const of = (grip) => found.find((control) => control.grip === grip);
    const { width, height } = shot.state.setup.picture;
    const centre = of("point")?.values ?? [width / 2, height / 2];
    const turn = of("turn");
    const angle = ((turn?.values[0] ?? 0) * Math.PI) / 180;
    // Counter-clockwise as seen, y down.
    const along = [Math.cos(angle), -Math.sin(angle)];
    const across = [-Math.sin(angle), -Math.cos(angle)];
    const from = (p) => [p[0] - centre[0], p[1] - centre[1]];
    const dot = (v, w) => v[0] * w[0] + v[1] * w[1];
    const out = (way, by) => [centre[0] + way[0] * by, centre[1] + way[1] * by];
    const set = (control, values) => [{ control: control.id, values }];
    const parts = found.filter((control) => control.grip === "point").flatMap((control) => handle(control.values, control.name, (p) => set(control, p)));

    const corners = found.filter((control) => control.grip === "corner");
    if (corners.length) {
      const ends = corners.map((control) => control.values);
      // Two of them are those of a box.
      const at = ends.length === 2 ? [ends[0], [ends[1][0], ends[0][1]], ends[1], [ends[0][0], ends[1][1]]] : ends;
      const along = (a, b) => Array.from({ length: 13 }, (_, step) => [0, 1].map((axis) => a[axis] + ((b[axis] - a[axis]) * step) / 12));
      parts.unshift(lineOf(at.flatMap((corner, index) => along(corner, at[(index + 1) % at.length])), null));
      parts.push(...corners.flatMap((control) => handle(control.values, control.name, (p) => set(control, p))));
    }

    const radii = of("radii") ?? of("sides");
    if (radii) {
      const [rx, ry] = radii.values;
      const outline = radii.grip === "sides" ? frame : oval;
      const softness = of("softness");
      const soft = softness?.values[0] ?? 0;
      parts.unshift(lineOf(outline(centre, [rx, ry], along, across), null));
      if (soft > 0) parts.unshift(lineOf(outline(centre, [rx + soft / 2, ry + soft / 2], along, across), "2 5"));
      parts.push(
        ...handle(out(along, rx), "width", (p) => set(radii, [Math.max(0, dot(from(p), along)), null])),
        ...handle(out(across, ry), "height", (p) => set(radii, [null, Math.max(0, dot(from(p), across))])));
      if (softness) parts.push(...handle(out(across, -ry - soft / 2), "softness", (p) => set(softness, [Math.max(0, 2 * (-dot(from(p), across) - ry))])));
    }

    const [right, down] = [of("right"), of("down")];
    if (right && down) {
      const tip = [centre[0] + right.values[0], centre[1] + down.values[0]];
      parts.unshift(lineOf([centre, tip], null));
      // A vector of no length is taken a little beside its point.
      const resting = Math.hypot(...from(tip)) * place.zoom < 26 ? [tip[0] + 26 / place.zoom, tip[1] + 26 / place.zoom] : tip;
      parts.push(...handle(resting, "move", (p) => [...set(right, [p[0] - centre[0] - resting[0] + tip[0]]), ...set(down, [p[1] - centre[1] - resting[1] + tip[1]])]));
    }

    const end = of("end");
    if (end) {
      parts.unshift(lineOf([centre, end.values], null));
      parts.push(...handle(end.values, end.name, (p) => set(end, p)));
    }
    const reach = of("reach");
    if (reach) {
      const [r] = reach.values;
      parts.unshift(lineOf(oval(centre, [r, r], [1, 0], [0, 1]), null));
      parts.push(...handle([centre[0] + Math.max(r, 14 / place.zoom), centre[1]], reach.name, (p) => set(reach, [Math.hypot(...from(p))])));
    }

    const length = of("length");
    if (length && turn) {
      const far = Math.max(length.values[0], 24 / place.zoom);
      parts.unshift(lineOf([out(along, -length.values[0] / 2), out(along, length.values[0] / 2)], null));
      parts.push(...handle(out(along, far / 2), "length and angle", (p) => [
        ...set(length, [2 * Math.hypot(...from(p))]), ...set(turn, [(Math.atan2(-(p[1] - centre[1]), p[0] - centre[0]) * 180) / Math.PI])]));
    } else if (turn) {
      const away = (radii?.values[0] ?? 0) + 46 / place.zoom;
      parts.push(...handle(out(along, away), "turn", (p) => set(turn, [(Math.atan2(-(p[1] - centre[1]), p[0] - centre[0]) * 180) / Math.PI])));
    }
    return parts;
  }

  return draw;
}

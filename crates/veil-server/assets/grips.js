// Marks on the picture that are dragged: the selected row's point, radii, turn and softness.

import { feedsOf, feedValue, svg } from "./parts.js";

const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export function grips(shot, overlay, place) {
  // The values at this frame, what is being tried in them.
  function values() {
    const found = {};
    for (const control of shot.controls(shot.selected)) {
      if (control.grip === "none") continue;
      const tried = shot.trial?.find((command) => command.stage === shot.selected && command.control === control.id);
      const feeds = feedsOf(control.setting).map((feed) => feedValue(feed, shot.view.frame) ?? 0);
      found[control.grip] = { id: control.id, values: feeds.map((value, axis) => tried?.values?.[axis] ?? value) };
    }
    return found;
  }

  function put(control, numbers, keep) {
    const command = { do: "put", stage: shot.selected, control, values: numbers, frame: shot.view.frame };
    if (keep) shot.edit(command);
    else shot.try([command]);
  }

  const toScreen = (x, y) => [place.x + x * place.zoom, place.y + y * place.zoom];

  function handle(at, name, drag) {
    const [cx, cy] = toScreen(...at);
    const mark = svg("circle", { cx, cy, r: 5, fill: "#1f2120", stroke: "#ece8de", "stroke-width": 2 });
    const hit = svg("circle", { class: "grip", cx, cy, r: 12, tabindex: 0, role: "button", "aria-label": `${name}: drag, or use the arrow keys`, "data-grip": name });
    hit.addEventListener("pointerdown", (event) => {
      event.stopPropagation();
      event.preventDefault();
      const start = [event.clientX, event.clientY];
      const from = [at[0], at[1]];
      let last = null;
      const move = (next) => {
        const shift = [(next.clientX - start[0]) / place.zoom, (next.clientY - start[1]) / place.zoom];
        last = drag([from[0] + shift[0], from[1] + shift[1]]);
        put(last.control, last.values, false);
      };
      const up = () => {
        window.removeEventListener("pointermove", move);
        window.removeEventListener("pointerup", up);
        if (last) put(last.control, last.values, true);
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
      const moved = drag([at[0] + step[0] * size, at[1] + step[1] * size]);
      put(moved.control, moved.values, true);
    });
    return [mark, hit];
  }

  return function draw() {
    const focused = document.activeElement?.dataset?.grip;
    overlay.replaceChildren();
    const found = values();
    if (!found.point || !found.radii) return;
    const [cx, cy] = found.point.values;
    const [rx, ry] = found.radii.values;
    const turn = found.turn?.values[0] ?? 0;
    const soft = found.softness?.values[0] ?? 0;
    const angle = (turn * Math.PI) / 180;
    // Counter-clockwise as seen, y down.
    const along = [Math.cos(angle), -Math.sin(angle)];
    const across = [-Math.sin(angle), -Math.cos(angle)];
    const [sx, sy] = toScreen(cx, cy);
    const oval = (a, b, dash) => svg("ellipse", {
      cx: sx, cy: sy, rx: Math.max(0, a * place.zoom), ry: Math.max(0, b * place.zoom), transform: `rotate(${-turn} ${sx} ${sy})`,
      fill: "none", stroke: "#ece8de", "stroke-width": 1.2, "stroke-dasharray": dash,
    });
    overlay.append(oval(rx, ry, null));
    if (soft > 0) overlay.append(oval(rx + soft / 2, ry + soft / 2, "2 5"));
    const dot = (v, w) => v[0] * w[0] + v[1] * w[1];
    const from = (p) => [p[0] - cx, p[1] - cy];
    const reach = 46 / place.zoom;
    overlay.append(
      ...handle([cx, cy], "centre", (p) => ({ control: found.point.id, values: p })),
      ...handle([cx + along[0] * rx, cy + along[1] * rx], "width", (p) => ({ control: found.radii.id, values: [Math.max(0, dot(from(p), along)), null] })),
      ...handle([cx + across[0] * ry, cy + across[1] * ry], "height", (p) => ({ control: found.radii.id, values: [null, Math.max(0, dot(from(p), across))] })),
    );
    if (found.softness) {
      const out = ry + soft / 2;
      overlay.append(...handle([cx - across[0] * out, cy - across[1] * out], "softness", (p) => ({ control: found.softness.id, values: [Math.max(0, 2 * (-dot(from(p), across) - ry))] })));
    }
    if (found.turn) {
      const out = rx + reach;
      overlay.append(...handle([cx + along[0] * out, cy + along[1] * out], "turn", (p) => ({ control: found.turn.id, values: [(Math.atan2(-(p[1] - cy), p[0] - cx) * 180) / Math.PI] })));
    }
    if (focused) overlay.querySelector(`[data-grip="${focused}"]`)?.focus();
  };
}

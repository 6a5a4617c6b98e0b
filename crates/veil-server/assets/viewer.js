// The viewer: the shown row's picture, under zoom and pan, compared, probed, with the grips of the selected row.

import { frame as fetchFrame, get, query } from "./api.js";
import { trying } from "./parts.js";
import { grips } from "./grips.js";

// While something is dragged, pictures must come at least this often.
const DRAG_BUDGET_MS = 70;
const SHARPEN_AFTER_MS = 140;

export function viewer(shot, nodes) {
  const { well, canvas, overlay } = nodes;
  const context = canvas.getContext("2d");
  const place = { zoom: 1, x: 0, y: 0, fit: true };
  let sides = { now: null, off: null };
  let pending = null;
  let sharpen;
  let split = 0.5;
  let flipped = false;
  let fullCost = 60;

  const size = () => shot.state.setup.picture;
  // What a settled picture is of; told on the page, so that it can be waited for.
  const signature = () => [shot.state.revision, shot.view.shown, shot.view.frame, shot.view.look, shot.view.exposure, shot.view.screen, shot.view.compare && shot.selected, across() ?? "all"].join("/");

  // No more pixels are sent than the screen shows; nearly all of them might as well be all.
  function across() {
    const seen = Math.ceil(size().width * place.zoom * (window.devicePixelRatio || 1));
    return seen < size().width * 0.9 ? seen : undefined;
  }

  function address(scale, commands) {
    const trial = [...(shot.trial ?? []), ...commands];
    return `${shot.base}/frame?${query({
      stage: shot.view.shown, frame: shot.view.frame, scale, look: shot.view.look, exposure: shot.view.exposure, screen: shot.view.screen,
      across: across(), trial: trial.length ? JSON.stringify(trial) : undefined, revision: shot.state.revision,
    })}`;
  }

  // The scale that keeps up while something is dragged.
  function dragScale() {
    return [1, 2, 3, 4, 8].find((scale) => fullCost / (scale * scale) < DRAG_BUDGET_MS) ?? 8;
  }

  async function ask(scale) {
    // While dragging, the picture on its way is let through, and only the newest value is asked for next.
    if (pending?.drag && shot.trial) {
      pending.again = true;
      return;
    }
    pending?.abort.abort();
    const mine = { abort: new AbortController(), drag: Boolean(shot.trial), again: false, of: signature() };
    pending = mine;
    const started = performance.now();
    const held = shot.trial ? null : nodes.play?.held(shot.view.frame);
    try {
      const answer = held ?? (await fetchFrame(address(scale, []), mine.abort.signal));
      const off = shot.view.compare && canCompare()
        ? await fetchFrame(address(scale, [{ do: "switch", stage: shot.selected, on: false }]), mine.abort.signal)
        : null;
      if (pending !== mine) return;
      sides = { now: await bitmap(answer), off: off && (await bitmap(off)) };
      if (!held && scale === 1) fullCost = performance.now() - started;
      told(answer.about, performance.now() - started);
      paint();
      canvas.dataset.shows = scale === 1 && !mine.drag ? mine.of : "";
      if (canvas.dataset.shows) shot.tell("painted");
    } catch (error) {
      if (error.name !== "AbortError") {
        note(error.message);
        sides = { now: null, off: null };
        paint();
        shot.tell("painted");
      }
    } finally {
      if (pending === mine) {
        pending = null;
        if (mine.again) ask(shot.trial ? dragScale() : 1);
      }
    }
  }

  const bitmap = async (answer) => (answer.bitmap ? answer : { about: answer.about, bitmap: answer.picture && (await createImageBitmap(answer.picture)) });

  function canCompare() {
    const row = shot.row(shot.selected);
    return row && row.knot !== "final" && row.on;
  }

  function told(about, ms) {
    const fresh = JSON.stringify(about.faults) !== JSON.stringify(shot.faults);
    shot.faults = about.faults;
    nodes.cost.textContent = `${about.scale === 1 ? "full scale" : `scale 1/${about.scale}`} · ${Math.round(ms)} ms`;
    nodes.size.textContent = `${size().width}x${size().height}`;
    note(about.faults.map((fault) => `${shot.stage(fault.stage)?.name}: ${fault.message}`).join(" · "));
    if (fresh) shot.tell("faults");
  }

  function note(text) {
    nodes.note.hidden = !text;
    nodes.note.textContent = text;
    nodes.note.classList.toggle("fault", Boolean(text));
  }

  function fit() {
    const { clientWidth: wide, clientHeight: high } = well;
    if (place.fit) {
      place.zoom = Math.max(0.02, Math.min((wide - 28) / size().width, (high - 28) / size().height));
      place.x = Math.round((wide - size().width * place.zoom) / 2);
      place.y = Math.round((high - size().height * place.zoom) / 2);
    }
    nodes.zoom.textContent = `${Math.round(place.zoom * 100)} %`;
  }

  function paint() {
    if (!shot.state) return;
    fit();
    const ratio = window.devicePixelRatio || 1;
    const [wide, high] = [Math.round(well.clientWidth * ratio), Math.round(well.clientHeight * ratio)];
    if (canvas.width !== wide || canvas.height !== high) Object.assign(canvas, { width: wide, height: high });
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.fillStyle = "#2b2b2b";
    context.fillRect(0, 0, wide, high);
    const box = [place.x, place.y, size().width * place.zoom, size().height * place.zoom];
    context.fillStyle = "#000";
    context.fillRect(...box);
    context.imageSmoothingEnabled = place.zoom < 3;
    context.imageSmoothingQuality = "high";
    const compared = shot.view.compare && sides.off;
    const one = flipped && sides.off ? sides.off : sides.now;
    if (one?.bitmap) context.drawImage(one.bitmap, ...box);
    if (compared && !flipped && sides.off.bitmap) {
      const border = place.x + box[2] * split;
      context.save();
      context.beginPath();
      context.rect(box[0], box[1], border - box[0], box[3]);
      context.clip();
      context.drawImage(sides.off.bitmap, ...box);
      context.restore();
      context.strokeStyle = "#ece8de";
      context.lineWidth = 1;
      context.beginPath();
      context.moveTo(border, box[1]);
      context.lineTo(border, box[1] + box[3]);
      context.stroke();
    }
    context.strokeStyle = "#55585a";
    context.lineWidth = 1;
    context.strokeRect(box[0] - 0.5, box[1] - 0.5, box[2] + 1, box[3] + 1);
    drawGrips();
  }

  // After zooming in, the pixels that were not sent.
  function zoomed() {
    if (!shot.state || nodes.play?.running() || (across() ?? size().width) <= (sides.now?.bitmap?.width ?? Infinity)) return;
    well.dataset.wanted = signature();
    clearTimeout(sharpen);
    sharpen = setTimeout(() => ask(shot.trial ? dragScale() : 1), SHARPEN_AFTER_MS);
  }

  const drawGrips = grips(shot, overlay, place);

  function toPicture(event) {
    const box = well.getBoundingClientRect();
    return { x: (event.clientX - box.left - place.x) / place.zoom, y: (event.clientY - box.top - place.y) / place.zoom };
  }

  well.addEventListener("wheel", (event) => {
    event.preventDefault();
    const box = well.getBoundingClientRect();
    const [px, py] = [event.clientX - box.left, event.clientY - box.top];
    const zoom = Math.min(64, Math.max(0.05, place.zoom * Math.exp(-event.deltaY * 0.0015)));
    place.x = px - ((px - place.x) / place.zoom) * zoom;
    place.y = py - ((py - place.y) / place.zoom) * zoom;
    Object.assign(place, { zoom, fit: false });
    paint();
    zoomed();
  }, { passive: false });

  // Drag pans; on the split line it moves the line; with Shift it measures a box.
  well.addEventListener("pointerdown", (event) => {
    if (event.button > 1 || event.target.closest(".grip")) return;
    well.focus({ preventScroll: true });
    const start = { ...place, at: toPicture(event), cx: event.clientX, cy: event.clientY };
    const line = place.x + size().width * place.zoom * split;
    const onLine = shot.view.compare && Math.abs(event.clientX - well.getBoundingClientRect().left - line) < 12;
    const measuring = event.shiftKey;
    let moved = false;
    const move = (next) => {
      moved ||= Math.hypot(next.clientX - start.cx, next.clientY - start.cy) > 3;
      if (!moved) return;
      if (measuring) return;
      if (onLine) split = Math.min(1, Math.max(0, toPicture(next).x / size().width));
      else Object.assign(place, { x: start.x + next.clientX - start.cx, y: start.y + next.clientY - start.cy, fit: false });
      paint();
    };
    const up = (last) => {
      well.removeEventListener("pointermove", move);
      well.removeEventListener("pointerup", up);
      if (measuring && moved) measure(start.at, toPicture(last));
      else if (!moved) nodes.clicked?.(toPicture(last));
    };
    well.setPointerCapture(event.pointerId);
    well.addEventListener("pointermove", move);
    well.addEventListener("pointerup", up);
  });

  async function measure(a, b) {
    const whole = (one, other) => [Math.floor(Math.min(one, other)), Math.ceil(Math.max(one, other))];
    const [[x0, x1], [y0, y1]] = [whole(a.x, b.x), whole(a.y, b.y)];
    const at = query({ stage: shot.view.shown, frame: shot.view.frame, x0, y0, x1, y1 });
    const found = await trying(() => get(`${shot.base}/region?${at}`));
    if (!found) return;
    const text = (values) => values.map((value) => value.toFixed(4)).join(" ");
    nodes.values.textContent = `least ${text(found.least)} · mean ${text(found.mean)} · most ${text(found.most)}`;
  }

  let probing = null;
  let nextProbe = null;
  well.addEventListener("pointermove", (event) => {
    const at = toPicture(event);
    const [x, y] = [Math.floor(at.x), Math.floor(at.y)];
    nodes.place.textContent = `x ${x} y ${y}`;
    const outside = x < 0 || y < 0 || x >= size().width || y >= size().height;
    if (outside || shot.trial || event.buttons) return;
    nextProbe = { x, y };
    if (!probing) probe();
  });

  async function probe() {
    while (nextProbe) {
      const at = nextProbe;
      nextProbe = null;
      probing = get(`${shot.base}/probe?${query({ stage: shot.view.shown, frame: shot.view.frame, ...at })}`).catch(() => null);
      const found = await probing;
      if (found) {
        const digits = found.kind === "map" ? 2 : 4;
        nodes.values.textContent = found.values.map((value) => value.toFixed(digits)).join("  ") + (found.kind === "map" ? " px" : "");
      }
    }
    probing = null;
  }

  new ResizeObserver(() => {
    paint();
    zoomed();
  }).observe(well);

  shot.watch((what) => {
    if (what === "faults" || what === "painted") return;
    fit();
    well.dataset.wanted = signature();
    clearTimeout(sharpen);
    if (what === "trial" && shot.trial) {
      ask(dragScale());
      sharpen = setTimeout(() => shot.trial && ask(1), SHARPEN_AFTER_MS * 3);
    } else if (nodes.play?.running()) {
      paint();
    } else {
      ask(1);
    }
    nodes.labels?.();
  });

  return {
    zoomTo(zoom) {
      const [px, py] = [well.clientWidth / 2, well.clientHeight / 2];
      place.x = px - ((px - place.x) / place.zoom) * zoom;
      place.y = py - ((py - place.y) / place.zoom) * zoom;
      Object.assign(place, { zoom, fit: false });
      paint();
      zoomed();
    },
    fit() {
      place.fit = true;
      paint();
      zoomed();
    },
    flip(on) {
      if (flipped === on) return;
      flipped = on;
      paint();
    },
    hideGrips(hidden) {
      overlay.style.display = hidden ? "none" : "";
    },
    showHeld(answer) {
      sides = { now: answer, off: null };
      paint();
    },
    address,
    across,
    bitmap,
    canCompare,
  };
}

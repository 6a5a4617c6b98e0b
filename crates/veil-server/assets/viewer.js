// The viewer: the shown row's picture, under zoom and pan, compared, probed, with the grips of the selected row.

import { frame as fetchFrame, get, query } from "./api.js";
import { carrier } from "./carry.js";
import { grips } from "./grips.js";
import { outlines } from "./outlines.js";
import { short, toast, trying } from "./parts.js";
import { tracks } from "./tracks.js";

// While something is dragged, pictures must come at least this often.
const DRAG_BUDGET_MS = 70;
const SHARPEN_AFTER_MS = 140;
// While an outline is dragged, so long a rest between two pictures leaves the machine to the marks.
const MARKS_FIRST_MS = 40;

export function viewer(shot, sides, nodes) {
  const { well, canvas, overlay } = nodes;
  const context = canvas.getContext("2d");
  const place = { zoom: 1, x: 0, y: 0, fit: true };
  // What is painted: the two sides of a compare, and what lies over the picture.
  let painted = { now: null, other: null, over: null, ghost: null, folds: null };
  let arrows = null;
  let pending = null;
  let sharpen;
  let split = 0.5;
  let flipped = false;
  let measured = null;
  let fullCost = 60;
  const carry = carrier(shot);

  const size = () => shot.state.setup.picture;
  const comparing = () => Boolean(shot.view.compare) || flipped;
  const beside = () => shot.view.compare === "beside" && !flipped;
  const sideMarks = () => (comparing() ? [sides.mark(shot.view.sideA), sides.mark(shot.view.sideB)] : []);
  // The row whose picture is laid over the shown one while it is placed.
  const ghostRow = () => (shot.view.ghost && shot.row(shot.selected)?.gives === "picture" && shot.row(shot.selected)?.knot !== "final" ? shot.selected : null);
  // What a settled picture is of; told on the page, so that it can be waited for.
  const signature = () => {
    const { shown, frame, look, exposure, screen, backing, behind, over, foldView, motion, moves } = shot.view;
    return [shot.state.revision, shown, frame, look, exposure, screen, backing, behind, over, ghostRow(), foldView, motion, moves, shot.view.compare, ...sideMarks(), across() ?? "all"].join("/");
  };

  // No more pixels are sent than the screen shows; nearly all of them might as well be all.
  function across() {
    const seen = Math.ceil(size().width * place.zoom * (window.devicePixelRatio || 1));
    return seen < size().width * 0.9 ? seen : undefined;
  }

  function address(scale, { trial = [], ...asked } = {}) {
    const { look, exposure, screen, backing, behind } = shot.view;
    return `${shot.base}/frame?${query({
      stage: shot.view.shown, frame: shot.view.frame, scale, look: look === "arrows" ? "colour" : look, exposure, screen, backing, behind,
      across: across(), ...asked, trial: trial.length ? JSON.stringify(trial) : undefined, revision: shot.state.revision,
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
    const plain = !comparing() || shot.view.sideB === "now";
    const held = shot.trial || !plain || shot.view.motion ? null : nodes.play?.held(shot.view.frame);
    try {
      const of = async (asked) => (asked ? bitmap(await fetchFrame(asked, mine.abort.signal)) : null);
      const wanted = sides.asks(comparing() ? shot.view.sideB : "now");
      const answer = held ?? (shot.view.motion ? await of(motionAddress()) : await of(wanted && address(scale, wanted)));
      const asked = comparing() ? sides.asks(shot.view.sideA) : null;
      const next = {
        now: answer,
        other: asked && (await of(address(scale, asked)).catch(missing)),
        over: shot.view.over && (await of(address(scale, { ...sides.asks("now"), stage: shot.view.over, look: "cover" }))),
        ghost: ghostRow() && (await of(address(scale, { stage: ghostRow(), look: "ghost", trial: [...(shot.trial ?? []), { do: "set", stage: ghostRow(), control: "amount", setting: 1 }] }))),
        folds: shot.view.foldView && (await of(`${shot.base}/folds?${query({ stage: shot.view.shown, frame: shot.view.frame, revision: shot.state.revision, trial: shot.trial ? JSON.stringify(shot.trial) : undefined })}`)),
      };
      if (pending !== mine) return;
      painted = next;
      if (!held && scale === 1) fullCost = performance.now() - started;
      if (answer) told(answer.about, performance.now() - started);
      // While dragging, the marks are farther than the picture.
      paint(!shot.trial);
      canvas.dataset.shows = scale === 1 && !mine.drag ? mine.of : "";
      if (canvas.dataset.shows) settled();
    } catch (error) {
      if (error.name !== "AbortError") {
        note(error.message);
        painted = { now: null, other: null, over: null, ghost: null, folds: null };
        paint();
        shot.tell("painted");
      }
    } finally {
      if (pending === mine) {
        pending = null;
        if (mine.again) setTimeout(() => pending ?? ask(shot.trial ? dragScale() : 1), drawn.dragging() ? MARKS_FIRST_MS : 0);
      }
    }
  }

  const bitmap = async (answer) => (answer.bitmap ? answer : { about: answer.about, bitmap: answer.picture && (await createImageBitmap(answer.picture)) });

  // A side that cannot be shown leaves the other one there.
  function missing(error) {
    if (error.name === "AbortError") throw error;
    toast(error.message, true);
    return null;
  }

  function motionAddress() {
    return `${shot.base}/motion?${query({ stage: shot.view.shown, ...shot.range(), revision: shot.state.revision })}`;
  }

  // What follows a picture that stays: arrows, and where grips are seen.
  async function settled() {
    if (!performance.getEntriesByName("picture").length) performance.mark("picture");
    shot.tell("painted");
    const of = canvas.dataset.shows;
    const wanted = shot.view.look === "arrows" || shot.view.moves ? await get(`${shot.base}/arrows?${query({ stage: shot.view.shown, frame: shot.view.frame, revision: shot.state.revision })}`).catch(() => null) : null;
    const carried = await carry.follow();
    if (of !== canvas.dataset.shows || (!wanted && !arrows && !carried)) return;
    arrows = wanted;
    paint();
  }

  function told(about, ms) {
    nodes.size.textContent = `${size().width}x${size().height}`;
    if (shot.view.motion) return note(`motion over ${shot.range().first}–${shot.range().last}: ${short(about.longest)} px at most, ${short(about.mean)} px in the mean`, false);
    const fresh = JSON.stringify(about.faults) !== JSON.stringify(shot.faults);
    shot.faults = about.faults;
    nodes.cost.textContent = `${about.scale === 1 ? "full scale" : `scale 1/${about.scale}`} · ${Math.round(ms)} ms`;
    const faults = about.faults.map((fault) => `${shot.stage(fault.stage)?.name}: ${fault.message}`).join(" · ");
    const folds = painted.folds ? `${short(painted.folds.about.share * 100)} % of the frame is folded over` : "";
    note([faults, folds].filter(Boolean).join(" · "), Boolean(faults));
    if (fresh) shot.tell("faults");
  }

  function note(text, bad = true) {
    nodes.note.hidden = !text;
    nodes.note.textContent = text;
    nodes.note.classList.toggle("fault", Boolean(text) && bad);
  }

  // The well's width and height, measured when they change: asked for amid a drag they would lay the page out anew.
  let extent = [well.clientWidth, well.clientHeight];
  // The width that one picture has: half of it where two are side by side.
  const room = () => (beside() ? extent[0] / 2 : extent[0]);

  function fit() {
    const [wide, high] = [room(), extent[1]];
    if (place.fit) {
      place.zoom = Math.max(0.02, Math.min((wide - 28) / size().width, (high - 28) / size().height));
      place.x = Math.round((wide - size().width * place.zoom) / 2);
      place.y = Math.round((high - size().height * place.zoom) / 2);
    }
    const zoom = `${Math.round(place.zoom * 100)} %`;
    if (nodes.zoom.textContent === zoom) return;
    nodes.zoom.textContent = zoom;
    nodes.zoom.setAttribute("aria-label", `zoom ${zoom}; fits the picture`);
  }

  function paint(marks = true) {
    if (!shot.state) return;
    fit();
    const ratio = window.devicePixelRatio || 1;
    const [wide, high] = extent.map((side) => Math.round(side * ratio));
    if (canvas.width !== wide || canvas.height !== high) Object.assign(canvas, { width: wide, height: high });
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.fillStyle = "#2b2b2b";
    context.fillRect(0, 0, wide, high);
    context.imageSmoothingEnabled = place.zoom < 3;
    context.imageSmoothingQuality = "high";
    overlay.style.transform = beside() ? `translateX(${room()}px)` : "";
    const { now, other } = painted;
    if (beside()) {
      within(0, room(), () => drawSide(other, 0));
      within(room(), room(), () => drawSide(now, room()));
    } else if (flipped) drawSide(other ?? now, 0);
    else {
      drawSide(now, 0);
      if (shot.view.compare === "split" && other) drawSplit(other);
      if (shot.view.compare === "difference" && other) drawDifference(other);
    }
    for (const tag of nodes.tags) tag.hidden = !shot.view.compare;
    if (marks) drawGrips();
  }

  const boxAt = (x) => [place.x + x, place.y, size().width * place.zoom, size().height * place.zoom];

  function within(x, wide, drawn) {
    context.save();
    context.beginPath();
    context.rect(x, 0, wide, extent[1]);
    context.clip();
    drawn();
    context.restore();
  }

  // A picture with what lies over it and the border of the frame.
  function drawSide(side, x) {
    const box = boxAt(x);
    context.fillStyle = "#000";
    context.fillRect(...box);
    if (side?.bitmap) context.drawImage(side.bitmap, ...box);
    for (const over of [painted.over, painted.ghost, painted.folds]) if (over?.bitmap && side !== painted.other) context.drawImage(over.bitmap, ...box);
    outline(box, "#55585a", []);
    if (shot.view.windows && side?.about.data) drawWindow(side.about, x);
    if (arrows && side === painted.now) for (const arrow of arrows) drawArrow(arrow, x);
    if (measured) outline([place.x + x + measured[0] * place.zoom, place.y + measured[1] * place.zoom, measured[2] * place.zoom, measured[3] * place.zoom], "#ece8de", [3, 3]);
  }

  function outline([x, y, wide, high], colour, dash) {
    context.setLineDash(dash);
    context.strokeStyle = colour;
    context.lineWidth = 1;
    context.strokeRect(x - 0.5, y - 0.5, wide + 1, high + 1);
    context.setLineDash([]);
  }

  // Where the picture exists, and the frame, with their corners.
  function drawWindow({ data, scale }, x) {
    const [x0, y0, x1, y1] = data.map((edge) => edge * scale);
    outline([place.x + x + x0 * place.zoom, place.y + y0 * place.zoom, (x1 - x0) * place.zoom, (y1 - y0) * place.zoom], "#ece8de", [6, 4]);
    context.fillStyle = "#ece8de";
    context.font = '11px "Chivo Mono", monospace';
    const words = x1 > x0 ? `data ${x0},${y0} to ${x1},${y1}` : "no data";
    context.fillText(words, Math.max(4, place.x + x + x0 * place.zoom + 4), Math.max(34, place.y + y0 * place.zoom - 5));
  }

  function drawArrow([x, y, right, down], shift) {
    const length = Math.hypot(right, down);
    if (length < 0.05) return;
    const [fx, fy] = [place.x + shift + x * place.zoom, place.y + y * place.zoom];
    const [tx, ty] = [fx + right * place.zoom, fy + down * place.zoom];
    const turn = Math.atan2(ty - fy, tx - fx);
    context.strokeStyle = "#ece8de";
    context.lineWidth = 1.2;
    context.beginPath();
    context.moveTo(fx, fy);
    context.lineTo(tx, ty);
    for (const side of [-0.5, 0.5]) {
      context.moveTo(tx, ty);
      context.lineTo(tx - 5 * Math.cos(turn + side), ty - 5 * Math.sin(turn + side));
    }
    context.stroke();
  }

  function drawSplit(other) {
    const box = boxAt(0);
    const border = place.x + box[2] * split;
    within(0, Math.max(0, border), () => drawSide(other, 0));
    context.strokeStyle = "#ece8de";
    context.lineWidth = 1;
    context.beginPath();
    context.moveTo(border, box[1]);
    context.lineTo(border, box[1] + box[3]);
    context.stroke();
  }

  // What differs, four times as bright.
  function drawDifference(other) {
    if (!other.bitmap || !painted.now?.bitmap) return;
    const sheet = new OffscreenCanvas(painted.now.bitmap.width, painted.now.bitmap.height);
    const on = sheet.getContext("2d");
    on.drawImage(painted.now.bitmap, 0, 0);
    on.globalCompositeOperation = "difference";
    on.drawImage(other.bitmap, 0, 0, sheet.width, sheet.height);
    on.globalCompositeOperation = "lighter";
    for (let doubling = 0; doubling < 2; doubling++) on.drawImage(sheet, 0, 0);
    context.drawImage(sheet, ...boxAt(0));
  }

  // After zooming in, the pixels that were not sent.
  function zoomed() {
    if (!shot.state || nodes.play?.running() || (across() ?? size().width) <= (painted.now?.bitmap?.width ?? Infinity)) return;
    well.dataset.wanted = signature();
    clearTimeout(sharpen);
    sharpen = setTimeout(() => ask(shot.trial ? dragScale() : 1), SHARPEN_AFTER_MS);
  }

  const drawMarks = grips(shot, overlay, place, carry, () => paint());
  const drawn = outlines(shot, overlay, place, carry, drawGrips);
  const followed = tracks(shot, overlay, place, carry, drawGrips);
  function drawGrips() {
    drawMarks();
    drawn.draw();
    followed.draw();
  }

  well.addEventListener("dblclick", (event) => drawn.twice(event, toPicture));
  well.addEventListener("keydown", (event) => {
    if (!drawn.key(event)) return;
    event.preventDefault();
    event.stopPropagation();
  });

  // Where the well is, looked up once between two of the screen's refreshes: a look after a change lays out the page.
  let wellBox = null;
  function boxOfWell() {
    if (!wellBox) requestAnimationFrame(() => { wellBox = null; });
    return (wellBox ??= well.getBoundingClientRect());
  }

  function toPicture(event) {
    const box = boxOfWell();
    const x = event.clientX - box.left;
    return { x: ((beside() && x > room() ? x - room() : x) - place.x) / place.zoom, y: (event.clientY - box.top - place.y) / place.zoom };
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
    if (event.button > 1 || event.target.closest(".grip,.sidetag,.scopes")) return;
    well.focus({ preventScroll: true });
    if (drawn.down(event, toPicture) || followed.down(event, toPicture)) return;
    const start = { ...place, at: toPicture(event), cx: event.clientX, cy: event.clientY };
    const line = place.x + size().width * place.zoom * split;
    const onLine = shot.view.compare === "split" && Math.abs(event.clientX - well.getBoundingClientRect().left - line) < 12;
    const measuring = event.shiftKey;
    let moved = false;
    const move = (next) => {
      moved ||= Math.hypot(next.clientX - start.cx, next.clientY - start.cy) > 3;
      if (!moved) return;
      if (measuring) {
        const to = toPicture(next);
        measured = [Math.min(start.at.x, to.x), Math.min(start.at.y, to.y), Math.abs(to.x - start.at.x), Math.abs(to.y - start.at.y)];
        return paint();
      }
      if (onLine) split = Math.min(1, Math.max(0, toPicture(next).x / size().width));
      else Object.assign(place, { x: start.x + next.clientX - start.cx, y: start.y + next.clientY - start.cy, fit: false });
      paint();
    };
    const up = (last) => {
      well.removeEventListener("pointermove", move);
      well.removeEventListener("pointerup", up);
      if (measuring && moved) measure(start.at, toPicture(last));
      else if (!moved) {
        forget();
        paint();
        nodes.clicked?.(toPicture(last));
      }
    };
    well.setPointerCapture(event.pointerId);
    well.addEventListener("pointermove", move);
    well.addEventListener("pointerup", up);
  });

  function forget() {
    measured = null;
    if (!shot.measured) return;
    shot.measured = null;
    shot.tell("measured");
  }

  async function measure(a, b) {
    const whole = (one, other) => [Math.floor(Math.min(one, other)), Math.ceil(Math.max(one, other))];
    const [[x0, x1], [y0, y1]] = [whole(a.x, b.x), whole(a.y, b.y)];
    const at = query({ stage: shot.view.shown, frame: shot.view.frame, x0, y0, x1, y1 });
    shot.measured = [x0, y0, x1, y1].join(",");
    shot.tell("measured");
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
    extent = [well.clientWidth, well.clientHeight];
    paint();
    zoomed();
  }).observe(well);

  shot.watch((what) => {
    if (["faults", "painted", "measured"].includes(what)) return;
    if (what === "frame" || what === "setup") forget();
    fit();
    // Marks wait for no picture: what was selected before has none, and what is dragged takes its own along.
    if (what === "view" || what === "trial") drawGrips();
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
      const [px, py] = extent.map((side) => side / 2);
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
      if (on && !shot.view.compare) ask(1);
    },
    hideGrips(hidden) {
      overlay.style.display = hidden ? "none" : "";
    },
    showHeld(answer) {
      painted = { now: answer, other: null, over: null, ghost: null, folds: null };
      arrows = null;
      paint();
    },
    address,
    across,
    bitmap,
  };
}

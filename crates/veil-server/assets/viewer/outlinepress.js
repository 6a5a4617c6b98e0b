// Outlines under the hand: points placed by clicks, bent and moved by drags, strokes of a brush, and keys.

import { followPointer } from "../base/drag.js";
import { add, cutCurve, less, onCurve, pairs, strokePoints } from "../shot/drawn.js";
import { grabbed } from "./outlinegrab.js";
import { NEAR } from "./drawnmarks.js";

// A stroke's points keep it within so many pixels of the screen of where it was drawn.
const STROKE_NEAR = 1.2;
// Steps along a curve in which the place nearest to a press is looked for.
const STEPS = 40;
const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export class OutlinePress {
  /** @param {import("./drawnmarks.js").DrawnMarks & { draw: () => void }} marks */
  constructor(marks) {
    this.marks = marks;
    this.shot = marks.shot;
  }

  draw() {
    this.marks.draw();
  }

  get dragging() {
    return this.marks.dragging;
  }

  /**
   * The place of the row under the pointer.
   * @param {MouseEvent} event
   */
  own(event) {
    return this.marks.carry.toOwn(this.marks.well.toPicture(event));
  }

  /**
   * Follows a drag: `moved` gets where it is in the row's own places and how far it has come.
   * @param {PointerEvent} event
   * @param {{ moved: (at: Place, by: Place, next: PointerEvent) => void, done?: (far: boolean) => void, left?: () => void }} heard
   */
  follow(event, { moved, done, left = () => this.marks.leave() }) {
    const start = this.own(event);
    followPointer(event, {
      moved: (next) => {
        const here = this.own(next);
        moved(here, less(here, start), next);
      },
      done, left,
    });
  }

  /**
   * How far a place of the row is from the pointer, in pixels of the screen.
   * @param {PointerEvent} event
   */
  #farFrom(event) {
    const screen = this.marks.well.placeOf(event);
    return (/** @type {Place} */ at) => Math.hypot(...less(this.marks.seen(at), screen));
  }

  /**
   * A press on the picture; true where it was for an outline.
   * @param {PointerEvent} event
   */
  down(event) {
    const { marks, shot } = this;
    if (!marks.control || event.button) return false;
    const far = this.#farFrom(event);
    const near = (/** @type {Place} */ at) => far(at) < NEAR;
    const { brush, drawing, shape: index } = shot.outline;
    if (brush) return this.#stroke(event, brush);
    if (drawing) return this.#place(event, drawing, near);
    const shape = marks.chosen;
    if (shape && !shape.hidden && !shape.locked && grabbed(this, event, far, near)) return true;
    const other = marks.shapes.findIndex((one, at) => !one.hidden && at !== index && marks.pointsOf(at).some((point) => near(point.at)));
    if (other >= 0) {
      shot.newOutline({ shape: other });
      return true;
    }
    return Boolean((event.ctrlKey || event.metaKey) && shape) && this.#box(event);
  }

  /**
   * A box that selects the points in it.
   * @param {PointerEvent} event
   */
  #box(event) {
    const { marks, shot } = this;
    const [x0, y0] = marks.well.placeOf(event);
    const within = (/** @type {Place} */ at) => {
      const [x, y] = marks.seen(at);
      const box = marks.boxed;
      return box && x >= box.x && x <= box.x + box.width && y >= box.y && y <= box.y + box.height;
    };
    this.follow(event, {
      moved: (_at, _by, next) => {
        const [x1, y1] = marks.well.placeOf(next);
        marks.boxed = { x: Math.min(x0, x1), y: Math.min(y0, y1), width: Math.abs(x1 - x0), height: Math.abs(y1 - y0) };
        marks.remark();
      },
      done: () => {
        const points = marks.boxed ? new Set(marks.pointsOf().flatMap((point, index) => (within(point.at) ? [index] : []))) : shot.outline.points;
        marks.boxed = null;
        shot.atOutline({ points });
      },
    });
    return true;
  }

  /**
   * A press while a brush is at hand: a stroke along the way of the pointer.
   * @param {PointerEvent} event
   * @param {Brush} brush
   */
  #stroke(event, { width, softness, joins, softens }) {
    const { marks, shot } = this;
    const own = this.own(event);
    const dab = (/** @type {Place} */ at) => ({ at, before: /** @type {Place} */ ([0, 0]), after: /** @type {Place} */ ([0, 0]), soft: 0 });
    const places = [own];
    const drawn = () => strokePoints(places, STROKE_NEAR / marks.well.zoom);
    const drawing = (/** @type {Point[]} */ points) => shot.markOutline({ drawing: { closed: false, points } });
    drawing([dab(own)]);
    this.follow(event, {
      moved: (at) => {
        places.push(at);
        drawing(drawn());
      },
      done: () => {
        // A dab is a stroke of no length.
        const points = places.length > 1 ? drawn() : [dab(own), dab(add(own, [0.01, 0]))];
        const { shapes } = marks;
        shot.atOutline({ drawing: null, shape: shapes.length });
        marks.set([...shapes, { name: this.freeName("stroke"), keys: [{ frame: shot.here, points }], width, softness, joins, ...(joins === "soften" ? { softens } : {}) }]);
      },
      left: () => shot.atOutline({ drawing: null }),
    });
    return true;
  }

  /** @param {string} word */
  freeName(word) {
    const { shapes } = this.marks;
    const names = new Set(shapes.map((shape) => shape.name));
    let number = shapes.length + 1;
    while (names.has(`${word} ${number}`)) number++;
    return `${word} ${number}`;
  }

  /**
   * A press while an outline is being drawn: a point, or the first one again, which closes it.
   * @param {PointerEvent} event
   * @param {Drawing} drawing
   * @param {(at: Place) => boolean} near
   */
  #place(event, { closed, points }, near) {
    const { shot } = this;
    if (closed && points.length > 2 && near(points[0].at)) {
      this.finish();
      return true;
    }
    const at = this.own(event);
    const drawn = (/** @type {Place} */ after) => shot.markOutline({ drawing: { closed, points: [...points, { at, before: less([0, 0], after), after, soft: 0 }] } });
    drawn([0, 0]);
    this.follow(event, { moved: (_at, by) => drawn(by), left: () => shot.atOutline({ drawing: { closed, points } }) });
    return true;
  }

  finish() {
    const { marks, shot } = this;
    const { drawing } = shot.outline;
    const { shapes } = marks;
    if (!drawing || drawing.points.length < 2) return shot.atOutline({ drawing: null });
    const made = { name: this.freeName("outline"), keys: [{ frame: shot.here, points: drawing.points }], ...(drawing.closed ? {} : { width: 6 }) };
    shot.atOutline({ drawing: null, shape: shapes.length, points: new Set() });
    return marks.set([...shapes, made]);
  }

  /**
   * A double press on a curve of the chosen outline puts a point there, in every key.
   * @param {MouseEvent} event
   */
  twice(event) {
    const { marks, shot } = this;
    const shape = marks.chosen;
    if (!shape || shape.locked || shot.outline.drawing) return;
    const own = this.own(event);
    const points = marks.pointsOf();
    let [a, b, t, nearest] = [-1, -1, 0, NEAR / marks.well.zoom];
    for (const [from, to] of pairs(shape, points)) {
      for (let step = 1; step < STEPS; step++) {
        const far = Math.hypot(...less(onCurve(points[from], points[to], step / STEPS), own));
        if (far < nearest) [a, b, t, nearest] = [from, to, step / STEPS, far];
      }
    }
    if (a < 0) return;
    marks.changeAll((all) => {
      const { after, point, before } = cutCurve(all[a], all[b], t);
      const next = all.map((one, at) => (at === a ? { ...one, after } : at === b ? { ...one, before } : one));
      next.splice(a + 1, 0, point);
      return next;
    });
    shot.atOutline({ points: new Set([a + 1]) });
  }

  /**
   * A key on the picture; true where it was for an outline.
   * @param {KeyboardEvent} event
   */
  key(event) {
    const { marks, shot } = this;
    if (!marks.control) return false;
    const { drawing, points, brush } = shot.outline;
    const ends = event.key === "Enter" || event.key === "Escape";
    if (brush && ends) shot.atOutline({ brush: null });
    else if (drawing && event.key === "Escape") shot.atOutline({ drawing: null });
    else if (drawing && event.key === "Enter") this.finish();
    else if (!marks.chosen || marks.chosen.locked) return false;
    else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "a") shot.atOutline({ points: new Set(marks.pointsOf().keys()) });
    else return points.size > 0 && this.#pointKey(event, points);
    return true;
  }

  /**
   * @param {KeyboardEvent} event
   * @param {Set<number>} picked
   */
  #pointKey(event, picked) {
    const { marks, shot } = this;
    const step = STEP[/** @type {keyof STEP} */ (event.key)];
    if (event.key === "Escape") shot.atOutline({ points: new Set() });
    else if (event.key === "Delete" || event.key === "Backspace") this.removePoints(picked);
    else if (step) {
      const size = event.shiftKey ? 10 : 1;
      marks.put(marks.pointsOf().map((point, index) => (picked.has(index) ? { ...point, at: add(point.at, [step[0] * size, step[1] * size]) } : point)));
    } else return false;
    return true;
  }

  /** An outline of one point is none. @param {Set<number>} picked */
  removePoints(picked) {
    const { marks, shot } = this;
    const { shape } = shot.outline;
    if (marks.pointsOf().length - picked.size < 2) marks.set(marks.shapes.filter((_one, index) => index !== shape));
    else marks.changeAll((all) => all.filter((_point, index) => !picked.has(index)));
    shot.atOutline({ points: new Set() });
  }
}

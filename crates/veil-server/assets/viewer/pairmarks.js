// Outlines in pairs on the picture: as they are, as they shall be, and the ties between both.

import { svg } from "../base/parts.js";
import { toast } from "../base/telling.js";
import { full, less, mix, onCurve, pairs as curvesOf } from "../shot/drawn.js";
import { NEAR, SALT, tenth } from "./drawnmarks.js";
import { OutlinePress } from "./outlinepress.js";
import { OutlineMarks } from "./outlines.js";

// As they are they are broken lines, as they shall be whole ones, fences dots.
const [REST, GOAL, FENCE] = ["7 4", "none", "1.5 4"];
// Steps along a curve in which the place nearest to another is looked for.
const STEPS = 32;
const CROSSED = "#e58a5f";

/** @type {PairSet} */
const NOTHING = { pairs: [], fences: [], amounts: [] };

/**
 * Ties by where they are on the outline at rest; those whose goal turns back there are crossed.
 * @param {Place[]} ties
 * @param {number | null} around how many places the goal has around itself, where it closes
 */
export function crossedTies(ties, around) {
  const order = ties.map((tie, index) => ({ tie, index })).sort((a, b) => a.tie[0] - b.tie[0]);
  const first = order[0]?.tie[1] ?? 0;
  const goals = order.map(({ tie }) => (around ? (((tie[1] - first) % around) + around) % around : tie[1]));
  const crossed = new Set();
  goals.forEach((goal, at) => {
    if (goals.some((other, with_) => (with_ < at && other > goal) || (with_ > at && other < goal))) crossed.add(order[at].index);
  });
  return crossed;
}

/**
 * Pairs with one more, which goes all the way and dissolves wholly where it does so by itself.
 * @param {PairSet} held
 * @param {Pair} pair
 * @param {boolean} dissolves
 * @returns {PairSet}
 */
export function withPair({ pairs, fences, amounts }, pair, dissolves) {
  return { pairs: [...pairs, pair], fences, amounts: [...amounts.toSpliced(pairs.length, 0, 1), ...(dissolves ? [1] : [])] };
}

/**
 * The place on an outline at a number along it: even where it is straight.
 * @param {Point[]} points
 * @param {number} along
 */
export function placeAt(points, along) {
  const from = Math.min(Math.floor(along), points.length - 1);
  const [a, b] = [points[from % points.length], points[(from + 1) % points.length]];
  const straight = [...a.after, ...b.before].every((number) => !number);
  return straight ? mix(a.at, b.at, along - from) : onCurve(a, b, along - from);
}

/**
 * How far along an outline the place nearest to another is, and how far off that is.
 * @param {Point[]} points
 * @param {boolean} closed
 * @param {Place} at
 */
export function nearestAlong(points, closed, at) {
  let [along, far] = [0, Infinity];
  for (const [from] of curvesOf({ width: closed ? null : 1 }, points)) {
    for (let step = 0; step <= STEPS; step++) {
      const away = Math.hypot(...less(placeAt(points, from + step / STEPS), at));
      if (away < far) [along, far] = [from + step / STEPS, away];
    }
  }
  return { along, far };
}

export class PairMarks extends OutlineMarks {
  /** A tie that is being drawn, from a place to where the pointer is. @type {{ from: Place, to: Place } | null} */
  tying = null;

  /** @override */
  get type() {
    return "pairs";
  }

  /** @returns {PairSet} */
  get held() {
    return this.control?.setting.pairs ?? NOTHING;
  }

  /** @override Both outlines of each pair in turn, then the fences: in the order that the server counts them in. @returns {Outline[]} */
  get shapes() {
    const { pairs, fences } = this.held;
    const outline = (/** @type {Pair | Fence} */ of, /** @type {KeyedPoints} */ points, /** @type {string} */ word, /** @type {string} */ dash) => ({
      ...points, name: [of.name, word].filter(Boolean).join(" "), width: of.closed === false ? 1 : null, locked: of.locked, hidden: of.hidden, dash,
    });
    return [
      ...pairs.flatMap((pair) => [outline(pair, pair.rest, "as it is", REST), outline(pair, pair.goal, "as it shall be", GOAL)]),
      ...fences.map((fence) => outline(fence, fence.line, "", FENCE)),
    ];
  }

  /** The pair that the chosen outline belongs to; undefined for a fence. */
  get pair() {
    return this.held.pairs[this.shot.outline.shape >> 1];
  }

  /** @param {PairSet} pairs */
  keep(pairs) {
    return this.shot.edit({ do: "set", stage: this.shot.selected, control: this.control?.id, setting: { pairs } });
  }

  /**
   * As many outlines as before with other points; ties stay where they were on them.
   * @param {Outline[]} shapes
   * @override
   */
  set(shapes) {
    const { pairs, fences } = this.held;
    const points = (/** @type {Outline} */ { keys, way, carried }) => ({ keys, way, carried });
    return this.keep({
      ...this.held,
      pairs: pairs.map((pair, at) => {
        const [rest, goal] = [points(shapes[2 * at]), points(shapes[2 * at + 1])];
        const ties = (pair.ties ?? []).map(([a, b]) => /** @type {Place} */ ([moved(pair.rest, rest, a, pair), moved(pair.goal, goal, b, pair)]));
        return { ...pair, rest, goal, ties };
      }),
      fences: fences.map((fence, at) => ({ ...fence, line: points(shapes[2 * pairs.length + at]) })),
    });
  }

  /** @override */
  draw() {
    if (!this.control) return;
    super.draw();
    this.overlay.append(...this.held.pairs.flatMap((pair, at) => (pair.hidden || pair.counts === false ? [] : this.#ties(pair, at))));
    if (this.tying) this.overlay.append(this.#tie(this.tying.from, this.tying.to, SALT, "3 3"));
  }

  /**
   * @param {Pair} pair
   * @param {number} at
   */
  #ties(pair, at) {
    const [rest, goal] = [this.pointsOf(2 * at), this.pointsOf(2 * at + 1)];
    const ties = pair.ties ?? [];
    const crossed = crossedTies(ties, pair.closed === false ? null : goal.length);
    return ties.map(([a, b], index) => this.#tie(placeAt(rest, a), placeAt(goal, b), crossed.has(index) ? CROSSED : SALT, crossed.has(index) ? "none" : "2 3"));
  }

  /**
   * @param {Place} from
   * @param {Place} to
   * @param {string} stroke
   * @param {string} dash
   */
  #tie(from, to, stroke, dash) {
    const [[x0, y0], [x1, y1]] = [this.seen(from), this.seen(to)];
    return svg("g", { class: stroke === CROSSED ? "tie crossed" : "tie", "pointer-events": "none" },
      svg("path", { d: `M${tenth(x0)} ${tenth(y0)}L${tenth(x1)} ${tenth(y1)}`, stroke, "stroke-width": 1.4, "stroke-dasharray": dash, fill: "none" }),
      svg("path", { d: `M${tenth(x0)} ${tenth(y0 - 4)}l4 4l-4 4l-4 -4z`, stroke, fill: "#1f2120" }), svg("path", { d: `M${tenth(x1)} ${tenth(y1 - 4)}l4 4l-4 4l-4 -4z`, fill: stroke }));
  }
}

/**
 * Where a place is on an outline that has got other points.
 * @param {KeyedPoints} before
 * @param {KeyedPoints} after
 * @param {number} along
 * @param {Pair} pair
 */
function moved(before, after, along, pair) {
  const [old, new_] = [before, after].map(({ keys }) => keys[0].points.map(full));
  return old.length === new_.length ? along : nearestAlong(new_, pair.closed !== false, placeAt(old, along)).along;
}

export class PairPress extends OutlinePress {
  /** @returns {PairMarks} */
  get pairMarks() {
    return /** @type {PairMarks} */ (this.marks);
  }

  /** @override @param {PointerEvent} event */
  down(event) {
    if (this.pairMarks.control && !event.button && this.shot.outline.own.tying && this.pairMarks.pair) return this.#tie(event);
    return super.down(event);
  }

  /**
   * While ties are drawn a drag from one outline to the other ties both places; a press on a tie's end takes it away.
   * @param {PointerEvent} event
   */
  #tie(event) {
    const { pairMarks: marks, shot } = this;
    const at = shot.outline.shape >> 1;
    const pair = marks.held.pairs[at];
    const sides = [2 * at, 2 * at + 1].map((shape) => marks.pointsOf(shape));
    const closed = pair.closed !== false;
    const reach = NEAR / marks.well.zoom;
    const place = this.own(event);
    const ties = pair.ties ?? [];
    const change = (/** @type {Place[]} */ next) => marks.keep({ ...marks.held, pairs: marks.held.pairs.map((one, index) => (index === at ? { ...one, ties: next } : one)) });
    const gone = ties.findIndex((tie) => tie.some((along, side) => Math.hypot(...less(placeAt(sides[side], along), place)) < reach));
    if (gone >= 0) {
      change(ties.filter((_tie, index) => index !== gone));
      return true;
    }
    const found = sides.map((points) => nearestAlong(points, closed, place));
    const side = found[0].far <= found[1].far ? 0 : 1;
    if (found[side].far > reach) return false;
    const start = placeAt(sides[side], found[side].along);
    let end = place;
    this.follow(event, {
      moved: (here) => {
        end = here;
        marks.tying = { from: start, to: here };
        marks.remark();
      },
      done: () => {
        marks.tying = null;
        const other = nearestAlong(sides[1 - side], closed, end);
        if (other.far > 2 * reach) {
          toast("a tie goes from one outline of the pair to the other");
          return marks.remark();
        }
        const tie = side ? [other.along, found[side].along] : [found[side].along, other.along];
        change([...ties, /** @type {Place} */ (tie)]);
      },
      left: () => {
        marks.tying = null;
        marks.remark();
      },
    });
    return true;
  }

  /** @override What was drawn is a pair, as it is and as it shall be alike, or a fence. */
  finish() {
    const { pairMarks: marks, shot } = this;
    const { drawing, own } = shot.outline;
    if (!drawing || drawing.points.length < 2) return shot.atOutline({ drawing: null });
    const { pairs, fences, amounts } = marks.held;
    const line = { keys: [{ frame: shot.here, points: drawing.points }] };
    const { closed } = drawing;
    if (own.makes === "fence") {
      shot.newOutline({ shape: 2 * pairs.length + fences.length });
      return marks.keep({ pairs, fences: [...fences, { name: `fence ${fences.length + 1}`, closed, line }], amounts: amounts.toSpliced(pairs.length + fences.length, 0, 1) });
    }
    shot.newOutline({ shape: 2 * pairs.length + 1 });
    const ties = drawing.points.map((_point, index) => /** @type {Place} */ ([index, index]));
    const made = { name: `pair ${pairs.length + 1}`, closed, rest: line, goal: line, ties };
    return marks.keep(withPair(marks.held, made, marks.control?.kind.own === "amount_and_dissolve"));
  }

  /** @override @param {Set<number>} picked */
  removePoints(picked) {
    if (this.marks.pointsOf().length - picked.size < 2) return toast("an outline of a pair keeps two points; the pair is removed on the bench", true);
    return super.removePoints(picked);
  }
}

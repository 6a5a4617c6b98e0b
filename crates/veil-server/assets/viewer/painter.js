// Paints what is there into the well: a picture, two of them compared, what lies over them, borders and arrows.

/**
 * @typedef {{ now: Answer | null, other: Answer | null, over: Answer | null, ghost: Answer | null, folds: Answer | null }} Painted
 *   the two sides of a compare, and what lies over the picture
 */

/** @type {Painted} */
export const NOTHING = { now: null, other: null, over: null, ghost: null, folds: null };

const SALT = "#ece8de";

export class Painter {
  /** @type {Painted} */
  painted = NOTHING;
  /** How far warps move places: from where, and right and down. @type {number[][] | null} */
  arrows = null;
  /** Where the line of a split compare stands, as a share of the picture's width. */
  split = 0.5;
  /** Whether the other side is shown alone, while a key is held. */
  flipped = false;
  /** A box on the picture while it is drawn, and afterwards: left, top, width and height. @type {number[] | null} */
  box = null;

  /**
   * @param {Shot} shot
   * @param {import("./well.js").Well} well
   * @param {HTMLCanvasElement} canvas
   */
  constructor(shot, well, canvas) {
    this.shot = shot;
    this.well = well;
    this.canvas = canvas;
    this.context = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
  }

  paint() {
    const { shot, well, canvas, context } = this;
    const ratio = window.devicePixelRatio || 1;
    const [wide, high] = [well.wide, well.high].map((side) => Math.round(side * ratio));
    if (canvas.width !== wide || canvas.height !== high) Object.assign(canvas, { width: wide, height: high });
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.fillStyle = "#2b2b2b";
    context.fillRect(0, 0, wide, high);
    context.imageSmoothingEnabled = well.zoom < 3;
    context.imageSmoothingQuality = "high";
    const { now, other } = this.painted;
    if (well.halved()) {
      this.#within(0, well.room, () => this.#side(other, 0));
      this.#within(well.room, well.room, () => this.#side(now, well.room));
    } else if (this.flipped) this.#side(other ?? now, 0);
    else {
      this.#side(now, 0);
      if (shot.view.compare === "split" && other) this.#splitLine(other);
    }
  }

  /** Where the split line stands in the well. */
  get splitX() {
    return this.well.x + this.well.size.width * this.well.wideZoom * this.split;
  }

  /**
   * @param {number} x
   * @returns {[number, number, number, number]}
   */
  #frameAt(x) {
    const { well } = this;
    return [well.x + x, well.y, well.size.width * well.wideZoom, well.size.height * well.zoom];
  }

  /**
   * @param {number} x
   * @param {number} wide
   * @param {() => void} drawn
   */
  #within(x, wide, drawn) {
    const { context } = this;
    context.save();
    context.beginPath();
    context.rect(x, 0, wide, this.well.high);
    context.clip();
    drawn();
    context.restore();
  }

  /**
   * A picture with what lies over it and the border of the frame.
   * @param {Answer | null} side
   * @param {number} x
   */
  #side(side, x) {
    const { context, painted, well, box } = this;
    const frame = this.#frameAt(x);
    context.fillStyle = "#000";
    context.fillRect(...frame);
    if (side?.bitmap) context.drawImage(side.bitmap, ...frame);
    for (const over of [painted.over, painted.ghost, painted.folds]) if (over?.bitmap && side !== painted.other) context.drawImage(over.bitmap, ...frame);
    this.#outline(frame, "#55585a", []);
    if (this.shot.view.windows && side?.about.data) this.#window(side.about, x);
    if (this.arrows && side === painted.now) for (const arrow of this.arrows) this.#arrow(arrow, x);
    if (!box) return;
    const [left, top] = well.toWell([box[0], box[1]]);
    this.#outline([left + x, top, box[2] * well.wideZoom, box[3] * well.zoom], SALT, [3, 3]);
  }

  /**
   * @param {number[]} box
   * @param {string} colour
   * @param {number[]} dash
   */
  #outline([x, y, wide, high], colour, dash) {
    const { context } = this;
    context.setLineDash(dash);
    context.strokeStyle = colour;
    context.lineWidth = 1;
    context.strokeRect(x - 0.5, y - 0.5, wide + 1, high + 1);
    context.setLineDash([]);
  }

  /**
   * Where the picture exists, and the frame, with their corners.
   * @param {About} about
   * @param {number} x
   */
  #window({ data = [], scale }, x) {
    const { context, well } = this;
    const [x0, y0, x1, y1] = data.map((edge) => edge * scale);
    const [left, top] = well.toWell([x0, y0]);
    this.#outline([left + x, top, (x1 - x0) * well.wideZoom, (y1 - y0) * well.zoom], SALT, [6, 4]);
    context.fillStyle = SALT;
    context.font = '11px "Chivo Mono", monospace';
    const words = x1 > x0 ? `data ${x0},${y0} to ${x1},${y1}` : "no data";
    context.fillText(words, Math.max(4, left + x + 4), Math.max(34, top - 5));
  }

  /**
   * @param {number[]} arrow
   * @param {number} shift
   */
  #arrow([x, y, right, down], shift) {
    const { context, well } = this;
    const length = Math.hypot(right, down);
    if (length < 0.05) return;
    const [fx, fy] = well.toWell([x + shift / well.wideZoom, y]);
    const [tx, ty] = [fx + right * well.wideZoom, fy + down * well.zoom];
    const turn = Math.atan2(ty - fy, tx - fx);
    context.strokeStyle = SALT;
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

  /** @param {Answer} other */
  #splitLine(other) {
    const { context } = this;
    const [, top, , high] = this.#frameAt(0);
    const border = this.splitX;
    this.#within(0, Math.max(0, border), () => this.#side(other, 0));
    context.strokeStyle = SALT;
    context.lineWidth = 1;
    context.beginPath();
    context.moveTo(border, top);
    context.lineTo(border, top + high);
    context.stroke();
  }
}

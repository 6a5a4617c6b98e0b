// Rows dragged between others, or into slots, which open by name while a row is dragged.

import { followPointer } from "../base/drag.js";
import { el, every, takes, within } from "../base/parts.js";

// So far a press goes before the row comes along.
const SLACK = 6;
// Near the panel's ends it scrolls, by so much at each move.
const [EDGE, SCROLL] = [20, 8];

/** @typedef {{ stage: number, slot: string } | { before: number }} Target */

export class RowDrag {
  /** @type {{ id: number, needs: Set<number> } | null} */
  #dragging = null;

  /**
   * @param {Shot} shot
   * @param {HTMLElement} panel
   * @param {{ rows: () => Line[], height: () => number, redraw: () => void }} braid
   */
  constructor(shot, panel, braid) {
    this.shot = shot;
    this.panel = panel;
    this.braid = braid;
    this.line = el("div", { class: "dropline", "aria-hidden": true });
  }

  /** The row that is dragged. */
  get row() {
    return this.#dragging?.id;
  }

  /**
   * The slots that a dragged row could go into: those of rows that it does not need itself.
   * @param {Row | undefined} row
   */
  openSlots(row) {
    const dragged = this.#dragging;
    const mine = this.shot.row(dragged?.id);
    if (!row || !dragged || !mine || row.id === dragged.id || dragged.needs.has(row.id)) return [];
    return row.slots.filter((slot) => slot.from !== dragged.id && takes(slot, mine.gives));
  }

  /**
   * A row that is dragged goes between others, or into a slot of one.
   * @param {Row} row
   * @param {PointerEvent & { target: any }} event
   */
  grab(row, event) {
    if (event.button || row.knot === "final" || event.target.closest("button,input")) return;
    const ghost = el("div", { class: "dragghost" }, row.name);
    /** @type {Target | null} */
    let target = null;
    followPointer(event, {
      slack: SLACK,
      moved: (next) => {
        if (!this.#dragging) {
          this.#dragging = { id: row.id, needs: this.#neededBy(row.id) };
          document.body.append(ghost);
          this.panel.append(this.line);
          this.braid.redraw();
        }
        ghost.style.transform = `translate(${next.clientX + 10}px, ${next.clientY + 8}px)`;
        target = this.#over(next);
      },
      done: () => this.#end(ghost, () => target && this.#drop(row, target)),
      left: () => this.#end(ghost, () => undefined),
    });
  }

  /**
   * What lies below the pointer, marked.
   * @param {PointerEvent} event
   * @returns {Target}
   */
  #over(event) {
    const marks = ["dropslot", "droppable"];
    const slot = /** @type {HTMLElement | undefined} */ (document.elementsFromPoint(event.clientX, event.clientY).find((node) => marks.some((mark) => node.classList?.contains(mark))));
    for (const one of every(".over", this.panel)) one.classList.remove("over");
    slot?.classList.add("over");
    const bounds = this.panel.getBoundingClientRect();
    const high = this.braid.height();
    const before = within(Math.round((event.clientY - bounds.top + this.panel.scrollTop) / high), 0, this.braid.rows().length - 1);
    this.line.style.display = slot ? "none" : "";
    this.line.style.top = `${before * high - 1}px`;
    if (event.clientY < bounds.top + EDGE) this.panel.scrollTop -= SCROLL;
    if (event.clientY > bounds.bottom - EDGE) this.panel.scrollTop += SCROLL;
    return slot ? { stage: Number(slot.dataset.stage), slot: slot.dataset.slot ?? "" } : { before };
  }

  /**
   * @param {HTMLElement} ghost
   * @param {() => void} drop
   */
  #end(ghost, drop) {
    ghost.remove();
    this.line.remove();
    if (!this.#dragging) return;
    this.#dragging = null;
    // The click that ends a drag selects nothing.
    const swallow = (/** @type {Event} */ click) => click.stopPropagation();
    this.panel.addEventListener("click", swallow, { capture: true });
    setTimeout(() => {
      this.panel.removeEventListener("click", swallow, { capture: true });
      this.braid.redraw();
    });
    drop();
  }

  /**
   * @param {Row} row
   * @param {Target} target
   */
  #drop(row, target) {
    if ("slot" in target) {
      this.shot.edit({ do: "link", stage: target.stage, slot: target.slot, from: { stage: row.id } });
      return;
    }
    const { stages } = this.shot.state.setup;
    const place = (/** @type {number} */ id) => stages.findIndex((stage) => stage.id === id);
    const [from, before] = [place(row.id), place(this.braid.rows()[target.before].id)];
    const to = before > from ? before - 1 : before;
    if (to !== from) this.shot.edit({ do: "move", stage: row.id, to });
  }

  /**
   * Every row that a row needs.
   * @param {number} id
   */
  #neededBy(id) {
    /** @type {Set<number>} */
    const needed = new Set();
    const open = [id];
    for (let one = open.pop(); one !== undefined; one = open.pop()) {
      for (const link of Object.values(this.shot.stage(one)?.links ?? {})) {
        const from = link.from?.stage;
        if (from === undefined || needed.has(from)) continue;
        needed.add(from);
        open.push(from);
      }
    }
    return needed;
  }
}

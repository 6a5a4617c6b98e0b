// The panels about the picture: hidden and shown, gone through by keys, and the switches in their heads.

import { byId } from "../base/parts.js";

/** @type {{ [now in import("../braid/measures.js").Costing]: import("../braid/measures.js").Costing }} */
const NEXT_COSTS = { "": "here", here: "range", range: "" };
const COSTS = { "": "ms", here: "ms here", range: "ms in range" };

export class Panels {
  /** @param {import("./workbench.js").Workbench} bench */
  constructor(bench) {
    this.bench = bench;
  }

  /**
   * @param {"no-braid" | "no-bench"} panel
   * @param {boolean} [on] turned as it comes
   */
  hide(panel, on) {
    document.body.classList.toggle(panel, on);
  }

  /** The picture alone, or all panels again. */
  alone() {
    const { classList } = document.body;
    const on = !(classList.contains("no-braid") && classList.contains("no-bench"));
    this.hide("no-braid", on);
    this.hide("no-bench", on);
  }

  /** The focus goes to the next panel. */
  next() {
    const controls = byId("controls");
    const first = /** @type {HTMLElement | null} */ (controls.querySelector("input,select,button"));
    const panels = [byId("braid"), byId("well"), byId("strip"), ...(first ? [first] : [])];
    const here = (/** @type {HTMLElement} */ panel) => (panel === first ? controls : panel).contains(document.activeElement);
    panels[(panels.findIndex(here) + 1) % panels.length].focus();
  }

  turnCompact() {
    const { shot } = this.bench;
    shot.look({ rows: shot.view.rows === "compact" ? "usual" : "compact" });
  }

  turnCurves() {
    byId("curves").hidden = !byId("curves").hidden;
    byId("show-curves").setAttribute("aria-pressed", String(!byId("curves").hidden));
    this.bench.curves.draw();
  }

  /** What rows cost: at this frame, then over the range, then not. */
  async nextCosts() {
    const { measures } = this.bench.braid;
    const asked = measures.askCosts(NEXT_COSTS[measures.costing]);
    this.drawCosts();
    await asked;
  }

  drawCosts() {
    const { costing } = this.bench.braid.measures;
    byId("costs").setAttribute("aria-pressed", String(costing !== ""));
    byId("costs").textContent = COSTS[costing];
  }
}

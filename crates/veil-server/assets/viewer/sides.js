// The two sides of a compare: what each may show, by a short name that is kept with the view.

import { versionName } from "../base/parts.js";

/** @type {[View["compare"], string][]} */
export const MODES = [["split", "split line"], ["beside", "side by side"], ["difference", "difference"]];

export class Sides {
  /**
   * @param {Shot} shot
   * @param {import("../workbench/known.js").Known} known
   */
  constructor(shot, known) {
    this.shot = shot;
    this.known = known;
  }

  /**
   * Every choice for a side, in groups.
   * @returns {[string, string[][]][]}
   */
  choices() {
    const { shot, known } = this;
    const frames = [...new Set([shot.state.setup.picture.frames.first, shot.view.frame])];
    const plates = (/** @type {boolean} */ reference) => known.plates.filter((plate) => plate.reference === reference).map((plate) => [`reference:${plate.record}`, plate.name]);
    /** @type {[string, string[][]][]} */
    const all = [
      ["", [["now", "as it is now"], ["off", `${shot.stage(shot.selected)?.name ?? "selected row"} off`]]],
      ["kept stills", known.stills.map((still) => [`still:${still.number}`, `${still.number}: ${still.name}`])],
      ["versions", known.versions.map((version) => [`version:${version.number}`, [versionName(version.number), version.name].filter(Boolean).join(" ")])],
      ["renders", known.renders.map((render) => [`render:${render.id}`, `render ${render.id}: ${render.row} ${render.first}–${render.last}`])],
      ["frames", frames.map((frame) => [`frame:${frame}`, `frame ${frame}`])],
      ["rows", shot.state.braid.rows.map((row) => [`row:${row.id}`, row.name])],
      ["references", plates(true)],
      ["plates", plates(false)],
    ];
    return all.filter(([, entries]) => entries.length);
  }

  /**
   * What a side asks of the server beside what the shown row would; none where it cannot be shown.
   * @param {string} side
   * @returns {import("./asker.js").Asked | null}
   */
  asks(side) {
    const trial = this.shot.trial ?? [];
    const [kind, value] = side.split(":");
    if (kind === "now") return { trial };
    if (kind === "off") {
      const row = this.shot.row(this.shot.selected);
      return row && row.knot !== "final" && row.on ? { trial: [...trial, { do: "switch", stage: row.id, on: false }] } : null;
    }
    if (kind === "row") return { trial, stage: Number(value) };
    if (kind === "frame") return { trial, frame: Number(value) };
    return { [kind]: Number(value) };
  }

  /**
   * Which things a side's picture depends on beside the setup and the view.
   * @param {string} side
   */
  mark(side) {
    return side === "off" ? `off ${this.shot.selected}` : side;
  }
}

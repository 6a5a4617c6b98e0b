// What opens and shuts at a row: tools, lists, side strands and groups.

import { lists } from "./entries.js";

/** @typedef {{ name: string, shut: boolean, turn: () => unknown }} Fold */

export class Folding {
  /**
   * @param {Shot} shot
   * @param {import("./entries.js").Entries} entries
   * @param {(id: number, turn: () => unknown) => unknown} keepPlace turns while the row stays where it is on the screen
   */
  constructor(shot, entries, keepPlace) {
    this.shot = shot;
    this.entries = entries;
    this.keepPlace = keepPlace;
  }

  /**
   * What folds to the row while that is shut, then the tool, its lists, the fold itself.
   * @param {Row} row
   * @returns {Fold | null}
   */
  at(row) {
    const turning = (/** @type {() => unknown} */ turn) => () => this.keepPlace(row.id, turn);
    const fold = row.fold && { name: row.fold.group ?? `the strand to ${row.name}`, shut: row.fold.shut, turn: () => this.#turn(row) };
    if (fold?.shut) return fold;
    if (row.unfolded !== null) return { name: row.name, shut: !row.unfolded, turn: turning(() => this.shot.fold("open", row.id)) };
    if (lists(row).length) return { name: `the lists of ${row.name}`, shut: !this.entries.isOpen(row), turn: turning(() => this.entries.turn(row)) };
    return fold;
  }

  /** @param {Row} row */
  #turn(row) {
    return this.keepPlace(row.id, () => (row.fold?.group ? this.shot.fold("groups", row.fold.group) : this.shot.fold("shut", row.id)));
  }

  /**
   * Folds the smallest thing around a row: its strand, or its group.
   * @param {Row} row
   * @param {{ rows: Line[], strands: Strand[] }} layout
   */
  foldFrom(row, { rows, strands }) {
    let index = rows.indexOf(row);
    for (let step = 0; step < rows.length; step++) {
      const here = rows[index];
      if (!here.entry && here.fold && !here.fold.shut) return this.#turnTo(here);
      const next = strands.find((strand) => strand.from_row === index && strand.main);
      if (!next || rows[next.to_row].lane === 0) break;
      index = next.to_row;
    }
    const group = rows.find((one) => !one.entry && row.group && one.fold?.group === row.group);
    return group && !group.entry ? this.#turnTo(group) : undefined;
  }

  /**
   * What is folded away is selected by the row that stands for it.
   * @param {Row} row
   */
  #turnTo(row) {
    this.shot.select([row.id]);
    return this.#turn(row);
  }
}

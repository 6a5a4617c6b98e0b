// Which rows the braid shows: all, those that words name, or those on the way to or from the selected one.

/** @typedef {{ rows: Row[], strands: Strand[] }} Layout */

/**
 * The rows that are let through, with the strands between them.
 * @param {Shot} shot
 * @param {{ words: string, way: string }} asked `way` is "above", "below" or nothing
 * @returns {Layout}
 */
export function filtered(shot, { words, way }) {
  const { rows, strands } = shot.state.braid;
  if (!words && !way) return { rows, strands };
  const near = way ? reached(shot, way === "above") : null;
  const wanted = words.toLowerCase();
  const named = (/** @type {Row} */ row) => `${row.name} ${row.stage.replaceAll("_", " ")} ${row.note} ${row.group}`.toLowerCase().includes(wanted);
  const kept = rows.flatMap((row, index) => ((!near || near.has(row.id)) && (!wanted || named(row)) ? [index] : []));
  const place = new Map(kept.map((index, at) => [index, at]));
  return {
    rows: kept.map((index) => rows[index]),
    strands: strands.flatMap((strand) => {
      const [from_row, to_row] = [place.get(strand.from_row), place.get(strand.to_row)];
      return from_row === undefined || to_row === undefined ? [] : [{ ...strand, from_row, to_row }];
    }),
  };
}

/**
 * The rows that lead to the selected one, or that it leads to, with itself.
 * @param {Shot} shot
 * @param {boolean} above
 */
function reached(shot, above) {
  const { rows, strands } = shot.state.braid;
  const near = new Set([shot.selected]);
  const ordered = above ? strands.toSorted((a, b) => b.to_row - a.to_row) : strands.toSorted((a, b) => a.from_row - b.from_row);
  for (const strand of ordered) {
    const [here, there] = above ? [strand.to_row, strand.from_row] : [strand.from_row, strand.to_row];
    if (near.has(rows[here].id)) near.add(rows[there].id);
  }
  return near;
}

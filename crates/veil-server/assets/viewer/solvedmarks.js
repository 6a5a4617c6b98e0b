// Where a solved camera sees the places that it was solved from.

import { get, query } from "../base/api.js";
import { svg } from "../base/parts.js";
import { trying } from "../base/telling.js";
import { INK, SALT } from "./drawnmarks.js";

// A point is drawn this large, and so much larger for each pixel that it is off, up to so much.
const [SMALL, LARGER, LARGEST] = [3, 2, 12];

/** What was asked for last. @type {{ key: string, seen: SolvedCamera | null }} */
let last = { key: "", seen: null };

/**
 * Marks of its points at this frame; what is not known yet is asked for, and drawn when it is.
 * @param {Shot} shot
 * @param {(at: Place) => Place} seen
 */
export function solvedMarks(shot, seen) {
  const { found } = shot.tracking.solve;
  if (!found) return [];
  const key = `${found.path} ${found.error} ${found.points[0]?.place} ${shot.here}`;
  if (last.key !== key) ask(shot, key, found.path);
  return (last.seen?.points ?? []).flatMap(({ name, at, error }) => {
    if (!at) return [];
    const [cx, cy] = seen(at);
    const r = Math.min(LARGEST, SMALL + LARGER * error);
    return [svg("circle", { cx, cy, r, fill: "none", stroke: INK, "stroke-width": 3 }), svg("circle", { cx, cy, r, fill: "none", stroke: SALT, "stroke-width": 1.2, "data-solved": name })];
  });
}

/**
 * @param {Shot} shot
 * @param {string} key
 * @param {string} path
 */
async function ask(shot, key, path) {
  last = { ...last, key };
  const found = await trying(() => get(`${shot.base}/tracks/solved?${query({ path, frame: shot.here })}`));
  if (last.key !== key) return;
  last = { key, seen: found ?? null };
  shot.atTrack({});
}

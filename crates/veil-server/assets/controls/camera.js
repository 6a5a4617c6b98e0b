// A camera by hand: its numbers on the bench, or another row's camera that it is the same as.

import { choose, framed } from "../base/parts.js";
import { feedsOf } from "../shot/keys.js";

// How each of its numbers is counted, and what its slider covers.
const KINDS = /** @type {[string, Place][]} */ ([
  ["metres", [-20, 20]], ["metres", [-20, 20]], ["metres", [-20, 20]],
  ["degrees", [-180, 180]], ["degrees", [-90, 90]], ["degrees", [-180, 180]],
  ["millimetres", [8, 200]], ["millimetres", [4, 70]],
]);

/** @type {ControlType} */
export const camera = {
  lines: (lines, id, control) => [
    ...sameAs(lines, id, control),
    ...control.axes.map((_axis, index) => {
      const [unit, slider] = KINDS[index];
      return lines.number(id, { ...control, kind: { ...control.kind, unit, slider } }, index);
    }),
  ],
};

/**
 * Which row's camera it is, where there is another.
 * @param {import("../bench/lines.js").Lines} lines
 * @param {number} id
 * @param {Control} control
 */
function sameAs(lines, id, control) {
  const { shot } = lines;
  const others = shot.state.setup.stages.flatMap((row) => shot.controls(row.id).filter((one) => one.kind.type === "camera" && !(row.id === id && one.id === control.id)).map((one) => ({ row, one })));
  if (!others.length) return [];
  const feeds = feedsOf(control.setting);
  const names = (/** @type {any} */ feed, /** @type {number} */ axis, /** @type {{ stage: number, control: string }} */ of) =>
    feed.follow?.stage === of.stage && feed.follow.control === of.control && (feed.follow.axis ?? 0) === axis;
  const key = (/** @type {{ stage: number, control: string }} */ of) => `${of.stage} ${of.control}`;
  const offered = others.map(({ row, one }) => ({ of: { stage: row.id, control: one.id }, name: others.some((other) => other.row === row && other.one !== one) ? `${row.name}: ${one.name}` : row.name }));
  const now = offered.find(({ of }) => feeds.every((feed, axis) => names(feed, axis, of)));
  const take = (/** @type {string} */ value) => {
    const found = offered.find(({ of }) => key(of) === value);
    // On its own again, it stays what it is at this frame.
    const axes = found ? feeds.map((_feed, axis) => ({ follow: { ...found.of, axis } })) : shot.numbers(id, () => {})?.[control.id];
    lines.set(id, control, axes ? { axes } : null);
  };
  const field = choose(`${control.name}: same as`, now ? key(now.of) : "", [["", "numbers of its own"], ...offered.map(({ of, name }) => [key(of), `as in ${name}`])], take);
  return [lines.line({ ...control, name: "same as" }, framed(field))];
}

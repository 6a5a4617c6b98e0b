// New rows: where they go, and what is said where that is not simply after the selected one.

import { toast } from "../base/telling.js";

/**
 * Adds by a command; a new row becomes selected, and one added directly after the shown row becomes the shown one. A
 * row that has a side slot for what the selected one gives takes it there and goes on the shown strand, unless it is
 * added the plain way.
 * @param {Shot} shot
 * @param {Command} asked
 * @param {{ after?: number | null, way?: "meant" | "plain" }} [how]
 * @returns {Promise<State | null>}
 */
export async function addRow(shot, asked, { after = asked.after, way = "meant" } = {}) {
  const adds = ["add", "place_tool"].includes(asked.do);
  const { shown } = shot.view;
  const command = placed(shot, asked, adds && way === "meant");
  const state = await shot.edit(command);
  const row = state?.step?.row;
  if (row === undefined || row === null) return state;
  const main = shot.stage(row)?.links?.main?.from?.stage ?? after;
  const follows = main === shown && shot.row(row)?.gives === shot.row(shown)?.gives;
  shot.select([row], shot.join);
  if (follows) shot.showRow(row);
  if (adds && command.on !== undefined) tellWay(shot, command, row, shown);
  return state;
}

/**
 * The command with the place that its row is to go to.
 * @param {Shot} shot
 * @param {Command} command
 * @param {boolean} meant
 * @returns {Command}
 */
function placed(shot, command, meant) {
  if (shot.join && !["duplicate", "together"].includes(command.do)) {
    const { stage, slot } = shot.join;
    const from = shot.stage(stage)?.links?.[slot]?.from?.stage;
    return { ...command, after: from ?? null, into: [stage, slot] };
  }
  return meant ? { ...command, on: shot.view.shown } : command;
}

/**
 * Says where a new row went, where that is not simply after the selected one, and offers the other way.
 * @param {Shot} shot
 * @param {Command} command
 * @param {number} row
 * @param {number} shown
 */
function tellWay(shot, command, row, shown) {
  const plain = { ...command, on: undefined };
  const links = shot.stage(row)?.links ?? {};
  const slot = Object.entries(links).find(([id, link]) => id !== "main" && link.from.stage === command.after)?.[0];
  const other = (/** @type {() => void} */ run) => async () => {
    await shot.change("undo", {});
    run();
  };
  const name = (/** @type {number | undefined} */ id) => shot.row(id)?.name ?? "nothing";
  if (slot) {
    const told = shot.row(row)?.slots.find((one) => one.id === slot)?.name ?? slot.replaceAll("_", " ");
    toast(`${name(row)} takes ${name(command.after)} as its ${told}, on the strand of ${name(links.main?.from.stage)}`, false, {
      words: "after it instead",
      run: other(() => addRow(shot, plain, { way: "plain" })),
    });
    return;
  }
  const pictures = [command.after, shown].every((id) => shot.row(id)?.gives === "picture");
  if (command.kind !== "blend" || !pictures || shown === command.after || shot.row(shown)?.knot === "final") return;
  toast(`${name(command.after)} lies below in ${name(row)}`, false, {
    words: `lay it above ${name(shown)}`,
    run: other(async () => {
      const added = await addRow(shot, { ...plain, after: shown }, { way: "plain" });
      const blend = added?.step?.row;
      if (blend !== undefined) await shot.edit({ do: "link", stage: blend, slot: "layer", from: { stage: command.after } });
    }),
  });
}

// A grade's match: dark, middle and bright of what comes in and of a plate, picked with the measured box.

import { choose, el, framed } from "../base/parts.js";
import { toast } from "../base/telling.js";
import { boxMean } from "./boxmean.js";

const TONES = ["dark", "middle", "bright"];

/** @typedef {{ from: string, element: number[][], plate: number[][] }} Picks */

/** What was picked for each row; it is only kept until the page is left. @type {Map<number, Picks>} */
const picked = new Map();

/**
 * @param {Shot} shot
 * @param {Stage} stage
 * @param {() => void} redraw
 */
export function matchingNode(shot, stage, redraw) {
  const picks = picked.get(stage.id) ?? { from: "", element: [], plate: [] };
  picked.set(stage.id, picks);
  const rows = shot.state.braid.rows.filter((row) => row.gives === "picture" && row.id !== stage.id && row.knot !== "final");
  const own = stage.links?.main?.from?.stage;
  picks.from ||= String(rows.find((row) => row.id !== own)?.id ?? own ?? "");
  const from = choose("row whose plate is matched", picks.from, rows.map((row) => [row.id, row.name]), (id) => { picks.from = id; });
  const take = async (/** @type {"element" | "plate"} */ side, /** @type {number} */ tone) => {
    const source = side === "element" ? own : Number(picks.from);
    if (!source) return toast(`${stage.name} takes no picture yet`);
    const mean = await boxMean(shot, source);
    if (!mean) return;
    picks[side][tone] = mean;
    redraw();
  };
  const told = (/** @type {number[] | undefined} */ mean) => (mean ? mean.map((value) => value.toFixed(3)).join(" ") : "pick");
  const pick = (/** @type {"element" | "plate"} */ side, /** @type {number} */ tone) => el("button", { class: "button num", title: "the mean within the box dragged with Shift", "aria-label": `pick ${TONES[tone]} of the ${side}`, onclick: () => take(side, tone) }, told(picks[side][tone]));
  const lines = TONES.map((name, tone) => el("div", { class: "ctl match" }, el("span", { class: "lab" }, name), pick("element", tone), pick("plate", tone)));
  const full = TONES.every((_name, tone) => picks.element[tone] && picks.plate[tone]);
  const match = el("button", { class: "button", disabled: !full, title: "lift, gamma and gain that bring the element's colours to the plate's; what else is set goes back", onclick: () => shot.edit({ do: "match_grade", stage: stage.id, element: picks.element, plate: picks.plate }) }, "match");
  return [el("div", { class: "group" }, "match"), el("div", { class: "ctl match" }, el("span"), el("span", { class: "quiet" }, "comes in"), framed(from)), ...lines, el("div", { class: "deeds" }, match)];
}

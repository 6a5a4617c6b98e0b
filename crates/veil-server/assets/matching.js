// A grade's match: dark, middle and bright of what comes in and of a plate, picked with the measured box.

import { get, query } from "./api.js";
import { el, toast, trying } from "./parts.js";

const TONES = ["dark", "middle", "bright"];
const SIDES = { element: "element", plate: "plate" };

// What was picked for each row; it is only kept until the page is left.
const picked = new Map();

export function matchingNode(shot, stage, redraw) {
  const picks = picked.get(stage.id) ?? { from: "", element: [], plate: [] };
  picked.set(stage.id, picks);
  const rows = shot.state.braid.rows.filter((row) => row.gives === "picture" && row.id !== stage.id && row.knot !== "final");
  const own = stage.links?.main?.from?.stage;
  picks.from ||= String(rows.find((row) => row.id !== own)?.id ?? own ?? "");
  const from = el("select", { "aria-label": "row whose plate is matched", onchange: () => { picks.from = from.value; } }, ...rows.map((row) => el("option", { value: row.id, selected: String(row.id) === picks.from }, row.name)));
  const take = async (side, tone) => {
    if (!shot.measured) return toast("first drag a box on the picture with Shift held");
    const source = side === SIDES.element ? own : Number(picks.from);
    if (!source) return toast(`${stage.name} takes no picture yet`);
    const [x0, y0, x1, y1] = shot.measured.split(",");
    const found = await trying(() => get(`${shot.base}/region?${query({ stage: source, frame: shot.view.frame, x0, y0, x1, y1 })}`));
    if (found?.mean.length !== 4) return;
    picks[side][tone] = found.mean.slice(0, 3);
    redraw();
  };
  const told = (mean) => (mean ? mean.map((value) => value.toFixed(3)).join(" ") : "pick");
  const pick = (side, tone) => el("button", { class: "button veil num", title: "the mean within the box dragged with Shift", "aria-label": `pick ${TONES[tone]} of the ${side}`, onclick: () => take(side, tone) }, told(picks[side][tone]));
  const lines = TONES.map((name, tone) => el("div", { class: "ctl match" }, el("span", { class: "lab" }, name), pick(SIDES.element, tone), pick(SIDES.plate, tone)));
  const full = TONES.every((_, tone) => picks.element[tone] && picks.plate[tone]);
  const match = el("button", { class: "button veil", disabled: !full, title: "lift, gamma and gain that bring the element's colours to the plate's; what else is set goes back", onclick: () => shot.edit({ do: "match_grade", stage: stage.id, element: picks.element, plate: picks.plate }) }, "match");
  return [el("div", { class: "group" }, "match"), el("div", { class: "ctl match" }, el("span"), el("span", { class: "quiet" }, "comes in"), el("span", { class: "select veil" }, from)), ...lines, el("div", { class: "deeds" }, match)];
}

// The list beside a row; arrows move in it, Escape leaves it.

import { apart, choose, el, every, framed } from "../base/parts.js";
import { openPopup } from "../base/popup.js";

const TABS = ["clay", "moss", "slate", "plum", "sand", "ice"];

/**
 * @param {Shot} shot
 * @param {import("./rowdeeds.js").RowDeeds} deeds
 * @param {{ at: { x: number, y: number }, commands: Deed[], back: HTMLElement }} where `back` has the focus afterwards
 */
export function openRowMenu(shot, deeds, { at, commands, back }) {
  const stage = shot.stage(shot.selected);
  const several = deeds.chosen().length > 1;
  if (!stage || !deeds.chosen().length) return;
  const then = (/** @type {() => unknown} */ run) => {
    close();
    run();
  };
  const item = (/** @type {Deed} */ { name, keys, run }) => el("button", { class: "dropdown-item", role: "menuitem", onclick: () => then(run) }, el("span", {}, name), el("span", { class: "num quiet" }, keys));
  const kinds = deeds.kinds().filter((one) => one.id !== stage.kind).map((one) => [one.id, one.name]);
  const kind = choose("another kind", "", [["", "becomes another kind"], ...kinds], (id) => then(() => deeds.becomes(id)));
  const written = (/** @type {string} */ name, /** @type {string} */ placeholder, /** @type {string | undefined} */ value, /** @type {(text: string) => unknown} */ take) => el("input", {
    class: "input", "aria-label": name, placeholder, value: value ?? "",
    onkeydown: (event) => {
      if (event.key !== "Escape" && event.key !== "ArrowDown" && event.key !== "ArrowUp") apart(event);
      if (event.key === "Enter") then(() => take(event.target.value));
    },
  });
  const tabs = el("div", { class: "tabpicks", role: "group", "aria-label": "colour at the name" },
    ...TABS.map((tab) => el("button", { class: `tabpick tab-${tab}`, "aria-label": tab, title: tab, "aria-pressed": stage.tab === tab, onclick: () => then(() => deeds.mark(stage.tab === tab ? null : tab)) }, el("i"))));
  const pop = el("div", { class: "dropdown dropdown-content pop rowmenu", role: "menu", "aria-label": several ? `${deeds.chosen().length} rows` : stage.name },
    ...commands.map(item), several || stage.tool ? null : framed(kind), tabs,
    several ? null : written("note", "a note beside the row", stage.note, (text) => deeds.note(text)),
    written("name of the group", "name of its group", stage.group, (text) => deeds.group(text.trim())));
  pop.addEventListener("keydown", (event) => {
    const all = every("button,select,input", pop);
    const move = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const target = /** @type {HTMLElement} */ (event.target);
    if (!move || target.tagName === "SELECT") return;
    all[(all.indexOf(target) + move + all.length) % all.length].focus();
    event.preventDefault();
    event.stopPropagation();
  });
  const close = openPopup(pop, { back, place: () => [at.x, at.y] });
  pop.querySelector("button")?.focus();
}

// Everything that is to be checked in a setup, with the way to each row.

import { openDialog } from "../base/dialog.js";
import { button, el } from "../base/parts.js";

/** @param {Shot} shot */
export function faultList(shot) {
  const goTo = (/** @type {number} */ id) => {
    dialog.close();
    shot.select([id]);
    shot.bring(id);
  };
  const mend = (/** @type {Fault} */ fault, /** @type {Command} */ command) => {
    goTo(fault.stage);
    shot.edit(command);
  };
  const line = (/** @type {Fault} */ fault) => el("li", {},
    el("button", { class: "button is-ghost", title: "to the row", onclick: () => goTo(fault.stage) }, el("b", {}, shot.stage(fault.stage)?.name)),
    el("span", { class: "grow" }, fault.message),
    fault.mend && button(fault.mend.name, "", () => fault.mend && mend(fault, fault.mend.command)));
  const dialog = openDialog("to check", [el("ul", { class: "tocheck" }, ...shot.told().map(line))]);
}

// When what is keyed inside a tool starts, and how long it lasts.

import { apart, arithmetic, el, short } from "../base/parts.js";
import { toast } from "../base/telling.js";

/**
 * @param {Shot} shot
 * @param {Stage} stage
 */
export function paceNode(shot, stage) {
  const pace = shot.row(stage.id)?.pace;
  if (!pace) return [];
  const field = (/** @type {string} */ name, /** @type {string} */ what, /** @type {number} */ value, /** @type {string} */ help) => {
    const text = `${short(value, 2)} fr`;
    /** @type {HTMLInputElement} */
    const box = el("input", {
      class: "input num", value: text, "aria-label": name, "data-field": `${stage.id}-${what}`, title: help,
      onfocus: () => box.select(),
      onkeydown: (event) => {
        if (event.key === "Enter") box.blur();
        apart(event);
      },
      onchange: () => {
        const number = arithmetic(box.value);
        if (Number.isNaN(number)) {
          toast(`\`${box.value}\` is not a number; ${name} stays as it was`, true);
          box.value = text;
          return;
        }
        shot.edit({ do: "pace", stage: stage.id, [what]: number });
      },
    });
    return el("div", { class: "ctl pace", title: help }, el("span", { class: "lab" }, name), box);
  };
  const fields = [field("starts at", "starts", pace.starts, "Frame of the first key inside; all keys go along.")];
  if (pace.lasts > 0) fields.push(field("lasts", "lasts", pace.lasts, "Frames from the first key inside to the last; all keys are stretched together."));
  return [el("div", { class: "group" }, "pace"), ...fields];
}

// When what is keyed inside a tool starts, and how long it lasts.

import { arithmetic, el, short, toast } from "./parts.js";

export function paceNode(shot, stage) {
  const pace = shot.row(stage.id)?.pace;
  if (!pace) return [];
  const field = (name, what, value, help) => {
    const text = `${short(value, 2)} fr`;
    const box = el("input", {
      class: "veil-field num", value: text, "aria-label": name, "data-field": `${stage.id}-${what}`, title: help,
      onfocus: () => box.select(),
      onkeydown: (event) => { if (event.key === "Enter") box.blur(); event.stopPropagation(); },
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

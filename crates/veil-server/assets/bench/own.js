// Controls that a person added to the setup or to a tool, and a line to add another.

import { apart, button, choose, el, framed } from "../base/parts.js";

/**
 * @param {Shot} shot
 * @param {Stage} stage
 * @param {import("./lines.js").Lines} controls
 */
export function ownParts(shot, stage, controls) {
  const own = shot.controls(stage.id).filter((control) => control.own);
  let kind = "number";
  const add = () => shot.edit({ do: "add_own", stage: stage.id, name: name.value, kind });
  const name = el("input", {
    class: "input", placeholder: "name", "aria-label": "name of a new control",
    onkeydown: (event) => {
      apart(event);
      if (event.key === "Enter") add();
    },
  });
  const kinds = choose("what the new control holds", kind, ["number", "point", "colour", "switch"].map((one) => [one, one]), (one) => { kind = one; });
  const words = stage.id === 0 ? "Controls of the whole setup: key them, name them in formulas, let others follow them." : "Controls of this tool, for formulas inside of it.";
  return [
    el("div", { class: "group" }, "own controls"), el("p", { class: "aside" }, words), ...own.flatMap((control) => [ownHead(shot, stage, control), ...controls.of(stage.id, control)]),
    el("div", { class: "ownhead" }, name, framed(kinds), button("add", "", add)),
  ];
}

/**
 * @param {Shot} shot
 * @param {Stage} stage
 * @param {Control} control
 */
function ownHead(shot, stage, control) {
  const rename = (/** @type {string} */ name) => shot.edit({ do: "rename_own", stage: stage.id, control: control.id, name });
  return el("div", { class: "ownhead" },
    el("input", { class: "input", value: control.name, "aria-label": `name of ${control.name}`, onkeydown: apart, onchange: (event) => rename(event.target.value) }),
    el("span", { class: "num quiet", title: "what formulas call it" }, control.word), el("span", { class: "grow" }),
    el("button", { class: "button is-ghost quiet", "aria-label": `remove ${control.name}`, onclick: () => shot.edit({ do: "remove_own", stage: stage.id, control: control.id }) }, "×"));
}

// Asks for a new show, or for another name of one.

import { post } from "../base/api.js";
import { openDialog } from "../base/dialog.js";
import { choose, el, framed } from "../base/parts.js";
import { trying } from "../base/telling.js";

const SPACES = [["bt709", "linear BT.709"], ["acescg", "ACEScg"]];

const line = (/** @type {string} */ label, /** @type {Child[]} */ ...content) => el("label", { class: "line" }, label, ...content);
const nameField = (/** @type {string} */ value, /** @type {() => void} */ entered) => el("input", { class: "input", "aria-label": "name", value, placeholder: "name of the show", onkeydown: (event) => event.key === "Enter" && entered() });

export function askNewShow() {
  let working = "bt709";
  const number = (/** @type {string} */ label, /** @type {number} */ value) => el("input", { class: "input num", "aria-label": label, value, size: 5 });
  const [fps, width, height] = [number("frame rate", 24), number("width", 1920), number("height", 1080)];
  const make = async () => {
    const asked = { name: name.value, working, fps: Number(fps.value), size: [Number(width.value), Number(height.value)] };
    if (await trying(() => post("/api/shows", asked))) location.href = `/?show=${encodeURIComponent(asked.name.trim())}`;
  };
  const name = nameField("", make);
  const spaces = choose("works in", working, SPACES, (space) => { working = space; });
  openDialog("new show", [line("name", name), line("frames a second", fps), line("size", el("span", {}, width, " x ", height)), line("works in", framed(spaces))], [
    el("button", { class: "button is-primary is-outlined", onclick: make }, "make the show"),
  ]);
}

/** @param {string} show */
export function askRename(show) {
  const keep = async () => {
    const renamed = await trying(() => post(`/api/shows/${encodeURIComponent(show)}/rename`, { name: name.value }));
    if (renamed) location.href = `/?show=${encodeURIComponent(renamed.name)}`;
  };
  const name = nameField(show, keep);
  openDialog(`rename ${show}`, [line("name", name)], [el("button", { class: "button is-primary is-outlined", onclick: keep }, "rename")]);
  name.select();
}

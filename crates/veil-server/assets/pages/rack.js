// The rack: takes in tools' files, and lets shots take newer numbers.

import { post, query, remove } from "../base/api.js";
import { openDialog } from "../base/dialog.js";
import { button as plainButton, el, every, fieldOf } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";

/**
 * What a file holds as JSON.
 * @param {File} file
 */
async function readTool(file) {
  try {
    return JSON.parse(await file.text());
  } catch (error) {
    throw new Error(`\`${file.name}\` is no JSON file; nothing was taken in`, { cause: error });
  }
}

fieldOf("import").onchange = async () => {
  const [file] = fieldOf("import").files ?? [];
  if (!file) return;
  try {
    const tool = await readTool(file);
    if (await trying(() => post("/api/tools", tool))) location.reload();
  } catch (error) {
    for (const node of every(".faults")) node.replaceChildren(el("p", { class: "fault" }, error instanceof Error ? error.message : String(error)));
  }
};

for (const button of every(".take-away")) {
  button.onclick = async () => {
    if (await trying(() => remove(`/api/tools/${button.dataset.id}`))) location.reload();
  };
}

// A shot's frame before and after its row takes the newest number; one edit of that shot, which it can undo.
for (const button of every(".take")) {
  const { shot = "", stage, tool, frame, last } = button.dataset;
  const base = `/api/shots/${shot.split("/").map(encodeURIComponent).join("/")}`;
  const picture = (/** @type {string} */ words, /** @type {string} */ taking = "") => el("figure", {}, el("img", { alt: words, src: `${base}/still?${query({ stage: last, frame, taking: taking || null })}` }), el("figcaption", {}, words));
  button.onclick = () => {
    const words = button.textContent ?? "";
    const take = async () => {
      if (!(await trying(() => post(`${base}/take-tool`, { stage: Number(stage), tool: Number(tool) })))) return;
      dialog.close();
      toast(`${shot} has taken it; its undo takes it back`);
      location.reload();
    };
    const pair = el("div", { class: "pair" }, picture("as it is"), picture(`with ${words.replace("take ", "")}`, `${stage}:${tool}`));
    const dialog = openDialog(`${words} in ${button.closest("li")?.querySelector("a")?.textContent}`, [pair], [
      plainButton("leave it", "", () => dialog.close()), el("button", { class: "button is-primary is-outlined", onclick: take }, words),
    ]);
  };
}

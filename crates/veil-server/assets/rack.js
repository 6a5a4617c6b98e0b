// The rack: takes in tools' files, and lets shots take newer numbers.

import { post, query, remove } from "./api.js";
import { openDialog } from "./dialog.js";
import { el, toast, trying } from "./parts.js";

document.getElementById("import").onchange = async (event) => {
  const [file] = event.target.files;
  if (!file) return;
  let value;
  try {
    value = JSON.parse(await file.text());
  } catch {
    document.querySelector(".faults").replaceChildren(el("p", { class: "fault" }, `\`${file.name}\` is no JSON file; nothing was taken in`));
    return;
  }
  if (await trying(() => post("/api/tools", value))) location.reload();
};

for (const button of document.querySelectorAll(".take-away")) {
  button.onclick = async () => { if (await trying(() => remove(`/api/tools/${button.dataset.id}`))) location.reload(); };
}

// A shot's frame before and after its row takes the newest number; one edit of that shot, which it can undo.
for (const button of document.querySelectorAll(".take")) {
  const { shot, stage, tool, frame, last } = button.dataset;
  const base = `/api/shots/${shot.split("/").map(encodeURIComponent).join("/")}`;
  const picture = (words, taking) => el("figure", {}, el("img", { alt: words, src: `${base}/still?${query({ stage: last, frame, taking })}` }), el("figcaption", {}, words));
  button.onclick = () => {
    const words = button.textContent;
    const dialog = openDialog(`${words} in ${button.closest("li").querySelector("a").textContent}`, [
      el("div", { class: "pair" }, picture("as it is"), picture(`with ${words.replace("take ", "")}`, `${stage}:${tool}`)),
    ], [
      el("button", { class: "button veil", onclick: () => dialog.close() }, "leave it"),
      el("button", { class: "button veil brass", onclick: async () => {
        if (!(await trying(() => post(`${base}/take-tool`, { stage: Number(stage), tool: Number(tool) })))) return;
        dialog.close();
        toast(`${shot} has taken it; its undo takes it back`);
        location.reload();
      } }, words),
    ]);
  };
}

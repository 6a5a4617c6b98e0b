// The rack: takes in tools' files.

import { post } from "./api.js";
import { el, trying } from "./parts.js";

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

// The bin: puts back, and empties.

import { post } from "../base/api.js";
import { asked } from "../base/dialog.js";
import { el, every } from "../base/parts.js";
import { trying } from "../base/telling.js";

for (const button of every(".back")) {
  button.onclick = async () => {
    if (await trying(() => post(`/api/bin/${button.dataset.id}/back`, {}))) location.reload();
  };
}

for (const button of every("#empty")) {
  button.onclick = async () => {
    const count = every(".back").length;
    const words = `${count} thing${count === 1 ? "" : "s"} and the files that belong to nothing else will be gone for good.`;
    if (!(await asked("empty the bin", [el("p", {}, words)], "empty it"))) return;
    const done = await trying(() => post("/api/bin/empty", {}));
    if (!done) return;
    if (done.faults.length === 0) location.reload();
    for (const node of every(".faults")) node.replaceChildren(...done.faults.map((/** @type {string} */ text) => el("p", { class: "fault" }, text)));
  };
}

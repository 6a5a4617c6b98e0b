// The bin: puts back, and empties.

import { post } from "./api.js";
import { asked, el, trying } from "./parts.js";

for (const button of document.querySelectorAll(".back")) {
  button.onclick = async () => {
    if (await trying(() => post(`/api/bin/${button.dataset.id}/back`, {}))) location.reload();
  };
}

const empty = document.getElementById("empty");
if (empty) {
  empty.onclick = async () => {
    const count = document.querySelectorAll(".back").length;
    if (!(await asked("empty the bin", `${count} thing${count === 1 ? "" : "s"} and the files that belong to nothing else will be gone for good.`, "empty it"))) return;
    const done = await trying(() => post("/api/bin/empty", {}));
    if (!done) return;
    if (done.faults.length === 0) location.reload();
    document.querySelector(".faults").replaceChildren(...done.faults.map((text) => el("p", { class: "fault" }, text)));
  };
}

// The plates page: takes dropped files, looks in the folder, says what colours mean.

import { post, send } from "./api.js";
import { el, trying } from "./parts.js";

for (const section of document.querySelectorAll("section[data-show]")) {
  const base = `/api/shows/${encodeURIComponent(section.dataset.show)}`;
  const faults = section.querySelector(".faults");
  const drop = section.querySelector(".drop");

  const after = (answer) => {
    if (!answer) return;
    if (answer.faults.length === 0) location.reload();
    faults.replaceChildren(...answer.faults.map((text) => el("p", { class: "fault" }, text)));
  };

  const take = async (files) => {
    const form = new FormData();
    for (const file of files) form.append("file", file, file.name);
    drop.classList.add("over");
    after(await trying(() => send(`${base}/upload`, form)));
    drop.classList.remove("over");
  };

  section.querySelector(".scan").onclick = async () => after(await trying(() => post(`${base}/scan`, {})));
  section.querySelector("input[type=file]").onchange = (event) => take(event.target.files);
  const working = section.querySelector(".working");
  working.onchange = () => trying(() => post(`${base}/working`, { working: working.value }));
  drop.ondragover = (event) => { event.preventDefault(); drop.classList.add("over"); };
  drop.ondragleave = () => drop.classList.remove("over");
  drop.ondrop = (event) => { event.preventDefault(); take(event.dataTransfer.files); };
  for (const select of section.querySelectorAll(".alias")) {
    select.onchange = async () => {
      const taught = { layer: select.dataset.layer, role: select.value || null };
      if (await trying(() => post(`${base}/alias`, taught))) location.reload();
    };
  }
  for (const box of section.querySelectorAll(".reference input")) {
    box.onchange = async () => {
      if (!(await trying(() => post(`${base}/media/${box.dataset.id}/reference`, { reference: box.checked })))) box.checked = !box.checked;
    };
  }
  for (const select of section.querySelectorAll(".colour")) {
    select.onchange = async () => {
      if (await trying(() => post(`${base}/media/${select.dataset.id}/colour`, { colour: select.value }))) location.reload();
    };
  }
}

// The plates page: takes dropped files, looks in the folder, says what colours mean.

import { get, post, remove } from "./api.js";
import { openDialog } from "./dialog.js";
import { Import, choiceOfTaken, filesOf, plan } from "./imports.js";
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

  const coming = section.querySelector(".coming");
  const take = async (given) => {
    const files = await trying(() => filesOf(given));
    if (!files?.length) return;
    const planned = await trying(() => plan(section.dataset.show, files));
    if (!planned) return;
    const taken = choiceOfTaken(planned);
    if (taken && !(await chosen(taken))) return;
    const under = new Import(section.dataset.show, planned, taken?.select.value ?? "both");
    coming.replaceChildren(under.element);
    const { cancelled, faults: failed } = await under.run();
    const scanned = await trying(() => post(`${base}/scan`, { files: under.names() }));
    coming.replaceChildren(...(cancelled ? [el("p", { class: "quiet" }, "stopped; bring the same files in again to go on")] : []));
    if (scanned) after({ faults: [...failed, ...scanned.faults] });
  };
  const chosen = (taken) => new Promise((answer) => {
    const dialog = openDialog("names that are taken", [taken.element], [el("button", { class: "button veil", onclick: () => dialog.close() }, "leave it"), el("button", { class: "button veil brass", onclick: () => { answer(true); dialog.close(); } }, "go on")]);
    dialog.onclose = () => answer(false);
  });

  const elsewhere = section.querySelector(".use-folder");
  if (elsewhere) elsewhere.onclick = () => browse(null, async (path) => after(await trying(() => post(`${base}/folders`, { path }))));
  section.querySelector(".scan").onclick = async () => after(await trying(() => post(`${base}/scan`, {})));
  for (const field of section.querySelectorAll(".choose-files")) {
    field.onchange = async () => {
      await take(field.files);
      field.value = "";
    };
  }
  for (const button of section.querySelectorAll(".take-away")) {
    button.onclick = async () => { if (await trying(() => remove(`${base}/media/${button.dataset.id}`))) location.reload(); };
  }
  const working = section.querySelector(".working");
  working.onchange = () => trying(() => post(`${base}/working`, { working: working.value }));
  drop.ondragover = (event) => { event.preventDefault(); drop.classList.add("over"); };
  drop.ondragleave = () => drop.classList.remove("over");
  drop.ondrop = (event) => { event.preventDefault(); drop.classList.remove("over"); take(event.dataTransfer); };
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

// Folders elsewhere on the server, one inside another; `use` is given the one that is chosen.
async function browse(path, use) {
  const here = await trying(() => get(path ? `/api/folders?path=${encodeURIComponent(path)}` : "/api/folders"));
  if (!here) return;
  const into = (name, to) => el("li", {}, el("button", { class: "button veil bare", onclick: () => browse(to, use) }, name));
  const media = here.media.map((found) => el("li", { class: "quiet" }, el("span", { class: "num" }, found.path), el("span", { class: "grow" }), el("span", { class: "num" }, found.frames && found.path.includes("#") ? `${found.frames.first}–${found.frames.last}` : "one file")));
  const up = path ? [into("up", here.parent)] : [];
  const nothing = here.folders.length + media.length === 0 ? [el("li", { class: "quiet" }, "no folders and no footage here")] : [];
  const dialog = openDialog("use a folder in place", [el("p", { class: "num quiet" }, path ?? "folders that the program was started with"), el("ul", { class: "foundmedia" }, ...up, ...here.folders.map((folder) => into(path ? folder.name : folder.path, folder.path)), ...media, ...nothing)], path ? [el("button", { class: "button veil brass", onclick: () => { dialog.close(); use(here.path); } }, "use this folder")] : []);
}

// From dropped footage to plates and shots, in one dialog.

import { post } from "./api.js";
import { openDialog } from "./dialog.js";
import { Import, amount, choiceOfTaken, filesOf, plan } from "./imports.js";
import { el, toast, trying } from "./parts.js";

const line = (label, ...content) => el("label", { class: "line" }, label, ...content);
const chooser = (label, options) => el("select", { "aria-label": label }, ...options.map(([value, text]) => el("option", { value }, text)));

// A name as an address can hold it.
const plain = (name) => name.replace(/[^\p{L}\p{N}_\- ]+/gu, " ").trim().slice(0, 40);

function described(media, sizes) {
  return media.map((found) => {
    const frames = found.frames && found.path.includes("#") ? `${found.frames.first}–${found.frames.last}` : "one file";
    const gaps = found.missing.reduce((sum, gap) => sum + gap.last - gap.first + 1, 0);
  const missing = gaps ? el("span", { class: "fault" }, `${gaps} missing`) : "";
    return el("li", {}, el("span", { class: "num" }, found.path), el("span", { class: "grow" }), missing, el("span", { class: "num quiet" }, frames), el("span", { class: "num quiet" }, sizes(found)));
  });
}

// The bytes of what a pattern stands for.
function sizesOf(files) {
  return (found) => {
    const [before, after] = found.path.split(/#+/);
    const own = files.filter(({ path }) => (after === undefined ? path === found.path : path.startsWith(before) && path.endsWith(after)));
    return amount(own.reduce((sum, { file }) => sum + file.size, 0));
  };
}

// Makes the show that is to be there, asks how, brings in, and makes shots. `given` is a drop or a chooser's files.
export async function bringIn(given, shows, chosen) {
  const files = await trying(() => filesOf(given));
  if (!files?.length) return;
  const name = el("input", { class: "veil-field", "aria-label": "name of the show", value: chosen ? "" : "My show", placeholder: "name of the show" });
  const show = chooser("show", [...shows.map((known) => [known, known]), ["", "a new show"]]);
  show.value = chosen ?? shows[0] ?? "";
  name.hidden = show.value !== "";
  show.onchange = () => { name.hidden = show.value !== ""; };
  const becomes = chooser("what it becomes", [["each", "a shot each"], ["one", "one shot with all of them"], ["plates", "plates only"]]);
  const listed = el("ul", { class: "foundmedia" });
  const said = el("div", { class: "faults", role: "status" });
  const total = files.reduce((sum, { file }) => sum + file.size, 0);
  const start = el("button", { class: "button veil brass" }, "bring it in");
  const body = [
    el("p", { class: "quiet" }, `${files.length} file${files.length === 1 ? "" : "s"}, ${amount(total)}`),
    listed,
    line("show", el("span", { style: "display:flex;gap:6px" }, el("span", { class: "select veil" }, show), name)),
    line("becomes", el("span", { class: "select veil" }, becomes)),
    said,
  ];
  const dialog = openDialog("bring in footage", body, [el("button", { class: "button veil", onclick: () => dialog.close() }, "leave it"), start]);
  dialog.classList.add("wide");
  let planned = null;
  let taken = null;
  const look = async () => {
    if (!show.value) {
      // A show that is not there yet has nothing in it.
      planned = null;
      listed.replaceChildren(el("li", { class: "quiet" }, "what it is shows once the show is made"));
      return;
    }
    planned = await trying(() => plan(show.value, files));
    taken?.element.remove();
    taken = planned && choiceOfTaken(planned);
    if (taken) said.before(taken.element);
    if (planned) listed.replaceChildren(...described(planned.media, sizesOf(files)));
    const refused = planned?.files.filter((step) => step.state === "refused") ?? [];
    said.replaceChildren(...refused.slice(0, 4).map((step) => el("p", { class: "fault" }, step.why)));
  };
  show.addEventListener("change", look);
  await look();
  start.onclick = async () => {
    const settings = [start, show, name, becomes, dialog.querySelector("footer button")];
    const hold = (on) => settings.forEach((one) => { one.disabled = on; });
    hold(true);
    if (!show.value) {
      const made = await trying(() => post("/api/shows", { name: plain(name.value) }));
      if (!made) return hold(false);
      show.append(el("option", { value: made.name }, made.name));
      show.value = made.name;
      name.hidden = true;
      planned = null;
    }
    planned ??= await trying(() => plan(show.value, files));
    if (!planned) return hold(false);
    listed.replaceChildren(...described(planned.media, sizesOf(files)));
    const coming = new Import(show.value, planned, taken?.select.value ?? "both");
    said.replaceChildren(coming.element);
    dialog.onclose = () => coming.cancel();
    const { cancelled, faults } = await coming.run();
    const base = `/api/shows/${encodeURIComponent(show.value)}`;
    const scanned = await trying(() => post(`${base}/scan`, { files: coming.names() }));
    if (cancelled) {
      dialog.onclose = null;
      dialog.close();
      toast("stopped; bring the same files in again to go on");
      return;
    }
    const told = [...faults, ...(scanned?.faults ?? [])];
    let made = { made: [] };
    if (becomes.value !== "plates") {
      made = (await trying(() => post(`${base}/shots/from-files`, { files: coming.names(), become: becomes.value }))) ?? made;
      told.push(...(made.faults ?? []));
    }
    if (told.length) {
      said.replaceChildren(...told.slice(0, 8).map((text) => el("p", { class: "fault" }, text)), el("button", { class: "button veil", onclick: () => location.reload() }, "go on"));
      return;
    }
    if (made.made.length === 1) location.href = made.made[0].address;
    else location.href = `${location.pathname}?show=${encodeURIComponent(show.value)}`;
  };
}

// Takes drops anywhere on a page.
export function dropsOnPage(shade, take) {
  let inside = 0;
  const hasFiles = (event) => [...(event.dataTransfer?.types ?? [])].includes("Files");
  addEventListener("dragenter", (event) => {
    if (!hasFiles(event)) return;
    inside += 1;
    shade.hidden = false;
  });
  addEventListener("dragleave", (event) => {
    if (!hasFiles(event)) return;
    inside -= 1;
    if (inside <= 0) shade.hidden = true;
  });
  addEventListener("dragover", (event) => { if (hasFiles(event)) event.preventDefault(); });
  addEventListener("drop", (event) => {
    if (!hasFiles(event)) return;
    event.preventDefault();
    inside = 0;
    shade.hidden = true;
    take(event.dataTransfer, event.target);
  });
}

// The shot wall: follows footage and renders, and makes new shots.

import { get, listen, post, remove } from "./api.js";
import { openDialog } from "./dialog.js";
import { bringIn, dropsOnPage } from "./footage.js";
import { el, trying } from "./parts.js";

const shows = [...document.querySelectorAll("section.show")].map((section) => section.dataset.show);

listen((event) => {
  if (event.what === "render" && (event.state === "done" || event.state === "failed")) location.reload();
  if (["shows", "missed"].includes(event.what) && !document.querySelector("dialog[open]")) location.reload();
  if (event.what !== "demo") return;
  const card = document.querySelector(`.shot[data-code="${event.code}"]`);
  if (!card) return;
  const waiting = card.hasAttribute("aria-disabled");
  card.querySelector(".way").hidden = event.done >= event.total;
  card.querySelector(".way i").style.width = `${(event.done * 100) / event.total}%`;
  card.querySelector(".drawn").hidden = event.done >= event.total;
  card.querySelector(".drawn .num").textContent = `${event.done} of ${event.total}`;
  if (waiting && event.done > 0) location.reload();
});

// Footage that is dropped goes to the show that it is dropped on.
dropsOnPage(document.getElementById("dropshade"), (given, target) => bringIn(given, shows, target.closest?.("section.show")?.dataset.show ?? shows[0]));
for (const field of document.querySelectorAll(".choose-files")) {
  field.onchange = async () => {
    await bringIn(field.files, shows, field.closest("section.show")?.dataset.show ?? shows[0]);
    field.value = "";
  };
}

const line = (label, ...content) => el("label", { class: "line" }, label, ...content);
const number = (label, value, size = 5) => el("input", { class: "veil-field num", "aria-label": label, value, size });

for (const button of document.querySelectorAll(".new-show")) {
  button.onclick = () => {
    const name = el("input", { class: "veil-field", "aria-label": "name", placeholder: "name of the show" });
    const working = el("select", { "aria-label": "works in" }, el("option", { value: "bt709" }, "linear BT.709"), el("option", { value: "acescg" }, "ACEScg"));
    const [fps, width, height] = [number("frame rate", 24), number("width", 1920), number("height", 1080)];
    const make = async () => {
      const asked = { name: name.value, working: working.value, fps: Number(fps.value), size: [Number(width.value), Number(height.value)] };
      if (await trying(() => post("/api/shows", asked))) location.href = `/?show=${encodeURIComponent(asked.name.trim())}`;
    };
    const body = [line("name", name), line("frames a second", fps), line("size", el("span", {}, width, " x ", height)), line("works in", el("span", { class: "select veil" }, working))];
    const dialog = openDialog("new show", body, [el("button", { class: "button veil brass", onclick: make }, "make the show")]);
    name.onkeydown = (event) => { if (event.key === "Enter") make(); };
    dialog.querySelector("input").focus();
  };
}

const addDemo = document.getElementById("add-demo");
if (addDemo) addDemo.onclick = async () => { if (await trying(() => post("/api/demo", {}))) location.reload(); };

for (const section of document.querySelectorAll("section.show")) {
  const show = section.dataset.show;
  const base = `/api/shows/${encodeURIComponent(show)}`;
  section.querySelector(".rename").onclick = () => {
    const name = el("input", { class: "veil-field", "aria-label": "name", value: show });
    const keep = async () => {
      const renamed = await trying(() => post(`${base}/rename`, { name: name.value }));
      if (renamed) location.href = `/?show=${encodeURIComponent(renamed.name)}`;
    };
    openDialog(`rename ${show}`, [line("name", name)], [el("button", { class: "button veil brass", onclick: keep }, "rename")]);
    name.onkeydown = (event) => { if (event.key === "Enter") keep(); };
    name.select();
  };
  section.querySelector(".delete-show").onclick = () => binned(`the show ${show}`, base);
  for (const button of section.querySelectorAll(".delete-shot")) {
    button.onclick = () => binned(`the shot ${button.dataset.code}`, `/api/shots/${encodeURIComponent(show)}/${encodeURIComponent(button.dataset.code)}`);
  }
}

// Into the bin, from which it can be put back; so nothing is asked first.
async function binned(what, address) {
  const record = await trying(() => remove(address));
  if (!record) return;
  sessionStorage.setItem("binned", JSON.stringify({ what, id: record.id }));
  location.href = location.pathname;
}

const last = sessionStorage.getItem("binned");
if (last) {
  sessionStorage.removeItem("binned");
  const { what, id } = JSON.parse(last);
  const back = el("button", { class: "button veil", onclick: async () => { if (await trying(() => post(`/api/bin/${id}/back`, {}))) location.reload(); } }, "put back");
  document.querySelector("main").prepend(el("p", { class: "said", role: "status" }, `${what} is in the bin. `, back));
}

const newShot = document.getElementById("new-shot");
const form = newShot.querySelector("form");
let ofShow = null;

for (const button of document.querySelectorAll("[data-new-shot]")) {
  button.onclick = async () => {
    const show = button.dataset.newShot;
    ofShow = show;
    const media = (await trying(() => get(`/api/shows/${encodeURIComponent(show)}/media`))) ?? [];
    form.elements.media.replaceChildren(el("option", { value: "" }, "none: give size and range"), ...media.map((plate) => el("option", { value: plate.record }, plate.name)));
    const shots = [...document.querySelectorAll(`.wall[data-show="${CSS.escape(show)}"] .shot`)].map((card) => card.dataset.code);
    form.elements.from.replaceChildren(el("option", { value: "" }, "nothing"), ...shots.map((code) => el("option", { value: code }, `the setup of ${code}`)));
    const { fps, width, height } = button.closest("section.show").dataset;
    Object.entries({ fps, width, height }).forEach(([name, value]) => { form.elements[name].value = value; });
    newShot.showModal();
  };
}

form.onsubmit = async (event) => {
  if (event.submitter?.value !== "make") return;
  event.preventDefault();
  const value = (name) => Number(form.elements[name].value);
  const made = await trying(() => post(`/api/shows/${encodeURIComponent(ofShow)}/shots`, {
    code: form.elements.code.value,
    title: form.elements.title.value,
    from: form.elements.from.value || null,
    media: form.elements.media.value ? Number(form.elements.media.value) : null,
    picture: { width: value("width"), height: value("height"), fps: value("fps"), frames: { first: value("first"), last: value("last") } },
  }));
  if (made) location.href = made.address;
};

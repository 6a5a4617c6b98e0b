// The shot wall: follows footage and renders, and makes new shots.

import { get, listen, post } from "./api.js";
import { el, trying } from "./parts.js";

listen((event) => {
  if (event.what === "render" && (event.state === "done" || event.state === "failed")) location.reload();
  if (event.what !== "demo") return;
  const card = document.querySelector(`.shot[data-code="${event.code}"]`);
  if (!card) return;
  const waiting = card.hasAttribute("aria-disabled");
  card.querySelector(".way").hidden = event.done >= event.total;
  card.querySelector(".way i").style.width = `${(event.done * 100) / event.total}%`;
  card.querySelector(".drawn").hidden = event.done >= event.total;
  card.querySelector(".drawn .num").textContent = `${event.done} of ${event.total}`;
  if (waiting && event.opens) location.reload();
});

const dialog = document.getElementById("new-shot");
const form = dialog.querySelector("form");
let show = null;

for (const button of document.querySelectorAll("[data-new-shot]")) {
  button.onclick = async () => {
    show = button.dataset.newShot;
    const media = (await trying(() => get(`/api/shows/${encodeURIComponent(show)}/media`))) ?? [];
    form.elements.media.replaceChildren(el("option", { value: "" }, "none: give size and range"), ...media.map((plate) => el("option", { value: plate.record }, plate.name)));
    const shots = [...document.querySelectorAll(`.wall[data-show="${CSS.escape(show)}"] .shot`)].map((card) => card.dataset.code);
    form.elements.from.replaceChildren(el("option", { value: "" }, "nothing"), ...shots.map((code) => el("option", { value: code }, `the setup of ${code}`)));
    dialog.showModal();
  };
}

form.onsubmit = async (event) => {
  if (event.submitter?.value !== "make") return;
  event.preventDefault();
  const number = (name) => Number(form.elements[name].value);
  const made = await trying(() => post(`/api/shows/${encodeURIComponent(show)}/shots`, {
    code: form.elements.code.value,
    title: form.elements.title.value,
    from: form.elements.from.value || null,
    media: form.elements.media.value ? Number(form.elements.media.value) : null,
    picture: { width: number("width"), height: number("height"), fps: number("fps"), frames: { first: number("first"), last: number("last") } },
  }));
  if (made) location.href = made.address;
};

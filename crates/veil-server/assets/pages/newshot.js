// Asks for a new shot of a show: what it is called, and what it begins with.

import { get, post } from "../base/api.js";
import { byId, el, every } from "../base/parts.js";
import { trying } from "../base/telling.js";

export function listenForNewShots() {
  const dialog = /** @type {HTMLDialogElement} */ (byId("new-shot"));
  const form = /** @type {HTMLFormElement} */ (dialog.querySelector("form"));
  const field = (/** @type {string} */ name) => /** @type {HTMLInputElement} */ (form.elements.namedItem(name));
  let ofShow = "";
  for (const button of every("[data-new-shot]")) {
    button.onclick = async () => {
      ofShow = button.dataset.newShot ?? "";
      await offer(field, ofShow);
      const { fps = "", width = "", height = "" } = /** @type {HTMLElement} */ (button.closest("section.show")).dataset;
      for (const [name, value] of Object.entries({ fps, width, height })) field(name).value = value;
      dialog.showModal();
    };
  }
  form.onsubmit = (event) => {
    if (/** @type {HTMLButtonElement | null} */ (event.submitter)?.value !== "make") return;
    event.preventDefault();
    make(field, ofShow);
  };
}

/**
 * The plates and shots of the show, as what to begin with.
 * @param {(name: string) => HTMLInputElement} field
 * @param {string} show
 */
async function offer(field, show) {
  /** @type {Plate[]} */
  const media = (await trying(() => get(`/api/shows/${encodeURIComponent(show)}/media`))) ?? [];
  const shots = every(`.wall[data-show="${CSS.escape(show)}"] .shot`).map((card) => card.dataset.code);
  field("media").replaceChildren(el("option", { value: "" }, "none: give size and range"), ...media.map((plate) => el("option", { value: plate.record }, plate.name)));
  field("from").replaceChildren(el("option", { value: "" }, "nothing"), ...shots.map((code) => el("option", { value: code }, `the setup of ${code}`)));
}

/**
 * @param {(name: string) => HTMLInputElement} field
 * @param {string} show
 */
async function make(field, show) {
  const number = (/** @type {string} */ name) => Number(field(name).value);
  const asked = {
    code: field("code").value, title: field("title").value, from: field("from").value || null, media: field("media").value ? number("media") : null,
    picture: { width: number("width"), height: number("height"), fps: number("fps"), frames: { first: number("first"), last: number("last") } },
  };
  const made = await trying(() => post(`/api/shows/${encodeURIComponent(show)}/shots`, asked));
  if (made) location.href = made.address;
}

// The shot wall: follows footage and renders, and takes what is dropped.

import { listen, post, remove } from "../base/api.js";
import { byId, el, every } from "../base/parts.js";
import { trying } from "../base/telling.js";
import { bringIn, dropsOnPage } from "./footage.js";
import { askNewShow, askRename } from "./newshow.js";
import { listenForNewShots } from "./newshot.js";

const shows = every("section.show").map((section) => section.dataset.show ?? "");
// What was put into the bin, told on the page that follows.
const BINNED = "binned";

/** @param {Heard} event */
function heard(event) {
  if (event.what === "render" && (event.state === "done" || event.state === "failed")) location.reload();
  if (["shows", "missed"].includes(event.what) && !document.querySelector("dialog[open]")) location.reload();
  if (event.what !== "demo") return;
  const [card] = every(`.shot[data-code="${CSS.escape(event.code)}"]`);
  if (!card) return;
  const whole = event.done >= event.total;
  for (const node of every("progress,.drawn", card)) node.hidden = whole;
  /** @type {HTMLProgressElement} */ (card.querySelector("progress")).value = event.done / event.total;
  /** @type {HTMLElement} */ (card.querySelector(".drawn .num")).textContent = `${event.done} of ${event.total}`;
  if (card.hasAttribute("aria-disabled") && event.done > 0) location.reload();
}

/**
 * Into the bin, from which it can be put back; so nothing is asked first.
 * @param {string} what
 * @param {string} address
 */
async function binned(what, address) {
  const record = await trying(() => remove(address));
  if (!record) return;
  sessionStorage.setItem(BINNED, JSON.stringify({ what, id: record.id }));
  location.href = location.pathname;
}

function tellBinned() {
  const last = sessionStorage.getItem(BINNED);
  if (!last) return;
  sessionStorage.removeItem(BINNED);
  const { what, id } = JSON.parse(last);
  const putBack = async () => {
    if (await trying(() => post(`/api/bin/${id}/back`, {}))) location.reload();
  };
  document.querySelector("main")?.prepend(el("p", { class: "said", role: "status" }, `${what} is in the bin. `, el("button", { class: "button", onclick: putBack }, "put back")));
}

// Footage that is dropped goes to the show that it is dropped on.
const showOf = (/** @type {Element} */ node) => /** @type {HTMLElement | null} */ (node.closest("section.show"))?.dataset.show ?? shows[0];
dropsOnPage(byId("dropshade"), (given, target) => bringIn(given, shows, showOf(target)));
for (const field of /** @type {HTMLInputElement[]} */ (every(".choose-files"))) {
  field.onchange = async () => {
    await bringIn(field.files, shows, showOf(field));
    field.value = "";
  };
}

for (const button of every(".new-show")) button.onclick = askNewShow;
for (const button of every("#add-demo")) {
  button.onclick = async () => {
    if (await trying(() => post("/api/demo", {}))) location.reload();
  };
}

for (const section of every("section.show")) {
  const show = section.dataset.show ?? "";
  for (const button of every(".rename", section)) button.onclick = () => askRename(show);
  for (const button of every(".delete-show", section)) button.onclick = () => binned(`the show ${show}`, `/api/shows/${encodeURIComponent(show)}`);
  for (const button of every(".delete-shot", section)) {
    const { code = "" } = button.dataset;
    button.onclick = () => binned(`the shot ${code}`, `/api/shots/${encodeURIComponent(show)}/${encodeURIComponent(code)}`);
  }
}

listenForNewShots();
tellBinned();
listen(heard);

// The renders page: follows the queue.

import { listen, orElse, post, remove } from "../base/api.js";
import { el, every } from "../base/parts.js";
import { trying } from "../base/telling.js";
import { openResult } from "./result.js";

const GOING = ["queued", "running"];

/**
 * The one part of a row that has a class.
 * @param {HTMLElement} row
 * @param {string} name
 */
const part = (row, name) => /** @type {HTMLElement} */ (row.querySelector(`.${name}`));

/**
 * @param {HTMLElement} row
 * @param {string} word
 */
function state(row, word) {
  const going = GOING.includes(word);
  row.dataset.state = word;
  part(row, "state").textContent = word;
  part(row, "cancel").hidden = !going;
  for (const name of ["retry", "take-away"]) part(row, name).hidden = going;
}

for (const row of every("tr[data-id]")) {
  const address = `/api/renders/${row.dataset.id}`;
  state(row, row.dataset.state ?? "");
  part(row, "cancel").onclick = () => trying(() => post(`${address}/cancel`, {}));
  part(row, "retry").onclick = () => trying(() => post(`${address}/retry`, {}));
  part(row, "take-away").onclick = async () => {
    if (await trying(() => remove(address))) location.reload();
  };
  for (const button of every(".open", row)) button.onclick = () => openResult(row);
}

const clock = (/** @type {number} */ seconds) => (seconds < 90 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`);

/** @param {Heard} event */
function heard(event) {
  if (event.what === "missed") return location.reload();
  if (event.what !== "render") return;
  const [row] = every(`tr[data-id="${event.id}"]`);
  if (!row) return location.reload();
  state(row, event.state);
  part(row, "done").textContent = `${event.done} of ${event.total}`;
  /** @type {HTMLProgressElement} */ (row.querySelector("progress")).value = (event.done * 100) / event.total;
  part(row, "failed").replaceChildren(...event.failed.map((one) => el("div", { class: "fault" }, `${one.frame}: ${one.message}`)));
  part(row, "kept").textContent = event.kept > 0 ? `${event.kept} were there already` : "";
  part(row, "beyond").textContent = event.beyond > 0 ? `${event.beyond} values were beyond what the files hold` : "";
  const left = event.rate > 0 ? clock((event.total - event.done) / event.rate) : "";
  part(row, "rate").textContent = event.state === "running" ? `${event.rate.toFixed(1)} frames a second · ${left} left` : "";
  // What there is can be opened, though a frame of it failed.
  if (!GOING.includes(event.state) && event.done > 0 && !row.querySelector("img")) location.reload();
}

/** What happened between the page and its events, or while they were cut off, is on the page as it is now. */
async function resync() {
  const text = await orElse(fetch(location.href).then((response) => response.text()), "");
  const now = new DOMParser().parseFromString(text, "text/html");
  const missed = every("tr[data-id]").some((row) => {
    const [other] = every(`tr[data-id="${row.dataset.id}"]`, now);
    return other && other.dataset.state !== row.dataset.state && !GOING.includes(other.dataset.state ?? "");
  });
  if (missed) location.reload();
}

listen(heard).addEventListener("open", resync);

// The renders page: follows the queue.

import { listen, post, remove } from "./api.js";
import { openResult } from "./result.js";
import { el, trying } from "./parts.js";

function state(row, word) {
  row.dataset.state = word;
  row.querySelector(".state").textContent = word;
  row.querySelector(".cancel").hidden = word !== "queued" && word !== "running";
  for (const name of [".retry", ".take-away"]) row.querySelector(name).hidden = word === "queued" || word === "running";
}

for (const row of document.querySelectorAll("tr[data-id]")) {
  state(row, row.dataset.state);
  row.querySelector(".cancel").onclick = () => trying(() => post(`/api/renders/${row.dataset.id}/cancel`, {}));
  for (const button of row.querySelectorAll(".open")) button.onclick = () => openResult(row);
  row.querySelector(".take-away").onclick = async () => { if (await trying(() => remove(`/api/renders/${row.dataset.id}`))) location.reload(); };
  row.querySelector(".retry").onclick = () => trying(() => post(`/api/renders/${row.dataset.id}/retry`, {}));
}

const ENDED = ["done", "failed", "cancelled"];

const clock = (seconds) => (seconds < 90 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`);

const events = listen((event) => {
  if (event.what === "missed") return location.reload();
  if (event.what !== "render") return;
  const row = document.querySelector(`tr[data-id="${event.id}"]`);
  if (!row) return location.reload();
  state(row, event.state);
  row.querySelector(".done").textContent = `${event.done} of ${event.total}`;
  row.querySelector(".way i").style.width = `${(event.done * 100) / event.total}%`;
  row.querySelector(".failed").replaceChildren(...event.failed.map((one) => el("div", { class: "fault" }, `${one.frame}: ${one.message}`)));
  row.querySelector(".kept").textContent = event.kept > 0 ? `${event.kept} were there already` : "";
  const left = event.rate > 0 ? clock((event.total - event.done) / event.rate) : "";
  row.querySelector(".rate").textContent = event.state === "running" ? `${event.rate.toFixed(1)} frames a second · ${left} left` : "";
  // What there is can be opened, though a frame of it failed.
  if (ENDED.includes(event.state) && event.done > 0 && !row.querySelector("img")) location.reload();
});

// What happened between the page and its events, or while they were cut off, is on the page as it is now.
events.addEventListener("open", async () => {
  const response = await fetch(location.href).catch(() => null);
  if (!response?.ok) return;
  const now = new DOMParser().parseFromString(await response.text(), "text/html");
  const missed = [...document.querySelectorAll("tr[data-id]")].some((row) => {
    const other = now.querySelector(`tr[data-id="${row.dataset.id}"]`);
    return other && other.dataset.state !== row.dataset.state && ENDED.includes(other.dataset.state);
  });
  if (missed) location.reload();
});

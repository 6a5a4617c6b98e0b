// A render's result: looked at, played, and carried away frame by frame.

import { openDialog } from "./dialog.js";
import { el, icon } from "./parts.js";

export function openResult(row) {
  const { id, beside } = row.dataset;
  const [first, last, fps] = ["first", "last", "fps"].map((name) => Number(row.dataset[name]));
  const picture = el("img", { class: "result", alt: "" });
  const place = el("input", { type: "range", min: first, max: last, value: first, "aria-label": "frame", class: "grow" });
  const said = el("span", { class: "num" });
  const keep = el("a", { class: "button veil", download: "" }, icon("download"), "this frame");
  const play = el("button", { class: "button veil bare", "aria-label": "play" }, icon("play"));
  const held = new Map();
  let frame = first;
  let playing = false;

  // A frame's picture, asked for once.
  const pictureOf = (number) => {
    if (!held.has(number)) {
      const made = new Image();
      made.src = `/api/renders/${id}/frame/${number}`;
      held.set(number, made.decode().then(() => made));
    }
    return held.get(number);
  };

  const show = async (number) => {
    frame = number;
    place.value = number;
    said.textContent = `${number} of ${first}–${last}`;
    keep.href = `/api/renders/${id}/file/${number}`;
    try {
      const made = await pictureOf(number);
      if (frame === number) picture.src = made.src;
    } catch {
      held.delete(number);
      if (frame === number) said.textContent = `${number} is not there`;
    }
  };

  const run = async () => {
    const [start, from] = [performance.now(), frame];
    while (playing && dialog.open) {
      const passed = Math.floor(((performance.now() - start) / 1000) * fps);
      const next = first + ((from - first + passed) % (last - first + 1));
      pictureOf(first + ((next - first + 3) % (last - first + 1))).catch(() => {});
      if (next !== frame) await show(next);
      await new Promise((done) => requestAnimationFrame(done));
    }
  };

  const setPlaying = (on) => {
    playing = on;
    play.replaceChildren(icon(on ? "pause" : "play"));
    play.setAttribute("aria-label", on ? "stop" : "play");
    if (on) run();
  };
  play.onclick = () => setPlaying(!playing);
  place.oninput = () => {
    setPlaying(false);
    show(Number(place.value));
  };
  const dialog = openDialog(row.querySelector("a").textContent, [picture, el("div", { class: "resultbar" }, play, place, said)], [
    keep,
    el("a", { class: "button veil brass", href: beside }, "look at it beside the shot"),
  ]);
  dialog.classList.add("widest");
  dialog.onclose = () => {
    playing = false;
    dialog.classList.remove("widest");
  };
  show(first);
}

// What opens beside something and goes away when one looks elsewhere: one at a time.

import { within } from "./parts.js";

/** @type {(() => void) | null} */
let closeOpen = null;

/**
 * Closes the popup that is open, if one is.
 * @returns whether there was one
 */
export function closePopup() {
  const was = closeOpen;
  was?.();
  return Boolean(was);
}

/**
 * Opens a popup. It closes by Escape, by a press outside of it, and when another opens; what was listened to for it is
 * let go then, and `back` has the focus.
 * @param {HTMLElement} node
 * @param {{ back: HTMLElement, anchor?: HTMLElement, place: (node: HTMLElement) => Place }} how `place` gives where its
 *   corner is wanted; a press on `anchor` is left to what it does itself
 * @returns closes it
 */
export function openPopup(node, { back, anchor, place }) {
  closePopup();
  const going = new AbortController();
  const listening = { signal: going.signal };
  const close = () => {
    if (closeOpen !== close) return;
    closeOpen = null;
    going.abort();
    sized.disconnect();
    node.remove();
    back.focus({ preventScroll: true });
  };
  // Whatever it comes to hold, it stays in sight.
  const sized = new ResizeObserver(() => {
    const [x, y] = place(node);
    node.style.left = `${Math.max(8, Math.min(x, innerWidth - node.offsetWidth - 8))}px`;
    node.style.top = `${within(y, 8, Math.max(8, innerHeight - node.offsetHeight - 8))}px`;
  });
  document.body.append(node);
  sized.observe(node);
  closeOpen = close;
  node.addEventListener("keydown", (event) => {
    if (event.key !== "Escape") return;
    event.preventDefault();
    event.stopPropagation();
    close();
  }, listening);
  // The press that opened it is still on its way.
  setTimeout(() => document.addEventListener("pointerdown", (event) => {
    const target = /** @type {Node} */ (event.target);
    if (!node.contains(target) && !anchor?.contains(target)) close();
  }, listening));
  return close;
}

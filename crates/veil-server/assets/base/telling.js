// What the page says to a person, and what it asks.

import { button, el } from "./parts.js";

/** @type {HTMLElement | undefined} */
let shownToast;

/**
 * Says something in passing; `deed` is something to do about it, by a button.
 * @param {string} message
 * @param {boolean} [bad]
 * @param {{ words: string, run: () => unknown } | null} [deed]
 */
export function toast(message, bad = false, deed = null) {
  shownToast?.remove();
  const mine = el("div", { class: `notification toast${bad ? " bad" : ""}`, role: bad ? "alert" : "status" }, message);
  if (deed) mine.append(button(deed.words, "", () => { mine.remove(); deed.run(); }));
  // Over a dialog, which covers all else.
  (document.querySelector("dialog[open]") ?? document.body).append(mine);
  shownToast = mine;
  setTimeout(() => mine.remove(), bad || deed ? 7000 : 2600);
}

/**
 * Runs something that may fail; a failure is told and gives undefined.
 * @template T
 * @param {() => T | Promise<T>} work
 * @returns {Promise<T | undefined>}
 */
export async function trying(work) {
  try {
    return await work();
  } catch (error) {
    const told = error instanceof Error ? error : new Error(String(error));
    if (told.name !== "AbortError") toast(told.message, true);
    return undefined;
  }
}

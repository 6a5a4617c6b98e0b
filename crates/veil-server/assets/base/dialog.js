// The one dialog of a page.

import { apart, byId, el } from "./parts.js";

/**
 * @param {string} title
 * @param {Child[]} body
 * @param {HTMLElement[]} [actions]
 * @param {{ size?: "" | "wide" | "widest", closed?: () => void }} [more]
 */
export function openDialog(title, body, actions = [], { size = "", closed } = {}) {
  const dialog = /** @type {HTMLDialogElement} */ (byId("dialog"));
  dialog.className = `modal ${size}`;
  const close = el("button", { class: "button is-ghost", "aria-label": "close", onclick: () => dialog.close() }, "×");
  dialog.replaceChildren(el("div", { class: "modal-card" },
    el("header", { class: "modal-card-head" }, el("h2", { class: "modal-card-title" }, title), close),
    el("section", { class: "modal-card-body" }, ...body),
    actions.length > 0 && el("footer", { class: "modal-card-foot" }, ...actions)));
  dialog.onclose = closed ?? null;
  dialog.onkeydown = apart;
  dialog.showModal();
  // A dialog begins at what it asks, or at what it is for.
  const asks = dialog.querySelector(".modal-card-body :is(input, select, textarea):not(:disabled)");
  /** @type {HTMLElement | null} */ (asks ?? dialog.querySelector("footer .is-primary"))?.focus();
  return dialog;
}

/**
 * Asks before something is done; true where it is to be done.
 * @param {string} title
 * @param {Child[]} body
 * @param {string} yes
 * @returns {Promise<boolean>}
 */
export function asked(title, body, yes) {
  return new Promise((answer) => {
    const give = (/** @type {boolean} */ value) => () => {
      answer(value);
      dialog.close();
    };
    const dialog = openDialog(title, body, [
      el("button", { class: "button", onclick: give(false) }, "leave it"),
      el("button", { class: "button is-primary is-outlined", onclick: give(true) }, yes),
    ], { closed: () => answer(false) });
    // Enter alone does nothing that was not meant.
    /** @type {HTMLElement} */ (dialog.querySelector("footer button")).focus();
  });
}

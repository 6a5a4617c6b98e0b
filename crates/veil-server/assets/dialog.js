// The one dialog of a page.

import { el } from "./parts.js";

export function openDialog(title, body, actions = []) {
  const dialog = document.getElementById("dialog");
  dialog.classList.remove("wide");
  dialog.replaceChildren(
    el("header", {}, el("h2", {}, title), el("span", { class: "grow" }), el("button", { class: "button veil bare", "aria-label": "close", onclick: () => dialog.close() }, "×")),
    el("div", { class: "body" }, ...body),
    actions.length ? el("footer", {}, ...actions) : "",
  );
  dialog.onkeydown = (event) => event.stopPropagation();
  dialog.showModal();
  // A dialog begins at what it asks, or at what it is for.
  const asks = dialog.querySelector(".body :is(input, select, textarea):not(:disabled)");
  (asks ?? dialog.querySelector("footer .brass"))?.focus();
  return dialog;
}

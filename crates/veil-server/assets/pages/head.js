// The head of every page: which show it is about.

import { every } from "../base/parts.js";

for (const chosen of /** @type {HTMLSelectElement[]} */ (every("#show-switch"))) {
  chosen.onchange = () => {
    const place = document.body.classList.contains("bench-page") ? "/" : location.pathname;
    location.href = chosen.value ? `${place}?show=${encodeURIComponent(chosen.value)}` : place;
  };
}

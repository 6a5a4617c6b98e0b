// Which command a pressed key runs, by what has the focus.

import { chordOf } from "./shortcuts.js";

// Single keys work in the panels alone, not wherever the focus happens to be.
const PANELS = "#braid,#well,#strip,.time,.viewbar,#curves";
const TYPED = "input:not([type=range]):not([type=checkbox]),select,textarea,dialog";

/**
 * @param {import("./shortcuts.js").Shortcuts} shortcuts
 * @param {() => void} released any key is let go
 */
export function listenToKeys(shortcuts, released) {
  document.addEventListener("keydown", (event) => {
    const target = /** @type {Element} */ (event.target);
    if (target.closest("dialog")) return;
    const typing = target.closest(TYPED);
    const inPanel = target === document.body || target.closest(PANELS);
    const onButton = target.tagName === "BUTTON";
    const counts = {
      fields: () => true,
      anywhere: () => !typing && !(event.key === " " && onButton),
      panels: () => !typing && inPanel && !(event.key === "Enter" && onButton),
      rows: () => !typing && target.closest("#braid"),
    };
    const command = shortcuts.at(chordOf(event), ({ where }) => counts[where ?? "panels"]());
    // What is put in comes with the event that follows this one.
    if (!command || (command.pastes && (event.ctrlKey || event.metaKey))) return;
    event.preventDefault();
    event.stopPropagation();
    command.run();
  }, { capture: true });
  document.addEventListener("keyup", released);
}

// Which keys run which command, as it comes and as a person has changed it.

import { el, toast } from "./parts.js";

const MEMORY = "veil:shortcuts";
const SIGNS = { Backspace: "Delete", ArrowLeft: "←", ArrowRight: "→", ArrowUp: "↑", ArrowDown: "↓", " ": "Space" };
// Keys that stand for a place on the keyboard, since with Shift they write another sign on each layout.
const PLACES = { Comma: ",", Period: "." };

// The keys of an event in words, modifiers first; none while only modifiers are down.
export function chordOf(event) {
  if (["Shift", "Control", "Alt", "Meta"].includes(event.key)) return "";
  const placed = event.shiftKey ? PLACES[event.code] : undefined;
  const letter = /^[a-z]$/i.test(event.key);
  const word = placed ?? SIGNS[event.key] ?? event.key;
  const held = event.ctrlKey || event.metaKey;
  // A sign that takes Shift to write is named by itself.
  const shift = event.shiftKey && (placed || letter || word.length > 1 || SIGNS[event.key]);
  const name = !letter ? word : held || shift ? word.toUpperCase() : word.toLowerCase();
  return [held && "Ctrl", event.altKey && "Alt", shift && "Shift", name].filter(Boolean).join(" ");
}

// `commands` have a name, the keys they come with and where these count: "anywhere" but in fields, "fields" too, in
// "panels" or at "rows" alone.
export function shortcuts(commands) {
  let changed = JSON.parse(localStorage.getItem(MEMORY) ?? "{}");

  const keysOf = (command) => changed[command.name] ?? command.keys;

  function keep(next) {
    changed = next;
    localStorage.setItem(MEMORY, JSON.stringify(changed));
  }

  // The command that keys stand for at a place; one of the rows before one of all panels.
  function at(chord, place) {
    const fits = (command) => chord && keysOf(command) === chord && place(command);
    return commands.filter(fits).toSorted((a, b) => (b.where === "rows") - (a.where === "rows"))[0];
  }

  // Gives a command other keys; what had them at the same place has none then.
  function give(command, chord) {
    const meets = (one) => one !== command && keysOf(one) === chord && (one.where === command.where || one.where !== "rows" && command.where !== "rows");
    const losers = commands.filter(meets);
    keep({ ...changed, ...Object.fromEntries(losers.map((one) => [one.name, ""])), [command.name]: chord });
    if (losers.length) toast(`${chord} was for “${losers.map((one) => one.name).join("”, “")}”, which has no keys now`);
  }

  // The list with each command's keys; a click on them waits for others.
  function list() {
    const node = el("ul", { class: "found" });
    const draw = (waiting) => node.replaceChildren(...commands.map((command) => line(command, command === waiting)));
    function line(command, waiting) {
      const keys = keysOf(command);
      const button = el("button", {
        class: "button veil bare num", "aria-label": `keys of ${command.name}: ${keys || "none"}`, title: "give it other keys: click, then press them; Delete takes them away, Escape leaves it",
        onclick: () => { draw(command); node.querySelector("[data-waiting]").focus(); },
        onkeydown: (event) => waiting && pressed(event),
        onblur: () => waiting && draw(null),
      }, waiting ? "press keys" : keys || "none");
      if (waiting) button.dataset.waiting = "";
      function pressed(event) {
        const chord = chordOf(event);
        if (!chord || event.key === "Tab") return;
        event.preventDefault();
        event.stopPropagation();
        if (event.key === "Delete" || event.key === "Backspace") give(command, "");
        else if (event.key !== "Escape") give(command, chord);
        draw(null);
        node.querySelector(`[data-command="${CSS.escape(command.name)}"] button:last-child`)?.focus();
      }
      const own = changed[command.name] !== undefined;
      return el("li", { "data-command": command.name }, el("span", { class: "grow" }, command.name),
        own ? el("button", { class: "button veil bare quiet", "aria-label": `${command.name}: back to ${command.keys || "no keys"}`, title: `back to ${command.keys || "no keys"}`, onclick: () => { const { [command.name]: _, ...rest } = changed; keep(rest); draw(null); } }, "×") : null, button);
    }
    draw(null);
    return node;
  }

  return { keysOf, at, list };
}

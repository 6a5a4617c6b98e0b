// Which keys run which command, as it comes and as a person has changed it.

import { el } from "../base/parts.js";
import { toast } from "../base/telling.js";

const MEMORY = "veil:shortcuts";
/** @type {{ [key: string]: string }} */
const SIGNS = { Backspace: "Delete", ArrowLeft: "←", ArrowRight: "→", ArrowUp: "↑", ArrowDown: "↓", " ": "Space" };
// Keys that stand for a place on the keyboard, since with Shift they write another sign on each layout.
/** @type {{ [code: string]: string }} */
const PLACES = { Comma: ",", Period: "." };

/**
 * The keys of an event in words, modifiers first; none while only modifiers are down.
 * @param {KeyboardEvent} event
 */
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

export class Shortcuts {
  /** The keys that a person gave, by the command's name. @type {{ [name: string]: string }} */
  #changed = JSON.parse(localStorage.getItem(MEMORY) ?? "{}");

  /** @param {Deed[]} commands with the keys they come with, and where these count */
  constructor(commands) {
    this.commands = commands;
  }

  /** @param {Deed} command */
  keysOf(command) {
    return this.#changed[command.name] ?? command.keys;
  }

  /** The commands with the keys they have now. */
  all() {
    return this.commands.map((command) => ({ ...command, keys: this.keysOf(command) }));
  }

  /** @param {{ [name: string]: string }} changed */
  #keep(changed) {
    this.#changed = changed;
    localStorage.setItem(MEMORY, JSON.stringify(changed));
  }

  /**
   * The command that keys stand for at a place; one of the rows before one of all panels.
   * @param {string} chord
   * @param {(command: Deed) => unknown} place
   */
  at(chord, place) {
    const ofRows = (/** @type {Deed} */ command) => Number(command.where === "rows");
    return this.commands.filter((command) => chord && this.keysOf(command) === chord && place(command)).sort((a, b) => ofRows(b) - ofRows(a)).at(0);
  }

  /**
   * Gives a command other keys; what had them at the same place has none then.
   * @param {Deed} command
   * @param {string} chord
   */
  #give(command, chord) {
    const meets = (/** @type {Deed} */ one) => one !== command && this.keysOf(one) === chord && (one.where === command.where || (one.where !== "rows" && command.where !== "rows"));
    const losers = chord ? this.commands.filter(meets) : [];
    this.#keep({ ...this.#changed, ...Object.fromEntries(losers.map((one) => [one.name, ""])), [command.name]: chord });
    if (losers.length) toast(`${chord} was for “${losers.map((one) => one.name).join("”, “")}”, which has no keys now`);
  }

  /** The list with each command's keys; a click on them waits for others. */
  list() {
    const node = el("ul", { class: "found" });
    this.#drawList(node, null);
    return node;
  }

  /**
   * @param {HTMLElement} node
   * @param {Deed | null} waiting
   */
  #drawList(node, waiting) {
    node.replaceChildren(...this.commands.map((command) => this.#line(node, command, command === waiting)));
  }

  /**
   * @param {HTMLElement} node
   * @param {Deed} command
   * @param {boolean} waiting
   */
  #line(node, command, waiting) {
    const keys = this.keysOf(command);
    const wait = () => {
      this.#drawList(node, command);
      /** @type {HTMLElement | null} */ (node.querySelector("[data-waiting]"))?.focus();
    };
    const chosen = el("button", {
      class: "button is-ghost num", "aria-label": `keys of ${command.name}: ${keys || "none"}`, title: "give it other keys: click, then press them; Delete takes them away, Escape leaves it", "data-waiting": waiting,
      onclick: wait, onkeydown: (event) => waiting && this.#pressed(node, command, event), onblur: () => waiting && this.#drawList(node, null),
    }, waiting ? "press keys" : keys || "none");
    const reset = () => {
      const { [command.name]: own, ...rest } = this.#changed;
      this.#keep(rest);
      this.#drawList(node, null);
    };
    const back = `back to ${command.keys || "no keys"}`;
    const own = this.#changed[command.name] !== undefined;
    return el("li", { "data-command": command.name }, el("span", { class: "grow" }, command.name),
      own && el("button", { class: "button is-ghost quiet", "aria-label": `${command.name}: ${back}`, title: back, onclick: reset }, "×"), chosen);
  }

  /**
   * @param {HTMLElement} node
   * @param {Deed} command
   * @param {KeyboardEvent} event
   */
  #pressed(node, command, event) {
    const chord = chordOf(event);
    if (!chord || event.key === "Tab") return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === "Delete" || event.key === "Backspace") this.#give(command, "");
    else if (event.key !== "Escape") this.#give(command, chord);
    this.#drawList(node, null);
    /** @type {HTMLElement | null} */ (node.querySelector(`[data-command="${CSS.escape(command.name)}"] button:last-child`))?.focus();
  }
}

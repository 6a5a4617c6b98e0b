// Stages, tools and commands, by name.

import { get } from "../base/api.js";
import { openDialog } from "../base/dialog.js";
import { button, el, within } from "../base/parts.js";
import { trying } from "../base/telling.js";
import { addRow } from "../shot/adding.js";

/** @typedef {"meant" | "plain"} Way */
/** @typedef {{ name: string, about: string, group: string, run: (way: Way) => unknown }} Entry */

/**
 * @param {Shot} shot
 * @param {StageKind[]} stages
 * @param {Deed[]} commands none where only stages and tools are wanted
 */
export async function find(shot, stages, commands) {
  const tools = (await trying(() => get("/api/tools"))) ?? [];
  const after = shot.selected ?? null;
  /** @type {Entry[]} */
  const entries = [
    ...stages.filter((stage) => stage.id !== "final").map((stage) => ({ name: stage.name, about: stage.help, group: stage.family, run: (/** @type {Way} */ way) => addRow(shot, { do: "add", kind: stage.id, after }, { after, way }) })),
    ...tools.map((/** @type {any} */ known) => ({ name: known.tool.about.name, about: `tool, number ${known.tool.about.number}`, group: "tool", run: (/** @type {Way} */ way) => placeTool(shot, known.tool, after, way) })),
    ...commands.map((command) => ({ name: command.name, about: command.keys, group: "command", run: command.run })),
  ];
  new Finder(entries).open(commands.length ? "find" : "add a stage");
}

class Finder {
  #at = 0;
  /** @type {HTMLDialogElement | null} */
  #dialog = null;

  /** @param {Entry[]} entries */
  constructor(entries) {
    this.entries = entries;
    this.list = el("ul", { class: "found", role: "listbox", "aria-label": "what fits", tabindex: 0 });
    /** @type {HTMLInputElement} */
    this.field = el("input", {
      class: "input finder", placeholder: "a stage, a tool or a command", "aria-label": "find", onkeydown: (event) => this.#keyed(event),
      oninput: () => {
        this.#at = 0;
        this.#draw();
      },
    });
  }

  /** @param {string} title */
  open(title) {
    this.#dialog = openDialog(title, [this.field, this.list, el("p", { class: "quiet" }, "Enter puts it where it is meant for what is selected; Shift Enter after the selected row, on its strand.")]);
    this.#draw();
  }

  /** Those that fit, the ones whose name begins so first. */
  #matching() {
    const wanted = this.field.value.trim().toLowerCase();
    const starts = (/** @type {Entry} */ entry) => (entry.name.toLowerCase().startsWith(wanted) ? 0 : 1);
    return this.entries.filter((entry) => `${entry.name} ${entry.about} ${entry.group}`.toLowerCase().includes(wanted)).sort((a, b) => starts(a) - starts(b));
  }

  /**
   * @param {Entry | undefined} entry
   * @param {Way} [way]
   */
  #run(entry, way = "meant") {
    this.#dialog?.close();
    entry?.run(way);
  }

  #draw() {
    const found = this.#matching();
    this.#at = Math.max(0, within(this.#at, 0, found.length - 1));
    this.list.replaceChildren(...found.map((entry, index) => el("li", { role: "option", "aria-selected": index === this.#at, onclick: () => this.#run(entry) }, el("b", {}, entry.name), el("small", { class: "grow" }, entry.about), el("small", {}, entry.group))));
    this.list.children[this.#at]?.scrollIntoView({ block: "nearest" });
  }

  /** @param {KeyboardEvent} event */
  #keyed(event) {
    const move = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!move && event.key !== "Enter") return;
    // The same key must not press a button of what opens next.
    event.preventDefault();
    if (!move) return this.#run(this.#matching()[this.#at], event.shiftKey ? "plain" : "meant");
    this.#at += move;
    this.#draw();
  }
}

/**
 * @param {Shot} shot
 * @param {any} tool
 * @param {number | null} after
 * @param {Way} way
 */
function placeTool(shot, tool, after, way) {
  const { height } = shot.state.setup.picture;
  const place = (/** @type {boolean} */ scale_lengths) => addRow(shot, { do: "place_tool", tool, after, scale_lengths }, { after, way });
  if (tool.made_at_height === height) return place(false);
  const then = (/** @type {boolean} */ scale) => () => {
    dialog.close();
    place(scale);
  };
  const words = `It was made on a picture ${tool.made_at_height} high; this one is ${height} high. Scale its lengths to this picture?`;
  const dialog = openDialog(`put in ${tool.about.name}`, [el("p", {}, words)], [
    button("keep its lengths", "", then(false)),
    el("button", { class: "button is-primary is-outlined", onclick: then(true) }, "scale lengths"),
  ]);
}

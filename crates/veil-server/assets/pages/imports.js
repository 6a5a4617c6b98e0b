// Brings files in: each by its own requests, three at a time, going on where a lost connection left them.

import { listen, orElse, post, said } from "../base/api.js";
import { button, choose, el, framed } from "../base/parts.js";

const AT_ONCE = 3;
// How long a file is tried again while the server cannot be reached, and how long between two tries.
const [PATIENCE_MS, AGAIN_MS] = [120_000, 700];
// What does not go on where the last piece ended, and what a lost connection still holds, is looked at anew.
const [MOVED_ON, HELD] = [412, 423];

/** @typedef {{ path: string, file: File }} Given */
/** @typedef {{ path: string, state: string, why: string, at?: number, beside?: string, name?: string, replace?: boolean, file: File, sent: number }} PlanStep what becomes of a file */
/** @typedef {{ path: string, frames?: Frames, missing: Frames[] }} FoundMedia */
/** @typedef {{ files: PlanStep[], media: FoundMedia[] }} Plan */
/** @typedef {"both" | "replace" | "leave"} Taken what becomes of files whose names are taken */

/** @param {FileSystemEntry} entry @param {string} before @param {Given[]} found */
async function walk(entry, before, found) {
  if (entry.name.startsWith(".")) return;
  if (entry.isFile) {
    const file = await new Promise((done, fail) => /** @type {FileSystemFileEntry} */ (entry).file(done, fail));
    found.push({ path: before + entry.name, file });
    return;
  }
  const reader = /** @type {FileSystemDirectoryEntry} */ (entry).createReader();
  for (;;) {
    // A reader gives a hundred at a time, and none at the end.
    const some = /** @type {FileSystemEntry[]} */ (await new Promise((done, fail) => reader.readEntries(done, fail)));
    if (some.length === 0) break;
    for (const inner of some) await walk(inner, `${before}${entry.name}/`, found);
  }
}

/**
 * The files of a drop or of a chooser, with the folders that they were in.
 * @param {DataTransfer | FileList | null} source
 */
export async function filesOf(source) {
  /** @type {Given[]} */
  const found = [];
  const items = source instanceof DataTransfer ? [...source.items] : [];
  const entries = items.map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
  for (const entry of entries) await walk(entry, "", found);
  if (entries.length === 0) {
    const files = source instanceof DataTransfer ? source.files : source ?? [];
    for (const file of files) found.push({ path: file.webkitRelativePath || file.name, file });
  }
  return found.filter((one) => !one.path.split("/").some((part) => part.startsWith(".")));
}

/** @param {Given} given */
const offered = ({ path, file }) => ({ path, size: file.size, modified: file.lastModified });

/** @param {number} bytes */
export function amount(bytes) {
  if (bytes < 1e6) return `${Math.max(1, Math.round(bytes / 1e3))} kB`;
  return bytes < 1e9 ? `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB` : `${(bytes / 1e9).toFixed(1)} GB`;
}

/** @param {number} seconds */
const time = (seconds) => (seconds < 90 ? `${Math.ceil(seconds)} s` : `${Math.round(seconds / 60)} min`);

/**
 * Looks through a show's folder, and says meanwhile how far a clip is that must be decoded first.
 * @param {string} show
 * @param {string[] | undefined} files those that were just brought in
 * @param {HTMLElement} node where it is said
 * @returns {Promise<{ faults: string[] }>}
 */
export async function lookThrough(show, files, node) {
  const said = el("p", { class: "quiet" });
  const events = listen((event) => {
    if (event.what !== "decoding" || event.show !== show) return;
    said.textContent = `reading ${event.file}: ${event.frames} frames so far`;
    node.append(said);
  });
  try {
    return await post(`/api/shows/${encodeURIComponent(show)}/scan`, { files });
  } finally {
    events.close();
    said.remove();
  }
}

/**
 * What is there already of files, and what is to be done with each.
 * @param {string} show
 * @param {Given[]} files
 * @returns {Promise<Plan>}
 */
export async function plan(show, files) {
  const planned = await post(`/api/shows/${encodeURIComponent(show)}/import/plan`, { files: files.map(offered) });
  const withFile = (/** @type {PlanStep} */ step, /** @type {number} */ index) => ({ ...step, file: files[index].file, sent: step.at ?? 0 });
  return { ...planned, files: planned.files.map(withFile) };
}

/** @param {PlanStep[]} steps @param {(step: PlanStep) => number} of */
const sum = (steps, of) => steps.reduce((total, step) => total + of(step), 0);

/** An import that is under way: draws itself, and ends with what became of it. */
export class Import {
  #cancelled = false;
  #waiting = false;
  #started = 0;
  #done = 0;
  /** @type {Set<XMLHttpRequest>} */
  #open = new Set();

  /**
   * @param {string} show
   * @param {Plan} planned
   * @param {Taken} taken
   */
  constructor(show, { files }, taken) {
    this.base = `/api/shows/${encodeURIComponent(show)}/import`;
    this.show = show;
    /** @type {string[]} */
    this.faults = files.filter((step) => step.state === "refused").map((step) => step.why);
    this.there = files.filter((step) => step.state !== "refused");
    // A sequence that stands beside another does so with all of its files.
    const moves = (/** @type {PlanStep} */ step) => taken === "both" && step.beside && !step.name;
    this.steps = files.filter((step) => step.state === "send" || (step.state === "taken" && taken !== "leave") || (step.state === "whole" && moves(step)));
    this.whole = files.filter((step) => step.state === "whole" && !this.steps.includes(step)).length;
    for (const step of this.steps) {
      if (moves(step)) step.name = step.beside;
      else step.replace = step.state === "taken";
    }
    this.queue = [...this.steps];
    this.all = sum(this.steps, (step) => step.file.size);
    this.begun = sum(this.steps, (step) => step.sent);
    this.way = el("progress", { class: "progress", max: 1, value: 0, "aria-label": "how much is there" });
    this.said = el("span", { class: "num said" });
    const cancel = button("cancel", "", () => this.cancel());
    cancel.classList.add("cancel");
    this.element = el("div", { class: "import" }, this.way, el("div", { class: "facts" }, this.said, el("span", { class: "grow" }), cancel));
  }

  /** The names that all of it has now, whether it was sent or was there. */
  names() {
    return this.there.map((step) => step.name ?? step.path);
  }

  cancel() {
    this.#cancelled = true;
    for (const request of this.#open) request.abort();
  }

  /** Ends when all is there, or cannot be, or is called off; a page that is left meanwhile asks first. */
  async run() {
    this.#started = performance.now();
    const leaving = (/** @type {Event} */ event) => event.preventDefault();
    addEventListener("beforeunload", leaving);
    const timer = setInterval(() => this.#draw(), 250);
    this.#draw();
    await Promise.all(Array.from({ length: AT_ONCE }, () => this.#work()));
    clearInterval(timer);
    removeEventListener("beforeunload", leaving);
    this.#draw();
    return { cancelled: this.#cancelled, faults: this.faults };
  }

  async #work() {
    for (let step = this.queue.shift(); step && !this.#cancelled; step = this.queue.shift()) {
      try {
        await this.#bring(step);
        this.#done += 1;
      } catch (error) {
        if (!this.#cancelled) this.faults.push(error instanceof Error ? error.message : String(error));
      }
    }
  }

  /**
   * Sends what is not there yet of a file; after a lost connection it asks how much that is, and goes on.
   * @param {PlanStep} step
   */
  async #bring(step) {
    /** When the server was lost. @type {number | null} */
    let lost = null;
    while (!this.#cancelled) {
      const answer = await this.#piece(step);
      if (answer.ok || this.#cancelled) {
        if (answer.ok) this.#whole(step);
        return;
      }
      if (answer.status && answer.status !== MOVED_ON && answer.status !== HELD) throw new Error(answer.message);
      if (answer.status !== MOVED_ON) {
        lost ??= performance.now();
        if (performance.now() - lost > PATIENCE_MS) throw new Error(`\`${step.path}\`: the server cannot be reached; bring it in again to go on where it stopped`);
        this.#waiting = true;
        await new Promise((done) => setTimeout(done, AGAIN_MS));
      } else lost = null;
      const now = await orElse(plan(this.show, [step]), null);
      if (!now) continue;
      lost = null;
      const [known] = now.files;
      if (known.state === "whole" && known.name === step.name) return this.#whole(step);
      step.sent = known.at ?? 0;
    }
  }

  /** @param {PlanStep} step */
  #whole(step) {
    step.sent = step.file.size;
    this.#waiting = false;
  }

  /**
   * @param {PlanStep} step
   * @returns {Promise<{ ok: boolean, status: number, message: string }>} status 0 where there was no answer
   */
  #piece(step) {
    return new Promise((done) => {
      const request = new XMLHttpRequest();
      const { path, size, modified } = offered(step);
      const query = new URLSearchParams({ path, size: String(size), modified: String(modified), at: String(step.sent) });
      if (step.name) query.set("name", step.name);
      if (step.replace) query.set("replace", "true");
      const from = step.sent;
      request.upload.onprogress = (event) => { step.sent = Math.min(size, from + event.loaded); };
      request.onloadend = () => {
        this.#open.delete(request);
        const { status } = request;
        done({ ok: status >= 200 && status < 300, status, message: (status && said(request.responseText)) || `\`${path}\`: the server answered ${status}` });
      };
      this.#open.add(request);
      request.open("PUT", `${this.base}?${query}`);
      request.send(step.file.slice(from));
    });
  }

  #draw() {
    const sent = sum(this.steps, (step) => step.sent);
    const seconds = (performance.now() - this.#started) / 1000;
    const rate = (sent - this.begun) / Math.max(seconds, 0.001);
    const parts = [`${this.#done} of ${this.steps.length} files`, `${amount(sent)} of ${amount(this.all)}`];
    if (this.#waiting) parts.push("waiting for the server");
    else if (seconds > 1 && sent < this.all) parts.push(`${amount(rate)} a second`, `${time((this.all - sent) / Math.max(rate, 1))} left`);
    if (this.whole) parts.push(`${this.whole} were there already`);
    this.said.textContent = parts.join(" · ");
    this.way.value = this.all ? sent / this.all : 1;
  }
}

/**
 * Asks what becomes of files whose names are taken; nothing where none is.
 * @param {Plan} planned
 */
export function choiceOfTaken({ files }) {
  const taken = files.filter((step) => step.state === "taken");
  if (taken.length === 0) return null;
  const names = taken.slice(0, 3).map((step) => step.path).join(", ");
  const words = `${taken.length === 1 ? "A file" : `${taken.length} files`} of ${taken.length === 1 ? "this name is" : "these names are"} there: ${names}${taken.length > 3 ? ", …" : ""}`;
  const choice = { value: /** @type {Taken} */ ("both"), element: el("label", { class: "line" }) };
  const entries = [["both", "keep both, under another name"], ["replace", "replace what is there"], ["leave", "leave what is there"]];
  choice.element.append(words, framed(choose("files that are there", "both", entries, (value) => { choice.value = /** @type {Taken} */ (value); })));
  return choice;
}

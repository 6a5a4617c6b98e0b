// Brings files in: each by its own requests, three at a time, going on where a lost connection left them.

import { post } from "./api.js";
import { el } from "./parts.js";

const AT_ONCE = 3;
// How long a file is tried again while the server cannot be reached.
const PATIENCE_S = 120;

// The files of a drop or of a chooser, with the folders that they were in.
export async function filesOf(source) {
  const found = [];
  const walk = async (entry, before) => {
    if (entry.name.startsWith(".")) return;
    if (entry.isFile) {
      found.push({ path: before + entry.name, file: await new Promise((done, fail) => entry.file(done, fail)) });
      return;
    }
    const reader = entry.createReader();
    for (;;) {
      // A reader gives a hundred at a time, and none at the end.
      const some = await new Promise((done, fail) => reader.readEntries(done, fail));
      if (some.length === 0) break;
      for (const inner of some) await walk(inner, `${before}${entry.name}/`);
    }
  };
  const entries = [...(source.items ?? [])].map((item) => item.webkitGetAsEntry?.()).filter(Boolean);
  for (const entry of entries) await walk(entry, "");
  if (entries.length === 0) {
    for (const file of source.files ?? source) found.push({ path: file.webkitRelativePath || file.name, file });
  }
  return found.filter((one) => !one.path.split("/").some((part) => part.startsWith(".")));
}

const offered = ({ path, file }) => ({ path, size: file.size, modified: file.lastModified });

export const amount = (bytes) => (bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : bytes < 1e9 ? `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB` : `${(bytes / 1e9).toFixed(1)} GB`);
const time = (seconds) => (seconds < 90 ? `${Math.ceil(seconds)} s` : `${Math.round(seconds / 60)} min`);

// What is there already of files, and what is to be done with each.
export async function plan(show, files) {
  const planned = await post(`/api/shows/${encodeURIComponent(show)}/import/plan`, { files: files.map(offered) });
  planned.files.forEach((step, index) => Object.assign(step, { file: files[index].file, sent: step.at ?? 0 }));
  return planned;
}

// An import that is under way: draws itself, and ends with what became of it.
export class Import {
  // `taken` says what becomes of files whose names are taken: replace, both or leave.
  constructor(show, planned, taken) {
    this.base = `/api/shows/${encodeURIComponent(show)}/import`;
    this.show = show;
    this.faults = planned.files.filter((step) => step.state === "refused").map((step) => step.why);
    this.there = planned.files.filter((step) => step.state !== "refused");
    // A sequence that stands beside another does so with all of its files.
    const moves = (step) => taken === "both" && step.beside && !step.name;
    this.queue = planned.files.filter((step) => step.state === "send" || (step.state === "taken" && taken !== "leave") || (step.state === "whole" && moves(step)));
    for (const step of this.queue) {
      if (moves(step)) step.name = step.beside;
      else step.replace = step.state === "taken";
    }
    this.whole = planned.files.filter((step) => step.state === "whole" && !this.queue.includes(step)).length;
    this.all = this.queue.reduce((sum, step) => sum + step.file.size, 0);
    this.begun = this.queue.reduce((sum, step) => sum + step.sent, 0);
    this.count = this.queue.length;
    this.done = 0;
    this.open = new Set();
    this.steps = [...this.queue];
    this.element = el("div", { class: "import" }, el("div", { class: "way" }, el("i")), el("div", { class: "facts" }, el("span", { class: "num said" }), el("span", { class: "grow" }), el("button", { class: "button veil cancel", onclick: () => this.cancel() }, "cancel")));
  }

  // The names that all of it has now, whether it was sent or was there.
  names() {
    return this.there.map((step) => step.name ?? step.path);
  }

  cancel() {
    this.cancelled = true;
    for (const request of this.open) request.abort();
  }

  // Ends when all is there, or cannot be, or is called off; a page that is left meanwhile asks first.
  async run() {
    this.started = performance.now();
    const leaving = (event) => event.preventDefault();
    addEventListener("beforeunload", leaving);
    const timer = setInterval(() => this.draw(), 250);
    this.draw();
    await Promise.all(Array.from({ length: AT_ONCE }, () => this.work()));
    clearInterval(timer);
    removeEventListener("beforeunload", leaving);
    this.draw();
    return { cancelled: Boolean(this.cancelled), faults: this.faults };
  }

  async work() {
    while (!this.cancelled && this.queue.length) {
      const step = this.queue.shift();
      try {
        await this.bring(step);
        this.done += 1;
      } catch (error) {
        if (!this.cancelled) this.faults.push(error.message);
      }
    }
  }

  // Sends what is not there yet of a file; after a lost connection it asks how much that is, and goes on.
  async bring(step) {
    let lost = null;
    for (;;) {
      const answer = await this.piece(step);
      if (answer.ok) {
        step.sent = step.file.size;
        this.waiting = false;
        return;
      }
      if (this.cancelled) return;
      // What does not go on where the last piece ended, or is still held by a connection that was lost, is looked at anew.
      const again = !answer.status || answer.status === 412 || answer.status === 423;
      if (!again) throw new Error(answer.message);
      if (answer.status !== 412) {
        lost ??= performance.now();
        if (performance.now() - lost > PATIENCE_S * 1000) throw new Error(`\`${step.path}\`: the server cannot be reached; bring it in again to go on where it stopped`);
        this.waiting = true;
        await new Promise((done) => setTimeout(done, 700));
      } else lost = null;
      const now = await plan(this.show, [step]).catch(() => null);
      if (!now) continue;
      lost = null;
      const [known] = now.files;
      if (known.state === "whole" && known.name === step.name) {
        step.sent = step.file.size;
        return;
      }
      step.sent = known.at ?? 0;
    }
  }

  piece(step) {
    return new Promise((done) => {
      const request = new XMLHttpRequest();
      const { path, size, modified } = offered(step);
      const query = new URLSearchParams({ path, size, modified, at: step.sent });
      if (step.name) query.set("name", step.name);
      if (step.replace) query.set("replace", "true");
      const from = step.sent;
      request.upload.onprogress = (event) => { step.sent = Math.min(size, from + event.loaded); };
      request.onloadend = () => {
        this.open.delete(request);
        if (request.status >= 200 && request.status < 300) return done({ ok: true });
        let told = {};
        try {
          told = JSON.parse(request.responseText);
        } catch {
          // A server that went away says nothing.
        }
        done({ ok: false, status: request.status, message: told.error ?? `\`${path}\`: the server answered ${request.status}` });
      };
      this.open.add(request);
      request.open("PUT", `${this.base}?${query}`);
      request.send(step.file.slice(from));
    });
  }

  draw() {
    const sent = this.steps.reduce((sum, step) => sum + step.sent, 0);
    const seconds = (performance.now() - this.started) / 1000;
    const rate = (sent - this.begun) / Math.max(seconds, 0.001);
    const parts = [`${this.done} of ${this.count} files`, `${amount(sent)} of ${amount(this.all)}`];
    if (this.waiting) parts.push("waiting for the server");
    else if (seconds > 1 && sent < this.all) parts.push(`${amount(rate)} a second`, `${time((this.all - sent) / Math.max(rate, 1))} left`);
    if (this.whole) parts.push(`${this.whole} were there already`);
    this.element.querySelector(".said").textContent = parts.join(" · ");
    this.element.querySelector(".way i").style.width = `${this.all ? (sent * 100) / this.all : 100}%`;
  }
}

// What becomes of files whose names are taken; nothing where none is.
export function choiceOfTaken(planned) {
  const taken = planned.files.filter((step) => step.state === "taken");
  if (taken.length === 0) return null;
  const names = taken.slice(0, 3).map((step) => step.path).join(", ");
  const words = `${taken.length === 1 ? "A file" : `${taken.length} files`} of ${taken.length === 1 ? "this name is" : "these names are"} there: ${names}${taken.length > 3 ? ", …" : ""}`;
  const select = el("select", { "aria-label": "files that are there" }, el("option", { value: "both" }, "keep both, under another name"), el("option", { value: "replace" }, "replace what is there"), el("option", { value: "leave" }, "leave what is there"));
  return { select, element: el("label", { class: "line" }, words, el("span", { class: "select veil" }, select)) };
}

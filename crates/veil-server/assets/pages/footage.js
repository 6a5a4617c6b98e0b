// From dropped footage to plates and shots, in one dialog.

import { post } from "../base/api.js";
import { openDialog } from "../base/dialog.js";
import { button, choose, el, framed } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";
import { amount, choiceOfTaken, filesOf, Import, lookThrough, plan } from "./imports.js";

/** @typedef {import("./imports.js").Given} Given */
/** @typedef {import("./imports.js").FoundMedia} FoundMedia */

const BECOMES = [["each", "a shot each"], ["one", "one shot with all of them"], ["plates", "plates only"]];
// So much of what went wrong is told at once.
const MOST_TOLD = 8;

/** A name as an address can hold it. @param {string} name */
const plain = (name) => name.replace(/[^\p{L}\p{N}_\- ]+/gu, " ").trim().slice(0, 40);

/** @param {string} text */
const fault = (text) => el("p", { class: "fault" }, text);

/**
 * @param {FoundMedia} found
 * @param {Given[]} files
 */
function described(found, files) {
  const frames = found.frames && found.path.includes("#") ? `${found.frames.first}–${found.frames.last}` : "one file";
  const gaps = found.missing.reduce((sum, gap) => sum + gap.last - gap.first + 1, 0);
  // What a pattern stands for.
  const [before, after] = found.path.split(/#+/);
  const own = files.filter(({ path }) => (after === undefined ? path === found.path : path.startsWith(before) && path.endsWith(after)));
  const size = amount(own.reduce((sum, { file }) => sum + file.size, 0));
  return el("li", {}, el("span", { class: "num" }, found.path), el("span", { class: "grow" }), gaps > 0 && el("span", { class: "fault" }, `${gaps} missing`), el("span", { class: "num quiet" }, frames), el("span", { class: "num quiet" }, size));
}

/**
 * Makes the show that is to be there, asks how, brings in, and makes shots.
 * @param {DataTransfer | FileList | null} given a drop or a chooser's files
 * @param {string[]} shows
 * @param {string | undefined} chosen
 */
export async function bringIn(given, shows, chosen) {
  const files = await trying(() => filesOf(given));
  if (files?.length) await new BringIn(files, shows, chosen).open();
}

class BringIn {
  /** @type {import("./imports.js").Plan | null} */
  #planned = null;
  /** @type {ReturnType<typeof choiceOfTaken>} */
  #taken = null;

  /**
   * @param {Given[]} files
   * @param {string[]} shows
   * @param {string | undefined} chosen
   */
  constructor(files, shows, chosen) {
    this.files = files;
    this.becomes = "each";
    this.name = el("input", { class: "input", "aria-label": "name of the show", value: chosen ? "" : "My show", placeholder: "name of the show" });
    this.show = choose("show", chosen ?? shows[0] ?? "", [...shows.map((known) => [known, known]), ["", "a new show"]], () => this.#look());
    this.kind = choose("what it becomes", this.becomes, BECOMES, (becomes) => { this.becomes = becomes; });
    this.listed = el("ul", { class: "foundmedia" });
    this.said = el("div", { class: "faults", role: "status" });
    this.start = el("button", { class: "button is-primary is-outlined", onclick: () => this.#begin() }, "bring it in");
    this.leave = button("leave it", "", () => this.dialog?.close());
  }

  async open() {
    const { files } = this;
    const line = (/** @type {string} */ label, /** @type {HTMLElement[]} */ ...content) => el("label", { class: "line" }, label, el("span", { class: "besides" }, ...content));
    const total = amount(files.reduce((sum, { file }) => sum + file.size, 0));
    this.dialog = openDialog("bring in footage", [
      el("p", { class: "quiet" }, `${files.length} file${files.length === 1 ? "" : "s"}, ${total}`), this.listed,
      line("show", framed(this.show), this.name), line("becomes", framed(this.kind)), this.said,
    ], [this.leave, this.start], { size: "wide" });
    await this.#look();
  }

  /** What the files are, and what is in their way. */
  async #look() {
    this.name.hidden = this.show.value !== "";
    this.#taken?.element.remove();
    this.#taken = null;
    if (!this.show.value) {
      // A show that is not there yet has nothing in it.
      this.#planned = null;
      this.said.replaceChildren();
      this.listed.replaceChildren(el("li", { class: "quiet" }, "what it is shows once the show is made"));
      return;
    }
    if (!(await this.#plan())) return;
    this.#taken = this.#planned && choiceOfTaken(this.#planned);
    if (this.#taken) this.said.before(this.#taken.element);
    const refused = this.#planned?.files.filter((step) => step.state === "refused") ?? [];
    this.said.replaceChildren(...refused.slice(0, 4).map((step) => fault(step.why)));
  }

  async #plan() {
    this.#planned = (await trying(() => plan(this.show.value, this.files))) ?? null;
    if (this.#planned) this.listed.replaceChildren(...this.#planned.media.map((found) => described(found, this.files)));
    return this.#planned;
  }

  /** @param {boolean} on */
  #hold(on) {
    for (const one of [this.start, this.show, this.name, this.kind, this.leave]) one.disabled = on;
  }

  async #begin() {
    this.#hold(true);
    const planned = (await this.#made()) ? this.#planned ?? (await this.#plan()) : null;
    if (planned) await this.#run(planned);
    else this.#hold(false);
  }

  /** Makes the show where it is to be a new one; true where there is one. */
  async #made() {
    if (this.show.value) return true;
    const made = await trying(() => post("/api/shows", { name: plain(this.name.value) }));
    if (!made) return false;
    this.show.append(el("option", { value: made.name }, made.name));
    this.show.value = made.name;
    this.name.hidden = true;
    return true;
  }

  /** @param {import("./imports.js").Plan} planned */
  async #run(planned) {
    const coming = new Import(this.show.value, planned, this.#taken?.value ?? "both");
    const { dialog } = this;
    this.said.replaceChildren(coming.element);
    if (dialog) dialog.onclose = () => coming.cancel();
    const { cancelled, faults } = await coming.run();
    const base = `/api/shows/${encodeURIComponent(this.show.value)}`;
    const scanned = await trying(() => lookThrough(this.show.value, coming.names(), this.said));
    if (cancelled) {
      if (dialog) dialog.onclose = null;
      dialog?.close();
      return toast("stopped; bring the same files in again to go on");
    }
    const shots = this.becomes === "plates" ? null : await trying(() => post(`${base}/shots/from-files`, { files: coming.names(), become: this.becomes }));
    this.#end([...faults, ...(scanned?.faults ?? []), ...(shots?.faults ?? [])], shots?.made ?? []);
  }

  /**
   * @param {string[]} told
   * @param {{ address: string }[]} made
   */
  #end(told, made) {
    if (told.length) this.said.replaceChildren(...told.slice(0, MOST_TOLD).map(fault), button("go on", "", () => location.reload()));
    else location.href = made.length === 1 ? made[0].address : `${location.pathname}?show=${encodeURIComponent(this.show.value)}`;
  }
}

/**
 * Takes drops anywhere on a page.
 * @param {HTMLElement} shade
 * @param {(given: DataTransfer, target: Element) => void} take
 */
export function dropsOnPage(shade, take) {
  let inside = 0;
  const heard = (/** @type {"dragenter" | "dragleave" | "dragover" | "drop"} */ name, /** @type {(event: DragEvent, given: DataTransfer) => void} */ run) => addEventListener(name, (event) => {
    if (event.dataTransfer && [...event.dataTransfer.types].includes("Files")) run(event, event.dataTransfer);
  });
  const enter = (/** @type {number} */ by) => () => {
    inside = Math.max(0, inside + by);
    shade.hidden = inside === 0;
  };
  heard("dragenter", enter(1));
  heard("dragleave", enter(-1));
  heard("dragover", (event) => event.preventDefault());
  heard("drop", (event, given) => {
    event.preventDefault();
    inside = 0;
    shade.hidden = true;
    take(given, /** @type {Element} */ (event.target));
  });
}

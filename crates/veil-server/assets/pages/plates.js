// The plates page: takes dropped files, looks in the folder, says what colours mean.

import { get, post, remove } from "../base/api.js";
import { asked, openDialog } from "../base/dialog.js";
import { el, every } from "../base/parts.js";
import { trying } from "../base/telling.js";
import { choiceOfTaken, filesOf, Import, lookThrough, plan } from "./imports.js";

/** The plates of one show. */
class Section {
  /** @param {HTMLElement} node */
  constructor(node) {
    this.node = node;
    this.show = node.dataset.show ?? "";
    this.base = `/api/shows/${encodeURIComponent(this.show)}`;
    this.#deeds();
    this.#choosers();
    this.#drops();
  }

  /** @param {string} name */
  #part(name) {
    return /** @type {HTMLElement} */ (this.node.querySelector(`.${name}`));
  }

  /**
   * Posts, and shows the page anew where that went well.
   * @param {string} address
   * @param {object} body
   */
  async #change(address, body) {
    if (await trying(() => post(`${this.base}/${address}`, body))) location.reload();
  }

  /** @param {{ faults: string[] } | undefined} answer */
  #after(answer) {
    if (!answer) return;
    if (answer.faults.length === 0) location.reload();
    this.#part("faults").replaceChildren(...answer.faults.map((text) => el("p", { class: "fault" }, text)));
  }

  #deeds() {
    const { node, base } = this;
    const use = async (/** @type {string} */ path) => this.#after(await trying(() => post(`${base}/folders`, { path })));
    for (const button of every(".use-folder", node)) button.onclick = () => browse(null, use);
    this.#part("scan").onclick = async () => this.#after(await trying(() => lookThrough(this.show, undefined, this.#part("coming"))));
    for (const button of every(".take-away", node)) {
      button.onclick = async () => {
        if (await trying(() => remove(`${base}/media/${button.dataset.id}`))) location.reload();
      };
    }
  }

  #choosers() {
    const { node, base } = this;
    for (const select of /** @type {HTMLSelectElement[]} */ (every(".alias", node))) select.onchange = () => this.#change("alias", { layer: select.dataset.layer, role: select.value || null });
    for (const select of /** @type {HTMLSelectElement[]} */ (every(".colour", node))) select.onchange = () => this.#change(`media/${select.dataset.id}/colour`, { colour: select.value });
    for (const working of /** @type {HTMLSelectElement[]} */ (every(".working", node))) working.onchange = () => trying(() => post(`${base}/working`, { working: working.value }));
    for (const box of /** @type {HTMLInputElement[]} */ (every(".reference input", node))) {
      box.onchange = async () => {
        if (!(await trying(() => post(`${base}/media/${box.dataset.id}/reference`, { reference: box.checked })))) box.checked = !box.checked;
      };
    }
  }

  #drops() {
    const drop = this.#part("drop");
    for (const field of /** @type {HTMLInputElement[]} */ (every(".choose-files", this.node))) {
      field.onchange = async () => {
        await this.#take(field.files);
        field.value = "";
      };
    }
    drop.ondragover = (event) => {
      event.preventDefault();
      drop.classList.add("over");
    };
    drop.ondragleave = () => drop.classList.remove("over");
    drop.ondrop = (event) => {
      event.preventDefault();
      drop.classList.remove("over");
      this.#take(event.dataTransfer);
    };
  }

  /** @param {DataTransfer | FileList | null} given */
  async #take(given) {
    const files = await trying(() => filesOf(given));
    const planned = files?.length ? await trying(() => plan(this.show, files)) : undefined;
    if (!planned) return;
    const taken = choiceOfTaken(planned);
    if (taken && !(await asked("names that are taken", [taken.element], "go on"))) return;
    const coming = new Import(this.show, planned, taken?.value ?? "both");
    this.#part("coming").replaceChildren(coming.element);
    const { cancelled, faults } = await coming.run();
    const scanned = await trying(() => lookThrough(this.show, coming.names(), this.#part("coming")));
    this.#part("coming").replaceChildren(...(cancelled ? [el("p", { class: "quiet" }, "stopped; bring the same files in again to go on")] : []));
    if (scanned) this.#after({ faults: [...faults, ...scanned.faults] });
  }
}

/** @typedef {{ name: string, path: string }} Folder */

/**
 * Folders elsewhere on the server, one inside another.
 * @param {string | null} path
 * @param {(path: string) => void} use is given the one that is chosen
 */
async function browse(path, use) {
  const here = await trying(() => get(path ? `/api/folders?path=${encodeURIComponent(path)}` : "/api/folders"));
  if (!here) return;
  const into = (/** @type {string} */ name, /** @type {string | null} */ to) => el("li", {}, el("button", { class: "button is-ghost", onclick: () => browse(to, use) }, name));
  const media = here.media.map((/** @type {import("./imports.js").FoundMedia} */ found) => el("li", { class: "quiet" }, el("span", { class: "num" }, found.path), el("span", { class: "grow" }), el("span", { class: "num" }, found.frames && found.path.includes("#") ? `${found.frames.first}–${found.frames.last}` : "one file")));
  const folders = here.folders.map((/** @type {Folder} */ folder) => into(path ? folder.name : folder.path, folder.path));
  const nothing = folders.length + media.length === 0 ? [el("li", { class: "quiet" }, "no folders and no footage here")] : [];
  const choose = () => {
    dialog.close();
    use(here.path);
  };
  const dialog = openDialog("use a folder in place", [
    el("p", { class: "num quiet" }, path ?? "folders that the program was started with"),
    el("ul", { class: "foundmedia" }, ...(path ? [into("up", here.parent)] : []), ...folders, ...media, ...nothing),
  ], path ? [el("button", { class: "button is-primary is-outlined", onclick: choose }, "use this folder")] : []);
}

for (const section of every("section[data-show]")) new Section(section);

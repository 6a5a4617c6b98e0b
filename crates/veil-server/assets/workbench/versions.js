// Versions: keep one, see what came after it, go on from it.

import { get, post, query, remove } from "../base/api.js";
import { openDialog } from "../base/dialog.js";
import { button, choose, el, framed, icon, versionName } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";

/** @param {Shot} shot */
export async function versions(shot) {
  const known = (await trying(() => get(`${shot.base}/versions`))) ?? [];
  new Versions(shot, known).open();
}

class Versions {
  /** @type {HTMLDialogElement | null} */
  #dialog = null;

  /**
   * @param {Shot} shot
   * @param {Version[]} known the newest first
   */
  constructor(shot, known) {
    this.shot = shot;
    this.known = known;
    this.told = el("div", { class: "told", role: "status" });
    this.name = el("input", { class: "input", "aria-label": "name of the version", placeholder: "may be left empty", onkeydown: (event) => event.key === "Enter" && this.#keep() });
  }

  open() {
    const keep = el("span", { class: "besides" }, this.name, el("button", { class: "button is-primary is-outlined", onclick: () => this.#keep() }, "keep it"));
    const list = el("ul", { class: "versions" }, ...this.known.map((version, index) => this.#line(version, this.known.slice(0, index))));
    this.#dialog = openDialog("versions", [el("label", { class: "line" }, "keep as it is now", keep), list, this.told], [], { size: "wide" });
    this.name.focus();
  }

  /**
   * @param {Version} version
   * @param {Version[]} newer
   */
  #line(version, newer) {
    const { shot } = this;
    const number = versionName(version.number);
    const others = [["", "compare with"], ["now", "now"], ...newer.map((one) => [one.number, versionName(one.number)])];
    const compare = choose(`compare ${number} with`, "", others, (to) => to && this.#compare(version, newer.find((one) => String(one.number) === to)));
    const address = `/shots/${encodeURIComponent(shot.show)}/${encodeURIComponent(shot.code.split("@")[0])}@${version.number}`;
    return el("li", {}, el("span", { class: "num" }, number), el("span", { class: "grow" }, version.name),
      el("span", { class: "quiet" }, new Date(version.at * 1000).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })), framed(compare),
      el("a", { class: "button is-ghost", title: "to look at, read-only", href: address }, "open"),
      button("go on from here", "this version becomes the live setup; undo takes it back", () => this.#goOn(version)),
      el("button", { class: "button is-ghost", "aria-label": `delete ${number}`, title: "delete", onclick: () => this.#remove(version) }, icon("trash-2")));
  }

  async #keep() {
    const kept = await trying(() => post(`${this.shot.base}/versions`, { name: this.name.value }));
    if (!kept) return;
    this.#dialog?.close();
    toast(`kept as ${versionName(kept.number)}`);
    this.shot.refresh();
  }

  /** @param {Version} version */
  async #goOn(version) {
    this.#dialog?.close();
    if (await this.shot.change(`versions/${version.number}/go-on`, {})) toast(`goes on from ${versionName(version.number)}`);
  }

  /** @param {Version} version */
  async #remove(version) {
    this.#dialog?.close();
    if (await trying(() => remove(`${this.shot.base}/versions/${version.number}`))) toast(`${versionName(version.number)} is in the bin`);
    this.shot.refresh();
  }

  /**
   * @param {number | undefined} version
   * @param {string} words
   */
  #still(version, words) {
    const { base, state, view } = this.shot;
    const at = query({ stage: state.setup.stages.at(-1)?.id, frame: view.frame, revision: state.revision, version });
    return el("figure", {}, el("img", { alt: words, src: `${base}/still?${at}` }), el("figcaption", {}, words));
  }

  /**
   * What came between a version and another, or the live setup.
   * @param {Version} from
   * @param {Version | undefined} to
   */
  async #compare(from, to) {
    const found = await trying(() => get(`${this.shot.base}/versions/difference?${query({ from: from.number, to: to?.number })}`));
    if (!found) return;
    const rows = found.map((/** @type {{ row: string, what: string[] }} */ row) => el("li", {}, el("b", {}, row.row), ` ${row.what.join("; ")}`));
    this.told.replaceChildren(
      el("div", { class: "pair" }, this.#still(from.number, versionName(from.number)), this.#still(to?.number, to ? versionName(to.number) : "now")),
      rows.length ? el("ul", {}, ...rows) : el("p", { class: "quiet" }, "the rows are the same"));
  }
}

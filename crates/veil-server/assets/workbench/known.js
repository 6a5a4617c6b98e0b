// What is kept beside a shot's setup: its stills, versions and renders, and the plates of its show.

import { get, orElse, remove } from "../base/api.js";

export class Known {
  /** @type {Still[]} */
  stills = [];
  /** @type {Version[]} */
  versions = [];
  /** @type {Rendered[]} */
  renders = [];
  /** @type {Plate[]} */
  plates = [];

  /** @param {Shot} shot */
  constructor(shot) {
    this.shot = shot;
  }

  async load() {
    this.plates = await orElse(get(`/api/shows/${encodeURIComponent(this.shot.show)}/media`), []);
    await this.refresh();
  }

  async refresh() {
    const asked = ["stills", "versions", "renders"].map((kind) => orElse(get(`${this.shot.base}/${kind}`), []));
    [this.stills, this.versions, this.renders] = await Promise.all(asked);
  }

  /** @param {Still} still */
  async dropStill(still) {
    this.stills = await remove(`${this.shot.base}/stills/${still.number}`);
  }
}

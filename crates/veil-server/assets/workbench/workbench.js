// The workbench: its parts, and how they know of each other.

import { get } from "../base/api.js";
import { byId, every, fieldOf, icon } from "../base/parts.js";
import { trying } from "../base/telling.js";
import { Bench } from "../bench/bench.js";
import { Braid } from "../braid/braid.js";
import { RowDeeds } from "../braid/rowdeeds.js";
import { RowKeys } from "../braid/rowkeys.js";
import { openRowMenu } from "../braid/rowmenu.js";
import { declarations } from "../shot/rows.js";
import { Shot } from "../shot/shot.js";
import { Curves } from "../time/curves.js";
import { Player } from "../time/play.js";
import { Strip } from "../time/strip.js";
import { Looking } from "../viewer/looking.js";
import { Scopes } from "../viewer/scopes.js";
import { Sides } from "../viewer/sides.js";
import { Viewer } from "../viewer/viewer.js";
import { Bars } from "./bars.js";
import { commands } from "./commands.js";
import { tellJobs } from "./jobs.js";
import { listenToKeys } from "./keys.js";
import { Known } from "./known.js";
import { NextStep } from "./nextstep.js";
import { Panels } from "./panels.js";
import { Shortcuts } from "./shortcuts.js";

/** @param {string} id */
const drawing = (id) => /** @type {SVGSVGElement} */ (/** @type {unknown} */ (byId(id)));

export class Workbench {
  /**
   * @param {Shot} shot
   * @param {StageKind[]} stages
   */
  constructor(shot, stages) {
    this.shot = shot;
    this.stages = stages;
    this.known = new Known(shot);
    this.sides = new Sides(shot, this.known);
    this.viewer = new Viewer(shot, this.sides, this.#viewNodes());
    this.looking = new Looking(shot, this.known);
    this.scopes = new Scopes(shot, byId("scopes"));
    this.strip = new Strip(shot, drawing("strip"), { frame: fieldOf("frame"), plate: byId("plate-time"), held: () => this.player.frames() });
    this.curves = new Curves(shot, byId("curves"), this.strip);
    this.player = new Player(shot, this.viewer, {
      heldChanged: () => this.strip.draw(), playing: (on) => this.#played(on), loops: () => fieldOf("loop").checked,
      fps: (real) => { byId("fps").textContent = `${real} of ${shot.state.setup.picture.fps} fps`; },
    });
    this.deeds = new RowDeeds(shot, stages);
    this.braid = new Braid(shot, byId("braid"), {
      menu: (at) => openRowMenu(shot, this.deeds, { at, commands: this.shortcuts.all().filter((one) => one.ofRows), back: byId("braid") }),
      gutter: drawing("gutter"), filter: () => ({ words: fieldOf("filter").value.trim(), way: fieldOf("way").value }), paste: (text) => this.deeds.paste(text),
    });
    this.rowKeys = new RowKeys(shot, this.braid);
    this.bench = new Bench(shot, {
      panel: byId("controls"), name: byId("bench-name"), tools: byId("bench-tools"), help: byId("help"),
      kindOf: (stage) => stages.find((one) => one.id === stage.kind), plates: () => this.known.plates, playing: () => this.player.running,
    });
    this.panels = new Panels(this);
    this.shortcuts = new Shortcuts(commands(this));
    this.bars = new Bars(this);
    const next = new NextStep(shot, byId("nextstep"), () => this.known.plates, () => byId("add").click());
    shot.watch((what) => what === "setup" && next.draw());
    tellJobs(shot, () => this.viewer.asker.stop());
    listenToKeys(this.shortcuts, () => this.viewer.flip(false));
  }

  /** @returns {import("../viewer/viewer.js").Nodes} */
  #viewNodes() {
    return {
      well: byId("well"), canvas: /** @type {HTMLCanvasElement} */ (byId("picture")), overlay: drawing("grips"), note: byId("note"), zoom: byId("zoom"),
      tags: every(".sidetag"), size: byId("size"), place: byId("place"), values: byId("values"), cost: byId("cost"),
      clicked: (at) => this.bench.names.picked(at), held: (frame) => this.player.held(frame), playing: () => this.player.running,
    };
  }

  /** @param {boolean} on */
  #played(on) {
    byId("play").replaceChildren(icon(on ? "pause" : "play"));
    byId("play").setAttribute("aria-label", on ? "stop" : "play");
    byId("time").dataset.playing = String(on);
    if (!on) this.bench.draw();
  }

  turnCompare() {
    this.shot.look({ compare: this.shot.view.compare ? "" : "split" });
  }

  async load() {
    await this.known.load();
    const asked = new URLSearchParams(location.search).get("render");
    const beside = this.known.renders.some((render) => String(render.id) === asked);
    if (beside) history.replaceState(null, "", location.pathname);
    await trying(() => this.shot.load());
    if (!this.shot.loaded) return;
    performance.mark("rows");
    // A render is looked at beside what the shot is now.
    if (beside) this.shot.look({ compare: "split", sideA: `render:${asked}`, sideB: "now" });
    this.bars.drawOpened();
  }
}

const head = /** @type {HTMLElement} */ (document.querySelector(".head"));
const { show, code } = /** @type {{ show: string, code: string }} */ (/** @type {unknown} */ (head.dataset));
/** @type {StageKind[]} */
const stages = await get("/api/stages");
const workbench = new Workbench(new Shot(show, code, await declarations(stages)), stages);
await workbench.load();
document.body.dataset.ready = "true";

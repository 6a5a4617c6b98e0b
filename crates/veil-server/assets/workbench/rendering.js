// Asks what is to be rendered, and into which files.

import { post } from "../base/api.js";
import { openDialog } from "../base/dialog.js";
import { button, choose, el, framed } from "../base/parts.js";
import { trying } from "../base/telling.js";

const FORMS = [["exr", "OpenEXR, half"], ["png", "PNG, 16 bit, sRGB"], ["tif", "TIFF, float, linear"], ["jpg", "JPEG, sRGB"], ["mp4", "clip: MP4, H.264"], ["webm", "clip: WebM, VP9 with alpha"]];
const SCALES = [[1, "full"], [2, "1/2"], [3, "1/3"], [4, "1/4"]];
const CLIPS = ["mp4", "webm"];
const TONES = [["bt709", "BT.709, as video"], ["srgb", "sRGB, as screens"]];
const RANGES = [["limited", "limited, as video"], ["full", "full"]];
const BAKES = [["ignored", "worked out anew"], ["used", "used where they fit"]];

/** @param {Shot} shot */
export function askRender(shot) {
  const { setup, braid } = shot.state;
  const { first, last } = setup.picture.frames;
  const asked = { stage: braid.rows.find((row) => row.knot === "final")?.id ?? braid.rows[0].id, frames: `${first}-${last}`, form: "exr", scale: 1, bakes: "ignored", numbers: { tones: "bt709", range: "limited" } };
  const frames = el("input", { class: "input num", value: asked.frames, "aria-label": "frames", oninput: (event) => { asked.frames = event.target.value; } });
  const pick = (/** @type {string} */ name, /** @type {string} */ label, /** @type {string | number} */ value, /** @type {(string | number)[][]} */ entries, /** @type {(value: string) => void} */ take) => el("label", { class: "line" }, name, framed(choose(label, value, entries, take)));
  const ofClip = el("div", { class: "lines", hidden: true },
    pick("tones", "tones", asked.numbers.tones, TONES, (tones) => { asked.numbers.tones = tones; }),
    pick("range", "range", asked.numbers.range, RANGES, (range) => { asked.numbers.range = range; }),
  );
  const start = async () => {
    if (!(await trying(() => post(`${shot.base}/render`, asked)))) return;
    dialog.close();
    location.href = "/renders";
  };
  const dialog = openDialog("render", [
    pick("row", "row", asked.stage, braid.rows.map((row) => [row.id, row.name]), (id) => { asked.stage = Number(id); }),
    el("label", { class: "line" }, "frames", frames),
    pick("files", "form", asked.form, FORMS, (form) => {
      asked.form = form;
      ofClip.hidden = !CLIPS.includes(form);
    }),
    ofClip,
    pick("scale", "scale", asked.scale, SCALES, (scale) => { asked.scale = Number(scale); }),
    setup.stages.some((stage) => stage.bake) && pick("bakes", "bakes", asked.bakes, BAKES, (bakes) => { asked.bakes = bakes; }),
  ], [button("cancel", "", () => dialog.close()), el("button", { class: "button is-primary is-outlined", id: "start-render", onclick: start }, "render")]);
  frames.focus();
}

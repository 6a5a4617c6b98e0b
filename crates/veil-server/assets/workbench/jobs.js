// Bakes and tracks on their way, with what stops them.

import { post } from "../base/api.js";
import { byId, el } from "../base/parts.js";
import { toast, trying } from "../base/telling.js";

/**
 * @param {Shot} shot
 * @param {() => void} stopAsking what gives up the picture that is waited for
 */
export function tellJobs(shot, stopAsking) {
  shot.hear((event) => {
    if (event.show !== shot.show || event.code !== shot.code) return;
    if (event.what === "track") tellTrack(shot, event);
    if (event.what === "bake") tellBake(shot, event);
    if (event.what === "making") tellRunning(event, "frames looked at", async () => stopAsking());
  });
}

/**
 * @param {Heard} event
 * @param {string} words
 * @param {() => Promise<unknown>} stop
 */
function tellRunning({ going, done, total }, words, stop) {
  const node = byId("baking");
  node.hidden = going !== "running";
  if (!node.hidden) node.replaceChildren(`${words}: ${done} of ${total} `, el("button", { class: "button is-ghost", onclick: () => trying(stop) }, "stop"));
}

/**
 * @param {Shot} shot
 * @param {Heard} event
 */
function tellTrack(shot, event) {
  tellRunning(event, `following ${event.name}`, () => post(`${shot.base}/tracks/stop`, {}));
  if (event.going !== "running") toast(`${event.name}: ${event.message}`, event.going === "failed");
}

/**
 * @param {Shot} shot
 * @param {Heard} event
 */
function tellBake(shot, event) {
  const name = shot.stage(event.stage)?.name ?? "a row";
  tellRunning(event, `baking ${name}`, () => post(`${shot.base}/bake/stop`, { stage: event.stage }));
  if (event.going === "done") toast(`${name} is baked`);
  if (event.going === "stopped") toast(`the bake of ${name} was stopped`);
  if (event.going === "failed") toast(`${name} was not baked: ${event.message}`, true);
}

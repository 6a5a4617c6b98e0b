// Frames held in the browser, and playing them.

import { frame as fetchFrame } from "./api.js";

// Most bytes of held pictures.
const LIMIT = 700e6;
const AT_ONCE = 2;

export function player(shot, viewer, nodes) {
  const frames = new Map();
  let mark = null;
  let bytes = 0;
  let loading = 0;
  let playing = null;

  const range = () => shot.range();
  const signature = () => [shot.state.revision, shot.view.shown, shot.view.look, shot.view.exposure, shot.view.screen, shot.view.backing, shot.view.behind, viewer.across()].join("/");

  function current() {
    if (mark !== signature()) {
      for (const one of frames.values()) one.bitmap?.close();
      frames.clear();
      bytes = 0;
      mark = signature();
    }
    return frames;
  }

  async function load(frame) {
    loading += 1;
    const wanted = signature();
    try {
      const address = viewer.address(1).replace(/([?&]frame=)[^&]*/, `$1${frame}`);
      const answer = await viewer.bitmap(await fetchFrame(address));
      if (wanted !== signature()) return answer.bitmap?.close();
      const cost = (answer.bitmap?.width ?? 0) * (answer.bitmap?.height ?? 0) * 4;
      current().set(frame, answer);
      bytes += cost;
      nodes.heldChanged();
    } finally {
      loading -= 1;
    }
  }

  // The next frames that are not held, from the playhead on.
  function fetchAhead() {
    const { first, last } = range();
    const count = last - first + 1;
    for (let step = 0; step < count && loading < AT_ONCE; step++) {
      const frame = first + ((((shot.view.frame - first) % count) + count + step) % count);
      if (current().has(frame) || wantedNow.has(frame)) continue;
      if (bytes > LIMIT) return;
      wantedNow.add(frame);
      load(frame).catch(() => stop()).finally(() => {
        wantedNow.delete(frame);
        if (playing) fetchAhead();
      });
    }
  }
  const wantedNow = new Set();

  function start() {
    const fps = shot.state.setup.picture.fps;
    playing = { last: performance.now(), shown: [] };
    nodes.playing(true);
    const tick = (now) => {
      if (!playing) return;
      fetchAhead();
      if (now - playing.last >= 1000 / fps - 2) advance(now, fps);
      playing.request = requestAnimationFrame(tick);
    };
    playing.request = requestAnimationFrame(tick);
  }

  function advance(now, fps) {
    const { first, last } = range();
    const atEnd = shot.view.frame >= last;
    if (atEnd && !nodes.loops()) return stop();
    const next = atEnd ? first : Math.max(first, shot.view.frame + 1);
    const held = current().get(next);
    if (!held) return;
    // Keep the beat when a frame was a little late; start anew when it was very late.
    playing.last = now - playing.last > 3000 / fps ? now : playing.last + 1000 / fps;
    shot.view.frame = next;
    viewer.showHeld(held);
    shot.tell("frame");
    playing.shown.push(now);
    playing.shown = playing.shown.filter((at) => now - at < 1000);
    nodes.fps(playing.shown.length);
  }

  function stop() {
    if (!playing) return;
    cancelAnimationFrame(playing.request);
    playing = null;
    nodes.playing(false);
    shot.tell("frame");
  }

  return {
    toggle: () => (playing ? stop() : start()),
    stop,
    running: () => Boolean(playing),
    held: (frame) => current().get(frame),
    frames: () => [...current().keys()],
  };
}

// Tracks as they are kept: where one is at a frame, and new ones put in.

/**
 * Where a track is at a frame, as it was found; none where it was not.
 * @param {Track} track
 * @param {number} frame
 * @returns {Sample | null}
 */
export function sampleAt(track, frame) {
  if (track.samples?.[frame]) return track.samples[frame];
  if (frame !== track.begins) return null;
  return { at: track.at, likeness: 1, corners: track.region, ...(track.surface ? { surface: { corners: track.surface.corners, likeness: [], by_hand: true } } : {}) };
}

/**
 * @param {Shot} shot
 * @param {string} name
 * @returns {Track}
 */
export function freshTrack(shot, name) {
  return { id: 0, name, stage: shot.selected ?? 0, begins: Math.round(shot.here), at: [0, 0], pattern: [15, 15], search: [15, 15], least_likeness: 0.7, samples: {} };
}

/**
 * @param {Shot} shot
 * @param {string} word
 * @param {number} count
 */
export function freeNames(shot, word, count) {
  const taken = new Set((shot.state.setup.tracks ?? []).map((track) => track.name));
  const names = [];
  for (let number = 1; names.length < count; number++) if (!taken.has(`${word} ${number}`)) names.push(`${word} ${number}`);
  return names;
}

/**
 * Puts new tracks in as one step; the last of them is chosen.
 * @param {Shot} shot
 * @param {Track[]} tracks
 */
export async function putTracks(shot, tracks) {
  const last = tracks.at(-1);
  if (!last) return;
  const made = await shot.edit({ do: "together", commands: tracks.map((track) => ({ do: "put_track", track })) });
  shot.atTrack({ id: made?.setup.tracks?.find((track) => track.name === last.name)?.id ?? null });
}

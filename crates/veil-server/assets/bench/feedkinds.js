// The kinds of feeds: what each asks for, and how it is written in a setup.

/** @typedef {{ [name: string]: number }} Numbers */

/**
 * What a feed is made of beside its numbers: a form, a formula, what it follows.
 * @typedef {any} Worded
 */

/**
 * @typedef {{
 *   fields: Numbers,
 *   choice?: [string, string[]],
 *   asks?: "formula" | "track" | "control",
 *   write: ((on: Numbers, worded: Worded, offset: any, names: { [word: string]: any }) => any) | null,
 *   read?: (feed: Fed) => [any, Worded] | false | undefined,
 * }} FeedKind
 */

const wave = { low: 0, high: 1, period: 24, phase: 0, seed: 1 };
const ofTrack = ["track", "axis", "since", "carries", "along"];

/** @type {{ [kind: string]: FeedKind }} */
export const FEEDS = {
  fixed: { fields: { value: 0 }, write: (on) => on.value },
  keys: { fields: {}, write: null },
  wave: {
    choice: ["form", ["sine", "triangle", "saw", "square", "steps", "climb"]], fields: wave,
    write: (on, form, offset) => ({ wave: form, period: on.period, phase: on.phase, span: { low: on.low, high: on.high }, seed: on.seed, offset }),
    read: (feed) => feed.wave && [{ ...feed, ...feed.span }, feed.wave],
  },
  jitter: {
    choice: ["way", ["smooth", "jumps"]], fields: { low: 0, high: 1, every: 1, seed: 1 },
    write: (on, way, offset) => ({ jitter: way, every: on.every, span: { low: on.low, high: on.high }, seed: on.seed, offset }),
    read: (feed) => feed.jitter && [{ ...feed, ...feed.span }, feed.jitter],
  },
  gate: {
    fields: { closed: 0, open: 1, "burst from": 2, "burst to": 6, "pause from": 6, "pause to": 20, chance: 1, attack: 0, release: 0, seed: 1 },
    write: (on, _worded, offset) => ({
      burst: { shortest: on["burst from"], longest: on["burst to"] }, pause: { shortest: on["pause from"], longest: on["pause to"] },
      chance: on.chance, attack: on.attack, release: on.release, span: { low: on.closed, high: on.open }, seed: on.seed, offset,
    }),
    read: (feed) => feed.burst && [{
      ...feed, closed: feed.span.low, open: feed.span.high, "burst from": feed.burst.shortest, "burst to": feed.burst.longest,
      "pause from": feed.pause.shortest, "pause to": feed.pause.longest,
    }, ""],
  },
  formula: {
    asks: "formula", fields: {},
    write: (_on, text, offset, names) => ({ formula: text, names, offset }),
    read: (feed) => feed.formula !== undefined && [{}, feed.formula],
  },
  track: {
    asks: "track", fields: { times: 1 },
    write: (on, of, offset) => of && { ...of, times: on.times, offset },
    read: (feed) => feed.track !== undefined && [{ times: 1, ...feed }, Object.fromEntries(ofTrack.filter((name) => feed[name] !== undefined).map((name) => [name, feed[name]]))],
  },
  follow: {
    asks: "control", fields: { scale: 1 },
    write: (on, of, offset) => of && { follow: of, scale: on.scale, offset },
    read: (feed) => feed.follow && [{ scale: 1, ...feed }, feed.follow],
  },
};

/**
 * @param {Feed | undefined} feed
 * @returns {string}
 */
export function kindOf(feed) {
  if (typeof feed !== "object") return "fixed";
  return Object.keys(FEEDS).find((kind) => FEEDS[kind].read?.(feed)) ?? (feed.keys ? "keys" : "fixed");
}

/**
 * What stands beside a number that is fed; null where it is just a number.
 * @param {Feed | undefined} feed
 */
export function feedWord(feed) {
  const kind = kindOf(feed);
  return kind === "fixed" ? null : kind === "follow" ? "follows" : kind;
}

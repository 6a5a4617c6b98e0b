// Feeds and their keys: what a keyed value is at a frame. The server's own value counts; this one is for showing.

/**
 * The feeds of a setting: one a number, none where it holds none.
 * @param {any} setting
 * @returns {Feed[]}
 */
export function feedsOf(setting) {
  if (setting && typeof setting === "object") {
    const several = setting.axes ?? setting.pairs?.amounts;
    if (several) return several;
  }
  // A list of names has a method called `keys`.
  const fed = ["formula", "wave", "jitter", "burst", "follow", "track"];
  if (typeof setting === "number" || Array.isArray(setting?.keys) || fed.some((kind) => setting?.[kind] !== undefined)) return [setting];
  return [];
}

/**
 * A setting with another feed for one of its numbers.
 * @param {any} setting
 * @param {number} index
 * @param {Feed} feed
 */
export function withFeed(setting, index, feed) {
  const several = feedsOf(setting).map((one, at) => (at === index ? feed : one));
  if (setting?.axes) return { axes: several };
  return setting?.pairs ? { pairs: { ...setting.pairs, amounts: several } } : feed;
}

/**
 * What one of a control's numbers is called, after the control's own name where it has several.
 * @param {Control} control
 * @param {number} index
 */
export function numberName({ name, axes, setting }, index) {
  const held = setting?.pairs;
  const axis = held ? [...held.pairs, ...held.fences].map((line) => line.name).concat(held.pairs.map((/** @type {Pair} */ pair) => `${pair.name} dissolve`))[index] : axes[index];
  // On the bench the name says already that it is a dissolve.
  return axis ? `${name} ${name.endsWith(" dissolve") ? axis.replace(/ dissolve$/, "") : axis}` : name;
}

/**
 * What of a feed is keyed: it, or what is added to it; null where neither is.
 * @param {Feed | undefined} feed
 * @returns {Keyed | null}
 */
export function keyedOf(feed) {
  if (!feed || typeof feed === "number") return null;
  if (feed.keys) return /** @type {Keyed} */ (feed);
  return feed.offset?.keys ? feed.offset : null;
}

/**
 * The same keys with one at a frame that gives a value there.
 * @param {Keyed} keyed
 * @param {number} frame
 * @param {number} value
 * @returns {Keyed}
 */
export function withKeyAt(keyed, frame, value) {
  const there = keyed.keys.find((key) => key.frame === frame) ?? { frame, ease: /** @type {Ease} */ ("straight") };
  const key = { ...there, value: value - (keyed.offset ?? 0) };
  return { ...keyed, keys: [...keyed.keys.filter((one) => one.frame !== frame), key].sort((a, b) => a.frame - b.frame) };
}

/**
 * A value of a feed at a frame. Undefined where only the server knows.
 * @param {Feed | undefined} feed
 * @param {number} frame
 * @returns {number | undefined}
 */
export function feedValue(feed, frame) {
  if (typeof feed === "number") return feed;
  return feed?.keys ? keyValue(/** @type {Keyed} */ (feed), frame) : undefined;
}

/**
 * @param {Keyed} keyed
 * @param {number} frame
 * @returns {number}
 */
export function keyValue({ keys, offset = 0 }, frame) {
  const after = keys.findIndex((key) => key.frame > frame);
  if (after === 0) return keys[0].value + offset;
  if (after < 0) return keys[keys.length - 1].value + offset;
  const [a, b] = [keys[after - 1], keys[after]];
  const t = (frame - a.frame) / (b.frame - a.frame);
  if (a.ease === "through") return through(keys, after - 1, t) + offset;
  return a.value + (b.value - a.value) * easeShare(a.ease, t) + offset;
}

/**
 * The slopes of a key: its own, or those that keep the curve between its neighbours, by Fritsch and Butland 1984.
 * @param {Key[]} keys
 * @param {number} at
 * @returns {Slopes}
 */
export function slopesOf(keys, at) {
  const [before, key, next] = [keys[at - 1], keys[at], keys[at + 1]];
  if (key.slopes) return key.slopes;
  if (!before || !next) return { arrive: 0, leave: 0 };
  const [back, ahead] = [key.frame - before.frame, next.frame - key.frame];
  const [fall, rise] = [(key.value - before.value) / back, (next.value - key.value) / ahead];
  if (fall * rise <= 0) return { arrive: 0, leave: 0 };
  const share = (back + 2 * ahead) / (3 * (back + ahead));
  const slope = (fall * rise) / (share * rise + (1 - share) * fall);
  return { arrive: slope, leave: slope };
}

/**
 * A cubic by the slopes at its ends.
 * @param {Key[]} keys
 * @param {number} at
 * @param {number} t
 */
function through(keys, at, t) {
  const [a, b] = [keys[at], keys[at + 1]];
  const span = b.frame - a.frame;
  const [leave, arrive] = [slopesOf(keys, at).leave * span, slopesOf(keys, at + 1).arrive * span];
  const s = 1 - t;
  return a.value * s * s * (1 + 2 * t) + leave * s * s * t + b.value * t * t * (3 - 2 * t) - arrive * t * t * s;
}

/**
 * @param {Ease | undefined} ease
 * @param {number} t
 */
function easeShare(ease, t) {
  if (ease === "step") return 0;
  if (ease === "straight") return t;
  const [x1, y1, x2, y2] = typeof ease === "object" ? ease.curve : [0.42, 0, 0.58, 1];
  const along = (/** @type {number} */ a, /** @type {number} */ b, /** @type {number} */ s) => 3 * (1 - s) * (1 - s) * s * a + 3 * (1 - s) * s * s * b + s * s * s;
  let [low, high] = [0, 1];
  for (let step = 0; step < 40; step++) {
    const middle = (low + high) / 2;
    if (along(x1, x2, middle) < t) low = middle;
    else high = middle;
  }
  return along(y1, y2, (low + high) / 2);
}

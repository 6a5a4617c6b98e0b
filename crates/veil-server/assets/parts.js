// Small pieces of interface that several modules build with.

const SVG = "http://www.w3.org/2000/svg";

function fill(node, attributes, children) {
  for (const [key, value] of Object.entries(attributes)) {
    if (value === undefined || value === null) continue;
    // States of a control are told either way.
    if (key.startsWith("aria-")) {
      node.setAttribute(key, String(value));
      continue;
    }
    if (value === false) continue;
    if (key.startsWith("on")) node.addEventListener(key.slice(2), value);
    else if (key === "class") node.setAttribute("class", value);
    else node.setAttribute(key, value === true ? "" : value);
  }
  node.append(...children.filter((child) => child !== null && child !== undefined && child !== false));
  return node;
}

export function el(name, attributes = {}, ...children) {
  return fill(document.createElement(name), attributes, children);
}

export function svg(name, attributes = {}, ...children) {
  return fill(document.createElementNS(SVG, name), attributes, children);
}

const ICONS = new URL("vendor/icons.svg", import.meta.url).pathname;

export function icon(name) {
  return svg("svg", { class: "icon-s", "aria-hidden": "true" }, svg("use", { href: `${ICONS}#${name}` }));
}

// Asks before something is done; true where it is to be done.
export function asked(title, words, yes) {
  return new Promise((answer) => {
    const dialog = document.getElementById("dialog");
    const button = (name, kind, value) => el("button", { class: `button veil ${kind}`, onclick: () => { answer(value); dialog.close(); } }, name);
    dialog.replaceChildren(el("header", {}, el("h2", {}, title)), el("div", { class: "body" }, el("p", {}, words)), el("footer", {}, button("leave it", "", false), button(yes, "brass", true)));
    dialog.onclose = () => answer(false);
    dialog.onkeydown = (event) => event.stopPropagation();
    dialog.showModal();
  });
}

let shownToast;

// Says something in passing; `deed` is something to do about it, by a button.
export function toast(message, bad = false, deed = null) {
  shownToast?.remove();
  const button = deed && el("button", { class: "button veil", onclick: () => { mine.remove(); deed.run(); } }, deed.words);
  shownToast = el("div", { class: bad ? "toast bad" : "toast", role: bad ? "alert" : "status" }, message, button);
  // Over a dialog, which covers all else.
  (document.querySelector("dialog[open]") ?? document.body).append(shownToast);
  const mine = shownToast;
  setTimeout(() => mine.remove(), bad || deed ? 7000 : 2600);
}

// Runs something that may fail; a failure is told and gives undefined.
export async function trying(work) {
  try {
    return await work();
  } catch (error) {
    if (error.name !== "AbortError") toast(error.message, true);
    return undefined;
  }
}

// Whether a slot takes a kind of signal.
const TAKES = { picture: ["picture"], field: ["picture", "field"], map: ["map"], any: ["picture", "field", "map"], pictureorfield: ["picture", "field"] };
export const takes = (slot, kind) => TAKES[slot.accepts].includes(kind);

// At most two places, none where it is whole.
export function short(number, places = 2) {
  return String(Number(number.toFixed(places)));
}

// The value of typed arithmetic: numbers, + - * / and brackets. NaN where it is none.
export function arithmetic(text) {
  const tokens = text.replace(/px|°|\s/g, "").match(/\d+\.?\d*(?:e[+-]?\d+)?|\.\d+|[-+*/()]|./gi) ?? [];
  let at = 0;
  const atom = () => {
    const token = tokens[at++];
    if (token === "-") return -atom();
    if (token === "+") return atom();
    if (token === "(") {
      const inner = sum();
      return tokens[at++] === ")" ? inner : NaN;
    }
    return /^[\d.]/.test(token ?? "") ? Number(token) : NaN;
  };
  const product = () => {
    let value = atom();
    while (tokens[at] === "*" || tokens[at] === "/") value = tokens[at++] === "*" ? value * atom() : value / atom();
    return value;
  };
  const sum = () => {
    let value = product();
    while (tokens[at] === "+" || tokens[at] === "-") value = tokens[at++] === "+" ? value + product() : value - product();
    return value;
  };
  const value = sum();
  return at === tokens.length && Number.isFinite(value) ? value : NaN;
}

// What of a feed is keyed: it, or what is added to it; null where neither is.
export const keyedOf = (feed) => (feed?.keys ? feed : feed?.offset?.keys ? feed.offset : null);

// The same keys with one at a frame that gives a value there.
export function withKeyAt(keyed, frame, value) {
  const there = keyed.keys.find((key) => key.frame === frame) ?? { frame, ease: "straight" };
  const key = { ...there, value: value - (keyed.offset ?? 0) };
  return { ...keyed, keys: [...keyed.keys.filter((one) => one.frame !== frame), key].sort((a, b) => a.frame - b.frame) };
}

// A value of a feed at a frame, for showing; the server's own value counts. Undefined where only it knows.
export function feedValue(feed, frame) {
  if (typeof feed === "number") return feed;
  if (!feed?.keys) return undefined;
  const offset = feed.offset ?? 0;
  const after = feed.keys.findIndex((key) => key.frame > frame);
  if (after === 0) return feed.keys[0].value + offset;
  if (after < 0) return feed.keys[feed.keys.length - 1].value + offset;
  const [a, b] = [feed.keys[after - 1], feed.keys[after]];
  const t = (frame - a.frame) / (b.frame - a.frame);
  if (a.ease === "through") return through(feed.keys, after - 1, t) + offset;
  return a.value + (b.value - a.value) * easeShare(a.ease, t) + offset;
}

// The slopes of a key: its own, or those that keep the curve between its neighbours.
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

function through(keys, at, t) {
  const [a, b] = [keys[at], keys[at + 1]];
  const span = b.frame - a.frame;
  const [leave, arrive] = [slopesOf(keys, at).leave * span, slopesOf(keys, at + 1).arrive * span];
  const s = 1 - t;
  return a.value * s * s * (1 + 2 * t) + leave * s * s * t + b.value * t * t * (3 - 2 * t) - arrive * t * t * s;
}

function easeShare(ease, t) {
  if (ease === "step") return 0;
  if (ease === "straight") return t;
  const [x1, y1, x2, y2] = ease?.curve ?? [0.42, 0, 0.58, 1];
  const along = (a, b, s) => 3 * (1 - s) * (1 - s) * s * a + 3 * (1 - s) * s * s * b + s * s * s;
  let [low, high] = [0, 1];
  for (let step = 0; step < 40; step++) {
    const middle = (low + high) / 2;
    if (along(x1, x2, middle) < t) low = middle;
    else high = middle;
  }
  return along(y1, y2, (low + high) / 2);
}

export function feedsOf(setting) {
  if (setting && typeof setting === "object" && setting.axes) return setting.axes;
  // A list of names has a method called `keys`.
  const fed = ["formula", "wave", "jitter", "burst", "follow", "track"];
  if (typeof setting === "number" || Array.isArray(setting?.keys) || fed.some((kind) => setting?.[kind] !== undefined)) return [setting];
  return [];
}

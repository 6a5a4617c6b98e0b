// Small pieces of interface that several modules build with.

const SVG = "http://www.w3.org/2000/svg";

/**
 * @template {Element} Node
 * @param {Node} node
 * @param {Attributes} attributes
 * @param {Child[]} children
 * @returns {Node}
 */
function fill(node, attributes, children) {
  for (const [key, value] of Object.entries(attributes)) {
    if (value === undefined || value === null) continue;
    // States of a control are told either way.
    if (key.startsWith("aria-")) node.setAttribute(key, String(value));
    else if (value === false) continue;
    else if (key.startsWith("on")) node.addEventListener(key.slice(2), /** @type {EventListener} */ (value));
    else node.setAttribute(key, value === true ? "" : String(value));
  }
  node.append(...children.filter((child) => child !== null && child !== undefined && child !== false).map((child) => (typeof child === "number" ? String(child) : child)));
  return node;
}

/**
 * @template {keyof HTMLElementTagNameMap} Name
 * @param {Name} name
 * @param {Attributes} [attributes]
 * @param {Child[]} children
 * @returns {HTMLElementTagNameMap[Name]}
 */
export function el(name, attributes = {}, ...children) {
  return fill(document.createElement(name), attributes, children);
}

/**
 * @template {keyof SVGElementTagNameMap} Name
 * @param {Name} name
 * @param {Attributes} [attributes]
 * @param {Child[]} children
 * @returns {SVGElementTagNameMap[Name]}
 */
export function svg(name, attributes = {}, ...children) {
  return fill(/** @type {SVGElementTagNameMap[Name]} */ (document.createElementNS(SVG, name)), attributes, children);
}

const ICONS = new URL("../vendor/icons.svg", import.meta.url).pathname;

/** @param {string} name */
export function icon(name) {
  return svg("svg", { class: "icon-s", "aria-hidden": "true" }, svg("use", { href: `${ICONS}#${name}` }));
}

/**
 * A button of the interface; `pressed` where it is one that stays down.
 * @param {Child} words
 * @param {string} title
 * @param {(event: MouseEvent) => unknown} run
 * @param {boolean} [pressed]
 */
export function button(words, title, run, pressed) {
  return el("button", { class: "button", title: title || null, onclick: run, ...(pressed === undefined ? {} : { "aria-pressed": pressed }) }, words);
}

/**
 * A choice of a few, by what each stands for and its words.
 * @param {string} label
 * @param {string | number} value
 * @param {Iterable<(string | number | undefined)[]>} entries
 * @param {(value: string) => unknown} take
 * @param {Attributes} [more]
 */
export function choose(label, value, entries, take, more = {}) {
  const options = [...entries].map(([id, words]) => el("option", { value: id, selected: String(id) === String(value) }, words ?? id));
  return el("select", { "aria-label": label, ...more, onchange: (event) => take(event.target.value) }, ...options);
}

/**
 * A chooser in its frame.
 * @param {HTMLSelectElement} select
 * @param {Attributes} [more]
 */
export function framed(select, more = {}) {
  return el("span", { class: "select", ...more }, select);
}

/**
 * The element of this page that has an id.
 * @param {string} id
 */
export function byId(id) {
  const found = document.getElementById(id);
  if (!found) throw new Error(`the page has no \`${id}\``);
  return found;
}

/**
 * @param {string} id
 * @returns {HTMLInputElement}
 */
export const fieldOf = (id) => /** @type {HTMLInputElement} */ (byId(id));

/**
 * Every element that a selector meets.
 * @template {HTMLElement} [Node=HTMLElement]
 * @param {string} selector
 * @param {ParentNode} [within]
 * @returns {Node[]}
 */
export const every = (selector, within = document) => [.../** @type {NodeListOf<Node>} */ (within.querySelectorAll(selector))];

/**
 * Whether a slot takes a kind of signal.
 * @param {Slot} slot
 * @param {Kind} kind
 */
export function takes(slot, kind) {
  const taken = { picture: ["picture"], field: ["picture", "field"], map: ["map"], any: ["picture", "field", "map"], pictureorfield: ["picture", "field"] };
  return taken[slot.accepts].includes(kind);
}

/**
 * At most so many places, none where it is whole.
 * @param {number} number
 * @param {number} [places]
 */
export function short(number, places = 2) {
  return String(Number(number.toFixed(places)));
}

/**
 * Keeps a number between two others.
 * @param {number} value
 * @param {number} least
 * @param {number} most
 */
export const within = (value, least, most) => Math.min(Math.max(value, least), most);

/** @param {number} version */
export const versionName = (version) => `v${String(version).padStart(3, "0")}`;

/**
 * One command of several; the only one as it is.
 * @param {Command[]} commands
 * @returns {Command}
 */
export const together = (commands) => (commands.length === 1 ? commands[0] : { do: "together", commands });

// What a field is typed into runs no command.
/** @param {Event} event */
export const apart = (event) => event.stopPropagation();

/**
 * The value of typed arithmetic: numbers, + - * / and brackets. NaN where it is none.
 * @param {string} text
 */
export function arithmetic(text) {
  const tokens = text.replace(/px|°|\s/g, "").match(/\d+\.?\d*(?:e[+-]?\d+)?|\.\d+|[-+*/()]|./gi) ?? [];
  let at = 0;
  /** @returns {number} */
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

// Calls to the server. Each gives its answer or throws an Error that a person can read.

/** Whether the server could be reached when it was last asked; pages may show it. */
let reached = true;

/** @param {boolean} now */
function connection(now) {
  if (now === reached) return;
  reached = now;
  document.body.classList.toggle("unreached", !now);
}

/**
 * @param {string} address
 * @param {RequestInit} [asked]
 */
async function answered(address, asked) {
  let response;
  try {
    response = await fetch(address, asked);
  } catch (error) {
    if (error instanceof Error && error.name === "AbortError") throw error;
    connection(false);
    throw new Error("the server cannot be reached", { cause: error });
  }
  connection(true);
  if (response.ok) return response;
  const text = await response.text();
  throw new Error(said(text) || `the server answered ${response.status}`);
}

/**
 * What an answer says of a failure: what its JSON calls `error`, or its plain text.
 * @param {string} text
 * @returns {string}
 */
export function said(text) {
  return text.startsWith("{") ? (JSON.parse(text).error ?? text) : text;
}

/**
 * @param {string} address
 * @param {AbortSignal} [signal]
 * @returns {Promise<any>}
 */
export async function get(address, signal) {
  return (await answered(address, { signal })).json();
}

/**
 * @param {string} address
 * @param {object} body
 * @returns {Promise<any>}
 */
export async function post(address, body) {
  const headers = { "content-type": "application/json" };
  return (await answered(address, { method: "POST", headers, body: JSON.stringify(body) })).json();
}

/**
 * @param {string} address
 * @returns {Promise<any>}
 */
export async function remove(address) {
  return (await answered(address, { method: "DELETE" })).json();
}

/**
 * Bytes, and what is said beside them.
 * @param {string} address
 * @param {AbortSignal} [signal]
 * @returns {Promise<{ about: any, bytes: ArrayBuffer }>}
 */
export async function bytes(address, signal) {
  const response = await answered(address, { signal });
  return { about: JSON.parse(response.headers.get("x-about") ?? "{}"), bytes: await response.arrayBuffer() };
}

/**
 * A frame as it comes: no picture where it has no pixels.
 * @param {string} address
 * @param {AbortSignal} [signal]
 * @returns {Promise<Answer>}
 */
export async function frame(address, signal) {
  const { about, bytes: pixels } = await bytes(address, signal);
  const drawn = about.width * about.height > 0;
  const bitmap = drawn ? await createImageBitmap(new ImageData(new Uint8ClampedArray(pixels), about.width, about.height)) : null;
  return { about, bitmap };
}

/**
 * For what only adds to what is seen: where it fails, something else stands for it, and the log has the reason.
 * @template T, E
 * @param {Promise<T>} asked
 * @param {E} otherwise
 * @returns {Promise<T | E>}
 */
export async function orElse(asked, otherwise) {
  try {
    return await asked;
  } catch (error) {
    console.warn(error);
    return otherwise;
  }
}

/**
 * Hears what the server tells all pages, for as long as this page is looked at.
 * @param {(event: Heard) => void} heard
 */
export function listen(heard) {
  const source = new EventSource("/api/events");
  const missed = /** @type {Heard} */ ({ what: "missed" });
  source.onmessage = (message) => heard(JSON.parse(message.data));
  // What was told while the connection was lost was not heard.
  let opened = false;
  source.onopen = () => {
    connection(true);
    if (opened) heard(missed);
    opened = true;
  };
  source.onerror = () => connection(false);
  // A page that is left and kept for going back must not hold a connection, of which a browser has few.
  addEventListener("pagehide", () => source.close());
  addEventListener("pageshow", (event) => {
    if (event.persisted) location.reload();
  });
  return source;
}

/**
 * The values that there are, as the query of an address.
 * @param {{ [name: string]: string | number | boolean | null | undefined }} values
 */
export function query(values) {
  const text = new URLSearchParams();
  for (const [key, value] of Object.entries(values)) {
    if (value !== undefined && value !== null) text.set(key, String(value));
  }
  return text.toString();
}

// Calls to the server. Each gives its answer or throws an Error that a person can read.

async function answered(response) {
  if (response.ok) return response;
  const text = await response.text();
  let message = text;
  try {
    message = JSON.parse(text).error ?? text;
  } catch {
    // Plain text is a message as it is.
  }
  throw new Error(message || `the server answered ${response.status}`);
}

export async function get(address, signal) {
  return (await answered(await fetch(address, { signal }))).json();
}

export async function post(address, body) {
  const headers = { "content-type": "application/json" };
  return (await answered(await fetch(address, { method: "POST", headers, body: JSON.stringify(body) }))).json();
}

export async function remove(address) {
  return (await answered(await fetch(address, { method: "DELETE" }))).json();
}

// A frame: its bytes and what is said beside them.
export async function frame(address, signal) {
  const response = await answered(await fetch(address, { signal }));
  const about = JSON.parse(response.headers.get("x-about"));
  const bytes = new Uint8ClampedArray(await response.arrayBuffer());
  const picture = about.width * about.height > 0 ? new ImageData(bytes, about.width, about.height) : null;
  return { about, picture };
}

export function listen(heard) {
  const source = new EventSource("/api/events");
  source.onmessage = (message) => heard(JSON.parse(message.data));
  // What was told while the connection was lost was not heard.
  let opened = false;
  source.onopen = () => {
    if (opened) heard({ what: "missed" });
    opened = true;
  };
  // A page that is left and kept for going back must not hold a connection, of which a browser has few.
  addEventListener("pagehide", () => source.close());
  addEventListener("pageshow", (event) => { if (event.persisted) location.reload(); });
  return source;
}

export function query(values) {
  const text = new URLSearchParams();
  for (const [key, value] of Object.entries(values)) {
    if (value !== undefined && value !== null) text.set(key, value);
  }
  return text.toString();
}

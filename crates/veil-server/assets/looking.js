// How the picture is looked at, and what is kept of it: backing, overlays, scopes, stills and a sheet of frames.

import { get, post, query } from "./api.js";
import { el, svg, toast, trying } from "./parts.js";
import { openDialog } from "./dialog.js";

const BACKINGS = { black: "black", grey: "grey", white: "white", green: "green", checks: "checks" };
const SCREENS = { srgb: "sRGB", bt1886: "BT.1886", gamma22: "gamma 2.2", straight: "straight" };
const SWITCHES = { ghost: ["ghost", "the selected row's picture, half seen over the shown one, whatever its amount"], windows: ["windows", "the display and data windows, drawn"], foldView: ["folds", "stripes where the picture is laid over itself"], moves: ["moves", "how far all warps above move each place together, as arrows"], motion: ["motion", "how far each pixel travels over the range, in false colour"], scopes: ["scopes", "histogram and waveform of what is seen"] };
const SHEETS = [12, 24, 48];

export function looking(shot, known, nodes) {
  const set = (changes) => {
    Object.assign(shot.view, changes);
    shot.tell("view");
  };

  function toggle(name) {
    set({ [name]: !shot.view[name] });
  }

  function chooser(label, value, entries, chosen) {
    const select = el("select", { "aria-label": label, onchange: () => chosen(select.value) }, ...entries.map(([id, name]) => el("option", { value: id, selected: id === value }, name)));
    return el("label", {}, el("span", {}, label), el("span", { class: "select veil" }, select));
  }

  function open(anchor) {
    const before = document.querySelector(".pop.looking");
    document.querySelector(".pop")?.remove();
    if (before) return;
    const rows = shot.state.braid.rows.map((row) => [String(row.id), row.name, row.gives]);
    const pictures = rows.filter(([, , gives]) => gives === "picture").map(([id, name]) => [`row ${id}`, name]);
    const close = () => {
      pop.remove();
      document.removeEventListener("pointerdown", away);
      anchor.focus();
    };
    const away = (event) => !pop.contains(event.target) && event.target !== anchor && close();
    const stills = el("ul", { class: "stills" });
    const drawStills = () => stills.replaceChildren(...known.stills().map((still) => el("li", {},
      el("button", { class: "button veil bare", title: "compare with it", onclick: () => { close(); set({ compare: shot.view.compare || "split", sideA: `still:${still.number}` }); } },
        el("img", { alt: "", src: `${shot.base}/still?${query({ stage: still.stage, frame: still.frame, still: still.number })}` }), `${still.number}: ${still.name}`),
      el("span", { class: "grow" }),
      el("button", { class: "button veil bare quiet", title: "the setup as it was then becomes the live one; undo takes it back", onclick: () => { close(); shot.change(`stills/${still.number}/return`, {}); } }, "return to it"),
      el("button", { class: "button veil bare quiet", "aria-label": `keep still ${still.number} no longer`, onclick: async () => {
        const response = await fetch(`${shot.base}/stills/${still.number}`, { method: "DELETE" });
        if (response.ok) { known.setStills(await response.json()); drawStills(); shot.tell("view"); }
      } }, "×"))));
    drawStills();
    const pop = el("div", { class: "pop looking", tabindex: -1, role: "dialog", "aria-label": "how it is looked at", onkeydown: (event) => {
      event.stopPropagation();
      if (event.key === "Escape") close();
    } },
      chooser("behind it", shot.view.behind ? `row ${shot.view.behind}` : shot.view.backing ?? "black", [...Object.entries(BACKINGS), ...pictures], (value) =>
        set(value.startsWith("row ") ? { behind: Number(value.slice(4)), backing: "black" } : { backing: value, behind: null })),
      chooser("over it, as coverage", String(shot.view.over ?? ""), [["", "nothing"], ...rows], (value) => set({ over: value ? Number(value) : null })),
      chooser("on which screen", shot.view.screen, Object.entries(SCREENS), (screen) => set({ screen })),
      el("div", { class: "switches" }, ...Object.entries(SWITCHES).map(([name, [words, title]]) => el("label", { title }, el("input", { type: "checkbox", checked: Boolean(shot.view[name]), onchange: () => toggle(name) }), words))),
      el("div", { class: "deeds" }, el("button", { class: "button veil", onclick: () => { close(); keepStill(); } }, "keep a still"),
        ...SHEETS.map((count) => el("button", { class: "button veil", title: "frames across the range, side by side", onclick: () => { close(); sheet(count); } }, `sheet of ${count}`))),
      stills);
    document.body.append(pop);
    const box = anchor.getBoundingClientRect();
    pop.style.top = `${box.bottom + 4}px`;
    pop.style.left = `${Math.max(8, Math.min(box.left, innerWidth - pop.offsetWidth - 8))}px`;
    pop.querySelector("select").focus();
    setTimeout(() => document.addEventListener("pointerdown", away));
  }

  async function keepStill() {
    const kept = await trying(() => post(`${shot.base}/stills`, { stage: shot.view.shown, frame: shot.view.frame }));
    if (!kept) return;
    await known.refresh();
    toast(`still ${kept.number} is kept: ${kept.name}`);
    shot.tell("view");
  }

  // Frames across the range, of the shown row; a click goes there.
  function sheet(count) {
    const { first, last } = shot.range();
    const many = Math.min(count, last - first + 1);
    const frames = Array.from({ length: many }, (_, at) => Math.round(first + (many > 1 ? (at * (last - first)) / (many - 1) : 0)));
    const dialog = openDialog(`${shot.row(shot.view.shown)?.name ?? ""}, ${many} frames`, [el("div", { class: "framesheet" }, ...frames.map((frame) => el("button", {
      class: "sheetframe", "aria-label": `go to frame ${frame}`, onclick: () => { dialog.close(); shot.go(frame); },
    }, el("img", { alt: "", loading: "lazy", src: `${shot.base}/still?${query({ stage: shot.view.shown, frame, revision: shot.state.revision })}` }), el("span", { class: "num" }, String(frame)))))]);
    dialog.classList.add("wide");
    // What is not there yet is wanted no longer.
    dialog.onclose = () => {
      dialog.classList.remove("wide");
      for (const image of dialog.querySelectorAll("img")) if (!image.complete) image.removeAttribute("src");
    };
  }

  // Histogram and waveform, drawn once the picture is there.
  let counted = null;
  async function drawScopes() {
    nodes.scopes.hidden = !shot.view.scopes;
    if (nodes.scopes.hidden) return;
    const of = query({ stage: shot.view.shown, frame: shot.view.frame, exposure: shot.view.exposure, screen: shot.view.screen, revision: shot.state.revision, ...(shot.measured ? { within: shot.measured } : {}) });
    if (counted === of) return;
    counted = of;
    const found = await get(`${shot.base}/scopes?${of}`).catch(() => null);
    if (counted !== of || !found) return;
    const [wide, high] = [192, 64];
    const most = Math.max(1, ...found.histogram.flatMap((counts) => counts.slice(1, -1)));
    const shape = (counts) => `M0 ${high}${counts.map((count, at) => `L${((at / (counts.length - 1)) * wide).toFixed(1)} ${(high - Math.min(1, Math.sqrt(count / most)) * high).toFixed(1)}`).join("")}L${wide} ${high}z`;
    const colours = ["#d0604a", "#7ba35f", "#6d8fc0"];
    const histogram = svg("svg", { width: wide, height: high, role: "img", "aria-label": "histogram of red, green and blue, as on the screen" },
      ...found.histogram.map((counts, at) => svg("path", { d: shape(counts), fill: colours[at], "fill-opacity": 0.28, stroke: colours[at] })));
    const canvas = el("canvas", { width: found.columns, height: found.levels, role: "img", "aria-label": "waveform of luma, as on the screen" });
    const picture = new ImageData(found.columns, found.levels);
    const tallest = Math.max(1, ...found.waveform);
    found.waveform.forEach((count, at) => {
      const [column, level] = [Math.floor(at / found.levels), at % found.levels];
      const light = Math.round(255 * Math.min(1, (count / tallest) ** 0.35));
      picture.data.set([light * 0.92, light * 0.91, light * 0.87, 255], ((found.levels - 1 - level) * found.columns + column) * 4);
    });
    canvas.getContext("2d").putImageData(picture, 0, 0);
    const share = (value) => `${(value * 100).toFixed(1)} %`;
    nodes.scopes.replaceChildren(histogram, canvas, el("p", { class: "num" }, `above 1: ${share(found.above)}  below 0: ${share(found.below)}${shot.measured ? "  in the box" : ""}`));
    nodes.scopes.dataset.of = of;
  }

  shot.watch((what) => {
    if (what === "painted" || what === "measured") drawScopes();
    if (what === "view") nodes.scopes.hidden = !shot.view.scopes;
  });

  return { open, keepStill, sheet: () => sheet(24), toggle };
}

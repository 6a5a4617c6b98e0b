// Writing a formula: what is wrong is underlined, names are completed, and other controls are named by words.

import { get, query } from "./api.js";
import { el } from "./parts.js";

const FRAME = ["now", "since", "secs", "pi"];
const PIXEL = ["px", "py", "wide", "high", "in1.r", "in1.g", "in1.b", "in1.a", "in2.r", "in3.r", "in4.r"];
const FUNCTIONS = ["sin", "cos", "tan", "asin", "acos", "atan", "radians", "degrees", "pow", "exp", "log", "sqrt", "abs", "sign", "floor", "ceil", "round", "fract", "mod", "min", "max", "clamp", "mix", "step", "smoothstep", "length", "noise"];
const MOST = 8;

// A field for the formula of a row's control. `named` says which words stand for other controls.
export function formulaField(shot, { stage, pixels, text, named, lines, label, field: mark, typed, kept, left }) {
  const names = { ...named };
  const wrong = el("p", { class: "wrong num", role: "alert", hidden: true });
  const list = el("ul", { class: "completions", role: "listbox", "aria-label": "names that fit", hidden: true });
  const field = el(lines > 1 ? "textarea" : "input", { class: "veil-field num formula", rows: lines > 1 ? lines : null, "aria-label": label, spellcheck: "false", autocomplete: "off", "data-field": mark,
    onkeydown: keys, oninput: () => { complete(); understood(); typed?.(field.value, used()); },
    onblur: () => setTimeout(() => { list.hidden = true; }, 150), onchange: () => left?.() });
  field.value = text;
  let at = 0;

  // The names that the text has words of.
  const used = () => Object.fromEntries(Object.entries(names).filter(([word]) => new RegExp(`(^|[^\\w.])${word}($|[^\\w])`).test(field.value)));

  // Every name there is: the frame's, the pixel's, functions, own controls, and numbers of rows.
  function known() {
    const owners = [];
    for (let id = stage; id !== undefined; id = shot.stage(id)?.inside) owners.push(id);
    const own = [...new Set([...owners, 0])].flatMap((of) => shot.controls(of).filter((control) => control.own).flatMap((control) => control.axes.map((axis, index) => ({
      word: index || axis ? `${control.word}.${axis[0]}` : control.word, about: control.name,
    }))));
    const rows = shot.state.setup.stages.filter((row) => row.id !== stage).flatMap((row) => shot.controls(row.id).filter((control) => !control.own).flatMap((control) => control.axes.map((axis, index) => ({
      word: [row.name, control.name, axis].filter(Boolean).join("_").toLowerCase().replace(/[^a-z0-9]+/g, "_"), about: `${row.name}: ${[control.name, axis].filter(Boolean).join(" ")}`,
      follow: { stage: row.id, control: control.id, axis: index },
    }))));
    const plain = [...FRAME, ...(pixels ? PIXEL : [])].map((word) => ({ word, about: "" }));
    return [...own, ...plain, ...FUNCTIONS.map((word) => ({ word: `${word}(`, about: "function" })), ...rows];
  }

  const started = () => /[A-Za-z][\w.]*$/.exec(field.value.slice(0, field.selectionStart))?.[0] ?? "";

  function complete() {
    const begun = started().toLowerCase();
    const fit = begun ? known().filter((one) => one.word !== begun && (one.word.startsWith(begun) || one.about.toLowerCase().includes(begun))) : [];
    const found = fit.sort((a, b) => Number(b.word.startsWith(begun)) - Number(a.word.startsWith(begun))).slice(0, MOST);
    at = 0;
    list.hidden = !found.length;
    list.replaceChildren(...found.map((one, index) => el("li", { role: "option", "aria-selected": index === 0, onpointerdown: (event) => { event.preventDefault(); take(one); } }, el("b", { class: "num" }, one.word), one.about)));
    list.found = found;
  }

  function take({ word, follow }) {
    const [end, begun] = [field.selectionStart, started()];
    field.setRangeText(word, end - begun.length, end, "end");
    if (follow) names[word] = { follow };
    list.hidden = true;
    field.focus();
    understood();
    typed?.(field.value, used());
  }

  function keys(event) {
    event.stopPropagation();
    const move = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!list.hidden && move) {
      at = (at + move + list.children.length) % list.children.length;
      [...list.children].forEach((item, index) => item.setAttribute("aria-selected", index === at));
    } else if (!list.hidden && (event.key === "Tab" || (event.key === "Enter" && at > 0))) take(list.found[at]);
    else if (!list.hidden && event.key === "Escape") list.hidden = true;
    else if (event.key === "Enter" && !event.shiftKey) { list.hidden = true; kept(); }
    else return;
    event.preventDefault();
  }

  // Underlines what is wrong; true where nothing is.
  async function understood() {
    const written = field.value;
    const found = await get(`${shot.base}/formula?${query({ text: written, stage, pixels, named: Object.keys(names).join(",") })}`).catch(() => ({}));
    if (written !== field.value) return false;
    const bad = found.at !== undefined;
    wrong.hidden = !bad;
    field.setAttribute("aria-invalid", bad);
    if (bad) {
      const letters = [...written];
      const end = found.at + (found.length ?? 1);
      wrong.replaceChildren(letters.slice(0, found.at).join(""), el("u", {}, letters.slice(found.at, end).join("") || "\u00a0"), letters.slice(end).join(""), el("br"), `expected ${found.expected}`);
    }
    return !bad;
  }

  return { node: el("div", { class: "formulabox" }, field, list, wrong), understood, value: () => field.value, names: used };
}

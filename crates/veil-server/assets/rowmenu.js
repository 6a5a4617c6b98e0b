// What can be done with the selected rows besides their controls: copies, other kinds, words and colours.

import { get } from "./api.js";
import { el, toast, trying } from "./parts.js";

const TABS = ["clay", "moss", "slate", "plum", "sand", "ice"];
// Rows that were copied, for windows that may not read the system's clipboard.
const KEPT = "veil:rows";

export function rowDeeds(shot, stages) {
  const last = () => shot.state.setup.stages[shot.state.setup.stages.length - 1].id;
  const chosen = () => shot.view.selected.filter((id) => id !== last() && id !== 0);
  // A tool's row takes what is inside of it along.
  const within = (id) => [shot.stage(id)?.inside].some((outer) => outer !== undefined && (shot.view.selected.includes(outer) || within(outer)));
  const outermost = () => chosen().filter((id) => !within(id));
  const together = (commands) => commands.length && shot.edit(commands.length === 1 ? commands[0] : { do: "together", commands });

  // `group`, or `group 2` and so on where that is there.
  function freeGroup() {
    const known = new Set(shot.state.setup.stages.map((stage) => stage.group));
    for (let number = 1; ; number++) {
      const name = number === 1 ? "group" : `group ${number}`;
      if (!known.has(name)) return name;
    }
  }

  async function copy() {
    const rows = chosen();
    if (!rows.length) return toast("select a row to copy");
    const text = await trying(async () => JSON.stringify(await get(`${shot.base}/rows?rows=${rows.join(",")}`)));
    if (!text) return undefined;
    localStorage.setItem(KEPT, text);
    await navigator.clipboard?.writeText(text).catch(() => {});
    toast(rows.length === 1 ? `${shot.stage(rows[0]).name} is copied` : `${rows.length} rows are copied`);
    return rows;
  }

  async function paste(text) {
    let copied;
    for (const one of [text, localStorage.getItem(KEPT)]) {
      try {
        copied ??= JSON.parse(one).rows ? JSON.parse(one) : undefined;
      } catch {
        // What is no row may be any text at all.
      }
    }
    if (!copied) return toast("what was copied is not rows of a setup", true);
    return shot.add({ do: "paste", copied, after: shot.selected ?? null });
  }

  return {
    chosen,
    copy,
    paste,
    async cut() {
      const rows = outermost();
      if (await copy()) await together(rows.map((stage) => ({ do: "remove", stage })));
    },
    duplicate: (linked) => chosen().length && shot.add({ do: "duplicate", rows: chosen(), linked }),
    remove: () => together(outermost().map((stage) => ({ do: "remove", stage }))),
    onOff() {
      const rows = chosen();
      const on = rows.some((id) => shot.row(id)?.on === false);
      return together(rows.map((stage) => ({ do: "switch", stage, on })));
    },
    group: () => chosen().length && shot.edit({ do: "group", rows: chosen(), name: freeGroup() }),
    ungroup: () => chosen().length && shot.edit({ do: "group", rows: chosen(), name: "" }),
    inGroup: (name) => shot.edit({ do: "group", rows: chosen(), name }),
    becomes: (kind) => shot.edit({ do: "replace_kind", stage: shot.selected, kind }),
    note: (text) => shot.edit({ do: "note", stage: shot.selected, text }),
    mark: (tab) => shot.edit({ do: "mark", rows: chosen(), tab }),
    kinds: () => stages.filter((one) => one.id !== "final").toSorted((a, b) => a.name.localeCompare(b.name)),
  };
}

// The list beside a row; arrows move in it, Escape leaves it.
export function openRowMenu(shot, deeds, at, commands, back) {
  document.querySelector(".pop")?.remove();
  const stage = shot.stage(shot.selected);
  if (!stage || !deeds.chosen().length) return;
  const several = deeds.chosen().length > 1;
  const close = () => {
    pop.remove();
    document.removeEventListener("pointerdown", away);
    back.focus({ preventScroll: true });
  };
  const away = (event) => !pop.contains(event.target) && close();
  const item = ({ name, keys, run }) => el("button", { class: "item", role: "menuitem", onclick: () => { close(); run(); } }, el("span", {}, name), el("span", { class: "num quiet" }, keys));
  const kind = el("select", { "aria-label": "another kind", onchange: () => { close(); deeds.becomes(kind.value); } },
    el("option", { value: "" }, "becomes another kind"), ...deeds.kinds().filter((one) => one.id !== stage.kind).map((one) => el("option", { value: one.id }, one.name)));
  const note = el("input", { class: "veil-field", "aria-label": "note", placeholder: "a note beside the row", value: stage.note ?? "", onkeydown: (event) => {
    event.stopPropagation();
    if (event.key === "Enter") { close(); deeds.note(note.value); }
    if (event.key === "Escape") close();
  } });
  const group = el("input", { class: "veil-field", "aria-label": "name of the group", placeholder: "name of its group", value: stage.group ?? "", onkeydown: (event) => {
    event.stopPropagation();
    if (event.key === "Enter") { close(); deeds.inGroup(group.value.trim()); }
    if (event.key === "Escape") close();
  } });
  const tabs = el("div", { class: "tabpicks", role: "group", "aria-label": "colour at the name" },
    ...TABS.map((tab) => el("button", { class: `tabpick tab-${tab}`, "aria-label": tab, title: tab, "aria-pressed": stage.tab === tab, onclick: () => { close(); deeds.mark(stage.tab === tab ? null : tab); } }, el("i"))));
  const pop = el("div", { class: "pop rowmenu", role: "menu", "aria-label": several ? `${deeds.chosen().length} rows` : stage.name },
    ...commands.map(item), several || stage.tool ? null : el("span", { class: "select veil" }, kind), tabs, several ? null : note, group);
  pop.addEventListener("keydown", (event) => {
    const all = [...pop.querySelectorAll("button,select,input")];
    const move = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (event.key === "Escape") close();
    else if (move && event.target.tagName !== "SELECT") all[(all.indexOf(event.target) + move + all.length) % all.length].focus();
    else return;
    event.preventDefault();
    event.stopPropagation();
  });
  document.body.append(pop);
  pop.style.left = `${Math.min(at.x, innerWidth - pop.offsetWidth - 8)}px`;
  pop.style.top = `${Math.max(8, Math.min(at.y, innerHeight - pop.offsetHeight - 8))}px`;
  pop.querySelector("button").focus();
  setTimeout(() => document.addEventListener("pointerdown", away));
}

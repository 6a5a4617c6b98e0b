// Where a value comes from: the choice of a feed, its numbers, and the curve it will give before it is applied.

import { post } from "./api.js";
import { formulaField } from "./formulas.js";
import { el, feedsOf, feedValue, short, svg, withKeyAt } from "./parts.js";

const FRAMES = 100;
const [WIDE, HIGH] = [238, 64];

// What each feed asks for: its words, where each number starts, and how it is written in a setup.
const wave = { low: 0, high: 1, period: 24, phase: 0, seed: 1 };
const FEEDS = {
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
    write: (on, _, offset) => ({
      burst: { shortest: on["burst from"], longest: on["burst to"] }, pause: { shortest: on["pause from"], longest: on["pause to"] },
      chance: on.chance, attack: on.attack, release: on.release, span: { low: on.closed, high: on.open }, seed: on.seed, offset,
    }),
    read: (feed) => feed.burst && [{
      ...feed, closed: feed.span.low, open: feed.span.high, "burst from": feed.burst.shortest, "burst to": feed.burst.longest,
      "pause from": feed.pause.shortest, "pause to": feed.pause.longest,
    }],
  },
  formula: { text: true, fields: {}, write: (_, text, offset, names) => ({ formula: text, names, offset }), read: (feed) => feed.formula !== undefined && [{}, feed.formula] },
  track: { tracked: true, fields: { times: 1 }, write: (on, of, offset) => of && { ...of, times: on.times, offset }, read: (feed) => feed.track !== undefined && [{ times: 1, ...feed }, Object.fromEntries(["track", "axis", "since", "carries", "along"].filter((name) => feed[name] !== undefined).map((name) => [name, feed[name]]))] },
  follow: { followed: true, fields: { scale: 1 }, write: (on, of, offset) => of && { follow: of, scale: on.scale, offset }, read: (feed) => feed.follow && [{ scale: 1, ...feed }, feed.follow] },
};

// What of a control others may follow: its numbers, or where its first outline stands.
const followAxes = (control) => control.follows ?? control.axes;

const kindOf = (feed) => Object.keys(FEEDS).find((kind) => feed && typeof feed === "object" && FEEDS[kind].read?.(feed)) ?? (feed?.keys ? "keys" : "fixed");

export function feedWord(feed) {
  const kind = kindOf(feed);
  return kind === "fixed" ? null : kind === "follow" ? "follows" : kind;
}

// Opens beside what was clicked.
export function openFeed(shot, anchor, id, control, index) {
  document.querySelector(".pop")?.remove();
  const feeds = feedsOf(control.setting);
  const feed = feeds[index];
  const label = control.axes[index] ? `${control.name} ${control.axes[index]}` : control.name;
  let kind = kindOf(feed);
  let curveOf = 0;
  const box = anchor.getBoundingClientRect();
  const body = el("div", { class: "feedbody" });
  const curve = svg("svg", { class: "feedcurve", width: WIDE, height: HIGH, role: "img", "aria-label": `${label} over the next ${FRAMES} frames` });
  const wrong = el("p", { class: "aside fault", role: "alert", hidden: true });
  const apply = el("button", { class: "button veil brass", onclick: () => keep() }, "use this");
  const pick = el("select", { "aria-label": "kind of feed", onchange: () => { kind = pick.value; fields(); } },
    ...Object.keys(FEEDS).map((one) => el("option", { value: one, selected: one === kind }, one)));
  let values = {};
  let worded = "";
  let offset = typeof feed === "object" ? feed.offset ?? 0 : 0;

  const settingOf = (next) => (control.kind.type === "number" ? next : { axes: feeds.map((one, at) => (at === index ? next : one)) });
  let names = {};
  const written = () => FEEDS[kind].write?.(values, worded, offset, names);
  const close = () => {
    pop.remove();
    document.removeEventListener("pointerdown", away);
    anchor.focus?.();
  };
  const away = (event) => !pop.contains(event.target) && close();

  function keep() {
    close();
    if (kind === "keys") return shot.edit({ do: "key", stage: id, control: control.id, frame: shot.view.frame });
    return shot.edit({ do: "set", stage: id, control: control.id, setting: settingOf(written()) });
  }

  function number(name, value, change) {
    const field = el("input", { class: "veil-field num", value: short(value, 4), "aria-label": name, onkeydown: typed, oninput: () => {
      const next = Number(field.value);
      if (!Number.isFinite(next)) return;
      change(name === "seed" ? Math.max(0, Math.round(next)) : next);
      draw();
    } });
    return el("label", { class: "number" }, el("span", {}, name), field);
  }

  function typed(event) {
    event.stopPropagation();
    if (event.key === "Enter" && event.target.tagName === "INPUT") keep();
    if (event.key === "Escape") close();
  }

  // Every number of every other row that may be followed.
  function followed() {
    const rows = [shot.stage(0), ...shot.state.setup.stages].flatMap((stage) => shot.controls(stage.id).flatMap((one) => followAxes(one).map((axis, at) => ({
      of: { stage: stage.id, control: one.id, axis: at }, name: `${stage.name}: ${axis ? `${one.name} ${axis}` : one.name}`,
    })))).filter(({ of }) => of.stage !== id || of.control !== control.id || of.axis !== index);
    const list = el("datalist", { id: "followed" }, ...rows.map((row) => el("option", { value: row.name })));
    const same = (row) => worded && row.of.stage === worded.stage && row.of.control === worded.control && row.of.axis === (worded.axis ?? 0);
    const field = el("input", { class: "veil-field", list: "followed", "aria-label": "control to follow", placeholder: "Row: control", value: rows.find(same)?.name ?? "", onkeydown: typed, oninput: () => {
      worded = rows.find((row) => row.name === field.value)?.of ?? "";
      draw();
    } });
    return [field, list];
  }

  // Which number of which track, and whether only what it changes from this frame on counts.
  function tracked() {
    const all = shot.state.setup.tracks ?? [];
    if (!all.length) return [el("p", { class: "aside" }, "No point is followed yet: select a row with a picture and follow one there.")];
    worded ||= { track: all[0].id, axis: "x", since: shot.view.frame };
    const pick = (name, entries, value, take) => el("label", {}, el("span", {}, name), el("span", { class: "select veil" }, el("select", { "aria-label": name, onchange: (event) => { worded = { ...worded, ...take(event.target.value) }; draw(); } },
      ...entries.map(([one, words]) => el("option", { value: one, selected: String(one) === String(value) }, words)))));
    const since = el("input", { type: "checkbox", checked: worded.since !== undefined, "aria-label": "only what it changes from this frame on", onchange: () => {
      const { since: _, ...rest } = worded;
      worded = since.checked ? { ...rest, since: shot.view.frame } : rest;
      draw();
    } });
    // A corner of a region is a place that is carried from where the region begins.
    const corners = (all.find((track) => track.id === worded.track)?.region ?? []).flatMap((_, at) => [[`x ${at}`, `corner ${at + 1}, x`], [`y ${at}`, `corner ${at + 1}, y`]]);
    const cornerOf = (axis, at) => {
      const track = all.find((one) => one.id === worded.track);
      return { axis, since: track.begins, carries: track.region[Number(at)] };
    };
    const chosen = () => {
      const track = all.find((one) => one.id === worded.track);
      const at = worded.carries && track?.region ? track.region.findIndex((corner) => corner.every((value, axis) => value === worded.carries[axis])) : -1;
      return at >= 0 ? `${worded.axis} ${at}` : worded.carries ? `${worded.axis} carried` : worded.axis;
    };
    const carried = worded.carries ? [["x carried", "x of what it carries"], ["y carried", "y of what it carries"]] : [];
    const take = (choice) => {
      const [axis, at] = choice.split(" ");
      if (at === "carried") return { axis };
      return at === undefined ? { axis, carries: undefined } : cornerOf(axis, at);
    };
    return [pick("track", all.map((track) => [track.id, track.name]), worded.track, (id) => ({ track: Number(id) })), pick("number", [["x", "x"], ["y", "y"], ["scale", "scale"], ["turn", "turn"], ...corners, ...carried], chosen(), take),
      worded.carries ? null : el("label", { class: "wide" }, since, " only what it changes from this frame on")];
  }

  function fields() {
    const asked = FEEDS[kind];
    const read = kind === kindOf(feed) ? asked.read?.(feed) : null;
    values = { ...asked.fields, ...(read ? Object.fromEntries(Object.keys(asked.fields).map((name) => [name, read[0][name] ?? asked.fields[name]])) : {}) };
    const now = feedValue(feed, shot.view.frame);
    if (kind === "fixed") values.value = now ?? 0;
    if (!read && now !== undefined && "high" in values) Object.assign(values, { low: now, high: now + Math.max(Math.abs(now) * 0.5, 1) });
    if (!read && now && kind === "gate") values.open = now;
    worded = read?.[1] ?? asked.choice?.[1][0] ?? (asked.text ? "2 + sin(since * 0.3)" : "");
    const parts = [];
    if (asked.choice) {
      const select = el("select", { "aria-label": asked.choice[0], onchange: () => { worded = select.value; draw(); } }, ...asked.choice[1].map((one) => el("option", { value: one, selected: one === worded }, one)));
      parts.push(el("label", {}, el("span", {}, asked.choice[0]), el("span", { class: "select veil" }, select)));
    }
    if (asked.text) {
      names = feed?.names ?? {};
      const field = formulaField(shot, { stage: id, pixels: false, text: worded, named: names, lines: 1, label: "formula", kept: () => keep(), typed: (text, used) => { worded = text; names = used; draw(); } });
      parts.push(el("div", { class: "wide" }, el("span", { class: "quiet" }, "formula of now, since, secs and other controls"), field.node));
    }
    if (asked.followed) parts.push(...followed());
    if (asked.tracked) parts.push(...tracked());
    for (const name of Object.keys(values)) parts.push(number(name, values[name], (next) => { values[name] = next; }));
    if (!["fixed", "keys"].includes(kind)) parts.push(...offsetParts());
    if (kind === "keys") parts.push(...keyParts());
    body.replaceChildren(...parts.filter(Boolean));
    draw();
  }

  // What is added: a number, or keys, of which the one at this frame is shown.
  function offsetParts() {
    const here = () => feedValue(offset, shot.view.frame) ?? 0;
    const keyed = () => typeof offset === "object";
    const keys = el("input", { type: "checkbox", checked: keyed(), "aria-label": "keys on the offset", onchange: () => {
      offset = keys.checked ? withKeyAt({ keys: [] }, shot.view.frame, here()) : here();
      draw();
    } });
    return [number("offset", here(), (next) => { offset = keyed() ? withKeyAt(offset, shot.view.frame, next) : next; }), el("label", { class: "wide" }, keys, " keys on the offset: a frame is mended by hand where it is wrong")];
  }

  // The way from the key here to the next one.
  function keyParts() {
    const key = feed?.keys?.find((one) => one.frame === shot.view.frame);
    if (!key) return [el("p", { class: "aside" }, "A key is set here, with the value there is.")];
    const select = el("select", { "aria-label": "way from this key to the next", onchange: () => {
      close();
      shot.edit({ do: "ease", stage: id, control: control.id, frame: shot.view.frame, ease: select.value === "ease" ? { curve: [0.25, 0.1, 0.25, 1] } : select.value });
    } }, ...["smooth", "straight", "step", "ease"].map((one) => el("option", { value: one, selected: (key.ease?.curve ? "ease" : key.ease) === one }, one)));
    return [el("label", {}, el("span", {}, "to the next key"), el("span", { class: "select veil" }, select))];
  }

  async function draw() {
    const mine = ++curveOf;
    const next = kind === "keys" ? feed : written();
    wrong.hidden = true;
    apply.disabled = next === undefined || next === "";
    if (apply.disabled) return curve.replaceChildren();
    try {
      const found = await post(`${shot.base}/curve`, { stage: id, control: control.id, axis: index, setting: settingOf(next), from: shot.view.frame, count: FRAMES });
      if (mine === curveOf) plot(found);
    } catch (error) {
      if (mine !== curveOf) return;
      curve.replaceChildren();
      apply.disabled = true;
      wrong.textContent = error.message;
      wrong.hidden = false;
    }
  }

  function plot(values) {
    const [least, most] = [Math.min(...values), Math.max(...values)];
    const y = (value) => HIGH - 6 - ((value - least) / Math.max(1e-9, most - least)) * (HIGH - 22);
    const d = values.map((value, at) => `${at ? "L" : "M"}${(at / (values.length - 1)) * WIDE} ${most === least ? HIGH / 2 : y(value)}`).join("");
    const text = (x, at, words, end) => svg("text", { x, y: at, fill: "#a9a79e", "font-size": 10.5, "font-family": "Chivo Mono", "text-anchor": end ? "end" : "start" }, words);
    curve.replaceChildren(svg("path", { d, fill: "none", stroke: "#c9a35b", "stroke-width": 1.6 }), text(2, 11, `${short(values[0], 3)} now, ${short(least)} to ${short(most)}`), text(WIDE - 2, 11, `${shot.view.frame}–${shot.view.frame + values.length - 1}`, true));
    curve.dataset.values = values.length;
  }

  const pop = el("div", { class: "pop feedpop", role: "dialog", "aria-label": `where ${label} comes from`, style: "right:12px", onkeydown: (event) => event.key === "Escape" && close() },
    el("b", {}, `${label}: where it comes from`),
    el("label", {}, el("span", {}, "feed"), el("span", { class: "select veil" }, pick)),
    body, curve, wrong,
    el("div", { style: "display:flex;gap:6px" }, apply,
      control.changed ? el("button", { class: "button veil", onclick: () => { close(); shot.edit({ do: "set", stage: id, control: control.id, setting: null }); } }, "default") : null));
  document.body.append(pop);
  // Whatever it comes to hold, it stays in sight.
  new ResizeObserver(() => { pop.style.top = `${Math.max(8, Math.min(box.bottom + 4, innerHeight - pop.offsetHeight - 8))}px`; }).observe(pop);
  fields();
  pick.focus();
  setTimeout(() => document.addEventListener("pointerdown", away));
}

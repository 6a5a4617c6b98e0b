// Everything that a person can ask for by keys or by name.

import { openDialog } from "../base/dialog.js";
import { byId } from "../base/parts.js";
import { openSheet } from "../viewer/sheet.js";
import { find } from "./find.js";
import { makeTool } from "./maketool.js";
import { askRender } from "./rendering.js";
import { versions } from "./versions.js";

/**
 * @param {import("./workbench.js").Workbench} bench
 * @returns {Deed[]}
 */
export function commands(bench) {
  const { shot, viewer, looking } = bench;
  return [
    { name: "add a stage", keys: "/", run: () => find(shot, bench.stages, []) },
    { name: "find", keys: "Ctrl K", run: () => find(shot, bench.stages, bench.shortcuts.all()), where: "fields" },
    { name: "undo", keys: "Ctrl Z", run: () => shot.step("undo"), where: "anywhere" },
    { name: "redo", keys: "Ctrl Shift Z", run: () => shot.step("redo"), where: "anywhere" },
    ...ofRows(bench),
    ...ofTime(bench),
    { name: "compare with the selected stage off", keys: "", run: () => bench.turnCompare() },
    { name: "how it is looked at", keys: "", run: () => looking.open(byId("view")) },
    { name: "keep a still", keys: "k", run: () => looking.keepStill() },
    { name: "sheet of frames", keys: "", run: () => openSheet(shot) },
    { name: "data windows", keys: "", run: () => looking.toggle("windows") },
    { name: "fold view", keys: "", run: () => looking.toggle("foldView") },
    { name: "moves view", keys: "", run: () => looking.toggle("moves") },
    { name: "motion view", keys: "", run: () => looking.toggle("motion") },
    { name: "scopes", keys: "", run: () => looking.toggle("scopes") },
    { name: "flip the compare while held", keys: "c", run: () => viewer.flip(true) },
    { name: "measure a box", keys: "m", run: () => viewer.box.begin() },
    { name: "hide or show the grips", keys: "g", run: () => viewer.turnGrips() },
    { name: "fit the picture", keys: "0", run: () => viewer.fit() },
    { name: "100 %", keys: "1", run: () => viewer.zoomTo(1) },
    { name: "picture alone", keys: "f", run: () => bench.panels.alone() },
    { name: "next panel", keys: "F6", run: () => bench.panels.next(), where: "fields" },
    { name: "render", keys: "", run: () => askRender(shot) },
    { name: "versions", keys: "", run: () => versions(shot) },
    { name: "shortcuts", keys: "?", run: () => openDialog("shortcuts", [bench.shortcuts.list()]) },
  ];
}

/**
 * @param {import("./workbench.js").Workbench} bench
 * @returns {Deed[]}
 */
function ofRows({ shot, braid, rowKeys, deeds, panels, bench }) {
  const { entries } = braid;
  return [
    { name: "show the selected row", keys: "Enter", run: () => shot.showRow(shot.selected), where: "rows" },
    { name: "on or off", keys: "o", run: () => entries.ofEntry("count") || deeds.onOff(), ofRows: true },
    { name: "back to the row before", keys: "Alt ←", run: () => shot.back(), where: "rows" },
    { name: "up among the rows", keys: "Alt ↑", run: () => rowKeys.moveBy(-1), where: "rows" },
    { name: "down among the rows", keys: "Alt ↓", run: () => rowKeys.moveBy(1), where: "rows" },
    { name: "rename", keys: "F2", run: () => rowKeys.rename(), where: "rows", ofRows: true },
    { name: "remove", keys: "Delete", run: () => entries.ofEntry("remove") || deeds.remove(), where: "rows", ofRows: true },
    { name: "copy rows", keys: "Ctrl C", run: () => deeds.copy(), where: "rows", ofRows: true },
    { name: "cut rows", keys: "Ctrl X", run: () => deeds.cut(), where: "rows", ofRows: true },
    { name: "put in what was copied", keys: "Ctrl V", run: () => deeds.paste(""), where: "rows", pastes: true, ofRows: true },
    { name: "duplicate", keys: "Ctrl D", run: () => deeds.duplicate(false), where: "rows", ofRows: true },
    { name: "duplicate, following", keys: "Ctrl Shift D", run: () => deeds.duplicate(true), where: "rows", ofRows: true },
    { name: "what else the row can do", keys: "Shift F10", run: () => rowKeys.menu(), where: "rows" },
    { name: "next slot of the selected row", keys: "j", run: () => braid.choosing.nextSlot(), where: "rows" },
    { name: "group the selected rows", keys: "Ctrl G", run: () => deeds.group(), where: "rows", ofRows: true },
    { name: "out of its group", keys: "", run: () => deeds.group(""), where: "rows", ofRows: true },
    { name: "compact rows", keys: "", run: () => panels.turnCompact() },
    { name: "filter rows", keys: "", run: () => byId("filter").focus() },
    { name: "make a tool of the selected rows", keys: "", run: () => makeTool(shot) },
    { name: "what each row costs", keys: "", run: () => panels.nextCosts() },
    { name: "own controls", keys: "", run: () => shot.select([0]) },
    { name: "bake the selected row", keys: "", run: () => bench.head.bake(shot.stage(shot.selected)) },
  ];
}

/**
 * @param {import("./workbench.js").Workbench} bench
 * @returns {Deed[]}
 */
function ofTime({ shot, strip, player, panels }) {
  return [
    { name: "play or stop", keys: "Space", run: () => player.toggle(), where: "anywhere" },
    { name: "one frame back", keys: ",", run: () => shot.go(shot.view.frame - 1) },
    { name: "one frame on", keys: ".", run: () => shot.go(shot.view.frame + 1) },
    { name: "to the key before", keys: "Shift ,", run: () => strip.toKey(-1) },
    { name: "to the next key", keys: "Shift .", run: () => strip.toKey(1) },
    { name: "curves", keys: "v", run: () => panels.turnCurves() },
    { name: "auto-key", keys: "", run: () => shot.look({ autoKey: !shot.view.autoKey }) },
    { name: "play from here on", keys: "[", run: () => setEnd(shot, "from") },
    { name: "play up to here", keys: "]", run: () => setEnd(shot, "to") },
    { name: "play the whole range", keys: "", run: () => shot.setRange(null, null) },
  ];
}

/**
 * In or out comes to the playhead; where it passes the other, that one goes.
 * @param {Shot} shot
 * @param {"from" | "to"} which
 */
function setEnd(shot, which) {
  const { frame, range } = shot.view;
  const from = which === "from" ? frame : range?.from ?? null;
  const to = which === "to" ? frame : range?.to ?? null;
  const passed = from !== null && to !== null && from > to;
  shot.setRange(passed && which === "to" ? null : from, passed && which === "from" ? null : to);
}

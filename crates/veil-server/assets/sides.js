// The two sides of a compare: what each may show, by a short name that is kept with the view.

export const MODES = { split: "split line", beside: "side by side", difference: "difference" };

export function sides(shot, known) {
  const frameName = (frame) => `frame ${frame}`;
  const number = (version) => `v${String(version).padStart(3, "0")}`;

  // Every choice for a side, in groups.
  function choices() {
    const rows = shot.state.braid.rows.map((row) => [`row:${row.id}`, row.name]);
    const frames = [...new Set([shot.state.setup.picture.frames.first, shot.view.frame])].map((frame) => [`frame:${frame}`, frameName(frame)]);
    return [
      ["", [["now", "as it is now"], ["off", `${shot.stage(shot.selected)?.name ?? "selected row"} off`]]],
      ["kept stills", known.stills().map((still) => [`still:${still.number}`, `${still.number}: ${still.name}`])],
      ["versions", known.versions().map((version) => [`version:${version.number}`, [number(version.number), version.name].filter(Boolean).join(" ")])],
      ["renders", known.renders().map((render) => [`render:${render.id}`, `render ${render.id}: ${render.row} ${render.first}–${render.last}`])],
      ["frames", frames],
      ["rows", rows],
      ...[["references", true], ["plates", false]].map(([words, reference]) => [words, known.plates().filter((plate) => plate.reference === reference).map((plate) => [`reference:${plate.record}`, plate.name])]),
    ].filter(([, entries]) => entries.length);
  }

  // What a side asks of the server beside what the shown row would; none where it cannot be shown.
  function asks(side) {
    const [kind, value] = side.split(":");
    if (kind === "now") return { trial: shot.trial ?? [] };
    if (kind === "off") {
      const row = shot.row(shot.selected);
      const off = row && row.knot !== "final" && row.on;
      return off ? { trial: [...(shot.trial ?? []), { do: "switch", stage: row.id, on: false }] } : null;
    }
    if (kind === "row") return { trial: shot.trial ?? [], stage: Number(value) };
    if (kind === "frame") return { trial: shot.trial ?? [], frame: Number(value) };
    return { [kind]: Number(value) };
  }

  // Which things a side's picture depends on beside the setup and the view.
  const mark = (side) => (side === "off" ? `off ${shot.selected}` : side);

  return { choices, asks, mark };
}

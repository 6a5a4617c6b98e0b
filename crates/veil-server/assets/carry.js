// Where places of a row's own picture are seen, below the warps between it and the shown row.

// Places are carried this near to where they belong, in pixels of the picture.
const NEAR = 0.75;

export function carrier(shot) {
  // A grid of places over the frame: where each place of the shown picture stands in the row's own.
  let grid = null;
  let asked = null;

  // Asks for the grid of the selected row; true where it has changed.
  async function follow() {
    const of = [shot.state.revision, shot.view.shown, shot.selected, shot.view.frame].join("/");
    if (asked === of) return false;
    asked = of;
    const found = !shot.selected || shot.selected === shot.view.shown ? null : await fetchGrid();
    if (asked !== of) return false;
    grid = found;
    return true;
  }

  async function fetchGrid() {
    const response = await fetch(`${shot.base}/carry?shown=${shot.view.shown}&stage=${shot.selected}&frame=${shot.view.frame}`).catch(() => null);
    if (!response?.ok) return null;
    const { width, height } = JSON.parse(response.headers.get("x-about"));
    if (!width) return { unreached: true };
    const places = new Float32Array(await response.arrayBuffer());
    return { width, height, places, moved: moves(width, height, places) };
  }

  const step = (width, height) => [shot.state.setup.picture.width / width, shot.state.setup.picture.height / height];

  function moves(width, height, places) {
    const [sx, sy] = step(width, height);
    return places.some((value, at) => {
      const cell = at >> 1;
      const stands = at % 2 ? (Math.floor(cell / width) + 0.5) * sy : ((cell % width) + 0.5) * sx;
      return Math.abs(value - stands) > NEAR;
    });
  }

  // The row's place under a place of the shown picture.
  function toOwn([x, y]) {
    if (!grid?.moved) return [x, y];
    const [sx, sy] = step(grid.width, grid.height);
    const [gx, gy] = [x / sx - 0.5, y / sy - 0.5];
    const left = Math.min(Math.max(Math.floor(gx), 0), grid.width - 2);
    const top = Math.min(Math.max(Math.floor(gy), 0), grid.height - 2);
    const [tx, ty] = [gx - left, gy - top];
    const at = (column, line, axis) => grid.places[((top + line) * grid.width + left + column) * 2 + axis];
    return [0, 1].map((axis) => (at(0, 0, axis) * (1 - tx) + at(1, 0, axis) * tx) * (1 - ty) + (at(0, 1, axis) * (1 - tx) + at(1, 1, axis) * tx) * ty);
  }

  const settles = (start, own) => {
    let at = start;
    for (let turn = 0; turn < 40; turn++) {
      const here = toOwn(at);
      const off = [here[0] - own[0], here[1] - own[1]];
      if (Math.hypot(...off) < NEAR) return at;
      at = [at[0] - off[0], at[1] - off[1]];
    }
    return null;
  };

  // Where a place of the row is seen; none where the warps have no way there.
  function toShown(own) {
    if (!grid?.moved) return own;
    const found = settles(own, own);
    if (found) return found;
    const [sx, sy] = step(grid.width, grid.height);
    let [best, nearest] = [null, Infinity];
    for (let cell = 0; cell < grid.width * grid.height; cell++) {
      const off = Math.hypot(grid.places[cell * 2] - own[0], grid.places[cell * 2 + 1] - own[1]);
      if (off < nearest) [best, nearest] = [cell, off];
    }
    return best === null ? null : settles([((best % grid.width) + 0.5) * sx, (Math.floor(best / grid.width) + 0.5) * sy], own);
  }

  return { follow, toOwn, toShown, carries: () => Boolean(grid?.moved), unreached: () => Boolean(grid?.unreached) };
}

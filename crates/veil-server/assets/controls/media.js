// A control that takes a file: a plate, a table, a camera, a drawing or a font.

import { choose, framed } from "../base/parts.js";

// What a control of media offers, by the endings of files, and what it is called.
const SORTS = { lut: /\.cube$/i, camera: /\.(gltf|glb|csv)$/i, figure: /\.svg$/i, font: /\.(ttf|otf)$/i };
const WANTED = { plate: "plate", lut: "table", camera: "camera", figure: "drawing", font: "font" };
const sortOf = (/** @type {string} */ path) => Object.entries(SORTS).find(([, ending]) => ending.test(path))?.[0] ?? "plate";

/** @type {ControlType} */
export const media = {
  alone: true,
  lines: (lines, id, control) => [lines.line(control, mediaField(lines.shot, control, lines.nodes.plates(), (setting) => lines.set(id, control, setting)))],
};

/**
 * The setup's files first, then those of the show that it does not use yet.
 * @param {Shot} shot
 * @param {Control} control
 * @param {Plate[]} plates
 * @param {(setting: any) => unknown} set
 */
function mediaField(shot, control, plates, set) {
  const here = control.setting?.media;
  const fits = (/** @type {Media} */ media) => sortOf(media.path) === control.kind.of;
  const used = shot.state.setup.media.filter(fits);
  const other = plates.filter(fits).filter((plate) => !plate.reference && !used.some((media) => media.path === plate.path));
  const none = here === undefined ? [["", `choose a ${WANTED[/** @type {keyof WANTED} */ (control.kind.of)]}`]] : [];
  const take = async (/** @type {string} */ value) => {
    const plate = other.find((one) => `use ${one.path}` === value);
    const id = plate ? await useMedia(shot, plate) : Number(value);
    if (id !== undefined) set({ media: id });
  };
  return framed(choose(control.name, here ?? "", [...none, ...used.map((media) => [media.id, media.name]), ...other.map((plate) => [`use ${plate.path}`, `${plate.name} (from plates)`])], take));
}

/**
 * Takes a plate of the show into the setup, and gives the number that it has there.
 * @param {Shot} shot
 * @param {Plate} plate
 */
export async function useMedia(shot, { record, reference, ...media }) {
  const state = await shot.edit({ do: "use_media", media });
  return state?.setup.media.find((one) => one.path === media.path)?.id;
}

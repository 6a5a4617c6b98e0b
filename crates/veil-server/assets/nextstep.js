// What comes next in a shot that is still empty, said below its rows.

import { el } from "./parts.js";

const MOST_PLATES = 4;

// `plates` are the show's; `add` opens the list of stages.
export function nextStep(shot, node, plates, add) {
  const button = (words, run, kind = "") => el("button", { class: `button veil ${kind}`, onclick: run }, words);

  // A plate row that the last row takes, as one step.
  const begin = async (plate) => {
    const last = shot.state.setup.stages.at(-1).id;
    const { record, reference, ...media } = plate;
    const used = await shot.edit({ do: "use_media", media });
    const id = used?.setup.media.find((one) => one.path === plate.path)?.id;
    if (id === undefined) return;
    const added = await shot.add({ do: "add", kind: "plate", after: null, into: [last, "main"] });
    const row = added?.step?.row;
    if (row !== undefined) await shot.edit({ do: "set", stage: row, control: "media", setting: { media: id } });
  };

  function content() {
    const stages = shot.state.setup.stages;
    if (stages.length === 1) {
      const own = plates().filter((plate) => !plate.reference && /\.(exr|png|tiff?|jpe?g|hdr|webp|mp4|mov|mkv|webm|avi)$/i.test(plate.path)).slice(0, MOST_PLATES);
      const show = encodeURIComponent(shot.show);
      return own.length
        ? [el("p", {}, "Begin with a plate:"), ...own.map((plate) => button(plate.name, () => begin(plate), "brass")), button("something else", add)]
        : [el("p", {}, "This show has no footage yet."), el("a", { class: "button veil brass", href: `/plates?show=${show}` }, "bring in footage"), button("begin with a stage", add)];
    }
    if (stages.length === 2 && stages[0].kind === "plate" && stages[0].controls?.media) {
      return [el("p", {}, "Next: a stage after the plate, or a tool of the rack."), button(el("span", {}, "add a stage ", el("span", { class: "num" }, "/")), add, "brass")];
    }
    return [];
  }

  return function draw() {
    const said = shot.code.includes("@") ? [] : content();
    node.hidden = said.length === 0;
    node.replaceChildren(...said);
  };
}

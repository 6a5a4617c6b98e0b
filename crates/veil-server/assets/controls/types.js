// The types of controls: how each stands on the bench, and what of it is drawn on the picture.

import { camera } from "./camera.js";
import { choice } from "./choice.js";
import { colour } from "./colour.js";
import { curve } from "./curve.js";
import { formula } from "./formula.js";
import { lattice } from "./lattice.js";
import { media } from "./media.js";
import { names } from "./names.js";
import { number } from "./number.js";
import { pairs } from "./pairs.js";
import { point } from "./point.js";
import { shapes } from "./shapes.js";
import { size } from "./size.js";
import { space } from "./space.js";
import { stops } from "./stops.js";
import { onOff } from "./switch.js";
import { text } from "./text.js";

/** @type {{ [type: string]: ControlType }} */
const TYPES = { camera, choice, colour, curve, formula, lattice, media, names, number, pairs, point, shapes, size, space, stops, switch: onOff, text };

/** @param {{ kind: { type: string } }} control */
export function typeOf(control) {
  const type = TYPES[control.kind.type];
  if (!type) throw new Error(`the page knows no control of the type \`${control.kind.type}\``);
  return type;
}

/**
 * What is drawn on the picture and taken hold of there, one for each type that draws.
 * @param {HandNodes} nodes
 */
export const handsOn = (nodes) => Object.values(TYPES).flatMap((type) => (type.hand ? [type.hand(nodes)] : []));

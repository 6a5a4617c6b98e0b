// The mean colour of a row within the box that is measured on the picture.

import { get, query } from "../base/api.js";
import { toast, trying } from "../base/telling.js";

/**
 * @param {Shot} shot
 * @param {number} stage
 * @returns {Promise<number[] | null>} red, green and blue; none where there is no box, or no picture in it
 */
export async function boxMean(shot, stage) {
  if (!shot.measured) {
    toast("first drag a box on the picture with Shift held");
    return null;
  }
  const [x0, y0, x1, y1] = shot.measured;
  const found = await trying(() => get(`${shot.base}/region?${query({ stage, frame: shot.view.frame, x0, y0, x1, y1 })}`));
  return found?.mean.length === 4 ? found.mean.slice(0, 3) : null;
}

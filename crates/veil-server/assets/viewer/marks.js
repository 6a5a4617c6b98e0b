// What all marks on the picture share: where they are drawn, and where the places that they mark are seen.

export class Marks {
  /**
   * @param {Shot} shot
   * @param {SVGSVGElement} overlay
   * @param {import("./well.js").Well} well
   * @param {Carrier} carry
   * @param {() => void} remark draws all marks anew
   */
  constructor(shot, overlay, well, carry, remark) {
    this.shot = shot;
    this.overlay = overlay;
    this.well = well;
    this.carry = carry;
    this.remark = remark;
  }

  /**
   * Where a place of the row stands in the well, and whether it is seen there: where no way leads, it stands as if nothing
   * bent the picture.
   * @param {Place} place
   */
  found(place) {
    const shown = this.carry.toShown(place);
    return { at: this.well.toWell(shown ?? place), sure: shown !== null && !this.carry.unreached };
  }

  /** @param {Place} place */
  seen(place) {
    return this.found(place).at;
  }
}

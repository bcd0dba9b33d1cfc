/** The geometry of banks and ribbons. */

/** Height of one bank, px. */
export const ROW = 52;

/** Height of one bank where all zones stand on both sides, px. */
export const LOW = 36;

/** A ribbon from one height on the left to another on the right of a field 100 wide. */
export const ribbonPath = (from: number, to: number): string =>
  `M 0 ${from} C 45 ${from}, 55 ${to}, 100 ${to}`;

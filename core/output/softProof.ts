/** Nodes along each side of a proof's table. */
export const SOFT_PROOF_SIDE = 33;
/** Difference of colour from which a colour counts as one that the paper cannot show, CIEDE2000. */
export const OUTSIDE_FROM = 4;
/** How differences are kept in a byte. */
export const EXCESS_SCALE = 8;

/**
 * How a paper shows the colours of a picture: for each node of a cube of its codes, red slowest, the
 * screen's codes for red, green and blue, and by how much the colour is missed (CIEDE2000 times
 * `EXCESS_SCALE`). SOFT_PROOF_SIDE^3 x 4 bytes.
 */
export type SoftProofTable = Uint8Array;

const LAST = SOFT_PROOF_SIDE - 1;
const STEP_RED = SOFT_PROOF_SIDE * SOFT_PROOF_SIDE * 4;
const STEP_GREEN = SOFT_PROOF_SIDE * 4;
const STEP_BLUE = 4;
/** Weights go to 256. */
const WHOLE = 256;

/** Of each code, the node below it and the way from there to the next one, of `WHOLE`. */
const BELOW = Uint8Array.from({ length: 256 }, (_, v) =>
  Math.min(LAST - 1, Math.floor((v * LAST) / 255)),
);
const BEYOND = Uint16Array.from({ length: 256 }, (_, v) =>
  Math.round(((v * LAST) / 255 - BELOW[v]!) * WHOLE),
);

/** Grey of the stripes over what the paper cannot show. */
const STRIPE = 128;

/**
 * Shows a picture as a paper would, in place: tetrahedra of the table's cube (Sakamoto and Itooka
 * 1981, after Kang 1997, "Color Technology for Electronic Imaging Devices", 4.4).
 *
 * @param rgba  codes of the space that the table is for, row by row
 * @param lies  place of the first pixel in the picture and pixels a row, for stripes that stay still
 * @param isMarked  whether falling stripes lie over what the paper cannot show
 * @returns how many pixels the paper cannot show
 */
export function applySoftProof(
  rgba: Uint8Array,
  table: SoftProofTable,
  lies: { x: number; y: number; width: number },
  isMarked: boolean,
): number {
  let outside = 0;
  for (let at = 0, i = 0; at < rgba.length; at += 4, i++) {
    const isOutside = proofPixel(rgba, at, table) >= OUTSIDE_FROM * EXCESS_SCALE;
    if (!isOutside) continue;
    outside++;
    if (isMarked && isStriped(lies.x + (i % lies.width), lies.y + Math.floor(i / lies.width)))
      rgba.fill(STRIPE, at, at + 3);
  }
  return outside;
}

/** Stripes that fall from left to right: those of what is clipped rise. */
const isStriped = (x: number, y: number): boolean => ((x - y) & 7) < 2;

const ALL = STEP_RED + STEP_GREEN + STEP_BLUE;
/**
 * The way through a cube goes along the largest part first and along the smallest last. By the order
 * of the parts (4: red not under green, 2: green not under blue, 1: red not under blue) the first
 * and the second corner on that way; 1 and 6 do not occur.
 */
const FIRST = [STEP_BLUE, 0, STEP_GREEN, STEP_GREEN, STEP_BLUE, STEP_RED, 0, STEP_RED];
const SECOND = [STEP_RED, 0, STEP_RED, STEP_BLUE, STEP_GREEN, STEP_GREEN, 0, STEP_BLUE].map(
  (smallest) => ALL - smallest,
);

/**
 * Shows one pixel as the paper would, in place.
 *
 * @returns by how much its colour is missed, times `EXCESS_SCALE`
 */
function proofPixel(rgba: Uint8Array, at: number, table: SoftProofTable): number {
  const red = rgba[at]!;
  const green = rgba[at + 1]!;
  const blue = rgba[at + 2]!;
  const r = BEYOND[red]!;
  const g = BEYOND[green]!;
  const b = BEYOND[blue]!;
  const order = (Number(r >= g) << 2) | (Number(g >= b) << 1) | Number(r >= b);
  const most = Math.max(r, g, b);
  const least = Math.min(r, g, b);
  const middle = r + g + b - most - least;
  const low = BELOW[red]! * STEP_RED + BELOW[green]! * STEP_GREEN + BELOW[blue]! * STEP_BLUE;
  const first = low + FIRST[order]!;
  const second = low + SECOND[order]!;
  const high = low + ALL;
  const atLow = WHOLE - most;
  const atFirst = most - middle;
  const atSecond = middle - least;
  const mixed = (channel: number): number =>
    (table[low + channel]! * atLow +
      table[first + channel]! * atFirst +
      table[second + channel]! * atSecond +
      table[high + channel]! * least +
      WHOLE / 2) >>
    8;
  rgba[at] = mixed(0);
  rgba[at + 1] = mixed(1);
  rgba[at + 2] = mixed(2);
  return mixed(3);
}

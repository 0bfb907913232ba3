/** Where a merge gathers: planes R, G, B and weight, `planeBytes` apart, of one width. */
export interface Accumulator {
  ptr: number;
  planeBytes: number;
  width: number;
  height: number;
}
/** Bytes of a 32-bit plane, with the room that vector loads need beyond its end. */
export const planeBytesOf = (width: number, height: number): number =>
  Math.ceil((width * height * 4 + 64) / 64) * 64;

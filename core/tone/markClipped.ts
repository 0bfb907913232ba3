/**
 * Marks what is at either end of the display: bright ends as rising stripes, dark ends as dots.
 * RGBA, in place.
 */
export function markClipped(rgba: Uint8Array, width: number, x0: number, y0: number): void {
  for (let i = 0, p = 0; p < rgba.length; i++, p += 4) {
    const r = rgba[p]!;
    const g = rgba[p + 1]!;
    const b = rgba[p + 2]!;
    const hi = Math.max(r, g, b) >= 254;
    const lo = Math.max(r, g, b) <= 1;
    if (!hi && !lo) continue;
    const x = x0 + (i % width);
    const y = y0 + Math.floor(i / width);
    if (hi && (x + y) % 8 < 3) {
      rgba[p] = 178;
      rgba[p + 1] = 74;
      rgba[p + 2] = 20;
    }
    if (lo && x % 6 < 2 && y % 6 < 2) {
      rgba[p] = 236;
      rgba[p + 1] = 226;
      rgba[p + 2] = 206;
    }
  }
}

import type { Level } from "./sphereLevels";

/** How well samples of two levels agree. */
export interface Correlation {
  r: number;
  /** samples it was taken over, and samples of a level */
  n: number;
  area: number;
}
/** Sums over samples of two levels. */
interface Sums {
  n: number;
  sa: number;
  sb: number;
  saa: number;
  sbb: number;
  sab: number;
}

/** What sums over samples say; undefined where they are too few or nothing varies. */
export function correlationOf(
  { n, sa, sb, saa, sbb, sab }: Sums,
  area: number,
): Correlation | undefined {
  if (n < Math.max(12, area * 0.05)) return undefined;
  const va = saa - (sa * sa) / n;
  const vb = sbb - (sb * sb) / n;
  return va > 1e-3 * n && vb > 1e-3 * n
    ? { r: (sab - (sa * sb) / n) / Math.sqrt(va * vb), n, area }
    : undefined;
}

/** Correlation over little counts less: among many shifts some small corner always fits. */
export const scoreOf = (c: Correlation | undefined): number =>
  c ? c.r * Math.sqrt(Math.min(1, c.n / (0.3 * c.area))) : -Infinity;

/**
 * Correlation of two levels of one size, the second moved by whole px.
 *
 * @returns undefined where too few samples are well exposed or nothing varies
 */
export function correlate(a: Level, b: Level, dx: number, dy: number): Correlation | undefined {
  const x0 = Math.max(0, dx);
  const x1 = Math.min(a.w, a.w + dx);
  const y0 = Math.max(0, dy);
  const y1 = Math.min(a.h, a.h + dy);
  let n = 0;
  let sa = 0;
  let sb = 0;
  let saa = 0;
  let sbb = 0;
  let sab = 0;
  for (let y = y0; y < y1; y++) {
    const ra = y * a.w;
    const rb = (y - dy) * a.w - dx;
    for (let x = x0; x < x1; x++) {
      if (!a.valid[ra + x] || !b.valid[rb + x]) continue;
      const u = a.value[ra + x]!;
      const v = b.value[rb + x]!;
      n++;
      sa += u;
      sb += v;
      saa += u * u;
      sbb += v * v;
      sab += u * v;
    }
  }
  return correlationOf({ n, sa, sb, saa, sbb, sab }, a.w * a.h);
}

import type { Level } from "./sphereLevels";

/** Correlation over little counts less: among many shifts some small corner always fits. */
export const scoreOf = (c: { r: number; n: number; area: number } | undefined): number =>
  c ? c.r * Math.sqrt(Math.min(1, c.n / (0.3 * c.area))) : -Infinity;

/**
 * Correlation of two levels of one size, the second moved by whole px.
 *
 * @returns correlation, samples it was taken over and samples of a level; undefined where too few
 *   are well exposed or nothing varies
 */
export function correlate(
  a: Level,
  b: Level,
  dx: number,
  dy: number,
): { r: number; n: number; area: number } | undefined {
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
  const area = a.w * a.h;
  if (n < Math.max(12, area * 0.05)) return undefined;
  const va = saa - (sa * sa) / n;
  const vb = sbb - (sb * sb) / n;
  return va > 1e-3 * n && vb > 1e-3 * n
    ? { r: (sab - (sa * sb) / n) / Math.sqrt(va * vb), n, area }
    : undefined;
}

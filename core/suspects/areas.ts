/** A connected area of a mask: its box and cells, and the mean of a measure over it. */
export interface Area {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
  cells: number;
  mean: number;
}

/**
 * Connected areas (by sides and corners) of the cells of a w x h grid that `within` says, of at
 * least `smallest` cells.
 */
export function areasOf(
  w: number,
  h: number,
  within: (i: number) => boolean,
  smallest: number,
  measure: (i: number) => number = () => 0,
): Area[] {
  const seen = new Uint8Array(w * h);
  const out: Area[] = [];
  for (let s = 0; s < w * h; s++) {
    if (seen[s] || !within(s)) continue;
    const queue = [s];
    const a: Area = { x0: w, y0: h, x1: 0, y1: 0, cells: 0, mean: 0 };
    seen[s] = 1;
    while (queue.length) {
      const i = queue.pop()!;
      const x = i % w;
      const y = (i - x) / w;
      a.cells++;
      a.mean += measure(i);
      a.x0 = Math.min(a.x0, x);
      a.x1 = Math.max(a.x1, x + 1);
      a.y0 = Math.min(a.y0, y);
      a.y1 = Math.max(a.y1, y + 1);
      for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) {
          const k = v * w + u;
          if (!seen[k] && within(k)) {
            seen[k] = 1;
            queue.push(k);
          }
        }
    }
    if (a.cells >= smallest) out.push({ ...a, mean: a.mean / a.cells });
  }
  return out;
}

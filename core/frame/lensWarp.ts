import type { Heap } from "../../kernels/heap";
import { linearTile } from "../raster/sampleTile";
import { sourceOf, type Lens, type Size } from "./lens";
import { clamp } from "../math/clamp";

/** Rows of a frame that lie at an address, from the frame's row `top` on. */
export interface FrameRows {
  ptr: number;
  top: number;
  rows: number;
}

/** Distance of the places at which the way is computed; between them it is a line. */
const NODE = 16;
const TILES = 16;
/** x, y in px of the frame, and a factor on its light. */
type Node = readonly [number, number, number];
/**
 * Square roots of light above which a neighbour may be clipped, and from which a sample counts as
 * clipped.
 */
const NEARLY_CLIPPED_ROOT = 0.7;
const CLIPPED_ROOT = 0.985 * 65535;

/**
 * Rows y0 to y1 of a frame without its lens's faults: straight, evenly lit, its colours of one
 * size.
 *
 * @param size  of the whole frame
 * @param from  RGB, square roots of light in 16 bit, of as many of its rows as those asked for are
 *   taken from
 * @param to    the same, of the rows that are asked for
 * @param roots tables from such a sample to light
 */
export function lensWarp(
  heap: Heap,
  lens: Lens,
  { width, height }: Size,
  from: FrameRows,
  to: FrameRows,
  roots: number,
  y0: number,
  y1: number,
): void {
  const outer = heap.mark();
  const gains = heap.put([1, 1, 1]);
  const row = NODE * TILES;
  const plane = row * NODE;
  const planes = heap.alloc(plane * 16 + 64);
  const source = heap.u16(from.ptr, width * from.rows * 3);
  const out = heap.u16(to.ptr, width * to.rows * 3);
  const last = from.rows - 1;
  const scales = [1 + lens.fringeRed * 1e-4, 1, 1 + lens.fringeBlue * 1e-4];
  const apart = lens.fringeRed !== 0 || lens.fringeBlue !== 0;
  const place = (x: number, y: number, scale: number): Node => {
    const p = sourceOf(lens, { width, height }, x, y);
    return [
      width / 2 + (p.x - width / 2) * scale,
      height / 2 + (p.y - height / 2) * scale,
      1 / Math.max(0.1, 1 - lens.vignetting * p.r2),
    ];
  };
  for (let b = y0; b < y1; b += NODE)
    for (let a = 0; a < width; a += row) {
      const bottom = Math.min(y1, b + NODE);
      const n = Math.min(width - a, row);
      const columns = Math.ceil(n / NODE);
      // green last: by its places it is judged what is clipped
      for (const pass of apart ? [0, 2, 1] : [-1]) {
        const inner = heap.mark();
        const scale = pass < 0 ? 1 : scales[pass]!;
        const tops = Array.from({ length: columns + 1 }, (_, i) => place(a + i * NODE, b, scale));
        const lows = Array.from({ length: columns + 1 }, (_, i) =>
          place(a + i * NODE, b + NODE, scale),
        );
        const all = [...tops, ...lows];
        const near = (v: number, most: number): number => clamp(v, -2, most + 2);
        const xs = all.map((p) => near(p[0], width));
        const ys = all.map((p) => near(p[1], height));
        const left = Math.max(-3, Math.floor(Math.min(...xs)) - 4);
        const top = Math.max(-3, Math.floor(Math.min(...ys)) - 4);
        const part = {
          left,
          top,
          width: Math.min(width + 3, Math.ceil(Math.max(...xs)) + 4) - left,
          height: Math.min(height + 3, Math.ceil(Math.max(...ys)) + 4) - top,
        };
        const there = { ...part, top: part.top - from.top };
        const tile = linearTile(
          heap,
          { samples: from.ptr, type: "u16", width, height: from.rows },
          there,
          roots,
        );
        const judged = pass === 1 || pass < 0 ? hasClipped(source, width, from.rows, there) : false;
        const nodes = [tops, lows].map((list) => heap.put(list.flatMap((p) => [...p, 0])));
        heap.k.warpRows(
          tile,
          left,
          top,
          part.width,
          width,
          height,
          nodes[0]!,
          nodes[1]!,
          NODE,
          n,
          NODE,
          bottom - b,
          gains,
          planes,
          row * 4,
          plane * 4,
        );
        for (let y = b; y < bottom; y++) {
          for (let c = pass < 0 ? 0 : pass; c <= (pass < 0 ? 2 : pass); c++) {
            const values = heap.f32(planes + (c * plane + (y - b) * row) * 4, n);
            for (let i = 0, o = ((y - to.top) * width + a) * 3 + c; i < n; i++, o += 3)
              out[o] = Math.min(65535, values[i]! * 65535 + 0.5);
          }
          if (judged) keepClipped(y, tops, lows, (y + 0.5 - b) / NODE);
        }
        heap.release(inner);
      }
      // what is drawn from clipped samples is known no better than they are
      function keepClipped(
        y: number,
        tops: readonly Node[],
        lows: readonly Node[],
        down: number,
      ): void {
        const along = (i: number, q: 0 | 1): number =>
          tops[i]![q] + (lows[i]![q] - tops[i]![q]) * down;
        for (let i = 0, o = ((y - to.top) * width + a) * 3; i < n; i++, o += 3) {
          if (Math.max(out[o]!, out[o + 1]!, out[o + 2]!) < NEARLY_CLIPPED_ROOT * 65535) continue;
          const k = Math.floor(i / NODE);
          const t = ((i % NODE) + 0.5) / NODE;
          const px = along(k, 0) + (along(k + 1, 0) - along(k, 0)) * t - 0.5;
          const py = along(k, 1) + (along(k + 1, 1) - along(k, 1)) * t - 0.5 - from.top;
          const u = Math.floor(px);
          const v = Math.floor(py);
          let worst = 0;
          for (let q = -1; q <= 2; q++)
            for (let s = -1; s <= 2; s++) {
              const at = (clamp(v + q, 0, last) * width + clamp(u + s, 0, width - 1)) * 3;
              worst = Math.max(worst, source[at]!, source[at + 1]!, source[at + 2]!);
            }
          if (worst < CLIPPED_ROOT) continue;
          const at =
            (clamp(Math.round(py), 0, last) * width + clamp(Math.round(px), 0, width - 1)) * 3;
          const own = Math.max(source[at]!, source[at + 1]!, source[at + 2]!);
          for (let c = 0; c < 3; c++) out[o + c] = own >= CLIPPED_ROOT ? source[at + c]! : 65535;
        }
      }
    }
  heap.release(outer);
}

function hasClipped(
  source: Uint16Array,
  width: number,
  height: number,
  part: { left: number; top: number; width: number; height: number },
): boolean {
  const x0 = Math.max(0, part.left) * 3;
  const x1 = Math.min(width, part.left + part.width) * 3;
  for (let y = Math.max(0, part.top); y < Math.min(height, part.top + part.height); y++)
    for (let i = y * width * 3 + x0; i < y * width * 3 + x1; i++)
      if (source[i]! >= CLIPPED_ROOT) return true;
  return false;
}
/** Bytes of scratch of one call, for distortions within their bounds. */
export const lensScratch = (width: number): number =>
  65536 * 12 + (NODE * TILES * 2 + 200) * (NODE * 3 + 120 + width / 8) * 16 + (1 << 18);

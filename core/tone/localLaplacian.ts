import type { Heap } from "../../kernels/heap";
import { clamp } from "../math/clamp";

/**
 * Local Laplacian filter on a w x h plane in EV, sampled at levels under a stop apart.
 *
 * @param sigma   differences below it are detail, above it edges
 * @param detail  factor on details
 * @param edges   factor on what an edge exceeds sigma by
 * @returns the address of the result in scratch
 * @see Paris, Hasinoff, Kautz, "Local Laplacian filters", SIGGRAPH 2011; Aubry et al., "Fast local
 *   Laplacian filters", TOG 2014
 */
export function localLaplacian(
  heap: Heap,
  src: number,
  w: number,
  h: number,
  sigma: number,
  detail: number,
  edges: number,
  lo: number,
  hi: number,
): number {
  const { k } = heap;
  const sizes: { w: number; h: number }[] = [{ w, h }];
  while (Math.min(sizes.at(-1)!.w, sizes.at(-1)!.h) > 3)
    sizes.push({ w: (sizes.at(-1)!.w + 1) >> 1, h: (sizes.at(-1)!.h + 1) >> 1 });
  const planes = (): number[] => sizes.map((s) => heap.alloc(s.w * s.h * 4 + 64));
  const row = heap.alloc(w * 4 + 64);
  const gauss = planes();
  const work = planes();
  const out = planes();
  const lap = heap.alloc(w * h * 4 + 64);
  const reduce = (p: number[]): void => {
    for (let i = 1; i < sizes.length; i++)
      k.pyrDown(p[i - 1]!, sizes[i - 1]!.w, sizes[i - 1]!.h, p[i]!, row, 0, sizes[i]!.h);
  };
  heap.f32(gauss[0]!, w * h).set(heap.f32(src, w * h));
  reduce(gauss);
  for (let i = 0; i < sizes.length - 1; i++) heap.k.zero(out[i]!, sizes[i]!.w * sizes[i]!.h * 4);
  const count = clamp(Math.ceil((hi - lo) / 0.9) + 1, 2, 20);
  const step = Math.max((hi - lo) / (count - 1), 1e-3);
  for (let s = 0; s < count; s++) {
    const g = lo + s * step;
    k.remapAround(gauss[0]!, work[0]!, w * h, g, sigma, detail, edges);
    reduce(work);
    for (let i = 0; i < sizes.length - 1; i++) {
      k.pyrUp(work[i + 1]!, sizes[i]!.w, sizes[i]!.h, work[i]!, lap, -1, row, 0, sizes[i]!.h);
      k.selectLevel(
        gauss[i]!,
        lap,
        out[i]!,
        sizes[i]!.w * sizes[i]!.h,
        g,
        step,
        s === 0 ? 1 : 0,
        s === count - 1 ? 1 : 0,
      );
    }
  }
  const last = sizes.length - 1;
  heap
    .f32(out[last]!, sizes[last]!.w * sizes[last]!.h)
    .set(heap.f32(gauss[last]!, sizes[last]!.w * sizes[last]!.h));
  for (let i = last - 1; i >= 0; i--)
    k.pyrUp(out[i + 1]!, sizes[i]!.w, sizes[i]!.h, out[i]!, out[i]!, 1, row, 0, sizes[i]!.h);
  return out[0]!;
}

import type { Heap } from "../../kernels/heap";
import type { SceneNoise } from "./finish";

/** Px between the corners of blocks: the pilot may be coarser than the picture. */
const PILOT_STEP = 4;
const STEP = 3;
/** Times the noise under which a coefficient is taken for noise. */
const BOUND = 2.7;
const CHROMA_BOUND = 3;
/** Passes of blocks need so much room beside the planes. */
const BLOCK_ROOM = 1024;

/**
 * Light without noise, from blocks of cosine transforms in two passes: a threshold, then Wiener's
 * filter with what the first found as its pilot. Works in light in which noise has the same size
 * everywhere, so that dark and bright are treated alike.
 *
 * @param planes  R, G, B in linear light, `bytes` apart
 * @param sigma   each pixel's noise against the model's, standard deviations
 * @returns the address in scratch of three planes, `bytes` apart
 * @see Yu and Sapiro, "DCT image denoising: a simple and effective image denoising algorithm", IPOL
 *   2011; Dabov et al., TIP 2007 (the second pass)
 */
export function denoise(
  heap: Heap,
  planes: number,
  bytes: number,
  sigma: number,
  { width, height }: { width: number; height: number },
  { perUnit, read2 }: Pick<SceneNoise, "perUnit" | "read2">,
): number {
  const n = width * height;
  const out = heap.alloc(bytes * 4);
  if (width < 8 || height < 8) {
    for (let c = 0; c < 3; c++) heap.f32(out + c * bytes, n).set(heap.f32(planes + c * bytes, n));
    return out;
  }
  const mark = heap.mark();
  const stable = heap.alloc(bytes * 3);
  const first = heap.alloc(bytes * 4);
  const room = heap.alloc(BLOCK_ROOM);
  heap.k.stabilise(planes, bytes, n, perUnit, read2, stable, bytes);
  heap.k.zero(first, bytes * 4);
  heap.k.denoiseBlocks(
    stable,
    0,
    bytes,
    sigma,
    width,
    height,
    PILOT_STEP,
    BOUND,
    CHROMA_BOUND,
    first,
    room,
  );
  heap.k.divideBlocks(first, bytes, n);
  heap.k.zero(out, bytes * 4);
  heap.k.denoiseBlocks(stable, first, bytes, sigma, width, height, STEP, 0, 0, out, room);
  heap.k.divideBlocks(out, bytes, n);
  heap.k.unstabilise(out, bytes, n, perUnit, read2, sigma, first, bytes);
  for (let c = 0; c < 3; c++) heap.f32(out + c * bytes, n).set(heap.f32(first + c * bytes, n));
  heap.release(mark);
  return out;
}

import type { Heap } from "../../kernels/heap";
import { median } from "../math/median";
import type { SceneNoise } from "./finish";

/** Blocks looked at, and the share of them with the least texture that count as flat. */
const BLOCKS = 6000;
const FLAT_SHARE = 0.12;
const SIDE = 8;
/** A model of noise in the usual camera, on the scene's scale: photons a unit, and read noise. */
export const USUAL_MODEL = { perUnit: 1 / 4000, read2: 4e-8 } as const;

/** Planes R, G, B and, behind them, the weights of a merge. */
interface Planes {
  ptr: number;
  planeBytes: number;
  width: number;
  height: number;
}

/**
 * How large a scene's noise is against the model, or against the weights of its merge: measured on
 * the finest texture of blocks that have least of the coarser kind, so that what is chosen and what
 * is measured are not the same.
 * @see Pyatykh, Hesser, Zheng, "Image noise level estimation by principal component analysis", TIP
 *   2013 (choosing weak textures)
 */
export function measureNoise(heap: Heap, scene: Planes, byWeights: boolean): SceneNoise {
  const { perUnit, read2 } = USUAL_MODEL;
  const noise: SceneNoise = { perUnit, read2, factor: 1, byWeights };
  const across = Math.floor(scene.width / SIDE);
  const down = Math.floor(scene.height / SIDE);
  if (across < 1 || down < 1) return noise;
  const every = Math.max(1, Math.floor((across * down) / BLOCKS));
  const mark = heap.mark();
  const bytes = SIDE * SIDE * 4 + 64;
  const rgb = heap.alloc(bytes * 4);
  const stable = heap.alloc(bytes * 3);
  const sigma = heap.alloc(bytes);
  const room = heap.alloc(1024);
  const powers = heap.alloc(64);
  const found: { fine: number; rest: number }[] = [];
  for (let block = 0; block < across * down; block += every) {
    const x = (block % across) * SIDE;
    const y = Math.floor(block / across) * SIDE;
    if (!readBlock(heap, scene, x, y, rgb, bytes, byWeights ? 4 : 3)) continue;
    heap.k.stabilise(rgb, bytes, SIDE * SIDE, perUnit, read2, stable, bytes);
    let own = 1;
    if (byWeights) {
      heap.k.noiseRow(rgb, bytes, rgb + 3 * bytes, SIDE * SIDE, perUnit, read2, 1, sigma);
      own = heap.f32(sigma, SIDE * SIDE).reduce((sum, s) => sum + s, 0) / (SIDE * SIDE);
    }
    heap.k.blockPowers(stable, SIDE * 4, room, powers);
    const [fine, rest] = heap.f32(powers, 2) as unknown as [number, number];
    if (own > 0 && fine > 0) found.push({ fine: fine / own ** 2, rest: rest / own ** 2 });
  }
  heap.release(mark);
  if (!found.length) return noise;
  found.sort((a, b) => a.rest - b.rest);
  const flat = found.slice(0, Math.max(1, Math.round(found.length * FLAT_SHARE)));
  return { ...noise, factor: Math.sqrt(median(flat.map(({ fine }) => fine))) };
}

/** Copies a block. @returns whether all of it is light that says something */
function readBlock(
  heap: Heap,
  scene: Planes,
  x: number,
  y: number,
  to: number,
  bytes: number,
  count: number,
): boolean {
  for (let c = 0; c < count; c++)
    for (let j = 0; j < SIDE; j++)
      heap
        .f32(to + c * bytes + j * SIDE * 4, SIDE)
        .set(heap.f32(scene.ptr + c * scene.planeBytes + ((y + j) * scene.width + x) * 4, SIDE));
  const green = heap.f32(to + bytes, SIDE * SIDE);
  const mean = green.reduce((sum, v) => sum + v, 0) / green.length;
  // black and clipped blocks have no noise, and say nothing of that of others
  return mean > 1e-5 && green.every((v) => Number.isFinite(v) && v > 0) && green[0] !== green[9];
}

import type { Heap } from "../../kernels/heap";
import type { LogPyramid } from "../align/logPyramid";
import { invert, multiply, project } from "../raster/matrix3";
import { areasOf } from "../suspects/areas";

/** A box in full-size px of the reference frame in which something lies otherwise in some frames, and by how many times what blur and noise explain. */
export interface MovedPart { x: number; y: number; width: number; height: number; times: number }
/** What blur leaves alone: light in cells, linear, with the cells it is known of. */
export interface CellLight { w: number; h: number; light: Float32Array; known: Uint8Array }

/** Side of a cell in px of the reduced frame: wider than the blur of a step. */
const CELL = 8;
/** EV that noise may put between two cells; share of the contrast round a cell that a step of focus may move into it or out of it. */
const NOISE_EV = 0.08, BLUR = 0.4;
/** Times what is explained at which a moved part begins, and as far as which it goes on; cells of the smallest. */
const SEED = 3, GROW = 1.6, SMALLEST = 3;
/** Below this, light is noise. */
const DARK = 2 ** -9;

/** Mean light of each cell of a frame. */
export function cellLight(heap: Heap, { levels: [finest] }: LogPyramid): CellLight {
  const { w: across, h: down, log, vote } = finest!, L = heap.f32(log, across * down), V = heap.f32(vote, across * down), w = Math.floor(across / CELL), h = Math.floor(down / CELL), light = new Float32Array(w * h), known = new Uint8Array(w * h);
  // every second px tells a cell's mean
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) {
    let sum = 0, votes = 0;
    for (let v = 0; v < CELL; v += 2) for (let u = 0; u < CELL; u += 2) { const i = (y * CELL + v) * across + x * CELL + u; sum += 2 ** L[i]!; if (V[i]! > 0) votes++; }
    light[y * w + x] = sum / (CELL * CELL / 4);
    known[y * w + x] = votes * 8 >= CELL * CELL ? 1 : 0;
  }
  return { w, h, light, known };
}

/**
 * Parts of a focus run that moved while it was taken: frames that follow each other along the travel show there another
 * amount of light, over more than the blur of a step reaches. Blur moves light about but loses none.
 *
 * @param cells    of each frame that is used, along the travel
 * @param placed   of each the way from the reference frame's px to its own, at the size of the reduced frames
 * @param light    of each its mean light, which flicker is told by
 * @param scale    full-size px a px of the reduced frames
 */
export function movedParts(cells: readonly CellLight[], placed: readonly (readonly number[])[], light: readonly number[], scale: number): MovedPart[] {
  if (cells.length < 2) return [];
  const { w, h } = cells[0]!, most = new Float32Array(w * h);
  for (let k = 0; k + 1 < cells.length; k++) {
    const a = cells[k]!, b = cells[k + 1]!, flicker = Math.log2(light[k + 1]! / light[k]!), onward = multiply(placed[k + 1]!, invert(placed[k]!)), home = invert(placed[k]!);
    for (let y = 1; y < h - 1; y++) for (let x = 1; x < w - 1; x++) {
      const i = y * w + x, [px, py] = [(x + 0.5) * CELL, (y + 0.5) * CELL], [bx, by] = project(onward, px, py), there = sampled(b, bx / CELL - 0.5, by / CELL - 0.5);
      if (!a.known[i] || there === undefined) continue;
      const apart = Math.abs(Math.log2(Math.max(DARK, there)) - Math.log2(Math.max(DARK, a.light[i]!)) - flicker), [rx, ry] = project(home, px, py), u = Math.floor(rx / CELL), v = Math.floor(ry / CELL);
      if (u < 0 || v < 0 || u >= w || v >= h) continue;
      const contrast = Math.max(contrastAt(a, x, y), contrastAt(b, Math.round(bx / CELL - 0.5), Math.round(by / CELL - 0.5)));
      most[v * w + u] = Math.max(most[v * w + u]!, apart / (NOISE_EV + BLUR * contrast));
    }
  }
  return areasOf(w, h, (i) => most[i]! > GROW, SMALLEST, (i) => most[i]!).flatMap((area): MovedPart[] => {
    let times = 0;
    for (let y = area.y0; y < area.y1; y++) for (let x = area.x0; x < area.x1; x++) times = Math.max(times, most[y * w + x]!);
    const side = CELL * scale;
    return times > SEED ? [{ x: area.x0 * side, y: area.y0 * side, width: (area.x1 - area.x0) * side, height: (area.y1 - area.y0) * side, times: Math.round(times * 100) / 100 }] : [];
  });
}

/** Light between four cells; nothing where one of them is not known. */
function sampled({ w, h, light, known }: CellLight, x: number, y: number): number | undefined {
  const u = Math.floor(x), v = Math.floor(y), i = v * w + u, fx = x - u, fy = y - v;
  if (u < 0 || v < 0 || u + 1 >= w || v + 1 >= h || !(known[i]! & known[i + 1]! & known[i + w]! & known[i + w + 1]!)) return undefined;
  return (light[i]! * (1 - fx) + light[i + 1]! * fx) * (1 - fy) + (light[i + w]! * (1 - fx) + light[i + w + 1]! * fx) * fy;
}

/** EV between the brightest and the darkest of the nine cells round a place. */
function contrastAt({ w, h, light }: CellLight, x: number, y: number): number {
  let low = Infinity, high = DARK;
  for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++) for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) { const l = light[v * w + u]!; low = Math.min(low, l); high = Math.max(high, l); }
  return Math.log2(high / Math.max(DARK, Math.min(low, high)));
}

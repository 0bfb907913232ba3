import type { Heap } from "../../kernels/heap";
import type { Rectangle } from "../raster/largestRectangle";
import { fill } from "./fill";
import type { Source } from "./findSource";
import { foundPieces, PIECE_REACH, rimOf, type Piece } from "./healSources";
import { LogScale, type ScenePlanes } from "./logWindow";
import { spanMembrane } from "./membrane";
import { boundsOf, halfWidth, type PlacedShape } from "./repair";
import { depthInside } from "./repairMask";

interface Size {
  width: number;
  height: number;
}

/** How much the best of several sources counts at least. */
const BEST_SHARE = 0.35;
/** px outside the border over which the light of a place is averaged. */
const BORDER = 2;

/**
 * Heals a place: texture from the places whose surroundings are most alike, or from a chosen one,
 * carried into the light round the place by a membrane of ratios. Where nothing is alike, its
 * texture is made up of patches first.
 *
 * @param planes  the scene, changed in place
 * @param size    of the whole picture
 * @param chosen  where to take from, px; found where not given
 * @returns where most of its texture comes from
 * @see Georgiev, "Covariant derivatives and vision", ECCV 2006 (healing as a ratio of light);
 *   Perez, Gangnet, Blake, "Poisson image editing", SIGGRAPH 2003
 */
export function heal(
  heap: Heap,
  planes: ScenePlanes,
  shape: PlacedShape,
  size: Size,
  chosen: { dx: number; dy: number } | undefined,
): { dx: number; dy: number } | undefined {
  const radius = halfWidth(shape);
  const target = boundsOf(shape, rimOf(radius), size);
  if (!target.width || !target.height) return undefined;
  const depth = depthInside(shape, target);
  const scale = new LogScale(planes.meanLight(target));
  const pieces: Piece[] = chosen
    ? [{ sources: [{ ...chosen, cost: 0 }] }]
    : foundPieces(planes, shape, target, depth, scale, size);
  const main = pieces.find((piece) => piece.sources.length)?.sources[0];
  if (pieces.some((piece) => !piece.sources.length)) {
    fill(heap, planes, shape, size, undefined);
    for (const piece of pieces) if (!piece.sources.length) piece.sources = [AS_FILLED];
  }
  const texture = textureOf(planes, target, depth, pieces, radius, scale);
  carryOver(planes, target, depth, texture, scale);
  return main;
}

/** The source of a piece that was made up of patches before: itself. */
const AS_FILLED: Source = { dx: 0, dy: 0, cost: 0 };

/** The texture that is put into a repair. */
interface Texture {
  /** R, G, B interleaved, on the logarithmic scale */
  colour: Float32Array;
  /** what it is worth, as the merge says of its own */
  weight: Float32Array;
}

/** How much each of a piece's sources counts: the more alike the more, and never all the same. */
function sharesOf(sources: readonly Source[]): number[] {
  const [best] = sources;
  if (!best) return [];
  const raw = sources.map(({ cost }) => Math.exp((best.cost - cost) / (best.cost + 1e-6)));
  const others = raw.slice(1).reduce((sum, q) => sum + q, 0);
  const most = others > 0 ? Math.min(1, (raw[0]! * (1 - BEST_SHARE)) / (BEST_SHARE * others)) : 0;
  const kept = raw.map((q, i) => (i ? q * most : q));
  const total = kept.reduce((sum, q) => sum + q, 0);
  return kept.map((q) => q / total);
}

function textureOf(
  planes: ScenePlanes,
  target: Rectangle,
  depth: Float32Array,
  pieces: readonly Piece[],
  radius: number,
  scale: LogScale,
): Texture {
  const { width, height } = target;
  const texture = {
    colour: new Float32Array(width * height * 3),
    weight: new Float32Array(width * height),
  };
  const withShares = pieces.map((piece) => ({ ...piece, shares: sharesOf(piece.sources) }));
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (depth[i]! < -BORDER - 1) continue;
      const X = target.x + x;
      const Y = target.y + y;
      let total = 0;
      for (const { centre, sources, shares } of withShares) {
        const nearness = centre ? nearnessOf(X, Y, centre, radius) : 1;
        if (nearness <= 0) continue;
        for (const [k, { dx, dy }] of sources.entries()) {
          const at = planes.indexOf(X + dx, Y + dy);
          if (at < 0 || !(planes.weight[at]! > 0)) continue;
          const share = nearness * shares[k]!;
          total += share;
          for (let c = 0; c < 3; c++)
            texture.colour[i * 3 + c]! += share * scale.of(planes.colours[c]![at]!);
          texture.weight[i]! += share * planes.weight[at]!;
        }
      }
      if (!total) continue;
      for (let c = 0; c < 3; c++) texture.colour[i * 3 + c]! /= total;
      texture.weight[i]! /= total;
    }
  return texture;
}

const nearnessOf = (
  x: number,
  y: number,
  centre: readonly [number, number],
  radius: number,
): number =>
  1 - Math.hypot(x + 0.5 - centre[0], y + 0.5 - centre[1]) / (radius * PIECE_REACH * 1.15);

/** Puts texture into a repair in the light that spans it from its border. */
function carryOver(
  planes: ScenePlanes,
  target: Rectangle,
  depth: Float32Array,
  texture: Texture,
  scale: LogScale,
): void {
  const { width, height } = target;
  const n = width * height;
  const indices = new Int32Array(n);
  const atBorder = new Uint8Array(n);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      indices[i] = planes.indexOf(target.x + x, target.y + y);
      const covered = indices[i]! >= 0 && planes.weight[indices[i]!]! > 0;
      atBorder[i] = covered && depth[i]! <= 0 && depth[i]! > -BORDER - 1 ? 1 : 0;
    }
  const light = new Float32Array(n * 3);
  for (let c = 0; c < 3; c++) {
    const ratio = new Float32Array(n);
    for (let i = 0; i < n; i++)
      if (atBorder[i])
        ratio[i] = scale.of(planes.colours[c]![indices[i]!]!) - texture.colour[i * 3 + c]!;
    const smooth = meanOfKnown(ratio, atBorder, width, height);
    spanMembrane(smooth, atBorder, width, height);
    for (let i = 0; i < n; i++) light[i * 3 + c] = smooth[i]!;
  }
  for (let i = 0; i < n; i++) {
    const at = indices[i]!;
    if (at < 0 || depth[i]! <= -1) continue;
    // the shape itself is replaced whole; it goes over into the picture outside of it
    const share = Math.min(1, depth[i]! + 1);
    const known = planes.weight[at]! > 0;
    for (let c = 0; c < 3; c++) {
      const healed = scale.light(texture.colour[i * 3 + c]! + light[i * 3 + c]!);
      const plane = planes.colours[c]!;
      plane[at] = known ? plane[at]! + share * (healed - plane[at]!) : healed;
    }
    if (texture.weight[i]! > 0) planes.weight[at] = texture.weight[i]!;
  }
}

/** Each known value as the mean of those that touch it: one grain of noise spans no membrane. */
function meanOfKnown(
  plane: Float32Array,
  known: Uint8Array,
  width: number,
  height: number,
): Float32Array {
  const out = new Float32Array(plane.length);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (!known[i]) continue;
      let sum = 0;
      let count = 0;
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++)
          if (known[v * width + u]) {
            sum += plane[v * width + u]!;
            count++;
          }
      out[i] = sum / count;
    }
  return out;
}

import type { GhostMap } from "../align/alignedFrame";
import { isGuess, type DepthGrid } from "../focus/depthGrid";
import type { Accumulator } from "../raster/accumulator";
import type { Heap } from "../../kernels/heap";
import { clamp } from "../math/clamp";
import { luminance } from "../colour/luminance";

/**
 * What may be shown over the picture: which frame gave which pixel, what was held back as moving,
 * how far frames disagree, how noisy it is.
 */
export const MAP_KINDS = ["sources", "seams", "moving", "disagreement", "noise"] as const;
export type MapKind = (typeof MAP_KINDS)[number];

/** What lines and stripes are drawn in where they must stand out from any colour of the scale. */
export const INK: readonly [number, number, number] = [13, 13, 13];
const OF_NO_FRAME: readonly [number, number, number] = [200, 60, 20];
/** Scale ends: disagreement in widths of the noise, noise as signal over noise in dB. */
export const DISAGREEMENT_TOP = 4;
export const NOISE_DB = [12, 48] as const;

/** From dark to light at even steps, distinguished without hue too. */
export function scaleColour(t: number): [number, number, number] {
  const stops = [
    [30, 38, 74],
    [33, 92, 122],
    [74, 140, 118],
    [178, 172, 96],
    [247, 226, 170],
  ] as const;
  const p = clamp(t * 4, 0, 3.999);
  const i = Math.floor(p);
  const f = p - i;
  return [0, 1, 2].map((c) => Math.round(stops[i]![c]! * (1 - f) + stops[i + 1]![c]! * f)) as [
    number,
    number,
    number,
  ];
}

export interface MapInput {
  kind: MapKind;
  scene: Accumulator;
  /** address of the source map */
  sources: number;
  /** colour of each frame by its place */
  colours: readonly (readonly number[])[];
  /** on the grid of moving things, at the scene's scale */
  maps: readonly {
    ghosts?: GhostMap | undefined;
    differs?: GhostMap | undefined;
  }[];
  /** how far the depth of a focus run is known, whose sources are its depth */
  known?: Omit<DepthGrid, "places">;
  /** px of the scene a px of the screen, for what is as thin there whatever the zoom */
  thin: number;
  downscale: number;
  region: { x: number; y: number; width: number; height: number };
}

/** Paints a map over a region of the scene. @returns RGBA bytes, not premultiplied */
export function paintMap(
  heap: Heap,
  { kind, scene, sources, colours, maps, known, downscale, region, thin }: MapInput,
): Uint8ClampedArray {
  const { width, height } = region;
  const out = new Uint8ClampedArray(width * height * 4);
  const n = scene.width * scene.height;
  const put = (i: number, rgb: readonly number[], alpha: number): void => {
    out[i * 4] = rgb[0]!;
    out[i * 4 + 1] = rgb[1]!;
    out[i * 4 + 2] = rgb[2]!;
    out[i * 4 + 3] = alpha;
  };
  const planes = [0, 1, 2, 3].map((c) => heap.f32(scene.ptr + c * scene.planeBytes, n));
  const source = heap.u8(sources, n);
  const steps = Array.from({ length: 64 }, (_, i) => scaleColour(i / 63));
  const onScale = (t: number): readonly number[] => steps[Math.round(clamp(t, 0, 1) * 63)]!;
  const present = maps.flatMap((m) => {
    const g = kind === "moving" ? m.ghosts : m.differs;
    return g ? [g] : [];
  });
  const inner = Math.max(1, Math.round(0.75 * thin));
  const outer = Math.max(inner + 1, Math.round(1.75 * thin));
  const at = (X: number, Y: number): number =>
    source[clamp(Y, 0, scene.height - 1) * scene.width + clamp(X, 0, scene.width - 1)]!;
  /** Whether another frame begins so near; the picture's border is no seam. */
  const meets = (X: number, Y: number, r: number): boolean => {
    const own = at(X, Y);
    return (
      own > 0 &&
      [at(X - r, Y), at(X + r, Y), at(X, Y - r), at(X, Y + r)].some((s) => s > 0 && s !== own)
    );
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const X = region.x + x;
      const Y = region.y + y;
      const k = Y * scene.width + X;
      if (kind === "sources") {
        const s = source[k]!;
        const guessed =
          known &&
          isGuess(known, (X + 0.5) / scene.width, (Y + 0.5) / scene.height) &&
          Math.floor((X + Y) / Math.max(1, thin)) % 6 < 2;
        const ofFrame = s ? (colours[s - 1] ?? [0, 0, 0]) : OF_NO_FRAME;
        put(i, guessed ? INK : ofFrame, 205);
      } else if (kind === "seams") {
        // a light line within a dark one
        if (meets(X, Y, inner)) put(i, [242, 242, 242], 255);
        else if (meets(X, Y, outer)) put(i, INK, 150);
      } else if (kind === "noise") {
        const light = luminance(planes[0]![k]!, planes[1]![k]!, planes[2]![k]!);
        const w = planes[3]![k]!;
        const db = w > 0 && light > 0 ? 10 * Math.log10(light * light * w) : 0;
        put(i, onScale((db - NOISE_DB[0]) / (NOISE_DB[1] - NOISE_DB[0])), 225);
      } else {
        let value = 0;
        for (const g of present) {
          const v =
            g.confidences[
              Math.min(g.height - 1, Math.floor((Y * downscale) / g.scale)) * g.width +
                Math.min(g.width - 1, Math.floor((X * downscale) / g.scale))
            ]!;
          value = Math.max(value, kind === "moving" ? 1 - v / 255 : v / 32 / DISAGREEMENT_TOP);
        }
        if (kind === "disagreement") put(i, onScale(value), 215);
        // rising stripes, so that it is seen without colour
        else if (value > 0.02)
          put(i, [236, 178, 92], (X + Y) % 9 < 4 ? 60 + value * 150 : value * 60);
      }
    }
  return out;
}

/**
 * Share of the pixels that each of `frames` frames gave most to, and last the share that none did.
 */
export function sourceShares(heap: Heap, sources: number, n: number, frames: number): number[] {
  const counts = new Array<number>(frames + 1).fill(0);
  for (const s of heap.u8(sources, n)) counts[s === 0 ? frames : s - 1]!++;
  return counts.map((c) => c / n);
}

import type { Heap } from "../../kernels/heap";
import { clamp } from "../math/clamp";
import { bytesPerPixel, type PixelKind } from "../tone/renderStrip";

/** What a picture is looked at on, and from how far. */
export interface Viewing {
  medium: "screen" | "matte" | "glossy";
  /** px an inch, as it is shown or printed */
  ppi: number;
  /** cm */
  distance: number;
}
/** How a picture is sharpened for what it is looked at on. */
export interface OutputSharpening {
  /** radius of the blur that detail is taken from, standard deviation, px */
  sigma: number;
  /** factor on the detail */
  amount: number;
}

/** Standard deviation of what a medium spreads a point to: mm of ink, and px that reducing took. */
const SPREAD_MM = { screen: 0, matte: 0.055, glossy: 0.03 };
const REDUCED_PX = 0.35;
/** Standard deviation of the least blur that detail is taken from, px. */
const LEAST_SIGMA = 0.5;
/** Cycles a degree at which eyes see contrast well and detail lies, after Campbell and Robson 1968. */
const SEEN_CYCLES = 8;
/** Cycles a px between which that is held: neither the whole picture nor its grain. */
const LEAST_CYCLES = 0.08;
const MOST_CYCLES = 0.3;
const MOST_AMOUNT = 2.5;
const CM_PER_INCH = 2.54;

/**
 * What gives back the contrast that a medium and reducing take from the detail that is seen best
 * from a distance: the gain of an unsharp mask there is one over what they leave of it.
 *
 * @param strength  0 to 2, 1 is all of it
 */
export function outputSharpening(
  { medium, ppi, distance }: Viewing,
  strength: number,
): OutputSharpening {
  const pxPerMm = ppi / CM_PER_INCH / 10;
  const spread = Math.hypot(SPREAD_MM[medium] * pxPerMm, REDUCED_PX);
  const sigma = Math.max(LEAST_SIGMA, spread);
  const pxPerDegree = pxPerMm * 10 * distance * Math.tan(Math.PI / 180);
  const cycles = clamp(SEEN_CYCLES / pxPerDegree, LEAST_CYCLES, MOST_CYCLES);
  const squared = 2 * Math.PI ** 2 * cycles ** 2;
  const lost = Math.exp(squared * spread ** 2) - 1;
  const gained = 1 - Math.exp(-squared * sigma ** 2);
  return { sigma, amount: strength * Math.min(MOST_AMOUNT, lost / gained) };
}

/** Detail fainter than this, of 1 as it is encoded, is grain. */
const GRAIN = 0.006;
/** By how much an edge may overshoot what lies round it, of 1 as it is encoded. */
const OVERSHOOT = 0.015;

interface Picture {
  ptr: number;
  width: number;
  height: number;
}

/** Rows round a strip that it is made from. */
const reachOf = (sigma: number): number => Math.ceil(3 * sigma);
/** Bytes of scratch for sharpening some rows. */
export const sharpenScratch = (width: number, rows: number, sigma: number): number =>
  4 * (rows + 2 * reachOf(sigma) + 4) * width * 4 + (1 << 16);

const SAMPLE_MOST = { rgb8: 255, rgb16: 65535 } as const;
/** Kinds of pixels that are encoded for looking at. */
export const isSharpened = (kind: PixelKind): kind is keyof typeof SAMPLE_MOST =>
  kind === "rgb8" || kind === "rgb16";

/**
 * Rows y0 to y1 of an encoded picture, sharpened: an unsharp mask of its brightness, without what is
 * grain, and without light or dark rims beside edges.
 *
 * @param from  RGB interleaved; `to` is another picture as large
 */
export function sharpenOutput(
  heap: Heap,
  from: Picture,
  to: Picture,
  kind: keyof typeof SAMPLE_MOST,
  { sigma, amount }: OutputSharpening,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const { width, height } = from;
  const reach = reachOf(sigma);
  const top = Math.max(0, y0 - reach - 1);
  const bottom = Math.min(height, y1 + reach + 1);
  const rows = bottom - top;
  const most = SAMPLE_MOST[kind];
  const view = (at: number, n: number): Uint8Array | Uint16Array =>
    kind === "rgb8" ? heap.u8(at, n) : heap.u16(at, n);
  const bytes = bytesPerPixel(kind);
  const source = view(from.ptr + top * width * bytes, rows * width * 3);
  const target = view(to.ptr + y0 * width * bytes, (y1 - y0) * width * 3);
  const bright = heap.f32(heap.alloc(rows * width * 4), rows * width);
  for (let i = 0, s = 0; i < bright.length; i++, s += 3)
    bright[i] = (0.25 * source[s]! + 0.625 * source[s + 1]! + 0.125 * source[s + 2]!) / most;
  const plane = (): Float32Array => heap.f32(heap.alloc(rows * width * 4), rows * width);
  const [across, lowest, highest] = [plane(), plane(), plane()];
  rangeAcross(bright, lowest, highest, width);
  const taps = gaussian(sigma, reach);
  blurAcross(bright, across, width, rows, taps);
  for (let y = y0; y < y1; y++) {
    const row = y - top;
    const up = Math.max(0, row - 1) * width;
    const here = row * width;
    const down = Math.min(rows - 1, row + 1) * width;
    for (let x = 0; x < width; x++) {
      let blurred = 0;
      for (let k = -reach; k <= reach; k++)
        blurred += taps[k + reach]! * across[clamp(row + k, 0, rows - 1) * width + x]!;
      const own = bright[here + x]!;
      const detail = own - blurred;
      const kept = Math.sign(detail) * Math.max(0, Math.abs(detail) - GRAIN);
      const least = Math.min(lowest[up + x]!, lowest[here + x]!, lowest[down + x]!);
      const greatest = Math.max(highest[up + x]!, highest[here + x]!, highest[down + x]!);
      const wanted = own + amount * kept;
      const held = clamp(wanted, least - OVERSHOOT, greatest + OVERSHOOT);
      const by = (held - own) * most;
      const s = (here + x) * 3;
      const t = ((y - y0) * width + x) * 3;
      for (let c = 0; c < 3; c++) target[t + c] = clamp(Math.round(source[s + c]! + by), 0, most);
    }
  }
  heap.release(mark);
}

/** Weights of a bell curve over 2 reach + 1 samples. */
function gaussian(sigma: number, reach: number): Float64Array {
  const taps = Float64Array.from({ length: 2 * reach + 1 }, (_, i) =>
    Math.exp(-((i - reach) ** 2) / (2 * sigma * sigma)),
  );
  const sum = taps.reduce((a, b) => a + b, 0);
  return taps.map((v) => v / sum);
}

/** The least and the greatest of each sample and its neighbours on both sides. */
function rangeAcross(
  from: Float32Array,
  lowest: Float32Array,
  highest: Float32Array,
  width: number,
): void {
  for (let i = 0; i < from.length; i++) {
    const x = i % width;
    const own = from[i]!;
    const left = x ? from[i - 1]! : own;
    const right = x < width - 1 ? from[i + 1]! : own;
    lowest[i] = Math.min(left, own, right);
    highest[i] = Math.max(left, own, right);
  }
}

function blurAcross(
  from: Float32Array,
  to: Float32Array,
  width: number,
  rows: number,
  taps: Float64Array,
): void {
  const reach = (taps.length - 1) / 2;
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let k = -reach; k <= reach; k++)
        sum += taps[k + reach]! * from[y * width + clamp(x + k, 0, width - 1)]!;
      to[y * width + x] = sum;
    }
}

import { Heap, sampleTypeOf } from "../../kernels/heap";
import { decode, SPACES } from "../colour/spaces";
import { invert, multiply } from "../math/matrix3";
import { simulateBracket, type SimulatedBracket } from "../../simulate/bracket";
import { simulatedRoom } from "../../simulate/room";
import { foldFrame } from "./foldFrame";
import { planeBytesOf, type Accumulator } from "../raster/accumulator";

const W = 480;
const H = 320;
const scene = simulatedRoom(W + 80, H + 60, 21);
const lutOf = (n: number): Float32Array =>
  Float32Array.from({ length: n * 3 }, (_, i) => decode(SPACES.srgb.curve, (i % n) / (n - 1)));
const NOISE = { gain: 20000, read: 1e-3 };

function merge(
  set: SimulatedBracket,
  reference: number,
  strips: number[],
): { heap: Heap; acc: Accumulator } {
  const heap = Heap.local(60e6);
  const planeBytes = planeBytesOf(W, H);
  const acc = { ptr: heap.alloc(planeBytes * 4 + 64), planeBytes, width: W, height: H };
  const order = [set.frames[reference]!, ...set.frames.filter((_, i) => i !== reference)];
  for (const f of order) {
    const type = sampleTypeOf(f.samples);
    const ptr = heap.alloc(f.samples.byteLength);
    heap.u8(ptr, f.samples.byteLength).set(new Uint8Array(f.samples.buffer));
    const fromReference =
      f === set.frames[reference]
        ? [1, 0, 0, 0, 1, 0, 0, 0, 1]
        : multiply(invert(f.toScene), set.frames[reference]!.toScene);
    for (let i = 1; i < strips.length; i++)
      foldFrame(
        heap,
        acc,
        {
          samples: ptr,
          type,
          width: W,
          height: H,
          lut: lutOf(type === "u16" ? 65536 : 256),
          fromReference,
          ev: f.ev,
          noise: NOISE,
          first: f === order[0],
        },
        strips[i - 1]!,
        strips[i]!,
      );
  }
  heap.k.finaliseRadiance(acc.ptr, planeBytes, W * H, heap.put([1, 0, 0, 0, 1, 0, 0, 0, 1]));
  return { heap, acc };
}

/** RMS of log2 error in EV of green, over pixels that some frame shows well. */
function rmsEv(
  { heap, acc }: { heap: Heap; acc: Accumulator },
  pick: (radiance: number) => boolean,
  smooth = false,
): number {
  const g = heap.f32(acc.ptr + acc.planeBytes, W * H);
  let sum = 0;
  let n = 0;
  for (let y = 30; y < H - 30; y++)
    for (let x = 30; x < W - 30; x++) {
      const truth = scene.planes[1][(y + 30) * scene.width + x + 40]!;
      if (!pick(truth) || (smooth && ragged(x, y))) continue;
      sum += Math.log2(Math.max(1e-6, g[y * W + x]!) / truth) ** 2;
      n++;
    }
  return Math.sqrt(sum / n);
}

/**
 * Whether the scene changes by a third of a stop within two pixels: there interpolation, not the
 * merge, is measured.
 */
function ragged(x: number, y: number): boolean {
  let lo = Infinity;
  let hi = 0;
  for (let j = -2; j <= 2; j++)
    for (let i = -2; i <= 2; i++) {
      const v = scene.planes[1][(y + 30 + j) * scene.width + x + 40 + i]!;
      lo = Math.min(lo, v);
      hi = Math.max(hi, v);
    }
  return hi / lo > 1.26;
}

const tripod = simulateBracket(scene, {
  width: W,
  height: H,
  evs: [-4, -2, 0, 2, 4],
  baseEv: 0,
  hand: 0,
  seed: 2,
  reference: 2,
});

test("a static bracket's radiance is true to 0.05 EV where a frame shows it well", () => {
  const merged = merge(tripod, 2, [0, H]);
  // above 1 % of the longest exposure, below 80 % of the shortest
  expect(rmsEv(merged, (r) => r > 0.01 / 16 && r < 0.8 * 16)).toBeLessThan(0.05);
});

test("a hand-held one is as true away from hard edges", () => {
  const set = simulateBracket(scene, {
    width: W,
    height: H,
    evs: [-4, -2, 0, 2, 4],
    baseEv: 0,
    hand: 0.2,
    seed: 8,
    reference: 2,
  });
  expect(rmsEv(merge(set, 2, [0, H]), (r) => r > 0.02 / 16 && r < 5, true)).toBeLessThan(0.05);
});

test("the shadows come from the long exposures: noise near the best possible weighting", () => {
  const flat = {
    width: W,
    height: H,
    planes: [0, 1, 2].map(() => new Float32Array(W * H).fill(0.004)) as unknown as [
      Float32Array,
      Float32Array,
      Float32Array,
    ],
  };
  const evs = [-2, 0, 2, 4];
  const set = simulateBracket(flat, {
    width: W,
    height: H,
    evs,
    baseEv: 0,
    hand: 0,
    seed: 6,
    reference: 1,
    shot: { depth: 16, gain: NOISE.gain, read: NOISE.read },
  });
  const { heap, acc } = merge(set, 1, [0, H]);
  const g = heap.f32(acc.ptr + acc.planeBytes, W * H);
  const mean = g.reduce((s, v) => s + v, 0) / g.length;
  const noise = Math.sqrt(g.reduce((s, v) => s + (v - mean) ** 2, 0) / g.length);
  const information = evs.reduce(
    (s, e) => s + 4 ** e / ((0.004 * 2 ** e) / NOISE.gain + NOISE.read ** 2),
    0,
  );
  expect(20 * Math.log10(noise * Math.sqrt(information))).toBeLessThan(1);
  expect(Math.abs(Math.log2(mean / 0.004))).toBeLessThan(0.02);
});

test("where every frame is clipped the darkest one decides, and no hole is left", () => {
  const bright = {
    width: W,
    height: H,
    planes: [0, 1, 2].map(() => new Float32Array(W * H).fill(100)) as unknown as [
      Float32Array,
      Float32Array,
      Float32Array,
    ],
  };
  const set = simulateBracket(bright, {
    width: W,
    height: H,
    evs: [-2, 0, 2],
    baseEv: 0,
    hand: 0,
    seed: 6,
    reference: 1,
  });
  const { heap, acc } = merge(set, 1, [0, H]);
  for (const v of heap.f32(acc.ptr, W * H).subarray(0, 1000)) expect(v).toBeCloseTo(4, 1);
});

test("any cut into strips gives the same bytes", () => {
  const set = simulateBracket(scene, {
    width: W,
    height: H,
    evs: [-2, 0, 2],
    baseEv: 0,
    hand: 0.3,
    seed: 12,
    reference: 1,
  });
  const whole = merge(set, 1, [0, H]);
  const parts = merge(set, 1, [0, 16, 48, 160, 256, H]);
  const bytes = whole.acc.planeBytes * 3;
  expect(
    Buffer.compare(
      Buffer.from(whole.heap.u8(whole.acc.ptr, bytes)),
      Buffer.from(parts.heap.u8(parts.acc.ptr, bytes)),
    ),
  ).toBe(0);
});

describe("what packing draws out of clipping", () => {
  const w = 64;
  const h = 32;
  const codeOf = (light: number): number =>
    Math.round(255 * (light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055));
  // a bright sky of 2 with a dark bar of 0.02 across it
  const light = (x: number): number => (x >= 24 && x < 30 ? 0.02 : 2);
  /**
   * a frame as packed in blocks of 8: round what is clipped some samples read as if they were not
   */
  const packed = (ev: number): Uint8Array =>
    Uint8Array.from({ length: w * h * 3 }, (_, i) => {
      const p = Math.floor(i / 3);
      const x = p % w;
      const v = light(x) * 2 ** ev;
      const near = x >= 24 && x < 32;
      return v >= 1 ? (near && (p * 7) % 3 === 0 ? 228 : 255) : codeOf(v);
    });
  const skyOf = (block: number | undefined, moved: number): number[] => {
    const heap = Heap.local(30e6);
    const planeBytes = planeBytesOf(w, h);
    const acc = { ptr: heap.alloc(planeBytes * 4 + 64), planeBytes, width: w, height: h };
    [0, 2, -2].forEach((ev, k) => {
      const samples = heap.putBytes(packed(ev));
      for (const [a, b] of [
        [0, 16],
        [16, h],
      ] as const)
        foldFrame(
          heap,
          acc,
          {
            samples,
            type: "u8",
            width: w,
            height: h,
            lut: lutOf(256),
            ...(block ? { block } : {}),
            fromReference: [1, 0, k ? moved : 0, 0, 1, 0, 0, 0, 1],
            ev,
            noise: NOISE,
            first: k === 0,
          },
          a,
          b,
        );
    });
    heap.k.finaliseRadiance(acc.ptr, planeBytes, w * h, heap.put([1, 0, 0, 0, 1, 0, 0, 0, 1]));
    return [...heap.f32(acc.ptr, w * h)].filter((_, i) => i % w === 30 || i % w === 31);
  };
  test.each([0, 8])(
    "counts for nothing, so that no dark dots stand round a bar before the sky; moved by %i px",
    (moved) => {
      for (const v of skyOf(8, moved))
        if (!moved) expect(Math.abs(Math.log2(v / 2))).toBeLessThan(0.05);
      // without it they do stand there
      if (!moved) expect(Math.min(...skyOf(undefined, 0))).toBeLessThan(1);
      else expect(skyOf(8, moved).every((v) => v > 0.85)).toBe(true);
    },
  );
});

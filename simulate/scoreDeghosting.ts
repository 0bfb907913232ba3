import { Heap } from "../kernels/heap";
import { alignStack } from "../core/align/alignStack";
import { foldFrame } from "../core/bracket/foldFrame";
import { planeBytesOf } from "../core/raster/accumulator";
import { decode, encode, SPACES } from "../core/colour/spaces";
import { simulateBracket } from "./bracket";
import type { RadianceImage } from "./camera";
import type { Moving } from "./moving";
import { clamp } from "../core/math/clamp";

const LUT = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);
const IDENTITY = [1, 0, 0, 0, 1, 0, 0, 0, 1];
/** How far the cut lies within the scene, px. */
const LEFT = 40;
const TOP = 30;
/** Px round a thing that moves which belong to it. */
const RIM = 6;

export interface DeghostingScore {
  /**
   * PSNR in dB, as the eye sees it at the reference's exposure, against the scene at the
   * reference's moment: where something moved in any frame
   */
  withinDb: number;
  /** the same without deghosting */
  untreatedDb: number;
  /**
   * farther than 6 px from the things that move (a calm place between two glints of water is
   * water), and there for a set in which nothing moved at all
   */
  elsewhereDb: number;
  stillDb: number;
}

/**
 * Takes a bracket of a scene in which something moves, merges it, and holds it against the truth.
 */
export function scoreDeghosting(
  scene: RadianceImage,
  evs: readonly number[],
  moving: (step: number) => Moving,
  hand: number,
  seed: number,
): DeghostingScore {
  const w = scene.width - 2 * LEFT;
  const h = scene.height - 2 * TOP;
  const reference = evs.length >> 1;
  const take = (i: number, step: number): Taken => {
    const own = hand > 0 && i !== reference;
    return simulateBracket(scene, {
      width: w,
      height: h,
      evs: [evs[i]!],
      baseEv: 0,
      hand: own ? hand : 0,
      seed: seed + i,
      reference: own ? -1 : 0,
      shot: { moving: moving(step) },
    }).frames[0]!;
  };
  const moved = evs.map((_, i) => take(i, i));
  const still = evs.map((_, i) => (i === reference ? moved[i]! : take(i, reference)));
  const shots = [
    merged(moved, evs, reference, true),
    merged(moved, evs, reference, false),
    merged(still, evs, reference, true),
  ];
  const errors = [
    [0, 0],
    [0, 0],
    [0, 0],
    [0, 0],
  ];
  const shown = (v: number): number => encode(SPACES.srgb.curve, clamp(v, 0, 1));
  const at = (step: number, x: number, y: number): [number, number, number] => {
    const k = (y + TOP) * scene.width + x + LEFT;
    const rgb: [number, number, number] = [
      scene.planes[0][k]!,
      scene.planes[1][k]!,
      scene.planes[2][k]!,
    ];
    moving(step)(x + LEFT + 0.5, y + TOP + 0.5, rgb);
    return rgb;
  };
  // every second pixel
  const bare = (x: number, y: number): boolean => {
    const k = (y + TOP) * scene.width + x + LEFT;
    return evs.every((_, i) => at(i, x, y).every((v, c) => v === scene.planes[c]![k]));
  };
  const changes = (x: number, y: number): boolean => {
    const now = at(reference, x, y);
    return evs.some((_, i) => {
      const r = at(i, x, y);
      return Math.abs(r[0] - now[0]) > 0.01 * now[0] || Math.abs(r[1] - now[1]) > 0.01 * now[1];
    });
  };
  const across = w >> 1;
  const down = h >> 1;
  const onGrid = (test: (x: number, y: number) => boolean): Uint8Array =>
    Uint8Array.from({ length: across * down }, (_, k) =>
      test((k % across) * 2, Math.floor(k / across) * 2) ? 1 : 0,
    );
  const moves = onGrid(changes);
  const things = onGrid((x, y) => !bare(x, y));
  const reach = RIM / 2;
  const near = (x: number, y: number): boolean => {
    for (let v = (y >> 1) - reach; v <= (y >> 1) + reach; v++)
      for (let u = (x >> 1) - reach; u <= (x >> 1) + reach; u++)
        if (things[v * across + u]) return true;
    return false;
  };
  for (let y = 24; y < h - 24; y += 2)
    for (let x = 24; x < w - 24; x += 2) {
      const now = at(reference, x, y);
      const within = moves[(y >> 1) * across + (x >> 1)]!;
      const beyond = !within && !near(x, y);
      for (let c = 0; c < 3; c++) {
        const error = (s: Float32Array[]): number =>
          (shown(s[c]![y * w + x]!) - shown(now[c]!)) ** 2;
        const add = (to: number[], e: number): void => {
          to[0]! += e;
          to[1]!++;
        };
        if (within) {
          add(errors[0]!, error(shots[0]!));
          add(errors[1]!, error(shots[1]!));
        } else if (beyond) {
          add(errors[2]!, error(shots[0]!));
          add(errors[3]!, error(shots[2]!));
        }
      }
    }
  const [withinDb, untreatedDb, elsewhereDb, stillDb] = errors.map(
    ([s, n]) => -10 * Math.log10(s! / n!),
  ) as [number, number, number, number];
  return { withinDb, untreatedDb, elsewhereDb, stillDb };
}

type Taken = ReturnType<typeof simulateBracket>["frames"][number];

function merged(
  frames: readonly Taken[],
  evs: readonly number[],
  reference: number,
  deghost: boolean,
): Float32Array[] {
  const { width: w, height: h } = frames[0]!;
  const heap = Heap.local(w * h * (4 * 24 + 3 * frames.length));
  const planeBytes = planeBytesOf(w, h);
  const acc = { ptr: heap.alloc(planeBytes * 4 + 64), planeBytes, width: w, height: h };
  const loaded = frames.map((f) => ({
    ptr: heap.putBytes(f.samples as Uint8Array),
    type: "u8" as const,
    width: w,
    height: h,
    lut: LUT,
  }));
  const found = alignStack(heap, loaded, evs, {
    motion: "auto",
    reference,
    deghost,
    strength: 0.5,
    forced: [],
    scale: 1,
  });
  for (const i of [
    reference,
    ...evs
      .map((_, k) => k)
      .filter((k) => k !== reference && found[k]!.used)
      .sort((a, b) => evs[b]! - evs[a]!),
  ]) {
    const { fromReference, ev, ghosts } = found[i]!;
    const { ptr, ...frame } = loaded[i]!;
    foldFrame(
      heap,
      acc,
      {
        samples: ptr,
        ...frame,
        fromReference: i === reference ? IDENTITY : fromReference,
        ev,
        noise: { gain: 20000, read: 1e-3 },
        first: i === reference,
        ...(ghosts ? { ghosts } : {}),
      },
      0,
      h,
    );
  }
  heap.k.finaliseRadiance(acc.ptr, planeBytes, w * h, heap.put(IDENTITY));
  return [0, 1, 2].map((c) => heap.f32(acc.ptr + c * planeBytes, w * h).slice());
}

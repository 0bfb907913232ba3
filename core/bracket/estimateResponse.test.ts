import { decode, SPACES } from "../colour/spaces";
import { simulateBracket } from "../../simulate/bracket";
import { simulatedRoom } from "../../simulate/room";
import { srgbResponse } from "../../simulate/camera";
import { Heap } from "../../kernels/heap";
import { foldFrame } from "./foldFrame";
import { planeBytesOf } from "../raster/accumulator";
import { estimateResponse, isBetter, respond } from "./estimateResponse";
import { median } from "../math/median";

const lut = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);
const scene = simulatedRoom(760, 520, 31);
/** Curves as cameras have them: an S over sRGB, a flat one with lifted darks, a plain power. */
const RESPONSES: Record<string, (v: number) => number> = {
  "S-shaped": (v) => {
    const s = srgbResponse(v);
    return s * s * (3 - 2 * s) * 0.55 + s * 0.45;
  },
  flat: (v) => Math.log2(1 + 60 * v) / Math.log2(61),
  "a power": (v) => v ** (1 / 1.8),
};

const bracket = (response: (v: number) => number, hand: number, evs = [-4, -2, 0, 2, 4]) =>
  simulateBracket(scene, {
    width: 600,
    height: 400,
    evs,
    baseEv: 0,
    hand,
    seed: 6,
    reference: 2,
    shot: { response },
  });
const estimate = (set: ReturnType<typeof bracket>) =>
  estimateResponse(set.frames.map((f) => ({ samples: f.samples, type: "u8", lut, ev: f.ev })));

describe.each(Object.entries(RESPONSES))("a response that is %s", (_, response) => {
  test.each([0, 0.3])("is found to 0.1 EV over the well exposed samples, hand %d", (hand) => {
    const found = estimate(bracket(response, hand))!;
    expect(isBetter(found)).toBe(true);
    const table = respond(lut, found.curve);
    // the true table, by inverting the response
    const truth = Float32Array.from({ length: 256 }, (_v, code) => {
      let lo = 0;
      let hi = 1;
      for (let i = 0; i < 40; i++) {
        const m = (lo + hi) / 2;
        if (response(m) * 255 < code) lo = m;
        else hi = m;
      }
      return (lo + hi) / 2;
    });
    let sum = 0;
    let n = 0;
    for (let code = 24; code <= 246; code++, n++)
      sum += Math.log2(table[256 + code]! / truth[code]!) ** 2;
    expect(Math.sqrt(sum / n)).toBeLessThan(0.1);
    for (let code = 1; code < 256; code++)
      expect(table[256 + code]!).toBeGreaterThanOrEqual(table[255 + code]!);
  });
});

/**
 * RMS of log2 error in EV of a whole merge's green where some frame shows it well, its scale left
 * free.
 */
function mergedRms(set: ReturnType<typeof bracket>, table: Float32Array): number {
  const w = 600;
  const h = 400;
  const heap = Heap.local(40e6);
  const planeBytes = planeBytesOf(w, h);
  const acc = { ptr: heap.alloc(planeBytes * 4 + 64), planeBytes, width: w, height: h };
  const IDENTITY = [1, 0, 0, 0, 1, 0, 0, 0, 1];
  for (const f of [set.frames[2]!, ...set.frames.filter((_, i) => i !== 2)])
    foldFrame(
      heap,
      acc,
      {
        samples: heap.putBytes(f.samples as Uint8Array),
        type: "u8",
        width: w,
        height: h,
        lut: table,
        fromReference: IDENTITY,
        ev: f.ev,
        noise: { gain: 20000, read: 1e-3 },
        first: f === set.frames[2],
      },
      0,
      h,
    );
  heap.k.finaliseRadiance(acc.ptr, planeBytes, w * h, heap.put(IDENTITY));
  const green = heap.f32(acc.ptr + planeBytes, w * h);
  const errors: number[] = [];
  for (let y = 30; y < h - 30; y++)
    for (let x = 30; x < w - 30; x++) {
      const truth = scene.planes[1][(y + 60) * scene.width + x + 80]!;
      if (truth > 0.015 / 16 && truth < 0.8 * 16)
        errors.push(Math.log2(Math.max(1e-6, green[y * w + x]!) / truth));
    }
  const middle = median(errors);
  return Math.sqrt(errors.reduce((t, e) => t + (e - middle) ** 2, 0) / errors.length);
}

test.each(Object.entries(RESPONSES))(
  "radiance of a whole merge through a response that is %s is true to 0.1 EV",
  (name, response) => {
    const set = bracket(response, 0);
    const found = mergedRms(set, respond(lut, estimate(set)!.curve));
    const believed = mergedRms(set, lut);
    process.stdout.write(
      `merged through ${name}: ${found.toFixed(3)} EV, by the profile ${believed.toFixed(3)} EV\n`,
    );
    expect(found).toBeLessThan(0.1);
  },
);

test("the profile is believed where it is true, even if times are rounded as cameras do", () => {
  const set = bracket(srgbResponse, 0.2);
  const found = estimate({
    frames: set.frames.map((f, i) => ({ ...f, ev: f.ev + [0.05, -0.06, 0, 0.04, -0.05][i]! })),
  })!;
  expect(isBetter(found)).toBe(false);
});

test("floats are linear, and one frame tells nothing", () => {
  const [f] = bracket(srgbResponse, 0).frames;
  expect(estimateResponse([{ samples: f!.samples, type: "u8", lut, ev: 0 }])).toBeUndefined();
  expect(
    estimateResponse(
      [0, 2].map((ev) => ({
        samples: new Float32Array(300),
        type: "f32" as const,
        lut: new Float32Array(0),
        ev,
      })),
    ),
  ).toBeUndefined();
});

import { Heap } from "../../kernels/heap";
import { photographBuilding } from "../../simulate/building";
import { lookingAt } from "../../simulate/sweep";
import { decode, SPACES } from "../colour/spaces";
import { apply } from "../math/matrix3";
import { random } from "../math/random";
import { straightEdges } from "../panorama/level/findLevel";
import { makeSmallFrame } from "../panorama/seams/smallFrame";
import type { Segment } from "../features/lineSegments";
import { findUpright, uprightTurn } from "./findUpright";

const W = 900;
const H = 600;

test.each([
  ["room", 2, 20, { yaw: 15, pitch: 9, roll: -3 }],
  ["room", 5, 16, { yaw: -25, pitch: -11, roll: 4.5 }],
  ["house", 4, 24, { yaw: 12, pitch: 12, roll: 2 }],
] as const)(
  "edges of a simulated %s say how the camera was held (%i)",
  (kind, seed, mm, held) => {
    const focalPx = (mm / 36) * W;
    const samples = photographBuilding(kind, seed, { width: W, height: H, focalPx }, held);
    const heap = Heap.local(32 << 20);
    const ptr = heap.alloc(samples.length);
    heap.u8(ptr, samples.length).set(samples);
    const lut = Float32Array.from({ length: 768 }, (_, i) =>
      decode(SPACES.srgb.curve, (i & 255) / 255),
    );
    const frame = { ptr, type: "u8" as const, width: W, height: H, lut };
    const edges = straightEdges(makeSmallFrame(heap, frame, 1, W));
    const found = findUpright(edges, { width: W, height: H, focalPx })!;
    expect(Math.abs(found.pitch - held.pitch)).toBeLessThan(0.2);
    expect(Math.abs(found.roll - held.roll)).toBeLessThan(0.2);
    // the doubt that it states holds
    expect(Math.abs(found.pitch - held.pitch)).toBeLessThan(3 * found.pitchSigma);
    // turned back the vertical is vertical
    const rotation = lookingAt(0, held.pitch, held.roll);
    const down = [rotation[3]!, rotation[4]!, rotation[5]!];
    const [x, y, z] = apply(uprightTurn(held), down);
    expect([x, y, z].map((v) => Math.abs(v))).toEqual([
      expect.closeTo(0, 9),
      expect.closeTo(1, 9),
      expect.closeTo(0, 9),
    ]);
  },
  30_000,
);

test("edges that lie anyhow, and none at all, say nothing", () => {
  const uniform = random(3);
  const anyhow = Array.from({ length: 200 }, (): Segment => {
    const [x, y] = [uniform() * W, uniform() * H];
    const angle = uniform() * Math.PI;
    const length = 20 + 60 * uniform();
    return { x0: x, y0: y, x1: x + length * Math.cos(angle), y1: y + length * Math.sin(angle) };
  });
  const lens = { width: W, height: H, focalPx: 600 };
  expect(findUpright(anyhow, lens)).toBeUndefined();
  expect(findUpright([], lens)).toBeUndefined();
});

test("one post says how the camera was rolled, and nothing of its tilt", () => {
  const post = [0, 7, 16, 23].map((dx): Segment => ({
    x0: 440 + dx,
    y0: 100,
    x1: 465 + dx,
    y1: 520,
  }));
  const found = findUpright(post, { width: W, height: H, focalPx: 600 });
  if (found) expect(found.pitch).toBe(0);
});

import { Heap } from "../../kernels/heap";
import { logPyramid } from "../align/logPyramid";
import { decode, SPACES } from "../colour/spaces";
import { apply } from "../math/matrix3";
import { simulatedRoom } from "../../simulate/room";
import { simulateSweep, type SweepFrame, type SweepOptions } from "../../simulate/sweep";
import { rayOf, seen } from "../panorama/camera";
import { findFeatures, type Features } from "./features";
import { matchFeatures } from "./matchFeatures";

const LUT = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);
const W = 480;
const H = 360;
const world = simulatedRoom(2600, 1300, 5);
const pair = (yaw: number, focalPx: number, o: Partial<SweepOptions> = {}): SweepFrame[] =>
  simulateSweep(world, {
    directions: [
      [-yaw / 2, 0],
      [yaw / 2, 0],
    ],
    width: W,
    height: H,
    focalPx,
    seed: 2,
    ...o,
  });
const of = (heap: Heap, f: SweepFrame, focalPx?: number): Features =>
  findFeatures(
    heap,
    logPyramid(
      heap,
      { ptr: heap.putBytes(f.samples), type: "u8", width: W, height: H, lut: LUT },
      0,
    ),
    focalPx,
  );
/**
 * Of the matches between two frames: how many lie where the cameras say, within 2 px, and how many
 * there are.
 */
function rightOf([a, b]: readonly SweepFrame[], focalPx?: number): { right: number; all: number } {
  const heap = Heap.local(60e6);
  const A = of(heap, a!, focalPx);
  const B = of(heap, b!, focalPx);
  const m = matchFeatures(heap, A, B);
  let right = 0;
  for (let k = 0; k < m.length; k += 2) {
    const p = seen(
      b!.camera,
      apply(a!.camera.rotation, rayOf(a!.camera, A.points[m[k]! * 2]!, A.points[m[k]! * 2 + 1]!)),
    );
    if (p && Math.hypot(p[0] - B.points[m[k + 1]! * 2]!, p[1] - B.points[m[k + 1]! * 2 + 1]!) < 2)
      right++;
  }
  return { right, all: m.length / 2 };
}

test("the same corners are found and distinguished though the exposure differs by two stops and the camera rolls", () => {
  const heap = Heap.local(60e6);
  const f = of(heap, pair(8, 500)[0]!);
  expect(f.count).toBeGreaterThan(100);
  expect(f.descriptors.length).toBe(f.count * 64);
  for (const [o, least] of [
    [{ drift: 0 }, 0.8],
    [{ drift: 2 }, 0.7],
    [{ drift: 1, roll: 6 }, 0.6],
  ] as const) {
    const { right, all } = rightOf(pair(14, 500, { ...o, seed: 7 }));
    expect(right).toBeGreaterThan(25);
    expect(right / all).toBeGreaterThan(least);
  }
});

test("where a wide lens is known, its borders match better", () => {
  // 90 degrees across, a third of it shared
  const frames = pair(60, 240);
  const plain = rightOf(frames);
  const known = rightOf(frames, 240);
  process.stdout.write(
    `borders of a wide lens: ${plain.right} right matches with the lens unknown, ${known.right} with it known\n`,
  );
  expect(known.right).toBeGreaterThan(plain.right);
  expect(known.right / known.all).toBeGreaterThan(0.5);
});

test("a blank frame has no corners, and matches nothing", () => {
  const heap = Heap.local(60e6);
  const blank: SweepFrame = { ...pair(8, 500)[0]!, samples: new Uint8Array(W * H * 3).fill(128) };
  const none = of(heap, blank);
  const some = of(heap, pair(8, 500)[1]!);
  expect(none.count).toBe(0);
  expect(matchFeatures(heap, none, some)).toHaveLength(0);
  expect(matchFeatures(heap, some, none)).toHaveLength(0);
});

import { Heap } from "../../kernels/heap";
import * as twin from "../../kernels/twins";
import { addUp } from "../raster/addUp";
import { coarserShape, collapse, pyramidShape, reduceAll } from "../raster/pyramid";
import { simulatedRoom } from "../../simulate/room";
import { srgbResponse } from "../../simulate/camera";
import { addCoarser, addFinest, exposureWeights, sumWeights } from "./mertens";

const W = 150;
const H = 101;
const n = W * H;
const room = simulatedRoom(W, H, 3);
const EVS = [-3, 0, 3];
const TINT = [1, 0.8, 0.55];
const exposures = EVS.map((ev) =>
  Uint16Array.from(
    { length: n * 3 },
    (_, i) =>
      65535 *
      srgbResponse(
        Math.min(1, room.planes[(i % 3) as 0 | 1 | 2][Math.floor(i / 3)]! * TINT[i % 3]! * 2 ** ev),
      ),
  ),
);

/** The paper, word by word, on whole planes. */
function plainly(): Float32Array[] {
  const raw = exposures.map((e) => twin.fusionWeights(e, W, H));
  const share = raw.map((w) => w.map((v, i) => v / raw.reduce((s, o) => s + o[i]!, 0)));
  const { levels } = pyramidShape(W, H);
  const gauss = (p: Float32Array): Float32Array[] =>
    levels
      .slice(1)
      .reduce<Float32Array[]>(
        (list, _, k) => [...list, twin.pyrDown(list[k]!, levels[k]!.w, levels[k]!.h)],
        [p],
      );
  return [0, 1, 2].map((c) => {
    const sums = levels.map((l) => new Float32Array(l.w * l.h));
    exposures.forEach((e, k) => {
      const g = gauss(Float32Array.from({ length: n }, (_, i) => e[i * 3 + c]! / 65535));
      const w = gauss(share[k]!);
      levels.forEach((l, j) => {
        const lap = j + 1 < levels.length ? twin.pyrUp(g[j + 1]!, l.w, l.h, g[j]!, -1) : g[j]!;
        lap.forEach((v, i) => {
          sums[j]![i]! += v * w[j]![i]!;
        });
      });
    });
    return levels
      .slice(0, -1)
      .reduceRight<Float32Array>((up, l, j) => twin.pyrUp(up, l.w, l.h, sums[j]!, 1), sums.at(-1)!);
  });
}

test.each([[[0, 40, 72, H]], [[0, H]]])(
  "fused in rows cut at %j as the paper says, within 60 dB",
  (cuts) => {
    const heap = Heap.local(40e6);
    const shape = coarserShape(W, H);
    const block = (): number => heap.alloc(shape.bytes);
    const planeBytes = n * 4 + 64;
    const acc = { ptr: heap.alloc(planeBytes * 4), planeBytes, width: W, height: H };
    const strips = cuts.slice(1).map((y1, i) => [cuts[i]!, y1] as const);
    const warped = exposures.map((e) => {
      const ptr = heap.alloc(n * 6 + 64);
      heap.u16(ptr, n * 3).set(e);
      return { ptr, width: W, height: H };
    });
    const coarser = {
      weights: block(),
      own: [block(), block(), block()],
      fused: [block(), block(), block()],
    };
    heap.u8(acc.ptr, planeBytes * 4).fill(0);
    for (const at of coarser.fused) heap.u8(at, shape.bytes).fill(0);
    for (const f of warped)
      for (const [a, b] of strips) sumWeights(heap, f, acc.ptr + 3 * planeBytes, a, b);
    for (const f of warped) {
      for (const [a, b] of strips) addFinest(heap, f, acc, coarser, undefined, a, b);
      reduceAll(heap, coarser.weights, shape);
      for (const c of [0, 1, 2]) addCoarser(heap, coarser, shape, c);
    }
    for (const at of coarser.fused) collapse(heap, at, shape);
    for (const [a, b] of strips) addUp(heap, acc, coarser.fused, a, b);
    let error = 0;
    plainly().forEach((want, c) => {
      heap.f32(acc.ptr + c * planeBytes, n).forEach((v, i) => {
        error += (v - want[i]!) ** 2;
      });
    });
    expect(-10 * Math.log10(error / (3 * n))).toBeGreaterThan(60);
  },
);

test("what moved in a frame weighs next to nothing there", () => {
  const heap = Heap.local(8e6);
  const ptr = heap.alloc(n * 6 + 64);
  const dst = heap.alloc(n * 4 + 64);
  const confidences = new Uint8Array(15 * 10).fill(255);
  heap.u16(ptr, n * 3).set(exposures[1]!);
  confidences.fill(0, 0, 15 * 5);
  exposureWeights(
    heap,
    { ptr, width: W, height: H, ghosts: { width: 15, height: 10, scale: 10, confidences } },
    0,
    H,
    dst,
  );
  const all = twin.fusionWeights(exposures[1]!, W, H);
  const got = heap.f32(dst, n);
  for (let x = 0; x < W; x++) {
    expect(got[20 * W + x]!).toBeLessThanOrEqual(2e-6);
    expect(got[90 * W + x]!).toBeCloseTo(all[90 * W + x]!, 4);
  }
});

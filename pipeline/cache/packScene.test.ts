import type { MergeFindings } from "../merge/input";
import { random } from "../../core/math/random";
import { basisBytes } from "../../core/tone/toneBasis";
import { Heap } from "../../kernels/heap";
import { packScene, readPacked, type SceneParts } from "./packScene";

const heap = Heap.local(4e6);
const rnd = random(5);
const grid = { width: 40, height: 30 };
const scene: SceneParts & { sources: number } = {
  width: 64,
  height: 48,
  planeBytes: 64 * 48 * 4 + 64,
  grid,
  ptr: heap.alloc(64 * 48 * 16 + 256),
  analysis: heap.alloc(40 * 30 * 4 + basisBytes(grid)),
  sources: heap.alloc(64 * 48),
};
heap.u8(scene.ptr, scene.planeBytes * 4).forEach((_, i, a) => {
  a[i] = rnd() * 256;
});
heap.u8(scene.sources, 64 * 48).forEach((_, i, a) => {
  a[i] = i % 3;
});
heap.u8(scene.analysis, 40 * 30 * 4 + basisBytes(grid)).forEach((_, i, a) => {
  a[i] = rnd() * 256;
});
const frame = {
  fromReference: [1, 0, 0.25, 0, 1, -3, 0, 0, 1],
  ev: -2,
  residualPx: 0.1,
  used: true,
  movedPx: 3,
  gainEv: 0.02,
  cornerEv: -0.11,
};
const findings: MergeFindings = {
  statistics: {
    fromEv: -14,
    binEv: 0.25,
    counts: [1, 2, 3],
    rangeEv: 9,
    lowEv: -8,
    highEv: 1,
    floorEv: -12,
  },
  clippedBright: 0.01,
  clippedDark: 0.2,
  suspects: [{ kind: "ghost", x: 1, y: 2, width: 30, height: 40, score: 0.5 }],
  shares: [0.5, 0.4, 0.1],
  sharp: 0.9,
  depth: {
    width: 2,
    height: 3,
    places: Float32Array.of(0, 0.5, 1.25, 3, 2.75, 1e-3),
    known: Float32Array.of(1, 0, 0.5, 0.25, 0.125, 1),
  },
  aligned: {
    reference: 1,
    response: [0.5, 0],
    order: [1, 0],
    sharp: { cells: [3, 9], top: [1.5, -2], shares: [0.2, 0.3] },
    gaps: [0],
    twice: [[0, 1]],
    moved: [{ x: 1, y: 2, width: 3, height: 4, times: 5 }],
    displaced: [{ x: 5, y: 6, width: 7, height: 8, frames: [0, 1], px: 2.5 }],
    warnings: [{ code: "order-found", message: "x" }],
    frames: [
      {
        ...frame,
        ghosts: {
          width: 3,
          height: 2,
          scale: 16,
          share: 0.5,
          confidences: Uint8Array.of(0, 255, 7, 1, 2, 3),
        },
        differs: { width: 2, height: 1, scale: 8, share: 0, confidences: Uint8Array.of(9, 8) },
      },
      { ...frame, warning: "odd" },
    ],
  },
};
const packed = packScene(heap, scene, findings);

test("a kept scene comes back to the byte, with what was found about it", () => {
  const back = readPacked(packed)!;
  expect(back.findings).toEqual(findings);
  expect(Buffer.compare(back.planes, heap.u8(scene.ptr, scene.planeBytes * 4))).toBe(0);
  expect(Buffer.compare(back.analysis, heap.u8(scene.analysis, back.analysis.length))).toBe(0);
  expect(Buffer.compare(back.sources, heap.u8(scene.sources, 64 * 48))).toBe(0);
  expect(back.head).toMatchObject({ width: 64, height: 48, grid });
});

test("a scene without a source map comes back without one", () => {
  const back = readPacked(packScene(heap, { ...scene, sources: undefined }, findings))!;
  expect([back.head.mapped, back.sources.length, back.findings]).toEqual([false, 0, findings]);
});

test("a kept scene that is cut short or of another form is taken for none", () => {
  for (const n of [0, 3, 4, 200, packed.length - 1])
    expect(readPacked(packed.subarray(0, n))).toBeUndefined();
  const other = packed.slice();
  other.set(new TextEncoder().encode('{"width":"x"'), 4);
  expect(readPacked(other)).toBeUndefined();
});

import { Heap } from "../../kernels/heap";
import { sceneStatistics } from "./sceneStatistics";

test("the spread of light counts what is lit, and nothing of what is black", () => {
  const heap = Heap.local(4e6);
  const floorEv = Math.fround(-12.3);
  const cells = Float32Array.from({ length: 4000 }, (_, i) =>
    i < 1000 ? floorEv : i < 2500 ? -3 : 1,
  );
  const { counts, fromEv, binEv, highEv, lowEv } = sceneStatistics(heap, {
    width: 80,
    height: 50,
    ptr: heap.put(cells),
    floorEv,
  });
  const at = (ev: number): number => counts[Math.floor((ev - fromEv) / binEv)]!;
  expect([at(-3), at(1), at(-12.3), counts.reduce((s, c) => s + c, 0)]).toEqual([
    1500, 1500, 0, 3000,
  ]);
  expect(highEv).toBeCloseTo(1, 1);
  expect(lowEv).toBeCloseTo(-12.3, 1);
});

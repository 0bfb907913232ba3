import { Heap } from "../../kernels/heap";
import { CELL_PLANES, fillCells, fillHoles, findHoles, measureCells } from "./fillHoles";
import { planeBytesOf } from "../raster/accumulator";

test("a hole takes the light around it, is never under its bound but for a colour that is known, and nothing else changes", () => {
  const w = 64;
  const h = 48;
  const heap = Heap.local(2e6);
  const planeBytes = planeBytesOf(w, h);
  const acc = { ptr: heap.alloc(planeBytes * 4), planeBytes, width: w, height: h };
  const planes = [0, 1, 2, 3].map((c) => heap.f32(acc.ptr + c * planeBytes, w * h)) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  // a sky that brightens to the right; a hole in its middle clipped at 1; one pixel beside it whose
  // bound is high
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const hole = x >= 20 && x < 40 && y >= 14 && y < 34;
      planes[0][i] = hole ? 1 : 4 + x / 16;
      planes[1][i] = planes[0][i]!;
      planes[2][i] = planes[0][i]!;
      planes[3][i] = hole ? 1e-15 : 1e4;
    }
  planes.slice(0, 3).forEach((p) => {
    p[24 * w + 30] = 50;
  });
  // a leaf in the hole, clipped in green alone
  const leaf = 20 * w + 25;
  planes[0][leaf] = 0.4;
  planes[2][leaf] = 0.2;
  const clippedElsewhere = 5 * w + 5;
  planes[3][clippedElsewhere] = 1e-15;
  planes[0][clippedElsewhere] = 1;
  const confidences = new Uint8Array(32 * 24).fill(255);
  for (let y = 6; y < 18; y++) confidences.fill(0, y * 32 + 9, y * 32 + 21);
  const holes = findHoles([{}, { ghosts: { width: 32, height: 24, scale: 4, confidences } }], 2)!;
  expect(holes.scale).toBe(2);
  const before = planes.map((p) => p.slice());
  fillHoles(heap, acc, holes, fillCells(measureCells(heap, acc, holes, 0, 24), holes), 0, h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      if (i === leaf)
        expect(planes.slice(0, 3).map((p) => p[i])).toEqual(before.slice(0, 3).map((p) => p[i]));
      else if (x >= 20 && x < 40 && y >= 14 && y < 34) {
        expect(planes[1][i]).toBeGreaterThan(4.8);
        if (Math.abs(x - 30) > 7 || Math.abs(y - 24) > 7) expect(planes[1][i]).toBeLessThan(12);
      } else expect(planes[0][i]).toBe(before[0]![i]);
    }
  expect(planes[0][24 * w + 30]).toBe(50);
  expect(planes[0][clippedElsewhere]).toBe(1);
});

test("no ghosts, no holes; nothing measured at all leaves zeros to the bounds", () => {
  expect(findHoles([{}, {}], 1)).toBeUndefined();
  expect(
    [
      ...fillCells(new Float32Array(5 * 3 * CELL_PLANES), {
        width: 5,
        height: 3,
        scale: 1,
        mask: new Uint8Array(15).fill(1),
      }),
    ].every((v) => v === 0),
  ).toBe(true);
});

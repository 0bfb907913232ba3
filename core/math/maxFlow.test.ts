import { Heap } from "../../kernels/heap";
import { random } from "./random";
import { cutCost } from "../panorama/seams/cutCost";
import { cutScratch, minimumCut } from "./maxFlow";

const heap = Heap.local(cutScratch(200 * 150));

test.each([1, 2, 3, 4, 5, 6])("no other cut of a small grid is cheaper, seed %i", (seed) => {
  const rnd = random(seed);
  const w = 4;
  const h = 3;
  const n = w * h;
  const t = Float32Array.from({ length: n }, () => Math.round((rnd() - 0.5) * 20));
  const r = Float32Array.from({ length: n }, () => Math.round(rnd() * 8));
  const d = Float32Array.from({ length: n }, () => Math.round(rnd() * 8));
  let least = Infinity;
  for (let m = 0; m < 2 ** n; m++)
    least = Math.min(
      least,
      cutCost(
        w,
        h,
        t,
        r,
        d,
        Array.from({ length: n }, (_, i) => (m >> i) & 1),
      ),
    );
  expect(cutCost(w, h, t, r, d, minimumCut(heap, w, h, t, r, d))).toBeCloseTo(least, 4);
});

test("a cut runs along the cheap column, however large the grid", () => {
  const w = 200;
  const h = 150;
  const n = w * h;
  const t = Float32Array.from({ length: n }, (_, i) =>
    i % w === 0 ? 1e6 : i % w === w - 1 ? -1e6 : 0,
  );
  const r = Float32Array.from({ length: n }, (_, i) => (i % w === 120 ? 0.5 : 4));
  const d = new Float32Array(n).fill(1);
  const side = minimumCut(heap, w, h, t, r, d);
  for (let i = 0; i < n; i++) expect(side[i]).toBe(i % w <= 120 ? 1 : 0);
});

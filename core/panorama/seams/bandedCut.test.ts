import { Heap } from "../../../kernels/heap";
import { random } from "../../math/random";
import { bandedCut } from "./bandedCut";
import { cutCost } from "./cutCost";
import { cutScratch, minimumCut } from "../../math/maxFlow";

const heap = Heap.local(cutScratch(230 * 170));

/** Two pictures' overlap: noise with cheap lanes through it, held at both sides. */
function overlap(seed: number, w: number, h: number): [Float32Array, Float32Array, Float32Array] {
  const rnd = random(seed);
  const n = w * h;
  const lanes = Array.from({ length: 5 }, () => ({
    x: w * (0.2 + 0.6 * rnd()),
    sway: w * 0.1 * rnd(),
    turn: 4 + 8 * rnd(),
  }));
  const cheap = (x: number, y: number): number =>
    lanes.some((l) => Math.abs(x - l.x - l.sway * Math.sin((y / h) * l.turn)) < 3) ? 0.15 : 1;
  const price = Float32Array.from(
    { length: n },
    (_, i) => cheap(i % w, Math.floor(i / w)) * (0.2 + rnd()),
  );
  return [
    Float32Array.from({ length: n }, (_, i) => (i % w === 0 ? 1e4 : i % w === w - 1 ? -1e4 : 0)),
    price,
    price.slice(),
  ];
}

test.each([1, 2, 3, 4])("costs little more than the cheapest cut, seed %i", (seed) => {
  const w = 230;
  const h = 170;
  const graph = overlap(seed, w, h);
  const least = cutCost(w, h, ...graph, minimumCut(heap, w, h, ...graph));
  const got = cutCost(w, h, ...graph, bandedCut(heap, w, h, ...graph));
  expect(got).toBeGreaterThanOrEqual(least * 0.9999);
  expect(got).toBeLessThan(least * 1.08);
});

test("a small grid is cut exactly", () => {
  const graph = overlap(9, 60, 50);
  expect(bandedCut(heap, 60, 50, ...graph)).toEqual(minimumCut(heap, 60, 50, ...graph));
});

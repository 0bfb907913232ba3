import { Heap } from "../../kernels/heap";
import { random } from "../simulate/random";
import { depthMap, depthScratch } from "./depthMap";

const W = 120, H = 80, n = W * H, rnd = random(5);
/** A slope from place 0 to 20, before which a thing stands at place 3; half of the slope has no texture. */
const truth = Float32Array.from({ length: n }, (_, i) => { const x = i % W, y = Math.floor(i / W); return x > 50 && x < 64 && y > 20 && y < 66 ? 3 : 20 * (y / H); });
const standing = (i: number): boolean => truth[i] === 3 && (i % W) > 50 && (i % W) < 64;
const textured = (i: number): boolean => standing(i) || (i % W) % 30 > 12 || rnd() < 0.15;

test("places without texture take the depth round them, single wrong ones are drawn in, and an edge keeps its step", () => {
  const heap = Heap.local(depthScratch(n) * 2 + 4e6), place = new Float32Array(n), best = new Float32Array(n), mean = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const sharp = textured(i), wrong = rnd() < 0.04;
    place[i] = sharp && !wrong ? Math.round(truth[i]!) : Math.floor(rnd() * 21);
    best[i] = sharp ? 1e-3 * (0.5 + rnd()) : 2e-6 * (0.8 + 0.4 * rnd());
    mean[i] = best[i]! / (sharp ? 6 : 1.3);
  }
  const guide = Float32Array.from({ length: n }, (_, i) => (standing(i) ? 0.15 : 0.6) + 0.02 * rnd()), { depth, trust } = depthMap(heap, { width: W, height: H, place, best, mean, guide });
  const inside: number[] = [], edge: number[] = [];
  for (let i = 0; i < n; i++) { const x = i % W, near = (x > 46 && x < 68) && !(x > 53 && x < 61); (near ? edge : inside).push(Math.abs(depth[i]! - truth[i]!)); }
  const rms = (e: number[]): number => Math.sqrt(e.reduce((s, v) => s + v * v, 0) / e.length);
  expect(rms(inside)).toBeLessThan(0.9);
  // across the thing's edge: well under what the mean of both sides would be wrong by
  expect(rms(edge)).toBeLessThan(2.5);
  expect(trust.every((v) => v >= 0 && v <= 1)).toBe(true);
});

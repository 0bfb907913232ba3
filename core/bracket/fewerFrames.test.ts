import type { SceneStatistics } from "../tone/sceneStatistics";
import { fewerFrames } from "./fewerFrames";

/** A scene whose light lies evenly between two EV. */
const scene = (lo: number, hi: number): SceneStatistics => ({
  fromEv: -14,
  binEv: 0.25,
  counts: Array.from({ length: 96 }, (_, i) => {
    const ev = -14 + i * 0.25;
    return ev >= lo && ev < hi ? 100 : 0;
  }),
  rangeEv: hi - lo,
  lowEv: lo,
  highEv: hi,
  floorEv: lo,
});

test("leaving out the only frame that holds the window costs its clipping, the longest its shadows", () => {
  const f = fewerFrames(scene(-10, 3), [-4, -2, 0, 2, 4])!;
  expect(f.all.clipped).toBe(0);
  expect(f.without[0]!.clipped).toBeGreaterThan(0.05);
  expect(f.all.shadowDb - f.without[4]!.shadowDb).toBeGreaterThan(3);
  expect(Math.abs(f.all.shadowDb - f.without[1]!.shadowDb)).toBeLessThan(0.2);
  const gained = f.all.rangeEv - f.single.rangeEv;
  expect(gained).toBeGreaterThan(3.5);
  expect(gained).toBeLessThan(8.5);
});

test("a scene that one frame holds says so", () => {
  const f = fewerFrames(scene(-3, -1), [-2, 0, 2])!;
  expect(f.best).toBe(1);
  expect(f.single.clipped).toBe(0);
});

test("more light, less noise: four times the exposure is 6 dB where photons rule", () => {
  const [a, b] = [0, 2].map((ev) => fewerFrames(scene(-4, -3), [ev])!.all.shadowDb) as [
    number,
    number,
  ];
  expect(b - a).toBeGreaterThan(5.8);
  expect(b - a).toBeLessThan(7);
});

test("frames left out count for nothing", () => {
  expect(fewerFrames(scene(-6, 0), [undefined, undefined])).toBeUndefined();
  expect(fewerFrames(scene(-6, 0), [undefined, 0])!.without).toEqual([undefined, undefined]);
});

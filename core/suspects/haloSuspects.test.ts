import { Heap } from "../../kernels/heap";
import { haloSuspects } from "./haloSuspects";

const W = 320;
const H = 200;
const FLOOR_EV = -20;

/** A scene by its light in EV and the gain that toning gives each place, EV. */
function judged(light: (x: number, y: number) => number, gain: (x: number, y: number) => number) {
  const heap = Heap.local(W * H * 16);
  const plane = (f: (x: number, y: number) => number): number =>
    heap.put(Float32Array.from({ length: W * H }, (_, i) => f(i % W, Math.floor(i / W))));
  return haloSuspects(
    heap,
    { width: W, height: H, ptr: plane(light), floorEv: FLOOR_EV },
    {
      width: W,
      height: H,
      slopes: plane(() => 0),
      offsets: plane(gain),
      shoulderStart: 1,
      white: 1,
      floor: 0,
    },
    4,
  );
}
const roof = (x: number, y: number): number => (y > 120 && x > 60 && x < 260 ? -5 : 0);

test("a bright seam of sky along a dark roof is reported, and where it lies", () => {
  const halos = judged(roof, (x, y) => (y > 112 && y <= 120 && x > 60 && x < 260 ? 0.8 : 0));
  expect(halos.length).toBeGreaterThan(0);
  for (const h of halos) {
    expect(h.kind).toBe("halo");
    expect(h.y + h.height).toBeGreaterThan(4 * 108);
    expect(h.y).toBeLessThan(4 * 122);
  }
});

test("an even gain makes none, however strong the edge", () => {
  expect(judged(roof, () => 1.5)).toEqual([]);
});

test("the border of what a panorama covers is no edge", () => {
  const covered = (x: number, y: number): number =>
    y < 40 + 10 * Math.sin(x / 30) || y > 170 ? FLOOR_EV : 0;
  expect(judged(covered, (_x, y) => (y < 60 ? 0.8 : 0))).toEqual([]);
});

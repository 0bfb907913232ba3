import { random } from "../math/random";
import { CELL, type CellLight } from "./cellLight";
import { meanSquare, runFalloff } from "./runFalloff";

const W = 960;
const H = 640;
const w = W / CELL;
const h = H / CELL;
/**
 * How bright a scene is at a place of the reference's px: soft forms and hard edges over four
 * stops.
 */
const scene = (x: number, y: number): number =>
  0.2 *
  2 ** (1.5 * Math.sin(x / 90) + Math.cos(y / 70 + x / 200)) *
  ((Math.floor(x / 130) + Math.floor(y / 110)) % 3 ? 1 : 0.4);
/**
 * A frame's cells: grown and shifted, falling off by so many EV at the corner, dimmed, with noise,
 * and with light of its edges moved about by blur.
 */
function frame(
  place: readonly number[],
  falls: number,
  gain: number,
  seed: number,
  moved = false,
): CellLight {
  const rnd = random(seed);
  const [a, b, tx, c, d, ty] = place as [number, number, number, number, number, number];
  const det = a * d - b * c;
  const light = Float32Array.from({ length: w * h }, (_, i) => {
    const px = ((i % w) + 0.5) * CELL;
    const py = (Math.floor(i / w) + 0.5) * CELL;
    const u = px - tx;
    const v = py - ty;
    const x = (d * u - b * v) / det;
    const y = (a * v - c * u) / det;
    const r2 = ((px - W / 2) ** 2 + (py - H / 2) ** 2) / ((W ** 2 + H ** 2) / 4);
    let mean = 0;
    for (const e of [-9, -3, 3, 9]) mean += scene(x + e * (1 + (seed % 3) / 3), y + e) / 4;
    if (moved && x > 640 && y > 380) mean *= 0.3;
    return mean * gain * 2 ** (-falls * r2) * (1 + 0.03 * (rnd() - 0.5));
  });
  return { w, h, light, known: new Uint8Array(w * h).fill(1) };
}
const PLACES = Array.from({ length: 9 }, (_, k) => {
  const s = 1 + 0.003 * (k - 4);
  return [
    s,
    0.001 * (k % 3),
    (W / 2) * (1 - s) + (k % 4),
    -0.001 * (k % 3),
    s,
    (H / 2) * (1 - s) - (k % 3),
    0,
    0,
    1,
  ];
});

test("a lens that falls off more as it focuses nearer is found, flicker and breathing beside it", () => {
  const falls = PLACES.map((_, k) => 0.3 + 0.05 * (k - 4));
  const found = runFalloff(
    PLACES.map((p, k) => frame(p, falls[k]!, 1 + 0.06 * (k % 2), k + 1)),
    PLACES,
    4,
    { width: W, height: H },
  );
  process.stdout.write(
    `falling off along a run: ${found.map((v) => v.toFixed(3)).join(", ")} EV\n`,
  );
  falls.forEach((v, k) => expect(Math.abs(found[k]! - (v - 0.3))).toBeLessThan(0.052));
  expect(Math.abs(found[8]! - 0.2)).toBeLessThan(0.03);
});

test("where nothing changes nothing is changed, even if a corner of the picture moved", () => {
  expect(
    runFalloff(
      PLACES.map((p, k) => frame(p, 0.4, 1, k + 1)),
      PLACES,
      4,
      { width: W, height: H },
    ).every((v) => v === 0),
  ).toBe(true);
  expect(
    runFalloff(
      PLACES.map((p, k) => frame(p, 0.4, 1, k + 1, k === 6)),
      PLACES,
      4,
      { width: W, height: H },
    ).every((v) => v === 0),
  ).toBe(true);
});

test("the mean of the squared radius is that of the light", () => {
  const even: CellLight = {
    w,
    h,
    light: new Float32Array(w * h).fill(0.5),
    known: new Uint8Array(w * h),
  };
  expect(meanSquare(even)).toBeCloseTo(1 / 3, 2);
  expect(
    meanSquare({
      ...even,
      light: even.light.map((_, i) =>
        Math.hypot((i % w) - w / 2, Math.floor(i / w) - h / 2) < 3 ? 1 : 0,
      ),
    }),
  ).toBeLessThan(0.002);
});

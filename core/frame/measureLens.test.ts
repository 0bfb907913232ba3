import { random } from "../math/random";
import { pose, takeFrame, type RadianceImage } from "../../simulate/camera";
import { measureLens } from "./measureLens";
import type { RootPlanes } from "./roots";
import { clamp } from "../math/clamp";

const W = 900;
const H = 600;
const MARGIN = 150;
const SW = W + 2 * MARGIN;
const SH = H + 2 * MARGIN;
/**
 * Boards and panes: straight edges at all angles, painted one over the other, with soft borders.
 */
function boards(seed: number, bent = 0, count = 26): RadianceImage {
  const rnd = random(seed);
  const planes = [0, 1, 2].map(() => new Float32Array(SW * SH).fill(0.3)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  for (let k = 0; k < count; k++) {
    const cx = rnd() * SW;
    const cy = rnd() * SH;
    const angle = rnd() * Math.PI;
    const c = Math.cos(angle);
    const s = Math.sin(angle);
    const half = 12 + rnd() * 60;
    const rgb = [0, 1, 2].map(() => 0.08 + 0.5 * rnd());
    for (let y = 0; y < SH; y++)
      for (let x = 0; x < SW; x++) {
        const along = (x - cx) * c + (y - cy) * s;
        const across = (y - cy) * c - (x - cx) * s - bent * along * along;
        const inside = clamp(half - Math.abs(across) + 0.5, 0, 1);
        if (inside > 0 && Math.abs(along) < 420)
          for (let q = 0; q < 3; q++)
            planes[q]![y * SW + x]! += (rgb[q]! - planes[q]![y * SW + x]!) * inside;
      }
  }
  return { width: SW, height: SH, planes };
}
function shoot(scene: RadianceImage, distortion: number, red = 0): RootPlanes {
  const take = (growth: number): Uint16Array =>
    takeFrame(scene, {
      width: W,
      height: H,
      ev: 0,
      toScene: pose(W, H, 0, 0, 0).map((v, i) =>
        i === 0 || i === 4
          ? 1 / growth
          : i === 2
            ? W / 2 + MARGIN - W / 2 / growth
            : i === 5
              ? H / 2 + MARGIN - H / 2 / growth
              : v,
      ),
      seed: 3,
      depth: 16,
      response: Math.sqrt,
      distortion,
    }) as Uint16Array;
  const own = take(1);
  const larger = red ? take(1 + red) : own;
  const plane = (from: Uint16Array, c: number): Uint8Array =>
    Uint8Array.from({ length: W * H }, (_, i) => Math.round(from[i * 3 + c]! / 257));
  return { width: W, height: H, r: plane(larger, 0), g: plane(own, 1), b: plane(own, 2) };
}

test.each([
  [0.05, 11],
  [-0.04, 12],
  [0.12, 13],
])("a lens that bends by %d is measured by straight edges", (distortion, seed) => {
  const { distortion: found } = measureLens(shoot(boards(seed), distortion));
  expect(Math.abs(found!.value - distortion)).toBeLessThan(0.006);
  expect(found!.of).toBeGreaterThanOrEqual(5);
});

test("a straight lens is called straight", () => {
  expect(measureLens(shoot(boards(14, 0, 40), 0)).distortion?.value).toBe(0);
});

test("things that are bent each in a way of their own do not pass for a lens", () => {
  const { distortion } = measureLens(shoot(boards(15, 4e-4), 0));
  expect(Math.abs(distortion?.value ?? 0)).toBeLessThan(0.03);
});

test("red that is drawn larger is measured to a twentieth of a px at the corner; blue that is not, is called even", () => {
  const { fringeRed, fringeBlue } = measureLens(shoot(boards(16, 0, 44), 0, 9e-4));
  expect(Math.abs(fringeRed!.value - 9) * 1e-4 * (Math.hypot(W, H) / 2)).toBeLessThan(0.05);
  expect(fringeBlue!.value).toBe(0);
});

test("a frame without edges tells nothing", () => {
  const flat = new Uint8Array(W * H).fill(120);
  expect(measureLens({ width: W, height: H, r: flat, g: flat, b: flat })).toEqual({});
});

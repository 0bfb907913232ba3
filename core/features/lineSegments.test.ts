import { normal, random } from "../math/random";
import { lineSegments, type Segment } from "./lineSegments";
import { clamp } from "../math/clamp";

const W = 160;
const H = 120;
const on = new Uint8Array(W * H).fill(1);
/** A half plane to one side of a line through a point, softened over a pixel, with noise. */
function half(x0: number, y0: number, degrees: number, noise = 0): Float32Array {
  const gauss = normal(random(4));
  const t = (degrees * Math.PI) / 180;
  const nx = -Math.sin(t);
  const ny = Math.cos(t);
  return Float32Array.from({ length: W * H }, (_, i) => {
    const d = ((i % W) + 0.5 - x0) * nx + (Math.floor(i / W) + 0.5 - y0) * ny;
    return 0.3 + 0.3 * clamp(d + 0.5, 0, 1) + noise * gauss();
  });
}
const degreesOf = (s: Segment): number =>
  ((((Math.atan2(s.y1 - s.y0, s.x1 - s.x0) * 180) / Math.PI) % 180) + 180) % 180;
const longest = (all: Segment[]): Segment =>
  all.reduce((a, b) =>
    Math.hypot(b.x1 - b.x0, b.y1 - b.y0) > Math.hypot(a.x1 - a.x0, a.y1 - a.y0) ? b : a,
  );

test.each([0, 12, 45, 88, 90, 133])(
  "an edge at %d degrees is found where it lies, by its direction",
  (degrees) => {
    const [s, ...others] = lineSegments(W, H, half(80, 60, degrees), on);
    const off = Math.abs(degreesOf(s!) - degrees);
    expect(others).toEqual([]);
    expect(Math.min(off, 180 - off)).toBeLessThan(0.3);
    const t = (degrees * Math.PI) / 180;
    for (const [x, y] of [
      [s!.x0, s!.y0],
      [s!.x1, s!.y1],
    ] as const)
      expect(Math.abs((x - 80) * -Math.sin(t) + (y - 60) * Math.cos(t))).toBeLessThan(1.1);
    expect(Math.hypot(s!.x1 - s!.x0, s!.y1 - s!.y0)).toBeGreaterThan(90);
  },
);

test("noise hides no edge and makes none of its own", () => {
  const found = longest(lineSegments(W, H, half(70, 60, 84, 0.004), on));
  const off = Math.abs(degreesOf(found) - 84);
  expect(off).toBeLessThan(0.5);
  const gauss = normal(random(9));
  expect(
    lineSegments(
      W,
      H,
      Float32Array.from({ length: W * H }, () => 0.5 + 0.05 * gauss()),
      on,
    ).filter((s) => Math.hypot(s.x1 - s.x0, s.y1 - s.y0) > 30),
  ).toEqual([]);
});

test("the border of what is covered is no edge, and a curve is no line", () => {
  const covered = Uint8Array.from({ length: W * H }, (_, i) => (i % W < 70 ? 1 : 0));
  const cut = Float32Array.from({ length: W * H }, (_, i) => (i % W < 70 ? 0.6 : 0));
  expect(lineSegments(W, H, cut, covered)).toEqual([]);
  const disc = Float32Array.from(
    { length: W * H },
    (_, i) => 0.3 + 0.3 * clamp(22 - Math.hypot((i % W) - 80, Math.floor(i / W) - 60), 0, 1),
  );
  for (const s of lineSegments(W, H, disc, on))
    expect(Math.hypot(s.x1 - s.x0, s.y1 - s.y0)).toBeLessThan(26);
});

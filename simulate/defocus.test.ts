import { defocus } from "./defocus";

const W = 61;
const H = 51;
const dot = (x: number, y: number): Float32Array => {
  const p = new Float32Array(W * H);
  p[y * W + x] = 1;
  return p;
};

test.each([0.2, 0.8, 1.5, 4, 7.3])(
  "a point spreads evenly over a disc of %d px, and nothing of it is lost",
  (radius) => {
    const out = defocus(dot(30, 25), W, H, () => radius);
    const area = Math.max(1, Math.PI * radius ** 2);
    expect(out.reduce((s, v) => s + v, 0)).toBeCloseTo(1, 4);
    // within the disc as much as on its middle, beyond it nothing; alike to all four sides
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const r = Math.hypot(x - 30, y - 25);
        const v = out[y * W + x]!;
        if (r < radius - 1) expect(v * area).toBeCloseTo(1, 1);
        if (r > radius + 1) expect(v).toBeLessThan(1e-6);
        expect(v).toBeCloseTo(out[(50 - y) * W + 60 - x]!, 6);
      }
  },
);

test("even light stays even where the radius grows from row to row, up to the border", () => {
  for (const v of defocus(new Float32Array(W * H).fill(0.4), W, H, (y) => y / 6))
    expect(v).toBeCloseTo(0.4, 5);
});

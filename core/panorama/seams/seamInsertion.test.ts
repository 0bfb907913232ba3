import { random } from "../../math/random";
import { insertSeams } from "./seamInsertion";

const W = 60;
const H = 40;
const n = W * H;
/** A picture with a busy middle and plain sides, empty where given. */
function picture(empty: (x: number, y: number) => boolean): {
  grey: Float32Array;
  full: Uint8Array;
} {
  const rnd = random(2);
  const full = Uint8Array.from({ length: n }, (_, i) => (empty(i % W, Math.floor(i / W)) ? 0 : 1));
  return {
    grey: Float32Array.from({ length: n }, (_, i) =>
      full[i] ? 0.5 + (i % W > 22 && i % W < 38 ? 0.8 * (rnd() - 0.5) : 0.02 * (rnd() - 0.5)) : 0,
    ),
    full,
  };
}

test("a picture that is whole stays where it is", () => {
  const { grey, full } = picture(() => false);
  const shifted = insertSeams(W, H, grey, full)!;
  for (let i = 0; i < n; i++) {
    expect(shifted.x[i]).toBe(i % W);
    expect(shifted.y[i]).toBe(Math.floor(i / W));
  }
});

test.each([
  ["at its left", (x: number, y: number) => x < 6 * Math.sin((Math.PI * y) / H)],
  ["at its top", (x: number, y: number) => y < 5 * Math.sin((Math.PI * x) / W)],
  [
    "in all its corners",
    (x: number, y: number) => Math.min(x, W - 1 - x) + Math.min(y, H - 1 - y) < 6,
  ],
] as const)(
  "what is empty %s is filled from what is there, and nothing changes places",
  (_, empty) => {
    const { grey, full } = picture(empty);
    const shifted = insertSeams(W, H, grey, full)!;
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const i = y * W + x;
        const from = Math.round(shifted.y[i]!) * W + Math.round(shifted.x[i]!);
        // the half way between a seam and its neighbour may round to the border
        expect(
          full[from] || full[from - 1] || full[from + 1] || full[from - W] || full[from + W],
        ).toBeTruthy();
        if (x) expect(shifted.x[i]!).toBeGreaterThanOrEqual(shifted.x[i - 1]! - 1);
        if (y) expect(shifted.y[i]!).toBeGreaterThanOrEqual(shifted.y[i - W]! - 1);
      }
  },
);

test("seams go through what is plain and leave the busy middle as it is", () => {
  const { grey, full } = picture((x) => x < 6);
  const shifted = insertSeams(W, H, grey, full)!;
  let stretched = 0;
  for (let y = 0; y < H; y++)
    for (let x = 1; x < W; x++) {
      const i = y * W + x;
      const step = shifted.x[i]! - shifted.x[i - 1]!;
      const at = shifted.x[i]!;
      if (at > 23 && at < 37 && Math.abs(step - 1) > 0.3) stretched++;
    }
  expect(stretched).toBeLessThan(0.05 * H * 14);
});

test("a picture that is all but empty is given up", () => {
  const { grey, full } = picture((x, y) => x > 3 || y > 3);
  expect(insertSeams(W, H, grey, full)).toBeUndefined();
});

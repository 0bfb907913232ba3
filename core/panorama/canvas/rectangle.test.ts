import { flatPlace } from "./bend";
import { lineSegments } from "../../features/lineSegments";
import { bendToRectangle } from "./rectangle";
import { insertSeams } from "../seams/seamInsertion";
import { clamp } from "../../math/clamp";

const W = 300;
const H = 120;
/**
 * A wall with vertical and level bars, of which a bow above and below is missing, as a row of
 * frames leaves it.
 */
const grey = Float32Array.from({ length: W * H }, (_, i) => {
  const x = i % W;
  const y = Math.floor(i / W);
  return (
    0.5 +
    (x % 40 < 3 ? -0.3 : 0) +
    (y % 30 < 2 ? 0.25 : 0) +
    0.02 * Math.sin(x * 0.3) * Math.cos(y * 0.2)
  );
});
const full = Uint8Array.from({ length: W * H }, (_, i) => {
  const x = i % W;
  const y = Math.floor(i / W);
  const bow = 12 * (Math.abs(x - W / 2) / (W / 2)) ** 2;
  const side = 5 + 3 * Math.sin(y / 15);
  return y >= bow && y < H - bow && x >= side && x < W - side ? 1 : 0;
});

test("doubled seams leave nothing empty, and cells keep their order", () => {
  const s = insertSeams(W, H, grey, full)!;
  let empty = 0;
  let disorder = 0;
  for (let i = 0; i < W * H; i++) {
    if (!full[Math.floor(s.y[i]! + 0.5) * W + Math.floor(s.x[i]! + 0.5)]) empty++;
    if (i % W && s.x[i]! < s.x[i - 1]! - 1.5) disorder++;
  }
  expect(empty).toBeLessThan(W * H * 0.002);
  expect(disorder).toBeLessThan(W * H * 0.002);
});

test("a picture of which nearly nothing is there is refused", () =>
  expect(
    bendToRectangle(
      60,
      60,
      new Float32Array(3600),
      Uint8Array.from({ length: 3600 }, (_, i) => (i === 1800 ? 1 : 0)),
    ),
  ).toBeUndefined());

test("straight edges are found with their ends", () => {
  const found = lineSegments(W, H, grey, new Uint8Array(W * H).fill(1));
  const vertical = found.filter((s) => Math.abs(s.x1 - s.x0) < 1 && Math.abs(s.y1 - s.y0) > 20);
  expect(found.length).toBeGreaterThan(20);
  expect(vertical.length).toBeGreaterThan(10);
});

test("the rectangle holds nothing but the picture, and bars across it stay straight", () => {
  const made = bendToRectangle(W, H, grey, full)!;
  expect(made.width).toBeGreaterThan(0.7);
  expect(made.width).toBeLessThan(1.2);
  for (let j = 0; j <= 40; j++)
    for (let i = 0; i <= 100; i++) {
      const [x, y] = flatPlace(made.bend, i / 100, j / 40);
      const u = clamp(Math.round(x * W - 0.5), 0, W - 1);
      const v = clamp(Math.round(y * H - 0.5), 0, H - 1);
      // within a cell or two of the border's own raggedness
      let near = 0;
      for (let b = -3; b <= 3; b++)
        for (let a = -3; a <= 3; a++)
          near |= full[clamp(v + b, 0, H - 1) * W + clamp(u + a, 0, W - 1)]!;
      expect(near).toBe(1);
    }
  // where a vertical bar of the flat picture is shown: its bow in the middle part of the height, in
  // cells
  const shownAt = (bar: number, v: number): number => {
    let best = 0;
    let least = Infinity;
    for (let i = 0; i <= 600; i++) {
      const d = Math.abs(flatPlace(made.bend, i / 600, v)[0] * W - bar);
      if (d < least) {
        least = d;
        best = i / 600;
      }
    }
    return best * W;
  };
  for (const bar of [81.5, 121.5, 161.5, 201.5]) {
    const at = [0.15, 0.5, 0.85].map((v) => shownAt(bar, v));
    expect(Math.abs(at[1]! - (at[0]! + at[2]!) / 2)).toBeLessThan(1.2);
  }
});

test("of a full turn the upper and lower borders are bent away, and its two ends still meet", () => {
  // a ring of frames that a hand held unevenly: nothing is missing at its sides
  const ring = Uint8Array.from({ length: W * H }, (_, i) => {
    const t = ((i % W) / W) * 2 * Math.PI;
    const y = Math.floor(i / W);
    return y >= 9 + 7 * Math.sin(2 * t + 1) && y < H - 8 - 6 * Math.cos(3 * t) ? 1 : 0;
  });
  const { bend, width, height } = bendToRectangle(W, H, grey, ring, true)!;
  expect([width, height < 1.1, height > 0.75]).toEqual([1, true, true]);
  for (let j = 0; j <= 40; j++) {
    const v = j / 40;
    const [left, right] = [flatPlace(bend, 0, v), flatPlace(bend, 1 - 1e-9, v)];
    expect(Math.abs(right[1] - left[1]) * H).toBeLessThan(0.01);
    expect([left[0], right[0]].map((x) => Number(x.toFixed(6)))).toEqual([0, 1]);
    // it goes on beyond its sides as it began
    const [x, y] = flatPlace(bend, 1.1, v);
    const [x0, y0] = flatPlace(bend, 0.1, v);
    expect([x - x0, y - y0]).toEqual([expect.closeTo(1, 9), expect.closeTo(0, 9)]);
    for (let i = 0; i < 100; i++) {
      const [a, b] = flatPlace(bend, (i + 0.5) / 100, v);
      const row = Math.round(b * H - 0.5);
      const column = Math.min(W - 1, Math.floor(a * W));
      let near = 0;
      for (let d = -3; d <= 3; d++) near |= ring[clamp(row + d, 0, H - 1) * W + column]!;
      expect(near).toBe(1);
    }
  }
});

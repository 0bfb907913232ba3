import { Heap } from "../../kernels/heap";
import { decode, SPACES, toWorking } from "../colour/spaces";
import { encodedTables, isPlainSrgb, warpEncoded } from "./warpEncoded";

const W = 70;
const H = 60;
const heap = Heap.local(40e6);
const srgb = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);
// bright and smooth, right up to white: a place that was taken for clipped would show steps
const picture = (x: number, y: number): number => 0.55 + 0.44 * Math.sin(x / 9) * Math.cos(y / 11);
const bytes = Uint8Array.from({ length: W * H * 3 }, (_, i) =>
  Math.round(255 * picture(Math.floor(i / 3) % W, Math.floor(i / 3 / W))),
);

function warped(fromReference: number[], gain = 1): Uint16Array {
  const mark = heap.mark();
  const samples = heap.putBytes(bytes);
  const dst = heap.alloc(W * H * 6 + 64);
  for (const [y0, y1] of [
    [0, 17],
    [17, H],
  ] as const)
    warpEncoded(
      heap,
      { samples, type: "u8", width: W, height: H, lut: encodedTables(srgb, gain), fromReference },
      W,
      dst,
      y0,
      y1,
    );
  const out = heap.u16(dst, W * H * 3).slice();
  heap.release(mark);
  return out;
}

test("a frame in the reference's place is the picture that it was, brighter by its gain", () => {
  warped([1, 0, 0, 0, 1, 0, 0, 0, 1]).forEach((v, i) =>
    expect(Math.abs(v - bytes[i]! * 257)).toBeLessThanOrEqual(2),
  );
  const half = warped([1, 0, 0, 0, 1, 0, 0, 0, 1], 0.5);
  for (let i = 0; i < half.length; i += 97)
    expect(decode(SPACES.srgb.curve, half[i]! / 65535)).toBeCloseTo(
      0.5 * decode(SPACES.srgb.curve, bytes[i]! / 255),
      4,
    );
});

test("a moved frame is sampled between its pixels up to white, and is black where it does not reach", () => {
  const out = warped([1, 0, 3.4, 0, 1, -2.7, 0, 0, 1]);
  for (let y = 6; y < H; y++)
    for (let x = 0; x < W; x++) {
      const got = out[(y * W + x) * 3]! / 65535;
      if (x + 3.4 > W - 0.5) {
        if (x + 3.9 > W) expect(got).toBe(0);
        continue;
      }
      if (x + 3.4 < W - 3) expect(Math.abs(got - picture(x + 3.4, y - 2.7))).toBeLessThan(0.004);
    }
});

test("only frames in sRGB's own primaries are warped so", () => {
  expect(isPlainSrgb(toWorking("srgb"), "u8")).toBe(true);
  expect(isPlainSrgb(toWorking("p3"), "u8")).toBe(false);
  expect(isPlainSrgb(toWorking("srgb"), "f32")).toBe(false);
});

import { Heap } from "../../kernels/heap";
import { findImageCircle } from "./imageCircle";

const W = 300, H = 200, LUT = Float32Array.from({ length: 768 }, (_, i) => ((i % 256) / 255) ** 2);
/** Lit where it is said, with noise everywhere. */
function circleIn(lit: (x: number, y: number) => number): number | undefined {
  const samples = new Uint8Array(W * H * 3);
  for (let i = 0; i < samples.length; i++) { const k = Math.floor(i / 3); samples[i] = lit(k % W, Math.floor(k / W)) + ((i * 7919) % 5); }
  const heap = Heap.local(W * H * 16);
  return findImageCircle(heap, { ptr: heap.putBytes(samples), type: "u8", width: W, height: H, lut: LUT }, 2);
}
const away = (x: number, y: number): number => Math.hypot(x + 0.5 - W / 2, y + 0.5 - H / 2);

test("a circle is found to a px of the small frame, whole, cut by the frame, and with something dark at its rim", () => {
  expect(Math.abs(circleIn((x, y) => (away(x, y) < 90 ? 120 : 0))! - 180)).toBeLessThan(3);
  expect(Math.abs(circleIn((x, y) => (away(x, y) < 130 ? 120 : 0))! - 260)).toBeLessThan(3);
  expect(Math.abs(circleIn((x, y) => (away(x, y) < 90 && !(x > 200 && y < 80) ? 120 : 0))! - 180)).toBeLessThan(3);
});

test("a bright frame, a black one, a window at night and a lamp are no circle", () => {
  expect(circleIn(() => 120)).toBeUndefined();
  expect(circleIn(() => 0)).toBeUndefined();
  expect(circleIn((x, y) => (x > 60 && x < 240 && y > 50 && y < 150 ? 120 : 0))).toBeUndefined();
  expect(circleIn((x, y) => (Math.hypot(x - 190, y - 90) < 60 ? 120 : 0))).toBeUndefined();
});

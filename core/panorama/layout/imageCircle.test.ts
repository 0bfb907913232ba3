import { Heap } from "../../../kernels/heap";
import { findImageCircle, type ImageCircle } from "./imageCircle";

const W = 300;
const H = 200;
const LUT = Float32Array.from({ length: 768 }, (_, i) => ((i % 256) / 255) ** 2);
/** Lit where it is said, with noise everywhere. */
function circleIn(lit: (x: number, y: number) => number): ImageCircle | undefined {
  const samples = new Uint8Array(W * H * 3);
  for (let i = 0; i < samples.length; i++) {
    const k = Math.floor(i / 3);
    samples[i] = lit(k % W, Math.floor(k / W)) + ((i * 7919) % 5);
  }
  const heap = Heap.local(W * H * 16);
  return findImageCircle(
    heap,
    { ptr: heap.putBytes(samples), type: "u8", width: W, height: H, lut: LUT },
    2,
  );
}
const away = (x: number, y: number, [cx, cy] = [W / 2, H / 2]): number =>
  Math.hypot(x + 0.5 - cx!, y + 0.5 - cy!);

test.each([
  ["whole", (x: number, y: number) => away(x, y) < 90, [300, 200, 180]],
  ["cut by the frame", (x: number, y: number) => away(x, y) < 130, [300, 200, 260]],
  [
    "with something dark at its rim",
    (x: number, y: number) => away(x, y) < 90 && !(x > 200 && y < 80),
    [300, 200, 180],
  ],
  ["off the middle", (x: number, y: number) => away(x, y, [156, 96]) < 88, [312, 192, 176]],
  [
    "off the middle and cut, with something dark at its rim",
    (x: number, y: number) => away(x, y, [145, 104]) < 120 && !(x < 60 && y > 60 && y < 100),
    [290, 208, 240],
  ],
] as const)(
  "a circle %s is found to a px and a half of the small frame",
  (_, lit, [x, y, radius]) => {
    const found = circleIn((u, v) => (lit(u, v) ? 120 : 0))!;
    expect(Math.abs(found.radius - radius)).toBeLessThan(3);
    expect(Math.hypot(found.x - x, found.y - y)).toBeLessThan(3);
  },
);

test("a bright frame, a black one, a window at night and a lamp are no circle", () => {
  expect(circleIn(() => 120)).toBeUndefined();
  expect(circleIn(() => 0)).toBeUndefined();
  expect(circleIn((x, y) => (x > 60 && x < 240 && y > 50 && y < 150 ? 120 : 0))).toBeUndefined();
  expect(circleIn((x, y) => (Math.hypot(x - 190, y - 90) < 60 ? 120 : 0))).toBeUndefined();
});

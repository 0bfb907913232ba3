import { Heap } from "../../kernels/heap";
import { stillOffset } from "./standing";

test("what moved has no say in how two images were exposed, however much of the picture it is", () => {
  const w = 640, h = 400, n = w * h, heap = Heap.local(n * 40), level = (of: (x: number, y: number) => number) => ({ w, h, log: heap.put(Float32Array.from({ length: n }, (_, i) => of(i % w, Math.floor(i / w)))), vote: heap.put(new Float32Array(n).fill(0.9)) });
  const scene = (x: number, y: number): number => -2 + Math.sin(x / 37) + Math.cos(y / 23), move = [1, 0, 6, 0, 1, -4, 0, 0, 1];
  // the image lies 6 px to the right and 4 up, is brighter by 0.3 EV, and glitters in its lower third
  const template = level(scene), image = level((x, y) => scene(x - 6, y + 4) + 0.3 + (y > 260 ? 0.12 : 0)), still = Uint8Array.from({ length: n / 4 }, (_, i) => (Math.floor(i / (w / 2)) > 130 ? 0 : 255));
  expect(stillOffset(heap, template, image, { transform: move, offset: -0.33 }, still)).toBeCloseTo(-0.3, 3);
  expect(stillOffset(heap, template, image, { transform: move, offset: -0.33 }, new Uint8Array(n / 4).fill(255))).toBeLessThan(-0.32);
  // too little that stands: what was found stays
  expect(stillOffset(heap, template, image, { transform: move, offset: -0.33 }, new Uint8Array(n / 4))).toBe(-0.33);
});

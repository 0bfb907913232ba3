import { Heap } from "../../kernels/heap";
import { encode, SPACES } from "../colour/spaces";
import { codeAsPq, pqOf } from "./pqCode";
import { WHITE_NITS } from "./raised";

test.each([
  [10000, 1],
  [100, 0.508],
  [WHITE_NITS, 0.581],
  [0, 0],
])("%s cd/m² has the code that ITU-R BT.2408 and ST 2084 give", (nits, code) => {
  expect(pqOf(nits)).toBeCloseTo(code, 3);
});

test("pixels get the code of their light, raised by their gains, to less than a code of 12 bits", () => {
  const heap = Heap.local(1 << 20);
  const headroom = 3;
  const count = 4096;
  const pixels = heap.alloc(count * 6);
  const gains = heap.alloc(count);
  const light = (i: number): number => (i / (count - 1)) ** 2;
  const code = (i: number): number => Math.round(65535 * encode(SPACES.rec2020.curve, light(i)));
  const samples = heap.u16(pixels, count * 3);
  samples.set(Uint16Array.from({ length: count * 3 }, (_, k) => code(Math.floor(k / 3))));
  const gain = heap.u8(gains, count);
  gain.set(Uint8Array.from({ length: count }, (_, i) => (i * 7) & 255));
  codeAsPq(heap, pixels, gains, headroom, count);
  for (let i = 0; i < count; i++) {
    const raised = (light(i) + 1 / 64) * 2 ** ((headroom * gain[i]!) / 255) - 1 / 64;
    const exact = pqOf(WHITE_NITS * raised);
    // near black the 16 bits that went in are the coarser ones
    const within = light(i) > 1e-4 ? 1 / 4096 : 1 / 128;
    expect(Math.abs(samples[3 * i + 1]! / 65535 - exact)).toBeLessThan(within);
  }
});

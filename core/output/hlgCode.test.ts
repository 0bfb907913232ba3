import { Heap } from "../../kernels/heap";
import { encode, SPACES } from "../colour/spaces";
import { codeAsHlg, HLG_HEADROOM, hlgLight, hlgOf } from "./hlgCode";

test.each([
  [0, 0],
  [1 / 12, 0.5],
  [1, 1],
])("scene light %s has the code that ITU-R BT.2100 gives", (light, code) => {
  expect(hlgOf(light)).toBeCloseTo(code, 5);
  expect(hlgLight(code)).toBeCloseTo(light, 5);
});

/** What is made of one pixel: its light in Rec. 2020, white at 1, and its gain, 0 to 1. */
function coded(light: readonly number[], gain: number, headroom: number): number[] {
  const heap = Heap.local(1 << 16);
  const pixels = heap.alloc(6);
  const gains = heap.alloc(1);
  const samples = heap.u16(pixels, 3);
  samples.set(light.map((v) => Math.round(65535 * encode(SPACES.rec2020.curve, v))));
  heap.u8(gains, 1)[0] = Math.round(gain * 255);
  codeAsHlg(heap, pixels, gains, headroom, 1);
  return [...samples].map((v) => v / 65535);
}

/** Light that a display of 1000 cd/m² gives a code, white at 1 (ITU-R BT.2100-2, table 5). */
function shown(code: readonly number[]): number[] {
  const scene = code.map(hlgLight);
  const luminance = 0.2627 * scene[0]! + 0.678 * scene[1]! + 0.0593 * scene[2]!;
  return scene.map((v) => (1000 / 203) * v * luminance ** 0.2);
}

test("white has three quarters of the code (ITU-R BT.2408), black none", () => {
  coded([1, 1, 1], 0, 2).forEach((v) => expect(v).toBeCloseTo(0.75, 2));
  expect(coded([0, 0, 0], 0, 2)).toEqual([0, 0, 0]);
});

test.each([
  [[0.18, 0.18, 0.18], 0, 1],
  [[0.9, 0.4, 0.1], 0, 1],
  [[0.05, 0.3, 0.6], 0.5, 2],
  [[0.7, 0.7, 0.2], 1, 2],
] as const)("a display shows %s, raised by %s of %s EV, as it is", (light, gain, headroom) => {
  const seen = shown(coded(light, gain, headroom));
  const exact = 2 ** ((headroom * Math.round(gain * 255)) / 255);
  light.forEach((v, c) => {
    const raised = (v + 1 / 64) * exact - 1 / 64;
    expect(Math.abs(seen[c]! / raised - 1)).toBeLessThan(0.01);
  });
});

test("what is brighter than the display is at its peak, and no more", () => {
  coded([1, 1, 1], 1, HLG_HEADROOM).forEach((v) => expect(v).toBeCloseTo(1, 3));
  expect(Math.max(...coded([1, 1, 1], 1, 4))).toBeLessThanOrEqual(1);
});

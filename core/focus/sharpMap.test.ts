import { Heap } from "../../kernels/heap";
import { random } from "../math/random";
import { runSharpness, sceneSharpShare, sharpShare, type SharpMap } from "./sharpMap";

const width = 32;
const height = 20;
const rnd = random(4);
const texture = Float32Array.from({ length: width * height }, () => rnd() * 3);
/** A frame that is sharp in one of n bands from top to bottom. */
const band = (k: number, n: number): SharpMap => ({
  width,
  height,
  values: texture.map(
    (t, i) => t - (Math.floor(((Math.floor(i / width) + 0.5) / height) * n) === k ? 0 : 5),
  ),
});

test("each frame of a run is sharp in its own share, and all of them together everywhere", () => {
  const maps = [0, 1, 2, 3].map((k) => band(k, 4));
  const sharp = runSharpness(maps);
  expect(sharp.cells).toHaveLength(width * height);
  for (const s of sharp.shares) expect(s).toBeCloseTo(0.25, 2);
  expect(sharpShare({ width, height, values: texture }, sharp)).toBe(1);
});

test("what no focus changes tells nothing, and counts for nothing", () => {
  const maps = [0, 1].map((k) => {
    const m = band(k, 2);
    return { ...m, values: m.values.map((v, i) => (i % width < 8 ? 0.5 : v)) };
  });
  expect(runSharpness(maps).cells).toHaveLength((width - 8) * height);
  expect(runSharpness([maps[0]!, maps[0]!])).toMatchObject({ cells: [], shares: [0, 0] });
});

test("a merged picture is as sharp as its texture: blurred, it is not", () => {
  const heap = Heap.local(4e6);
  const w = 256;
  const h = 160;
  const planeBytes = w * h * 4 + 64;
  const ptr = heap.alloc(planeBytes * 3);
  const light = Float32Array.from({ length: w * h }, () => 0.2 + 0.3 * rnd());
  const planeOf = (
    p: Float32Array,
  ): { ptr: number; planeBytes: number; width: number; height: number } => {
    for (let c = 0; c < 3; c++) heap.f32(ptr + c * planeBytes, w * h).set(p);
    return { ptr, planeBytes, width: w, height: h };
  };
  const every = {
    cells: Array.from({ length: 32 * 20 }, (_, i) => i),
    top: new Array<number>(32 * 20).fill(-99),
  };
  expect(sceneSharpShare(heap, planeOf(light), every)).toBe(1);
  // a little less than the texture itself has
  const top = every.cells.map(() => -4);
  const soft = light.map((_, i) => {
    let s = 0;
    let n = 0;
    for (let y = -3; y <= 3; y++)
      for (let x = -3; x <= 3; x++) {
        const k = i + y * w + x;
        if (k >= 0 && k < light.length) {
          s += light[k]!;
          n++;
        }
      }
    return s / n;
  });
  expect(sceneSharpShare(heap, planeOf(light), { cells: every.cells, top })).toBeGreaterThan(0.95);
  expect(sceneSharpShare(heap, planeOf(soft), { cells: every.cells, top })).toBeLessThan(0.05);
});

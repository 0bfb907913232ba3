import { Heap } from "../../kernels/heap";
import { simulatedRoom } from "../../simulate/room";
import { toneField, toneFieldBytes, type ToneField, type ToneSettings } from "./toneField";
import { quantiles } from "../math/quantiles";
import { renderStrip } from "./renderStrip";
import { BASIS_PARTS, basisBytes, fillBlack, toneBasis } from "./toneBasis";
import { floorGrid, gridSize, reduceToGrid, type ToneGrid } from "./toneGrid";

const W = 1440;
const H = 960;
const room = simulatedRoom(W, H, 5);
const local: ToneSettings = {
  operator: "local",
  strength: 0.7,
  lifts: [0, 0, 0, 0, 0],
  white: 0,
  black: 0,
  detail: 0.15,
};

interface Scene {
  ptr: number;
  planeBytes: number;
  width: number;
  height: number;
}
interface Analysed {
  heap: Heap;
  scene: Scene;
  grid: ToneGrid;
  basis: number;
}

/** The room at 1/downscale of its size, with all that local tone needs of it. */
function analysed(downscale: number): Analysed {
  const heap = Heap.local(180e6);
  const width = W / downscale;
  const height = H / downscale;
  const planeBytes = width * height * 4 + 64;
  const scene = { ptr: heap.alloc(planeBytes * 3), planeBytes, width, height };
  room.planes.forEach((plane, c) => {
    const out = heap.f32(scene.ptr + c * planeBytes, width * height);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++)
        out[Math.floor(y / downscale) * width + Math.floor(x / downscale)]! +=
          plane[y * W + x]! / downscale ** 2;
  });
  const size = gridSize(width, height);
  const cells = { ...size, ptr: heap.alloc(size.width * size.height * 4 + 16) };
  const basis = heap.alloc(basisBytes(size));
  reduceToGrid(heap, scene, cells, 0, size.height);
  const grid = { ...cells, floorEv: floorGrid(heap, cells, 0) };
  fillBlack(heap, grid, basis);
  for (let part = 0; part < BASIS_PARTS; part++) toneBasis(heap, grid, basis, part);
  return { heap, scene, grid, basis };
}
const fieldOf = ({ heap, grid, basis }: Analysed, settings: ToneSettings): ToneField =>
  toneField(heap, grid, basis, settings, heap.alloc(toneFieldBytes(grid)));
function rendered(a: Analysed, settings: ToneSettings): Uint8Array {
  const { width, height } = a.scene;
  const dst = a.heap.alloc(width * height * 4 + 64);
  renderStrip(
    a.heap,
    a.scene,
    fieldOf(a, settings),
    { gains: [1, 1, 1], exposure: 0, space: "srgb", linear: false },
    { x: 0, y: 0, width, height },
    "rgba8",
    dst,
    0,
    height,
  );
  return a.heap.u8(dst, width * height * 4).slice();
}
const full = analysed(1);

test("quantiles are those of the sorted values, to 1/256 EV", () => {
  const { heap, grid } = full;
  const n = grid.width * grid.height;
  const sorted = heap.f32(grid.ptr, n).slice().sort();
  quantiles(heap, grid.ptr, n, [0, 0.25, 0.5, 0.998]).forEach((q, i) =>
    expect(
      Math.abs(q - sorted[Math.min(n - 1, Math.floor([0, 0.25, 0.5, 0.998][i]! * n))]!),
    ).toBeLessThanOrEqual(1 / 256),
  );
});

test("plain leaves light alone; local brings bright and dark together, the more the stronger, and never turns their order", () => {
  const spread = (settings: ToneSettings): number => {
    const px = rendered(full, settings);
    const lum = Array.from({ length: W * H }, (_, i) => px[i * 4 + 1]!).sort((a, b) => a - b);
    return lum[Math.floor(lum.length * 0.9)]! - lum[Math.floor(lum.length * 0.1)]!;
  };
  expect(fieldOf(full, { ...local, operator: "plain" })).toMatchObject({ width: 1, height: 1 });
  const [weak, strong] = [spread({ ...local, strength: 0.3 }), spread({ ...local, strength: 0.9 })];
  expect(strong).toBeLessThan(weak);
  expect(strong).toBeGreaterThan(0);
});

describe.each(["base", "global"] as const)("the operator %s", (operator) => {
  const means = (settings: ToneSettings): number[] => {
    const px = rendered(full, settings);
    return [0.1, 0.5, 0.9].map((q) => {
      const lum = Array.from({ length: W * H }, (_, i) => px[i * 4 + 1]!).sort((a, b) => a - b);
      return lum[Math.floor(lum.length * q)]!;
    });
  };
  test("brings windows and shadows nearer to the middle, the more the stronger", () => {
    const [d0, m0, l0] = means({ ...local, operator: "plain" }) as [number, number, number];
    const [d2, m2, l2] = means({ ...local, operator, strength: 1 }) as [number, number, number];
    // against the mid-tones' own level: the room is dark, and both raise it
    expect(Math.log2(l2 / d2)).toBeLessThan(Math.log2(l0 / d0) + 0.05);
    expect(m2).toBeGreaterThan(m0);
    expect(m2).toBeGreaterThan(70);
    expect(m2).toBeLessThan(180);
  });
});

test("a zone's lift brightens that zone and leaves the far one; the ends move the ends", () => {
  const { heap, grid } = full;
  const n = grid.width * grid.height;
  const L = heap.f32(grid.ptr, n);
  const gains = (settings: ToneSettings): Float32Array => {
    const f = fieldOf(full, settings);
    const s = heap.f32(f.slopes, n);
    const o = heap.f32(f.offsets, n);
    return L.map((l, i) => s[i]! * l + o[i]!);
  };
  const order = [...L.keys()].sort((a, b) => L[a]! - L[b]!);
  const mean = (g: Float32Array, from: number, to: number): number => {
    const part = order.slice(Math.floor(from * n), Math.floor(to * n));
    return part.reduce((s, i) => s + g[i]!, 0) / part.length;
  };
  const plain: ToneSettings = { ...local, operator: "plain" };
  const dark = gains({ ...plain, lifts: [1, 1, 0, 0, 0] });
  expect(mean(dark, 0, 0.02)).toBeGreaterThan(0.6);
  expect(Math.abs(mean(dark, 0.99, 1))).toBeLessThan(0.1);
  expect(mean(gains({ ...plain, white: 1 }), 0.97, 1)).toBeGreaterThan(0.4);
  expect(mean(gains({ ...plain, black: -1 }), 0, 0.05)).toBeLessThan(-0.2);
});

test("the preview shows what the full picture will be: 38 dB against it reduced", () => {
  const final = rendered(full, local);
  const half = analysed(2);
  const preview = rendered(half, local);
  const { width, height } = half.scene;
  let error = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 3; c++) {
        const at = (dx: number, dy: number): number =>
          final[((2 * y + dy) * W + 2 * x + dx) * 4 + c]!;
        error +=
          (preview[(y * width + x) * 4 + c]! - (at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1)) / 4) **
          2;
      }
  const db = 10 * Math.log10(255 ** 2 / (error / (width * height * 3)));
  process.stdout.write(`preview against the final picture reduced: ${db.toFixed(1)} dB\n`);
  expect(db).toBeGreaterThan(38);
});

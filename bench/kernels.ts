// Times the hot loops on one thread, ms a megapixel: node build/node/benchKernels.js
import { tapWeights } from "../core/raster/sampling";
import { random } from "../core/math/random";
import { encodingTable } from "../core/tone/renderStrip";
import { Heap, SAMPLE_KIND } from "../kernels/heap";

const w = 2048;
const h = 1536;
const n = w * h;
const rnd = random(1);
const heap = Heap.local(n * 60);
const plane = (): number => {
  const at = heap.alloc(n * 4 + 64);
  heap.f32(at, n).forEach((_, i, a) => {
    a[i] = 0.05 + 0.9 * rnd();
  });
  return at;
};
const [a, b, c, d] = [plane(), plane(), plane(), plane()];
const out = heap.alloc(n * 16 + 64);
const row = heap.alloc(w * 64 + 256);
const bytes = heap.alloc(n * 3 + 64);
const words = heap.alloc(n * 6 + 64);
const tile = heap.alloc(n * 16 + 64);
for (let i = 0; i < n * 3; i++) {
  heap.u8(bytes, n * 3)[i] = 20 + 200 * rnd();
  heap.u16(words, n * 3)[i] = 6000 + 50000 * rnd();
}
for (let i = 0; i < n * 4; i++) heap.f32(tile, n * 4)[i] = i % 4 === 3 ? 1 : 0.1 + 0.8 * rnd();
const lut = heap.putTables(
  Float32Array.from({ length: 768 }, (_, i) => ((i % 256) / 255) ** 2.2),
  "u8",
);
const k = heap.k;
const turned = heap.put(
  [Math.cos(0.01), -Math.sin(0.01), 9, Math.sin(0.01), Math.cos(0.01), 9, 0, 0, 1],
  "f64",
);
const tilted = heap.put(
  [Math.cos(0.01), -Math.sin(0.01), 9, Math.sin(0.01), Math.cos(0.01), 9, 1e-6, 0, 1],
  "f64",
);
const six = heap.put(tapWeights("lanczos3"));
const tap2 = heap.put(tapWeights("bilinear"));
const table = heap.put(encodingTable("srgb"));
const settings = heap.put([1, 1, 1, 0, 1, Math.log2(0.18), 1, 2, 1, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0]);
const flat = heap.put(new Float32Array(w + 8));
const inner = (y: number): boolean => y > 40 && y < h - 60;
const rows = (f: (y: number) => void): void => {
  for (let y = 0; y < h; y++) f(y);
};
const H = (h + 1) >> 1;

/** name, and the loop over all pixels */
const KERNELS: [string, () => void][] = [
  ["linearise bytes", () => k.linearise(bytes, SAMPLE_KIND.u8, n, lut, out)],
  [
    "resample bicubic, perspective",
    () =>
      rows((y) => {
        if (inner(y)) k.resampleBicubic(tile, 0, 0, w, w, h, y, 40, w - 80, tilted, row);
      }),
  ],
  [
    "resample bicubic, upright: across",
    () => k.acrossTile(tile, 0, 0, w, h, 40, w - 80, turned, out),
  ],
  [
    "resample bicubic, upright: down",
    () =>
      rows((y) => {
        if (inner(y)) k.downRow(out, 40, 0, w - 80, w, h, y, 40, w - 80, turned, row);
      }),
  ],
  [
    "resample Lanczos-3",
    () =>
      rows((y) => {
        if (inner(y)) k.resampleSix(tile, 0, 0, w, w, h, y, 40, w - 80, tilted, six, row);
      }),
  ],
  [
    "resample bilinear",
    () =>
      rows((y) => {
        if (inner(y)) k.resampleSix(tile, 0, 0, w, w, h, y, 40, w - 80, tilted, tap2, row);
      }),
  ],
  [
    "fold into radiance",
    () =>
      rows((y) =>
        k.foldRow(tile + y * w * 16, w - 2, 0, 0, out, n * 4, y * w * 4, 1, 1e-4, 1e-6, 1e-20),
      ),
  ],
  ["finalise radiance", () => k.finaliseRadiance(out, n * 4, n, settings)],
  ["pyramid down", () => k.pyrDown(a, w, h, out, row, 0, H)],
  ["pyramid up", () => k.pyrUp(a, w, h, b, out, 1, row, 0, h)],
  ["box mean, r = 8", () => k.boxMean(a, w, h, 8, row, out, 0, h)],
  [
    "guided filter's products",
    () => k.guidedProducts(a, b, c, n, out, out + n * 4, out + n * 8, out + n * 12, d),
  ],
  ["fusion weights", () => k.fusionWeights(words, w, h, 0, h, row, out)],
  [
    "render to 16 bit, with the space's curve",
    () =>
      rows((y) => k.renderRow(a + y * w * 4, b - a, w - 4, flat, flat, settings, table, 1, row)),
  ],
];
const time = (f: () => void): number => {
  const runs = Array.from({ length: 5 }, () => {
    const t = performance.now();
    f();
    return performance.now() - t;
  });
  return runs.sort((x, y) => x - y)[2]!;
};
for (const [name, f] of KERNELS) console.log(JSON.stringify({ name, ms: (time(f) / n) * 1e6 }));
process.exit(0);

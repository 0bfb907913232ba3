// The default tone beside TMQI and at bright openings: photographs in a light of several stops, and
// scenes given as 32-bit TIFF files in linear light.
//   node build/node/benchTone.js [--save FOLDER] FILE...
import { writeFileSync } from "node:fs";
import { basename, join } from "node:path";
import Vips from "wasm-vips";
import { floorGrid, gridSize, reduceToGrid } from "../core/tone/toneGrid";
import { basisBytes, BASIS_PARTS, fillBlack, toneBasis } from "../core/tone/toneBasis";
import { toneField, toneFieldBytes } from "../core/tone/toneField";
import { renderStrip } from "../core/tone/renderStrip";
import { apply } from "../core/math/matrix3";
import { fromWorking, toWorking } from "../core/colour/spaces";
import { Heap } from "../kernels/heap";
import { defaultRecipe } from "../pipeline/recipe/recipe";
import { brightnessAndContrast, tmqi } from "../core/tone/tmqi";
import { DECODED, illuminate, toJpeg } from "./photographScene";

const WIDTH = 1200;
const HEIGHT = 800;

interface Scene {
  name: string;
  width: number;
  height: number;
  /** working space */
  planes: Float32Array[];
  /** pixels of bright openings */
  opening?: Uint8Array;
}

const vips = await Vips({ dynamicLibraries: [] });

/** A scene from a photograph, and where its openings are. */
function fromPhotograph(path: string, seed: number): Scene {
  const { planes, openings } = illuminate(path, WIDTH, HEIGHT, seed);
  return {
    name: `${basename(path).slice(0, 16)} ${seed}`,
    width: WIDTH,
    height: HEIGHT,
    planes: inWorking(planes),
    opening: openings,
  };
}

function inWorking(planes: readonly Float32Array[]): Float32Array[] {
  const m = toWorking("srgb");
  const out = planes.map((p) => new Float32Array(p.length));
  for (let i = 0; i < planes[0]!.length; i++) {
    const rgb = apply(m, planes.map((p) => p[i]!) as [number, number, number]);
    for (let c = 0; c < 3; c++) out[c]![i] = rgb[c]!;
  }
  return out;
}

/** A scene from a file of floats in linear Rec. 2020; its openings are what is 4 EV over its median. */
function fromFloats(path: string): Scene {
  const image = vips.Image.newFromFile(path);
  const scale = WIDTH / image.width;
  const small = image.resize(Math.min(1, scale), { kernel: "linear" });
  const bytes = small.cast("float").writeToMemory();
  const samples = new Float32Array(bytes.buffer, bytes.byteOffset, bytes.byteLength / 4);
  const n = small.width * small.height;
  const planes = [0, 1, 2].map((c) =>
    Float32Array.from({ length: n }, (_, i) => samples[3 * i + c]!),
  );
  const light = Float32Array.from({ length: n }, (_, i) =>
    Math.log2(
      Math.max(1e-9, 0.2627 * planes[0]![i]! + 0.678 * planes[1]![i]! + 0.0593 * planes[2]![i]!),
    ),
  );
  const median = Float32Array.from(light).sort()[n >> 1]!;
  const opening = Uint8Array.from(light, (l) => (l > median + 3.5 ? 1 : 0));
  return {
    name: basename(path).slice(0, 18),
    width: small.width,
    height: small.height,
    planes,
    opening,
  };
}

/** A picture by default, RGBA bytes. */
function shownByDefault({ width, height, planes }: Scene): Uint8Array {
  const n = width * height;
  const heap = Heap.local(n * 60 + 200e6);
  const planeBytes = n * 4 + 64;
  const ptr = heap.alloc(planeBytes * 4);
  planes.forEach((p, c) => heap.f32(ptr + c * planeBytes, n).set(p));
  const scene = { ptr, planeBytes, width, height };
  const size = gridSize(width, height);
  const at = heap.alloc(size.width * size.height * 4 + basisBytes(size));
  const cells = { ...size, ptr: at };
  const basis = at + size.width * size.height * 4;
  reduceToGrid(heap, scene, cells, 0, size.height);
  const grid = { ...cells, floorEv: floorGrid(heap, cells, 0) };
  fillBlack(heap, grid, basis);
  for (let part = 0; part < BASIS_PARTS; part++) {
    const mark = heap.mark();
    toneBasis(heap, grid, basis, part);
    heap.release(mark);
  }
  const { tone } = defaultRecipe("bracket");
  const field = toneField(heap, grid, basis, tone, heap.alloc(toneFieldBytes(grid)));
  const dst = heap.alloc(n * 4 + 64);
  renderStrip(
    heap,
    scene,
    field,
    { gains: [1, 1, 1], exposure: 0, space: "srgb", linear: false },
    { x: 0, y: 0, width, height },
    "rgba8",
    dst,
    0,
    height,
  );
  return heap.u8(dst, n * 4).slice();
}

/** Local contrast that openings keep, and how far their colours drift. */
function openingsOf({ width, height, planes, opening }: Scene, rgba: Uint8Array) {
  if (!opening?.some((v) => v)) return undefined;
  const n = width * height;
  const m = fromWorking("srgb");
  const scene = new Float32Array(n);
  const shown = new Float32Array(n);
  let drift = 0;
  let count = 0;
  for (let i = 0; i < n; i++) {
    const rgb = apply(m, planes.map((p) => p[i]!) as [number, number, number]).map((v) =>
      Math.max(0, v),
    );
    const out = [0, 1, 2].map((c) => DECODED[rgba[4 * i + c]!]!);
    scene[i] = Math.log2(Math.max(1e-6, 0.2126 * rgb[0]! + 0.7152 * rgb[1]! + 0.0722 * rgb[2]!));
    shown[i] = Math.log2(Math.max(1e-6, 0.2126 * out[0]! + 0.7152 * out[1]! + 0.0722 * out[2]!));
    if (!opening[i]) continue;
    const [a, b] = [rgb.reduce((x, y) => x + y, 1e-9), out.reduce((x, y) => x + y, 1e-9)];
    for (let c = 0; c < 3; c++) drift += Math.abs(rgb[c]! / a - out[c]! / b);
    count++;
  }
  const kept =
    localContrast(shown, opening, width, height) / localContrast(scene, opening, width, height);
  return { kept, drift: drift / count };
}

/** Standard deviation of values less their mean over 12 px, where the mask is whole around. */
function localContrast(
  values: Float32Array,
  mask: Uint8Array,
  width: number,
  height: number,
): number {
  const R = 6;
  let [sum, squares, count] = [0, 0, 0];
  for (let y = R; y < height - R; y += 2)
    for (let x = R; x < width - R; x += 2) {
      if (!mask[y * width + x]) continue;
      let mean = 0;
      let inside = true;
      for (let j = -R; j < R && inside; j++)
        for (let i = -R; i < R; i++) {
          const at = (y + j) * width + x + i;
          if (!mask[at]) {
            inside = false;
            break;
          }
          mean += values[at]!;
        }
      if (!inside) continue;
      const d = values[y * width + x]! - mean / (4 * R * R);
      sum += d;
      squares += d * d;
      count++;
    }
  return count ? Math.sqrt(squares / count - (sum / count) ** 2) : 0;
}

const args = process.argv.slice(2);
const save = args[0] === "--save" ? args.splice(0, 2)[1] : undefined;
const scenes = args.flatMap((path) =>
  /\.tiff?$/i.test(path)
    ? [() => fromFloats(path)]
    : [1, 2].map((seed) => () => fromPhotograph(path, seed)),
);
console.log("scene                 TMQI  fidelity  natural   mean  contrast  kept  drift");
const all: number[] = [];
for (const make of scenes) {
  const scene = make();
  const rgba = shownByDefault(scene);
  const n = scene.width * scene.height;
  const light = Float32Array.from({ length: n }, (_, i) =>
    Math.max(
      0,
      0.2627 * scene.planes[0]![i]! + 0.678 * scene.planes[1]![i]! + 0.0593 * scene.planes[2]![i]!,
    ),
  );
  const luma = Float64Array.from(
    { length: n },
    (_, i) => 0.2126 * rgba[4 * i]! + 0.7152 * rgba[4 * i + 1]! + 0.0722 * rgba[4 * i + 2]!,
  );
  const { quality, fidelity, naturalness } = tmqi(light, luma, scene.width, scene.height);
  const [mean, contrast] = brightnessAndContrast({
    width: scene.width,
    height: scene.height,
    values: luma,
  });
  const openings = openingsOf(scene, rgba);
  all.push(quality);
  console.log(
    [
      scene.name.padEnd(19),
      quality.toFixed(3).padStart(6),
      fidelity.toFixed(3).padStart(8),
      naturalness.toFixed(3).padStart(8),
      mean.toFixed(0).padStart(6),
      contrast.toFixed(1).padStart(8),
      ...(openings
        ? [openings.kept.toFixed(2).padStart(7), openings.drift.toFixed(3).padStart(7)]
        : []),
    ].join(" "),
  );
  if (save) {
    const rgb = new Uint8Array(3 * n);
    for (let i = 0; i < n; i++) for (let c = 0; c < 3; c++) rgb[3 * i + c] = rgba[4 * i + c]!;
    writeFileSync(
      join(save, `${scene.name.replaceAll(/\W+/g, "-")}.jpg`),
      toJpeg(rgb, scene.width, scene.height),
    );
  }
}
console.log(
  `TMQI: mean ${(all.reduce((a, b) => a + b, 0) / all.length).toFixed(3)}, least ${Math.min(...all).toFixed(3)}`,
);

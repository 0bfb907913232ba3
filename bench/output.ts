// Sizes reduced and output sharpening, held against libvips (Lanczos-3, and its own sharpening):
// node build/node/benchOutput.js PHOTOGRAPH...
import Vips from "wasm-vips";
import {
  outputSharpening,
  sharpenOutput,
  sharpenScratch,
  type OutputSharpening,
} from "../core/output/sharpenOutput";
import { resizePicture, resizeScratch } from "../core/raster/resizePicture";
import { Heap } from "../kernels/heap";

type Engine = typeof Vips;
interface Picture {
  /** R, G and B of 8 bits, interleaved */
  samples: Uint8Array;
  width: number;
  height: number;
}

const vips = await Vips({ dynamicLibraries: [] });
vips.concurrency(1);
const say = (text: string): void => console.log(text);

/** Ours, all rows at once. */
function reduced(picture: Picture, width: number): Picture & { ms: number } {
  const height = Math.round((picture.height * width) / picture.width);
  const from = { ptr: 0, width: picture.width, height: picture.height };
  const to = { ptr: 0, width, height };
  const heap = Heap.local(
    picture.samples.length + width * height * 3 + resizeScratch(from, to, height) + (1 << 20),
  );
  from.ptr = heap.alloc(picture.samples.length);
  to.ptr = heap.alloc(width * height * 3);
  heap.u8(from.ptr, picture.samples.length).set(picture.samples);
  const began = performance.now();
  resizePicture(heap, from, to, "rgb8", false, 0, height);
  const ms = performance.now() - began;
  return { samples: heap.u8(to.ptr, width * height * 3).slice(), width, height, ms };
}

/** Sharpened by ours, all rows at once. */
function sharpened(picture: Picture, how: OutputSharpening): Picture {
  const { width, height, samples } = picture;
  const heap = Heap.local(
    samples.length * 2 + sharpenScratch(width, height, how.sigma) + (1 << 20),
  );
  const from = { ptr: heap.alloc(samples.length), width, height };
  const to = { ptr: heap.alloc(samples.length), width, height };
  heap.u8(from.ptr, samples.length).set(samples);
  sharpenOutput(heap, from, to, "rgb8", how, 0, height);
  return { samples: heap.u8(to.ptr, samples.length).slice(), width, height };
}

const imageOf = ({ samples, width, height }: Picture) =>
  vips.Image.newFromMemory(samples, width, height, 3, vips.BandFormat.uchar).copy({
    interpretation: "srgb",
  });
type Image = ReturnType<Engine["Image"]["newFromFile"]>;
const pictureOf = (image: Image): Picture => ({
  samples: new Uint8Array(image.writeToMemory()),
  width: image.width,
  height: image.height,
});

function reducedByVips(picture: Picture, width: number): Picture & { ms: number } {
  const image = imageOf(picture);
  const height = Math.round((picture.height * width) / picture.width);
  const began = performance.now();
  const small = image.resize(width / picture.width, {
    vscale: height / picture.height,
    kernel: "lanczos3",
  });
  const made = pictureOf(small);
  return { ...made, ms: performance.now() - began };
}

const green = ({ samples }: Picture): Float64Array =>
  Float64Array.from({ length: samples.length / 3 }, (_, i) => samples[3 * i + 1]!);

/** Root mean square and largest difference of two pictures, codes of 8 bits. */
function differ(a: Picture, b: Picture): { rms: number; most: number } {
  let sum = 0;
  let most = 0;
  for (let i = 0; i < a.samples.length; i++) {
    const by = Math.abs(a.samples[i]! - b.samples[i]!);
    sum += by * by;
    most = Math.max(most, by);
  }
  return { rms: Math.sqrt(sum / a.samples.length), most };
}

/**
 * Contrast that reducing leaves of waves, by cycles a px of what comes out; what is above half a
 * cycle is to be gone, for it comes back as another wave.
 */
function contrasts(by: number, make: (picture: Picture, width: number) => Picture): number[] {
  const width = 1024;
  return [0.1, 0.2, 0.3, 0.4, 0.6, 0.8].map((cycles) => {
    const samples = new Uint8Array(width * 64 * 3);
    for (let i = 0; i < samples.length; i++) {
      const x = Math.floor(i / 3) % width;
      samples[i] = Math.round(128 + 100 * Math.sin((2 * Math.PI * cycles * x) / by));
    }
    const out = green(make({ samples, width, height: 64 }, Math.round(width / by)));
    const line = out.subarray(16 * Math.round(width / by), 17 * Math.round(width / by));
    const inner = line.subarray(16, line.length - 16);
    const mean = inner.reduce((a, b) => a + b, 0) / inner.length;
    const spread = inner.reduce((a, b) => a + (b - mean) ** 2, 0) / inner.length;
    return Math.sqrt(2 * spread) / 100;
  });
}

/** By how much a slanted edge goes over either side of it, share of its height. */
function overshoot(by: number, make: (picture: Picture, width: number) => Picture): number {
  const width = 1200;
  const height = 800;
  const samples = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const inside = Math.min(1, Math.max(0, x - width / 2 + (y - height / 2) * 0.09 + 0.5));
      samples.fill(Math.round(60 + 120 * inside), (y * width + x) * 3, (y * width + x) * 3 + 3);
    }
  const out = green(make({ samples, width, height }, Math.round(width / by)));
  let most = 0;
  const small = Math.round(width / by);
  // away from the border
  out.forEach((v, i) => {
    const x = i % small;
    if (x > 20 && x < small - 20) most = Math.max(most, (v - 180) / 120, (60 - v) / 120);
  });
  return most;
}

/** Detail: root mean square of a picture less its mean over 3 x 3 px, codes. */
function detail(picture: Picture): number {
  const g = green(picture);
  const { width, height } = picture;
  let sum = 0;
  let count = 0;
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      let mean = 0;
      for (let v = -1; v <= 1; v++)
        for (let u = -1; u <= 1; u++) mean += g[(y + v) * width + x + u]! / 9;
      sum += (g[y * width + x]! - mean) ** 2;
      count++;
    }
  return Math.sqrt(sum / count);
}

const three = (values: number[]): string => values.map((v) => v.toFixed(3)).join(" | ");
say("contrast left of waves, by cycles a px; above 0.5 it is aliasing");
say("| | 0.1 | 0.2 | 0.3 | 0.4 | 0.6 | 0.8 | edge's overshoot |");
say("| --- | --- | --- | --- | --- | --- | --- | --- |");
const screen = outputSharpening({ medium: "screen", ppi: 110, distance: 60 }, 1);
const byVips = (picture: Picture, width: number): Picture => reducedByVips(picture, width);
const vipsSharpened = (picture: Picture, width: number): Picture =>
  pictureOf(imageOf(reducedByVips(picture, width)).sharpen({ sigma: 0.5 }));
const ways = [
  ["ours", reduced],
  ["libvips, Lanczos-3", byVips],
  ["ours, sharpened for screens", (p: Picture, w: number) => sharpened(reduced(p, w), screen)],
  ["libvips, sharpened", vipsSharpened],
] as const;
for (const by of [2, 3.7])
  for (const [name, make] of ways)
    say(
      `| ${name}, 1/${by} | ${three(contrasts(by, make))} | ${(100 * overshoot(by, make)).toFixed(1)} % |`,
    );

say("\nphotographs to 1200 px");
say(
  "| photograph | MP | differ, RMS | most | ours ms | libvips ms | detail ours | libvips | ours sharpened | libvips sharpened |",
);
say("| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |");
for (const file of process.argv.slice(2)) {
  const { readFileSync } = await import("node:fs");
  const image = vips.Image.newFromBuffer(readFileSync(file)).colourspace("srgb");
  const rgb = image.bands > 3 ? image.extractBand(0, { n: 3 }) : image;
  const picture = pictureOf(rgb.cast(vips.BandFormat.uchar));
  const ours = reduced(picture, 1200);
  const theirs = reducedByVips(picture, 1200);
  const { rms, most } = differ(ours, theirs);
  const figures = [
    ((picture.width * picture.height) / 1e6).toFixed(1),
    rms.toFixed(2),
    most,
    ours.ms.toFixed(0),
    theirs.ms.toFixed(0),
    detail(ours).toFixed(2),
    detail(theirs).toFixed(2),
    detail(sharpened(ours, screen)).toFixed(2),
    detail(pictureOf(imageOf(theirs).sharpen({ sigma: 0.5 }))).toFixed(2),
  ];
  say(`| ${file.split("/").at(-1)!} | ${figures.join(" | ")} |`);
}
process.exit(0);

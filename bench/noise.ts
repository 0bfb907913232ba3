// Noise reduction beside native OpenCV's: photographs with the noise of ISO 400 to 6400, both in the
// same run. Frames are 8 bit, as both take them; PSNR is against the photograph without noise.
//   node build/node/benchNoise.js [photograph...]
import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { encode, SPACES, toWorking, fromWorking } from "../core/colour/spaces";
import { denoise } from "../core/finish/denoise";
import { measureNoise } from "../core/finish/measureNoise";
import { apply } from "../core/math/matrix3";
import { random } from "../core/math/random";
import { Heap } from "../kernels/heap";
import { DECODED, photographLight } from "./photographScene";

const WIDTH = 1200;
const HEIGHT = 800;
const N = WIDTH * HEIGHT;
/** Electrons at saturation and of read noise, by ISO: each doubling halves the light. */
const ISOS = [400, 1600, 6400];
const FULL_WELL_AT_100 = 60000;
const READ_ELECTRONS = 3;

const given = process.argv.slice(2);
const FOLDERS = ["/usr/share/backgrounds/gnome", "/usr/share/backgrounds"];
const photographs = given.length
  ? given
  : FOLDERS.flatMap((folder) =>
      readdirSync(folder)
        .filter((file) => /\.(jpg|jpeg)$/i.test(file))
        .map((file) => join(folder, file)),
    ).slice(0, 6);

const encodeByte = (v: number): number =>
  Math.round(255 * encode(SPACES.srgb.curve, Math.min(1, Math.max(0, v))));

/** A normal number. */
function gaussian(rnd: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - rnd())) * Math.cos(2 * Math.PI * rnd());
}

/** Light with photon and read noise, encoded. */
function noisyBytes(planes: readonly Float32Array[], iso: number, seed: number): Uint8Array {
  const rnd = random(seed);
  const full = (FULL_WELL_AT_100 * 100) / iso;
  const out = new Uint8Array(3 * N);
  for (let i = 0; i < N; i++)
    for (let c = 0; c < 3; c++) {
      const electrons = planes[c]![i]! * full;
      const sigma = Math.sqrt(electrons + READ_ELECTRONS ** 2);
      out[3 * i + c] = encodeByte((electrons + sigma * gaussian(rnd)) / full);
    }
  return out;
}

function psnr(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i]! - b[i]!) ** 2;
  return 10 * Math.log10((255 ** 2 * a.length) / sum);
}

/** The frame through our noise reduction, as bytes, and how long it took on one thread, ms. */
function ours(noisy: Uint8Array): { bytes: Uint8Array; ms: number; factor: number } {
  const heap = Heap.local(N * 4 * 24 + (1 << 22));
  const bytes = N * 4 + 64;
  const planes = heap.alloc(bytes * 4);
  const into = toWorking("srgb");
  for (let i = 0; i < N; i++) {
    const rgb = apply(into, [
      DECODED[noisy[3 * i]!]!,
      DECODED[noisy[3 * i + 1]!]!,
      DECODED[noisy[3 * i + 2]!]!,
    ]);
    for (let c = 0; c < 3; c++) heap.f32(planes + c * bytes, N)[i] = rgb[c]!;
  }
  const start = performance.now();
  const scene = { ptr: planes, planeBytes: bytes, width: WIDTH, height: HEIGHT };
  const noise = measureNoise(heap, scene, false);
  const sigma = heap.alloc(bytes);
  heap.f32(sigma, N).fill(noise.factor);
  const clean = denoise(heap, planes, bytes, sigma, scene, noise);
  const ms = performance.now() - start;
  const out = new Uint8Array(3 * N);
  const back = fromWorking("srgb");
  for (let i = 0; i < N; i++) {
    const rgb = apply(
      back,
      [0, 1, 2].map((c) => heap.f32(clean + c * bytes, N)[i]!) as [number, number, number],
    );
    for (let c = 0; c < 3; c++) out[3 * i + c] = encodeByte(rgb[c]!);
  }
  return { bytes: out, ms, factor: noise.factor };
}

const folder = mkdtempSync(join(tmpdir(), "rhizome-noise-"));
const OPENCV = `
import cv2, sys, time, numpy as np
cv2.setNumThreads(1)
w, h, path, clean = int(sys.argv[1]), int(sys.argv[2]), sys.argv[3], sys.argv[4]
a = np.fromfile(path, np.uint8).reshape(h, w, 3)[:, :, ::-1].copy()
c = np.fromfile(clean, np.uint8).reshape(h, w, 3)[:, :, ::-1].astype(np.float64)
best = (0, 0, 0)
for k in (2, 3, 4, 6, 10, 15):
    t = time.time()
    d = cv2.fastNlMeansDenoisingColored(a, None, k, k, 7, 21)
    ms = (time.time() - t) * 1000
    p = 10 * np.log10(255 ** 2 / np.mean((d.astype(np.float64) - c) ** 2))
    if p > best[0]: best = (p, k, ms)
print(*best)
`;

console.log("photograph            ISO   noisy  OpenCV (h)    ours    gain   time ratio");
const gains: number[] = [];
for (const [seed, photograph] of photographs.entries()) {
  const { planes } = photographLight(photograph, WIDTH, HEIGHT);
  const clean = new Uint8Array(3 * N);
  for (let i = 0; i < N; i++)
    for (let c = 0; c < 3; c++) clean[3 * i + c] = encodeByte(planes[c]![i]!);
  const cleanPath = join(folder, "clean.bin");
  writeFileSync(cleanPath, clean);
  for (const iso of ISOS) {
    const noisy = noisyBytes(planes, iso, seed + iso);
    const noisyPath = join(folder, "noisy.bin");
    writeFileSync(noisyPath, noisy);
    const native = execFileSync(
      "/usr/bin/python3",
      ["-c", OPENCV, String(WIDTH), String(HEIGHT), noisyPath, cleanPath],
      { encoding: "utf8" },
    );
    const [theirs, h, theirMs] = native.trim().split(" ").map(Number) as [number, number, number];
    const result = ours(noisy);
    const own = psnr(result.bytes, clean);
    gains.push(own - theirs);
    console.log(
      [
        basename(photograph).slice(0, 20).padEnd(20),
        String(iso).padStart(5),
        psnr(noisy, clean).toFixed(2).padStart(7),
        `${theirs.toFixed(2)} (${h})`.padStart(11),
        own.toFixed(2).padStart(7),
        (own - theirs).toFixed(2).padStart(7),
        (result.ms / theirMs).toFixed(3).padStart(12),
        result.factor.toFixed(2).padStart(6),
      ].join(" "),
    );
  }
}
rmSync(folder, { recursive: true });
console.log(
  `gain in dB: mean ${(gains.reduce((a, b) => a + b, 0) / gains.length).toFixed(2)}, least ${Math.min(...gains).toFixed(2)}`,
);

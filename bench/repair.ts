// Healing of spots beside native OpenCV's inpainting, both in the same run: photographs with round
// spots of 10 to 60 px, as taken and with grain. PSNR is of the spots alone, 8 bit.
//   node build/node/benchRepair.js [photograph...]
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { encode, SPACES } from "../core/colour/spaces";
import { random } from "../core/math/random";
import { planeBytesOf } from "../core/raster/accumulator";
import { applyRepair } from "../core/retouch/applyRepair";
import type { Repair } from "../core/retouch/repair";
import { Heap } from "../kernels/heap";
import { DECODED, photographLight } from "./photographScene";

const WIDTH = 1500;
const HEIGHT = 1000;
const N = WIDTH * HEIGHT;
const SPOTS = 12;
const RADII = [5, 30] as const;
/** Standard deviations of the grain, 8-bit steps. */
const GRAINS = [0, 4];

const given = process.argv.slice(2);
const FOLDER = "/usr/share/backgrounds";
const photographs = given.length
  ? given
  : readdirSync(FOLDER)
      .filter((file) => /\.(jpg|png)$/i.test(file))
      .map((file) => join(FOLDER, file));

interface Spot {
  x: number;
  y: number;
  radius: number;
}

/** Spots that do not come near each other or the border, px. */
function someSpots(rnd: () => number): Spot[] {
  const spots: Spot[] = [];
  for (let tries = 0; spots.length < SPOTS && tries < 4000; tries++) {
    const spot = {
      x: 60 + rnd() * (WIDTH - 120),
      y: 60 + rnd() * (HEIGHT - 120),
      radius: RADII[0] + rnd() * (RADII[1] - RADII[0]),
    };
    if (spots.every((s) => Math.hypot(s.x - spot.x, s.y - spot.y) > 130)) spots.push(spot);
  }
  return spots;
}

const inside = ({ x, y, radius }: Spot): number[] => {
  const found: number[] = [];
  for (let v = Math.floor(y - radius); v <= y + radius; v++)
    for (let u = Math.floor(x - radius); u <= x + radius; u++)
      if (Math.hypot(u + 0.5 - x, v + 0.5 - y) <= radius) found.push(v * WIDTH + u);
  return found;
};

function psnr(a: Uint8Array, b: Uint8Array, places: readonly number[]): number {
  let sum = 0;
  for (const i of places) for (let c = 0; c < 3; c++) sum += (a[3 * i + c]! - b[3 * i + c]!) ** 2;
  return 10 * Math.log10(255 ** 2 / Math.max(0.05, sum / (3 * places.length)));
}

const mean = (values: readonly number[]): number =>
  values.reduce((sum, value) => sum + value, 0) / values.length;
/** dB of the mean error. */
const pooled = (values: readonly number[]): number =>
  -10 * Math.log10(mean(values.map((db) => 10 ** (-db / 10))));

/** The photograph with grain, as bytes. */
function grained(planes: readonly Float32Array[], sigma: number, rnd: () => number): Uint8Array {
  const out = new Uint8Array(3 * N);
  for (let i = 0; i < N; i++)
    for (let c = 0; c < 3; c++) {
      const grain =
        sigma && sigma * Math.sqrt(-2 * Math.log(1 - rnd())) * Math.cos(2 * Math.PI * rnd());
      const value = 255 * encode(SPACES.srgb.curve, planes[c]![i]!) + grain;
      out[3 * i + c] = Math.round(Math.min(255, Math.max(0, value)));
    }
  return out;
}

function healed(bytes: Uint8Array, spots: readonly Spot[]): { bytes: Uint8Array; ms: number } {
  const planeBytes = planeBytesOf(WIDTH, HEIGHT);
  const heap = Heap.local(planeBytes * 4 + (1 << 26));
  const ptr = heap.alloc(planeBytes * 4);
  for (let c = 0; c < 3; c++)
    heap
      .f32(ptr + c * planeBytes, N)
      .set(Float32Array.from({ length: N }, (_, i) => DECODED[bytes[3 * i + c]!]!));
  heap.f32(ptr + 3 * planeBytes, N).fill(1);
  const rows = { ptr, planeBytes, width: WIDTH, height: HEIGHT, x: 0, y: 0 };
  const began = performance.now();
  for (const spot of spots) {
    const repair: Repair = {
      kind: "heal",
      shape: {
        type: "spot",
        x: spot.x / WIDTH,
        y: spot.y / HEIGHT,
        radius: spot.radius / WIDTH,
      },
      softness: 0.3,
      on: true,
    };
    applyRepair(heap, rows, repair, { width: WIDTH, height: HEIGHT });
  }
  const ms = performance.now() - began;
  const out = bytes.slice();
  for (let c = 0; c < 3; c++) {
    const plane = heap.f32(ptr + c * planeBytes, N);
    for (let i = 0; i < N; i++)
      out[3 * i + c] = Math.round(
        255 * encode(SPACES.srgb.curve, Math.min(1, Math.max(0, plane[i]!))),
      );
  }
  return { bytes: out, ms };
}

const INPAINT = `
import sys, time, json, cv2, numpy as np
root, w, h = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
image = np.fromfile(root + "/image", np.uint8).reshape(h, w, 3)
mask = np.fromfile(root + "/mask", np.uint8).reshape(h, w)
cv2.setNumThreads(1)
for name, radius, how in (("telea", 3, cv2.INPAINT_TELEA), ("stokes", 3, cv2.INPAINT_NS)):
    began = time.perf_counter()
    out = cv2.inpaint(np.ascontiguousarray(image[:, :, ::-1]), mask, radius, how)
    print(round((time.perf_counter() - began) * 1000))
    np.ascontiguousarray(out[:, :, ::-1]).tofile(root + "/" + name)
`;

const root = mkdtempSync(join(tmpdir(), "repair-"));
try {
  console.log(
    "photograph             grain  ours dB  Telea  Stokes   pooled: ours  Telea  Stokes  ms",
  );
  for (const grain of GRAINS) {
    const all: number[][] = [[], [], []];
    for (const [number, photograph] of photographs.entries()) {
      const rnd = random(100 + number);
      const { planes } = photographLight(photograph, WIDTH, HEIGHT);
      const truth = grained(planes, grain, rnd);
      const spots = someSpots(rnd);
      const mask = new Uint8Array(N);
      const broken = truth.slice();
      for (const i of spots.flatMap(inside)) {
        mask[i] = 255;
        broken.fill(128, 3 * i, 3 * i + 3);
      }
      writeFileSync(join(root, "image"), broken);
      writeFileSync(join(root, "mask"), mask);
      const times = execFileSync("/usr/bin/python3", [
        "-c",
        INPAINT,
        root,
        String(WIDTH),
        String(HEIGHT),
      ])
        .toString()
        .trim()
        .split("\n");
      const mine = healed(broken, spots);
      const pictures = [
        mine.bytes,
        ...["telea", "stokes"].map((name) => new Uint8Array(readFileSync(join(root, name)))),
      ];
      const found = pictures.map((picture) => spots.map((s) => psnr(picture, truth, inside(s))));
      found.forEach((values, k) => all[k]!.push(...values));
      const line = [...found.map(mean), ...found.map(pooled)].map((v) => v.toFixed(1).padStart(7));
      console.log(
        basename(photograph).padEnd(24),
        grain,
        ...line,
        `${Math.round(mine.ms)} / ${times.join(" / ")}`,
      );
    }
    console.log("all", grain, ...[...all.map(mean), ...all.map(pooled)].map((v) => v.toFixed(2)));
  }
} finally {
  rmSync(root, { recursive: true });
}

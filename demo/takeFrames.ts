/* eslint-disable max-lines -- one script takes the whole demo: each scene after the other, in the order of the shoot */
// Takes the demo frames from the rendered scenes with the simulated camera: npm run demo:frames
import { mkdir, readFile, writeFile } from "node:fs/promises";
import { fileURLToPath } from "node:url";
import Vips from "wasm-vips";
import { random } from "../core/math/random";
import { pose, srgbResponse, takeFrame, type RadianceImage } from "../simulate/camera";
import type { LensGhost } from "../simulate/lensGhosts";
import { simulateSweep } from "../simulate/sweep";
import { lensPoints, refocus, type LensView } from "../simulate/refocus";
import { writeProfile } from "../codecs/icc";

const root = fileURLToPath(new URL("../..", import.meta.url));
const W = 2160;
const H = 1440;

interface Set {
  name: string;
  /** of the stand-in camera's scene, where it is one */
  title?: string;
  scene: (i: number) => string;
  evs: number[];
  base: number;
  hand: number;
  time: number;
  start: string;
  aperture: number;
  iso: number;
  gap: number;
}
/**
 * `base` is the EV at which the mid frame is taken against the rendered radiance; `time` its
 * shutter time.
 */
const SETS: Set[] = [
  {
    name: "dome",
    title: "Dome room, its slit open",
    scene: () => "dome",
    evs: [0, -2, 2, -4, 4],
    base: -0.6,
    hand: 0,
    time: 1 / 15,
    start: "09:12:04",
    aperture: 8,
    iso: 100,
    gap: 0.52,
  },
  {
    name: "library",
    title: "Library with windows onto the valley",
    scene: () => "library",
    evs: [-3, -2, -1, 0, 1, 2, 3],
    base: -1.9,
    hand: 1,
    time: 1 / 60,
    start: "09:31:40",
    aperture: 5.6,
    iso: 400,
    gap: 0.24,
  },
  {
    name: "hall",
    scene: (i) => `hall-${i}`,
    evs: [0, -2, 2, -4, 4],
    base: -0.9,
    hand: 0,
    time: 1 / 30,
    start: "09:58:17",
    aperture: 8,
    iso: 100,
    gap: 0.48,
  },
  {
    name: "bedroom",
    title: "Bedroom at night",
    scene: () => "bedroom",
    evs: [-3, 0, 3],
    base: 2.3,
    hand: 0,
    time: 1,
    start: "21:46:30",
    aperture: 5.6,
    iso: 200,
    gap: 1.6,
  },
];

const vips = await Vips({ dynamicLibraries: [] });
vips.Cache.max(0);

async function load(name: string): Promise<RadianceImage> {
  const file = vips.Image.newFromBuffer(await readFile(`${root}demo/render-out/${name}.hdr`));
  const im = file.rad2float();
  const raw = im.writeToMemory() as Uint8Array;
  const f = new Float32Array(raw.buffer, raw.byteOffset, im.width * im.height * 3);
  const n = im.width * im.height;
  const planes = [0, 1, 2].map((c) =>
    Float32Array.from({ length: n }, (_, i) => f[i * 3 + c]!),
  ) as unknown as RadianceImage["planes"];
  const out = { width: im.width, height: im.height, planes: glare(planes, im.width, im.height) };
  im.delete();
  file.delete();
  return out;
}

/** Share of each pixel that a picture with alpha covers. */
async function coverage(name: string): Promise<Float32Array> {
  const file = vips.Image.newFromBuffer(await readFile(`${root}demo/render-out/${name}.png`));
  const alpha = file.extractBand(3).cast("float");
  const most = file.format === "ushort" ? 65535 : 255;
  const raw = alpha.writeToMemory() as Uint8Array;
  const out = new Float32Array(raw.buffer, raw.byteOffset, file.width * file.height).map(
    (v) => v / most,
  );
  alpha.delete();
  file.delete();
  return out;
}

/**
 * A real lens scatters a little of every light over its neighbourhood: 2 % of it here, ever wider.
 */
function glare(planes: RadianceImage["planes"], w: number, h: number): RadianceImage["planes"] {
  return planes.map((p) => {
    const im = vips.Image.newFromMemory(p, w, h, 1, vips.BandFormat.float);
    const out = p.map((v) => v * 0.978);
    for (const [sigma, share] of [
      [1.1, 0.012],
      [7, 0.006],
      [40, 0.004],
    ] as const) {
      const wide = im.gaussblur(sigma, { precision: "approximate" });
      const raw = wide.writeToMemory() as Uint8Array;
      new Float32Array(raw.buffer, raw.byteOffset, w * h).forEach((v, i) => {
        out[i]! += v * share;
      });
      wide.delete();
    }
    im.delete();
    return out;
  }) as unknown as RadianceImage["planes"];
}

/**
 * A scene that the stand-in camera may take frames of: those it is known from, and how they were
 * taken; distances in mm.
 */
interface Scene {
  id: string;
  title: string;
  kind: "bracket" | "panorama" | "focus";
  frames: string[];
  focal: number;
  time: number;
  aperture: number;
  near?: number;
  far?: number;
  /** steps of focus over which things look sharp */
  sharpSteps?: number;
}
const manifest: { shoot: string; frames: string[]; scenes: Scene[] } = {
  shoot: "Quillmoor Observatory",
  frames: [],
  scenes: [],
};
const lately = (count: number): string[] => manifest.frames.slice(-count);
let number = 412;
const ordinal = (i: number): string => String(i).padStart(4, "0");

interface Shot {
  name: string;
  /** of September 2026 */
  day?: number;
  start: string;
  /** s after it */
  t: number;
  exposure: number;
  aperture: number;
  iso: number;
  focal: number;
}

/** Writes a frame as a camera would, with what it knows of the shot. */
async function save(
  pixels: Uint8Array | Uint16Array,
  w: number,
  h: number,
  { name, day = 14, start, t, exposure, aperture, iso, focal }: Shot,
): Promise<void> {
  const im = vips.Image.newFromMemory(pixels, w, h, 3, vips.BandFormat.uchar).copy({
    interpretation: "srgb",
  });
  const [hh, mm, ss] = start.split(":").map(Number) as [number, number, number];
  const at = hh * 3600 + mm * 60 + ss + t;
  const stamp = `2026:09:${day} ${[at / 3600, (at / 60) % 60, at % 60].map((v) => String(Math.floor(v)).padStart(2, "0")).join(":")}`;
  const rational = (v: number): string =>
    v < 1 ? `1/${Math.round(1 / v)}` : `${Math.round(v * 10)}/10`;
  const fields: Record<string, string> = {
    "exif-ifd0-Make": "Quillmoor",
    "exif-ifd0-Model": "Stand-in 24",
    "exif-ifd0-DateTime": stamp,
    "exif-ifd2-ExposureTime": rational(exposure),
    "exif-ifd2-FNumber": rational(aperture),
    "exif-ifd2-ISOSpeedRatings": String(iso),
    "exif-ifd2-FocalLength": `${focal}/1`,
    "exif-ifd2-FocalLengthIn35mmFilm": String(focal),
    "exif-ifd2-DateTimeOriginal": stamp,
    "exif-ifd2-SubSecTimeOriginal": String(Math.floor((at % 1) * 100)).padStart(2, "0"),
    "exif-ifd2-LensModel": `Stand-in ${focal} mm`,
  };
  for (const [k, v] of Object.entries(fields)) im.setString(k, v);
  im.setBlob("icc-profile-data", writeProfile("srgb"));
  await writeFile(
    `${root}demo/frames/${name}`,
    im.jpegsaveBuffer({ Q: 93, subsample_mode: "off" }),
  );
  im.delete();
  manifest.frames.push(name);
}

await mkdir(`${root}demo/frames`, { recursive: true });
const only = process.argv.slice(2);
for (const set of SETS) {
  // names stay the same when only some sets are taken again
  if (only.length && !only.includes(set.name)) {
    set.evs.forEach(() => manifest.frames.push(`QM_${ordinal(number++)}.jpg`));
    noteSet(set);
    continue;
  }
  const rnd = random(set.name.length * 7919);
  const scenes = new Map<string, RadianceImage>();
  let t = 0;
  for (let i = 0; i < set.evs.length; i++) {
    const file = set.scene(i);
    if (!scenes.has(file)) {
      scenes.clear();
      scenes.set(file, await load(file));
    }
    const scene = scenes.get(file)!;
    const shake = (): number => (rnd() * 2 - 1) * set.hand;
    const centre = [1, 0, (scene.width - W) / 2, 0, 1, (scene.height - H) / 2, 0, 0, 1];
    const p = pose(W, H, shake() * 0.55, shake() * 16, shake() * 12, shake() * 0.002);
    const toScene = p.map((v, k) => {
      if (k === 2) return v + centre[2]!;
      if (k === 5) return v + centre[5]!;
      return v;
    });
    const pixels = takeFrame(scene, {
      width: W,
      height: H,
      ev: set.base + set.evs[i]!,
      toScene,
      seed: number,
      vignetting: 0.12,
      response: srgbResponse,
      gain: set.iso > 200 ? 12000 : 24000,
      read: 7e-4,
    });
    const exposure = set.time * 2 ** set.evs[i]!;
    await save(pixels, W, H, {
      name: `QM_${ordinal(number++)}.jpg`,
      start: set.start,
      t,
      exposure,
      aperture: set.aperture,
      iso: set.iso,
      focal: 20,
    });
    t += set.gap + exposure;
  }
  noteSet(set);
}
function noteSet({ name, title, evs, time, aperture }: Set): void {
  if (title)
    manifest.scenes.push({
      id: name,
      title,
      kind: "bracket",
      frames: lately(evs.length),
      focal: 20,
      time,
      aperture,
    });
}
// the ridge at morning: one row of portrait frames, hand-held, from left to right
if (!only.length || only.includes("ridge")) {
  const scene = await load("ridge");
  const rnd = random(91);
  let t = 0;
  for (let i = 0; i < 7; i++, t += 2.1 + rnd() * 0.8) {
    const [f] = simulateSweep(
      { ...scene, piece: { across: 160, down: 64 } },
      {
        directions: [[(i - 3) * 19.6, 0]],
        width: 1440,
        height: 2160,
        focalPx: 2100,
        distortion: [-0.012, 0.003, 0],
        roll: 0.7,
        vignetting: 0.16,
        ev: -0.55 + (i - 3) * 0.05,
        gain: 24000,
        seed: 910 + i,
      },
    );
    await save(f!.samples, 1440, 2160, {
      name: `QM_${ordinal(number++)}.jpg`,
      day: 15,
      start: "10:21:08",
      t,
      exposure: 1 / 250,
      aperture: 8,
      iso: 100,
      focal: 35,
    });
  }
} else for (let i = 0; i < 7; i++) manifest.frames.push(`QM_${ordinal(number++)}.jpg`);
manifest.scenes.push({
  id: "ridge",
  title: "Ridge at morning",
  kind: "panorama",
  frames: lately(7),
  focal: 35,
  time: 1 / 250,
  aperture: 8,
});
// close to: a lens whose focus travels from near to far
interface Macro {
  name: string;
  focalPx: number;
  radius: number;
  near: number;
  far: number;
  width: number;
  height: number;
  /** places of focus, of which `shots` tells those taken, in their order */
  steps: number;
  shots: number[];
  /** from this one on something of it lies otherwise */
  movedFrom?: number;
  hand: number;
  ev: number;
  start: string;
  gap: number;
  focal: number;
  title?: string;
}
const upTo = (n: number): number[] => Array.from({ length: n }, (_, i) => i);
const MACROS: Macro[] = [
  {
    name: "clockdrive",
    focalPx: 660 / Math.tan((12 * Math.PI) / 180),
    radius: 1.5,
    near: 76,
    far: 109,
    width: 1184,
    height: 784,
    steps: 24,
    shots: upTo(24),
    hand: 0,
    ev: 0.35,
    start: "14:02:30",
    gap: 1.9,
    focal: 100,
    title: "Clock drive, close to",
  },
  {
    name: "beetle",
    focalPx: 660 / Math.tan((11.5 * Math.PI) / 180),
    radius: 0.55,
    near: 22.6,
    far: 38,
    width: 1140,
    height: 720,
    steps: 19,
    shots: upTo(19).filter((i) => i !== 11),
    movedFrom: 8,
    hand: 1,
    ev: -0.35,
    start: "15:37:12",
    gap: 0.34,
    focal: 100,
  },
];
// there and back again in one burst
const MOSS: Macro = {
  name: "moss",
  focalPx: 660 / Math.tan((13 * Math.PI) / 180),
  radius: 0.2,
  near: 21,
  far: 60,
  width: 1140,
  height: 720,
  steps: 19,
  shots: [...upTo(19), ...upTo(18).slice(1).reverse()],
  hand: 0.8,
  ev: 0.4,
  start: "09:14:20",
  gap: 0.14,
  focal: 100,
};
const LENS_POINTS = 40;
async function takeRun(m: Macro, day: number): Promise<void> {
  if (only.length && !only.includes(m.name)) {
    m.shots.forEach(() => manifest.frames.push(`QM_${ordinal(number++)}.jpg`));
    noteRun(m);
    return;
  }
  const through = async (name: string): Promise<LensView[]> => {
    const views: LensView[] = [];
    for (const [i, [right, up]] of lensPoints(LENS_POINTS, m.radius).entries())
      views.push({ image: await load(`${name}-${String(i).padStart(2, "0")}`), right, up });
    return views;
  };
  const rnd = random(m.name.length * 31);
  let views = await through(m.name);
  for (const [k, i] of m.shots.entries()) {
    if (i === m.movedFrom) views = await through(`${m.name}-moved`);
    // even steps of blur are even steps of 1 / distance; and a lens that focuses nearer shows
    // things a little larger
    const along = i / (m.steps - 1);
    const distance = 1 / ((1 - along) / m.near + along / m.far);
    const image = refocus(views, m.focalPx, distance);
    const shake = (): number => (rnd() * 2 - 1) * m.hand;
    const p = pose(
      m.width,
      m.height,
      shake() * 0.35,
      shake() * 7,
      shake() * 6,
      0.018 * (along - 0.5),
    );
    const toScene = p.map((v, c) => {
      if (c === 2) return v + (image.width - m.width) / 2;
      if (c === 5) return v + (image.height - m.height) / 2;
      return v;
    });
    const pixels = takeFrame(image, {
      width: m.width,
      height: m.height,
      ev: m.ev + shake() * 0.04,
      toScene,
      seed: number,
      vignetting: 0.06,
      response: srgbResponse,
      gain: 24000,
      read: 7e-4,
    });
    await save(pixels, m.width, m.height, {
      name: `QM_${ordinal(number++)}.jpg`,
      day,
      start: m.start,
      t: k * m.gap,
      exposure: 1 / 125,
      aperture: 4,
      iso: 100,
      focal: m.focal,
    });
  }
  noteRun(m);
}
for (const m of MACROS) await takeRun(m, 15);
/**
 * A step of focus spreads a point by 1.6 px here: over two and a half of them nothing looks soft.
 */
function noteRun({ name, title, steps, focal, near, far }: Macro): void {
  if (title)
    manifest.scenes.push({
      id: name,
      title,
      kind: "focus",
      frames: lately(steps),
      focal,
      time: 1 / 125,
      aperture: 4,
      near,
      far,
      sharpSteps: 2.5,
    });
}
// the gallery all round: three rows of eight from a tripod, then straight up, and down past the
// tripod; the lens throws its windows' light about
const ROUND: [number, number][] = [
  ...[0, 45, -45].flatMap((pitch) =>
    Array.from({ length: 8 }, (_, i): [number, number] => [i * 45, pitch]),
  ),
  [0, 90],
  [20, -70],
];
const GALLERY = {
  width: 720,
  height: 1080,
  focalPx: 600,
  distortion: [-0.02, 0.004, 0] as [number, number, number],
  vignetting: 0.2,
  ev: 0.45,
  gain: 24000,
  ghosts: [
    { scale: -0.35, blur: 14, share: [0.0016, 0.0022, 0.0012] },
    { scale: -0.8, blur: 40, share: [0.0022, 0.0012, 0.0026] },
    { scale: 0.25, blur: 9, share: [0.0004, 0.0008, 0.001] },
  ] as LensGhost[],
};
const galleryShot = (i: number): Shot => ({
  name: `QM_${ordinal(number++)}.jpg`,
  day: 15,
  start: "16:24:40",
  t: i * 2.6 + (i > 7 ? 6 : 0) + (i > 15 ? 6 : 0) + (i > 25 ? 9 : 0),
  exposure: 1 / 30,
  aperture: 8,
  iso: 200,
  focal: 20,
});
if (!only.length || only.includes("gallery")) {
  const scene = await load("gallery");
  const take = async (
    i: number,
    from: RadianceImage,
    direction: [number, number],
    roll: number,
  ): Promise<void> => {
    const [f] = simulateSweep(from, {
      ...GALLERY,
      directions: [direction],
      roll,
      seed: 1600 + i,
    });
    await save(f!.samples, 720, 1080, galleryShot(i));
  };
  for (const [i, direction] of ROUND.entries()) await take(i, scene, direction, 0.4);
  // its floor once more by hand from beside, the tripod taken away
  await take(ROUND.length, await load("gallery-floor"), [48, -62], 1.5);
} else for (let i = 0; i <= ROUND.length; i++) manifest.frames.push(`QM_${ordinal(number++)}.jpg`);
manifest.scenes.push({
  id: "gallery",
  title: "Gallery under the roof, all round",
  kind: "panorama",
  frames: lately(ROUND.length + 1).slice(0, -1),
  focal: 20,
  time: 1 / 30,
  aperture: 8,
});
// the ridge at dusk: five places, three exposures each, from a tripod, while cloud drifts
const DUSK = [-2, -1, 0, 1, 2].flatMap((place) => [0, -2, 2].map((ev) => ({ place, ev })));
if (!only.length || only.includes("dusk")) {
  const land = await load("dusk");
  const hides = await coverage("dusk-land");
  for (const [i, { place, ev }] of DUSK.entries()) {
    const sky = await load(`dusk-sky-${String(i).padStart(2, "0")}`);
    const planes = sky.planes.map((p, c) =>
      p.map((v, k) => v + (land.planes[c]![k]! - v) * hides[k]!),
    ) as unknown as RadianceImage["planes"];
    const [f] = simulateSweep(
      { width: land.width, height: land.height, planes, piece: { across: 128, down: 64 } },
      {
        directions: [[place * 21.5 + (place % 2) * 0.4, place * 0.15]],
        width: 720,
        height: 1080,
        focalPx: 1050,
        distortion: [-0.012, 0.003, 0],
        vignetting: 0.16,
        ev: 0.9 + ev,
        gain: 24000,
        seed: 2300 + i,
      },
    );
    const exposure = 2 ** ev / 15;
    await save(f!.samples, 720, 1080, {
      name: `QM_${ordinal(number++)}.jpg`,
      day: 15,
      start: "19:41:05",
      t: Math.floor(i / 3) * 5.2 + (i % 3) * 0.9,
      exposure,
      aperture: 8,
      iso: 100,
      focal: 35,
    });
  }
} else DUSK.forEach(() => manifest.frames.push(`QM_${ordinal(number++)}.jpg`));
await takeRun(MOSS, 16);
// the valley in the afternoon: two rows of six, hand-held, there and back
const VALLEY: [number, number][] = [
  ...[5, 4, 3, 2, 1, 0].map((i): [number, number] => [(i - 2.5) * 22, 6]),
  ...[0, 1, 2, 3, 4, 5].map((i): [number, number] => [(i - 2.5) * 22, -16]),
];
if (!only.length || only.includes("valley")) {
  const scene = await load("valley");
  const rnd = random(57);
  for (let i = 0, t = 0; i < VALLEY.length; i++, t += 2.2 + rnd() * 0.9) {
    const [f] = simulateSweep(
      { ...scene, piece: { across: 176, down: 84 } },
      {
        directions: [VALLEY[i]!],
        width: 1620,
        height: 1080,
        focalPx: 1575,
        distortion: [-0.012, 0.003, 0],
        roll: 0.8,
        vignetting: 0.16,
        ev: -0.05 + (i % 6) * 0.04,
        gain: 24000,
        seed: 3100 + i,
      },
    );
    await save(f!.samples, 1620, 1080, {
      name: `QM_${ordinal(number++)}.jpg`,
      day: 16,
      start: "15:08:44",
      t,
      exposure: 1 / 320,
      aperture: 8,
      iso: 100,
      focal: 35,
    });
  }
} else VALLEY.forEach(() => manifest.frames.push(`QM_${ordinal(number++)}.jpg`));
manifest.scenes.push({
  id: "valley",
  title: "Valley in the afternoon",
  kind: "panorama",
  frames: lately(VALLEY.length),
  focal: 35,
  time: 1 / 320,
  aperture: 8,
});
await writeFile(`${root}demo/frames/shoot.json`, `${JSON.stringify(manifest, null, 2)}\n`);
process.exit(0);

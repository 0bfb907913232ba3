import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { readFile } from "node:fs/promises";
import { join } from "node:path";
import Vips from "wasm-vips";
import { bedroom, frames, ownFolder, run } from "../tests/cli/calls";

const folder = ownFolder();
const HEADROOM = 3;
/** Shares of R, G and B in luminance, of both files' own primaries. */
const SRGB = [0.2126, 0.7152, 0.0722] as const;
const REC2020 = [0.2627, 0.678, 0.0593] as const;

async function merged(ending: string, ...settings: string[]): Promise<string> {
  const file = join(folder.dir(), `${settings.join("-").replace(/[^\w]/g, "")}.${ending}`);
  const set = settings.flatMap((setting) => ["--set", setting]);
  expect(await run("merge", ...bedroom, "--as", "bracket", "--out", file, ...set)).toMatchObject({
    code: 0,
    err: "",
  });
  return file;
}

const luminances = (samples: Float32Array, [r, g, b]: readonly [number, number, number]) =>
  Float32Array.from(
    { length: samples.length / 3 },
    (_, i) => r * samples[3 * i]! + g * samples[3 * i + 1]! + b * samples[3 * i + 2]!,
  );

/** Toned so that the light is the scene's own. */
const PLAIN = ["tone.operator=plain", "tone.exposure=1"];

/** The light of the scene, white at 1. */
async function sceneLight(vips: typeof import("wasm-vips")): Promise<Float32Array> {
  const radiance = vips.Image.newFromBuffer(await readFile(await merged("hdr", ...PLAIN)));
  return luminances(radiance.rad2float().writeToMemory() as unknown as Float32Array, REC2020);
}

/** How far lights are off, EV, in order; of those that a display with the headroom can show. */
const errors = (shown: Float32Array, truth: Float32Array, brightest = 5): Float32Array =>
  Float32Array.from(truth, (light, i) =>
    light > 0.05 && light < brightest ? Math.abs(Math.log2(shown[i]! / light)) : -1,
  )
    .filter((error) => error >= 0)
    .sort();

/** Light of a code of SMPTE ST 2084, white at 203 cd/m². */
function lightOfPq(code: number): number {
  const power = code ** (32 / 2523);
  const [a, b, c] = [3424 / 4096, 2413 / 128, 2392 / 128];
  return (10000 / 203) * (Math.max(0, power - a) / (b - c * power)) ** (16384 / 2610);
}

test("a display with headroom gets the scene's own light from the file, all others the picture as it was", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const bright = await readFile(await merged("jpg", ...PLAIN, `deliver.headroom=${HEADROOM}`));
  const usual = await readFile(await merged("jpg", ...PLAIN));
  // the library by which displays show such files
  const decoded = vips.Image.uhdrloadBuffer(bright);
  expect(decoded.getArrayDouble("gainmap-max-content-boost")[0]).toBeCloseTo(2 ** HEADROOM, 3);
  const shown = luminances(
    Float32Array.from(decoded.uhdr2scRGB().writeToMemory() as unknown as Float32Array),
    SRGB,
  );
  const truth = await sceneLight(vips);
  const off = errors(shown, truth);
  const beyond = truth.filter((light) => light > 1.2).length;
  expect(beyond).toBeGreaterThan(10000);
  expect(off[off.length >> 1]).toBeLessThan(0.03);
  expect(off[Math.floor(off.length * 0.95)]).toBeLessThan(0.15);
  // without the map it is the same picture, to the last pixel
  const whole = vips.Image.jpegloadBuffer(bright);
  const before = vips.Image.jpegloadBuffer(usual);
  expect(whole.subtract(before).abs().max()).toBe(0);
});

/** Samples of a PNG for displays that go beyond white, after it was looked at how it says that. */
function codedPng(vips: typeof import("wasm-vips"), file: string, transfer: number): Uint16Array {
  const bytes = readFileSync(file);
  const at = bytes.indexOf("cICP");
  // before the pixels, and without a profile that says otherwise
  expect(at).toBeLessThan(bytes.indexOf("IDAT"));
  expect([...bytes.subarray(at + 4, at + 8)]).toEqual([9, transfer, 0, 1]);
  expect(bytes.indexOf("iCCP")).toBe(-1);
  // a wrong check sum would be said
  execFileSync("identify", ["-regard-warnings", file]);
  return vips.Image.newFromBuffer(bytes).writeToMemory() as unknown as Uint16Array;
}

test("a PNG in hybrid log-gamma shows the scene's own light on a display of 1000 cd/m²", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const hlg = ["deliver.headroom=3", "deliver.displayCode=hlg"];
  const coded = codedPng(vips, await merged("png", ...PLAIN, ...hlg), 18);
  const [a, b, c] = [0.17883277, 0.28466892, 0.55991073];
  const inverse = (code: number): number =>
    code <= 0.5 ? code ** 2 / 3 : (Math.exp((code - c) / a) + b) / 12;
  const scene = luminances(
    Float32Array.from(coded, (code) => inverse(code / 65535)),
    REC2020,
  );
  const shown = scene.map((light) => (1000 / 203) * light ** 1.2);
  // what the display can show: its peak is 4.9 times white
  const off = errors(shown, await sceneLight(vips), 3);
  expect(off.length).toBeGreaterThan(10000);
  expect(off[off.length >> 1]).toBeLessThan(0.1);
});

test("a PNG that is coded by brightness holds the scene's own light, and says how", async () => {
  const vips = await Vips({ dynamicLibraries: [] });
  const file = await merged("png", ...PLAIN, `deliver.headroom=${HEADROOM}`);
  const coded = codedPng(vips, file, 16);
  const truth = await sceneLight(vips);
  const lights = Float32Array.from({ length: 65536 }, (_, code) => lightOfPq(code / 65535));
  const shown = luminances(
    Float32Array.from(coded, (code) => lights[code]!),
    REC2020,
  );
  const off = errors(shown, truth);
  expect(off[off.length >> 1]).toBeLessThan(0.02);
  expect(off[Math.floor(off.length * 0.95)]).toBeLessThan(0.1);
});

test("others read the map, its index and what its numbers mean; a border is no brighter", async () => {
  const file = await merged(
    "jpg",
    "deliver.headroom=2",
    "deliver.size=long 801",
    "deliver.border=0.1",
  );
  const said = JSON.parse(
    execFileSync("exiftool", ["-j", "-n", "-G1", file], { encoding: "utf8" }),
  ) as [Record<string, unknown>];
  const bytes = (await readFile(file)).length;
  expect(said[0]).toMatchObject({
    "XMP-hdrgm:Version": 1,
    "MPF0:NumberOfImages": 2,
    "XMP-rhizome:Kind": "bracket",
  });
  const { "MPImage2:MPImageStart": start, "MPImage2:MPImageLength": length } = said[0];
  expect(Number(start) + Number(length)).toBe(bytes);
  expect((said[0]["XMP-Container:DirectoryItemLength"] as number[] | number) ?? 0).toEqual(length);
  const vips = await Vips({ dynamicLibraries: [] });
  const map = vips.Image.jpegloadBuffer((await readFile(file)).subarray(Number(start)));
  const picture = vips.Image.jpegloadBuffer(await readFile(file));
  expect([map.width, map.height, map.bands]).toEqual([
    Math.ceil(picture.width / 2),
    Math.ceil(picture.height / 2),
    1,
  ]);
  expect(map.crop(0, 0, map.width, 20).max()).toBeLessThan(12);
  expect(map.max()).toBeGreaterThan(100);
});

test("a single frame has nothing beyond white, and its map says so", async () => {
  const file = join(folder.dir(), "single.jpg");
  const [one] = frames(417, 1) as [string];
  const set = ["--set", "deliver.headroom=2", "--set", "tone.operator=plain"];
  expect(await run("merge", one, "--as", "bracket", "--out", file, ...set)).toMatchObject({
    code: 0,
  });
  const vips = await Vips({ dynamicLibraries: [] });
  const map = vips.Image.newFromBuffer(
    vips.Image.uhdrloadBuffer(await readFile(file)).getBlob("gainmap-data"),
  );
  expect(map.max()).toBeLessThan(8);
});

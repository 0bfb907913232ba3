import type { FrameInfo } from "../frame/frame";
import { random } from "../math/random";
import { groupFrames } from "./groupFrames";
import { makeSignature } from "./signature";

let n = 0;
const frame = (
  takenAt: number | undefined,
  exposureTime: number,
  more: Partial<FrameInfo["exif"]> = {},
): FrameInfo => ({
  name: `A_${String(n++).padStart(4, "0")}.jpg`,
  format: "jpeg",
  width: 60,
  height: 40,
  depth: 8,
  profile: "sRGB",
  exif: {
    exposureTime,
    aperture: 8,
    iso: 100,
    focalLength: 20,
    camera: "C",
    ...(takenAt === undefined ? {} : { takenAt }),
    ...more,
  },
});
const set = (t: number, times: number[]): FrameInfo[] => times.map((e, i) => frame(t + i * 0.4, e));

test("brackets of any order and count, back to back, and a single", () => {
  const frames = [
    ...set(0, [1 / 60, 1 / 250, 1 / 15]),
    ...set(1.4, [1 / 60, 1 / 250, 1 / 15]),
    frame(60, 1 / 60),
    ...set(120, [1 / 500, 1 / 125, 1 / 30, 1 / 8, 1 / 2]),
  ];
  const found = groupFrames(frames);
  expect(found.map((s) => [s.kind, s.frames.length])).toEqual([
    ["bracket", 3],
    ["bracket", 3],
    ["single", 1],
    ["bracket", 5],
  ]);
  expect(found.flatMap((s) => s.frames).sort((a, b) => a - b)).toEqual(frames.map((_, i) => i));
});

test("files in any order give the same stacks", () => {
  const frames = [...set(0, [1 / 60, 1 / 250, 1 / 15]), ...set(30, [1 / 60, 1 / 250, 1 / 15])];
  const names = (f: FrameInfo[]) => groupFrames(f).map((s) => s.frames.map((i) => f[i]!.name));
  expect(names([...frames].reverse())).toEqual(names(frames));
});

test("nominal shutter speeds are steps of whole stops", () => {
  expect(groupFrames(set(0, [1 / 15, 1 / 60, 1 / 4, 1 / 250, 1]))[0]!.why).toBe(
    "5 exposures, \u22124 to +4 EV, within 1.6 s",
  );
});

test("a long exposure may be followed by its dark frame's pause", () => {
  expect(
    groupFrames([frame(0, 1 / 4), frame(1, 2), frame(7, 8), frame(30, 1 / 2)]).map(
      (s) => s.frames.length,
    ),
  ).toEqual([3, 1]);
});

test("an hour's jump of the clock and the count beginning again after 9999 part nothing; a wait of a minute does not either", () => {
  const at = (name: string, t: number, e: number): FrameInfo => ({ ...frame(t, e), name });
  const frames = [
    at("A_9998.jpg", 100, 1 / 60),
    at("A_9999.jpg", 100.5, 1 / 250),
    at("A_0001.jpg", 101, 1 / 15),
    at("A_0002.jpg", 101 - 3600, 1 / 60),
    at("A_0003.jpg", 101.5 - 3600, 1 / 250),
    at("A_0004.jpg", 160 - 3600, 1 / 15),
  ];
  expect(groupFrames([...frames].reverse()).map((s) => s.frames.length)).toEqual([3, 3]);
  expect(groupFrames(frames, [], 20).map((s) => s.frames.length)).toEqual([3, 2, 1]);
});

test("a missing exposure is named", () => {
  expect(groupFrames(set(0, [1 / 1000, 1 / 250, 1 / 15, 1 / 4]))[0]!.warnings[0]!.code).toBe(
    "exposure-missing",
  );
});

test("a changed aperture is named; another camera or lens ends a set; without times two frames are no bracket", () => {
  expect(
    groupFrames([
      frame(0, 1 / 60),
      frame(0.5, 1 / 250, { aperture: 5.6 }),
      frame(1, 1 / 15),
    ])[0]!.warnings.map((w) => w.code),
  ).toContain("aperture-varies");
  expect(groupFrames([frame(0, 1 / 60), frame(0.5, 1 / 250, { focalLength: 35 })])).toHaveLength(2);
  expect(groupFrames([frame(0, 1 / 60), frame(0.5, 1 / 250, { camera: "D" })])).toHaveLength(2);
  expect(groupFrames([frame(undefined, 1 / 60), frame(undefined, 1 / 250)])).toHaveLength(2);
  expect(groupFrames([])).toEqual([]);
});

test("an exposure missing at a bracket's end is named by what the day's other brackets have", () => {
  const five = [1 / 250, 1 / 125, 1 / 60, 1 / 30, 1 / 15];
  const found = groupFrames([
    ...set(0, five),
    ...set(60, five),
    ...set(120, five.slice(0, 4)),
    ...set(180, five),
  ]);
  expect(found.map((s) => s.warnings.map((w) => w.code))).toEqual([[], [], ["frame-missing"], []]);
  expect(
    groupFrames([...set(0, five), ...set(60, five.slice(0, 4))]).flatMap((s) => s.warnings),
  ).toEqual([]);
});

describe("a sweep", () => {
  const rnd = random(8);
  const W = 360;
  const H = 240;
  const SCENE = 1500;
  const scene = (() => {
    const out = new Float32Array(SCENE * H);
    for (const size of [7, 20, 60]) {
      const cols = Math.ceil(SCENE / size) + 1;
      const grid = Float32Array.from({ length: cols * (Math.ceil(H / size) + 1) }, () => rnd());
      for (let i = 0; i < out.length; i++)
        out[i]! +=
          0.2 * grid[Math.floor(i / SCENE / size) * cols + Math.floor((i % SCENE) / size)]!;
    }
    return out;
  })();
  /** frames at these places, each with its factor on red */
  const looksAt = (places: number[], reds = places.map(() => 1)) =>
    places.map((left, k) => {
      const samples = new Float32Array(W * H * 3);
      for (let y = 0; y < H; y++)
        for (let x = 0; x < W; x++)
          [0.9 * reds[k]!, 1, 1.1].forEach((c, q) => {
            samples[(y * W + x) * 3 + q] = 0.1 + 0.6 * c * scene[y * SCENE + left + x]!;
          });
      return makeSignature({ samples, width: W, height: H, lut: new Float32Array(0) });
    });
  const sweep = (places: number[], reds: number[]) =>
    groupFrames(
      places.map((_, k) => ({
        ...frame(k * 2, 1 / 60, { focalLength: 90, focalLength35: 135 }),
        width: W,
        height: H,
      })),
      looksAt(places, reds),
    );
  test("even in colour has nothing odd; one whose white balance drifts is named with how far", () => {
    const even = sweep([0, 180, 360, 540], [1, 1, 1, 1]);
    const drifting = sweep([0, 180, 360, 540], [1, 1.1, 1.25, 1.35]);
    expect(even.map((s) => [s.kind, s.frames.length, s.warnings])).toEqual([["panorama", 4, []]]);
    expect(drifting[0]!.warnings.map((w) => w.code)).toEqual(["white-balance-drifts"]);
    expect(drifting[0]!.warnings[0]!.message).toMatch(/red by 0\.[34]/);
  });
  test("with a frame that the hand shook is named by what its neighbours show sharp; plain places are not", () => {
    const shaken = looksAt([0, 180, 360, 540]).map((signature, k) =>
      k === 2
        ? { ...signature, sharp: signature.sharp.map((v) => Math.max(0, v - 40)) }
        : signature,
    );
    const infos = shaken.map((_, k) => ({
      ...frame(k * 2, 1 / 60, { focalLength: 90, focalLength35: 135 }),
      name: `S_${k}.jpg`,
      width: W,
      height: H,
    }));
    expect(groupFrames(infos, shaken)[0]!.warnings).toEqual([
      { code: "blurred", message: "S_2.jpg is less sharp than the others" },
    ]);
    const plain = looksAt([0, 180, 360, 540]).map((signature, k) =>
      k === 3
        ? {
            ...signature,
            sharp: signature.sharp.map((v, c) => (c % 12 > 5 ? Math.max(0, v - 90) : v)),
          }
        : signature,
    );
    expect(groupFrames(infos, plain)[0]!.warnings).toEqual([]);
  });
  test("whose frames hardly overlap is named with how much they do", () => {
    const found = sweep([0, 180, 360, 650], [1, 1, 1, 1]);
    const thin = found.flatMap((s) => s.warnings).find((w) => w.code === "overlap-thin");
    expect(thin?.message).toMatch(/overlap by 1\d % only/);
  });
});

import type { FrameInfo } from "../frame/frame";
import { random } from "../math/random";
import { groupFrames } from "./groupFrames";
import { makeSignature, type FrameSignature } from "./signature";

const W = 360;
const H = 240;
/** A view full of patches, another one for every seed. */
function view(seed: number): Float32Array {
  const rnd = random(seed);
  const out = new Float32Array(W * H).fill(0.02);
  for (const size of [9, 25, 70]) {
    const columns = Math.ceil(W / size) + 1;
    const grid = Float32Array.from({ length: columns * (Math.ceil(H / size) + 1) }, () => rnd());
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++)
        out[y * W + x]! += 0.08 * grid[Math.floor(y / size) * columns + Math.floor(x / size)]!;
  }
  return out;
}
/** The signature of a view, so many EV brighter and moved by some px. */
function lookAt(scene: Float32Array, ev: number, shake = 0): FrameSignature {
  const samples = new Float32Array(W * H * 3);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++)
      samples.fill(
        Math.min(1, scene[y * W + Math.max(0, Math.min(W - 1, x + shake))]! * 2 ** ev),
        (y * W + x) * 3,
        (y * W + x) * 3 + 3,
      );
  return makeSignature({ samples, width: W, height: H, lut: new Float32Array(0) });
}
interface Taken {
  name: string;
  scene: Float32Array;
  ev: number;
  at: number;
  serial?: string;
  folder?: string;
  shake?: number;
}
const found = (taken: Taken[]): string[] => {
  const infos = taken.map(({ name, ev, at, serial, folder }): FrameInfo => ({
    name,
    ...(folder ? { folder } : {}),
    format: "jpeg",
    width: W,
    height: H,
    depth: 8,
    profile: "sRGB",
    exif: {
      takenAt: at,
      exposureTime: 2 ** ev / 60,
      aperture: 8,
      iso: 100,
      focalLength: 24,
      focalLength35: 24,
      camera: "Stand-in 24",
      ...(serial ? { serial } : {}),
    },
  }));
  return groupFrames(
    infos,
    taken.map((t) => lookAt(t.scene, t.ev, t.shake)),
  )
    .map(
      (s) =>
        `${s.kind} ${s.frames.map((i) => `${infos[i]!.folder ?? ""}${infos[i]!.name}`).join(" ")}`,
    )
    .sort();
};
const EVS = [-2, 0, 2, -1, 1];
const mountain = view(1);
const room = view(2);
/** Two scenes taken in turn, frame for frame. */
const alternating = (
  tell: (body: 0 | 1, i: number) => Partial<Taken> & { name: string },
): Taken[] =>
  EVS.flatMap((ev, i) =>
    ([0, 1] as const).map((body): Taken => ({
      scene: body ? room : mountain,
      ev,
      at: 100 + i * 0.8 + body * 0.3,
      shake: i % 2,
      ...tell(body, i),
    })),
  );
const ofTwo = (tell: Parameters<typeof alternating>[0]): string[] =>
  ([0, 1] as const)
    .map(
      (body) =>
        `bracket ${EVS.map((_, i) => {
          const t = tell(body, i);
          return `${t.folder ?? ""}${t.name}`;
        }).join(" ")}`,
    )
    .sort();

test.each<[string, Parameters<typeof alternating>[0]]>([
  ["their names' series", (body, i) => ({ name: `br-${"ab"[body]}_f${i}.jpg` })],
  [
    "their serial numbers",
    (body, i) => ({ name: `QM_${String(10 + 2 * i + body)}.jpg`, serial: `${body}` }),
  ],
  ["their folders", (body, i) => ({ name: `QM_${10 + i}.jpg`, folder: `card ${body}` })],
  [
    "what they show alone, the names counting through",
    (body, i) => ({ name: `QM_${String(100 + 2 * i + body)}.jpg` }),
  ],
])("two bodies at work at once are distinguished by %s", (_, tell) => {
  expect(found(alternating(tell))).toEqual(ofTwo(tell));
});

test("no bracket is made of two views, whatever the clock says and however few frames there are", () => {
  const three = [-2, 0, 2].map((ev, i): Taken => ({
    name: `QM_00${i}.jpg`,
    scene: view(10 + i),
    ev,
    at: 50 + i * 0.4,
  }));
  expect(found(three).every((s) => s.startsWith("single"))).toBe(true);
});

test("names that tell the exposure are no second body: one view is one bracket", () => {
  const rooms = [room, view(5), view(6)].flatMap((scene, k) =>
    [-2, 0, 2].map((ev): Taken => ({
      name: `room${k} ${ev < 0 ? "dark" : ev > 0 ? "bright" : "middle"}1.jpg`,
      scene,
      ev,
      at: 100 + k * 20 + ev,
    })),
  );
  expect(found(rooms)).toHaveLength(3);
});

test("exposures far apart of one view, which share little, stay together", () => {
  const wide = [-6, -3, 0, 3].map((ev, i): Taken => ({
    name: `QM_${i}0.jpg`,
    scene: mountain,
    ev,
    at: 10 + i,
    shake: i,
  }));
  expect(found(wide)).toHaveLength(1);
});

import { lookingAt } from "../../../simulate/sweep";
import { worldRay, type Camera } from "../camera";
import { equaliseExposure, falloff, rampAt, rampOf, type ColourAt } from "./light";
import { canvasFor } from "../canvas/projection";
import { findSeams } from "../../../tests/findSeams";

const cameras: Camera[] = [-20, 0, 20].map((yaw) => ({
  rotation: lookingAt(yaw, 0, 0),
  focalPx: 600,
  distortion: [0, 0, 0],
  width: 500,
  height: 400,
}));
/** Smooth light all round. */
const scene = ([x, y]: readonly number[]): number =>
  0.2 * 2 ** (Math.sin(5 * x!) + Math.cos(4 * y!));
const radius = (x: number, y: number): number =>
  ((x - 250) ** 2 + (y - 200) ** 2) / (250 ** 2 + 200 ** 2);

test("exposure, white balance and vignetting are found from what frames share", () => {
  const truth = [
    [1.3, 1.2, 1.1],
    [1, 1, 1],
    [0.8, 0.85, 0.9],
  ];
  const colourAt: ColourAt = (i, x, y) => {
    const l = scene(worldRay(cameras[i]!, x, y)) * (1 - 0.3 * radius(x, y));
    return [l * truth[i]![0]!, l * truth[i]![1]!, l * truth[i]![2]!];
  };
  const light = equaliseExposure(cameras, colourAt, [undefined, undefined, undefined]);
  for (const c of [0, 1, 2] as const)
    for (const i of [0, 2])
      expect((light.gains[i]![c] / light.gains[1]![c]) * truth[i]![c]!).toBeCloseTo(1, 1);
  // corner against middle
  const f = falloff(light, cameras[0]!, 0, 0) / falloff(light, cameras[0]!, 250, 200);
  expect(Math.abs(f - 0.7)).toBeLessThan(0.08);
});

test("a steady change of exposure along a row can be kept, what single frames differ by cannot", () => {
  const yaws = [-40, -20, 0, 20, 40];
  const row = yaws.map((yaw): Camera => ({ ...cameras[0]!, rotation: lookingAt(yaw, 0, 0) }));
  const steps = [0.05, -0.08, 0.06, -0.05, 0.02];
  // each frame half a stop brighter than the one to its left, but for a little
  const gains = yaws.map((_, i): [number, number, number] => {
    const g = 2 ** -(0.5 * (i - 2) + steps[i]!);
    return [g, g, g];
  });
  const ramp = rampOf(row, gains);
  const at = (yaw: number): number =>
    Math.log2(
      rampAt({ ramp }, [
        3 * Math.sin((yaw * Math.PI) / 180),
        0,
        3 * Math.cos((yaw * Math.PI) / 180),
      ]),
    );
  for (const [i, yaw] of yaws.entries())
    expect(Math.abs(at(yaw) - 0.5 * (i - 2))).toBeLessThan(0.12);
  // without a step anywhere
  for (let yaw = -50; yaw < 50; yaw++) expect(Math.abs(at(yaw + 1) - at(yaw))).toBeLessThan(0.04);
  expect(rampAt({}, [1, 2, 3])).toBe(1);
  // frames that are alike have none, and one that found no place says nothing
  const none = rampOf(
    [...row, undefined],
    [...yaws.map((): [number, number, number] => [1, 1, 1]), [9, 9, 9]],
  );
  expect(Math.hypot(...none.along, none.all)).toBeLessThan(1e-9);
});

test("what is masked of a frame is taken from another, and left empty where there is none", () => {
  const two = cameras.slice(0, 2);
  const canvas = canvasFor(two, { projection: "cylindrical", most: 1e9 });
  const grey = (): [number, number, number] => [0.3, 0.3, 0.3];
  const even = {
    gains: [
      [1, 1, 1],
      [1, 1, 1],
    ] as [number, number, number][],
    vignetting: [0, 0] as [number, number],
  };
  const shares = (masks: [number, number][][][]): number[] => {
    const { labels } = findSeams(
      two,
      canvas,
      grey,
      even,
      masks.map((of) => of.map((points) => ({ shape: "outline" as const, points, radius: 0 }))),
    );
    const n = [0, 0, 0];
    for (const l of labels.of) n[l]!++;
    return n;
  };
  const plain = shares([]);
  const hidden = shares([
    [
      [
        [-1, -1],
        [2, -1],
        [2, 2],
        [-1, 2],
      ],
    ],
    [],
  ]);
  const corner = shares([
    [
      [
        [0, 0],
        [0.3, 0],
        [0.3, 0.3],
        [0, 0.3],
      ],
    ],
    [],
  ]);
  expect(Math.min(...plain)).toBeGreaterThan(0);
  expect(hidden[1]).toBe(0);
  expect(hidden[2]).toBeGreaterThan(plain[2]!);
  // the first frame's far corner, which nobody else sees
  expect(corner[0]).toBeGreaterThan(plain[0]!);
  expect(corner[2]).toBe(plain[2]);
});

test("a seam goes round what only one frame shows", () => {
  const two = cameras.slice(0, 2);
  const canvas = canvasFor(two, { projection: "cylindrical", most: 1e9 });
  const middle = -10 * (Math.PI / 180);
  // something stands in the middle of the overlap, in the first frame alone
  const within = (d: readonly number[]): boolean =>
    Math.hypot(Math.atan2(d[0]!, d[2]!) - middle, d[1]!) < 0.05;
  const colourAt = (i: number, x: number, y: number): [number, number, number] => {
    const d = worldRay(two[i]!, x, y);
    const v = i === 0 && within(d) ? 0.9 : 0.3;
    return [v, v, v];
  };
  const { labels } = findSeams(two, canvas, colourAt, {
    gains: [
      [1, 1, 1],
      [1, 1, 1],
    ],
    vignetting: [0, 0],
  });
  const owners = new Set<number>();
  for (let y = 0; y < labels.height; y++)
    for (let x = 0; x < labels.width; x++) {
      const u = ((x + 0.5) * (canvas.width / labels.width) - canvas.centreX) / canvas.pxPerRadian;
      const v = ((y + 0.5) * (canvas.height / labels.height) - canvas.centreY) / canvas.pxPerRadian;
      if (Math.hypot(u - middle, v) < 0.045) owners.add(labels.of[y * labels.width + x]!);
    }
  expect(owners.size).toBe(1);
});

import { multiply } from "../../math/matrix3";
import { centreOf, LENS_KINDS, seen, shownBy, type Camera } from "../camera";
import { rotationFromVector } from "../../math/rotation";
import { unit, type Vector } from "../../math/vector";
import { reprojection } from "./reprojection";

const CAMERA: Camera = {
  rotation: rotationFromVector([0.1, -0.3, 0.05]),
  focalPx: 900,
  distortion: [-0.04, 0.012, 0],
  width: 1200,
  height: 800,
};
const OTHER: Camera = {
  ...CAMERA,
  rotation: rotationFromVector([0.02, 0.05, -0.03]),
  focalPx: 930,
  distortion: [0.02, -0.004, 0],
  centre: [610, 391],
};
const PLANE = { normal: unit([0.1, -0.05, 1]), reach: 0.05 };
const FLAT: [Camera, Camera] = [
  { ...CAMERA, offset: { ...PLANE, by: [0.1, 0.02, -0.05] } },
  { ...OTHER, offset: { ...PLANE, by: [-0.2, 0.03, 0.04] } },
];

/**
 * A camera with one of its parameters a little changed: its turn, its place before the plane where
 * it has one, then those of its lens.
 */
function changed(c: Camera, k: number, by: number): Camera {
  const own = c.offset ? 6 : 3;
  const only = (i: number): Vector => [0, 1, 2].map((j) => (i === j ? by : 0)) as Vector;
  if (k < 3) return { ...c, rotation: multiply(rotationFromVector(only(k)), c.rotation) };
  if (k < own)
    return {
      ...c,
      offset: { ...c.offset!, by: c.offset!.by.map((v, i) => v + only(k - 3)[i]!) as Vector },
    };
  const of = k - own;
  const [x, y] = centreOf(c);
  const far = by * Math.max(c.width, c.height);
  if (of === 0) return { ...c, focalPx: c.focalPx * Math.exp(by) };
  return of < 3
    ? {
        ...c,
        distortion: [
          c.distortion[0] + (of === 1 ? by : 0),
          c.distortion[1] + (of === 2 ? by : 0),
          0,
        ],
      }
    : { ...c, centre: of === 3 ? [x + far, y] : [x, y + far] };
}

const PAIRS: [string, Camera, Camera, boolean][] = [
  ...LENS_KINDS.map((lens): [string, Camera, Camera, boolean] => [
    `two ${lens} lenses`,
    { ...CAMERA, lens },
    { ...OTHER, lens },
    false,
  ]),
  ...LENS_KINDS.map((lens): [string, Camera, Camera, boolean] => [
    `one ${lens} lens`,
    { ...CAMERA, lens },
    { ...CAMERA, lens, rotation: OTHER.rotation },
    true,
  ]),
  ["before a plane", ...FLAT, false],
];

test.each(PAIRS)(
  "%s: what each parameter moves a point by is what a small change of it does",
  (_, a, b, oneLens) => {
    const r = reprojection(a, b, 5, oneLens);
    const own = a.offset ? 6 : 3;
    const little = 1e-6;
    for (const [x, y] of [
      [300, 200],
      [640, 420],
      [420, 700],
      [centreOf(b)[0], centreOf(b)[1]],
    ] as const) {
      const [u, v] = seen(a, shownBy(b, x, y))!;
      expect(r.at([u - 2, v + 3, x, y])).toBe(true);
      expect([...r.error]).toEqual([expect.closeTo(2, 6), expect.closeTo(-3, 6)]);
      const known = { across: Array.from(r.across), down: Array.from(r.down) };
      known.across.forEach((across, k) => {
        const lens = k - 2 * own;
        const inA = k < own || (lens >= 0 && (oneLens || lens < 5));
        const inB = (k >= own && k < 2 * own) || (lens >= 0 && (oneLens || lens >= 5));
        const at = lens >= 0 ? own + (lens % 5) : k % own;
        const [p, q] = [-little, little].map((by) =>
          seen(inA ? changed(a, at, by) : a, shownBy(inB ? changed(b, at, by) : b, x, y))!,
        ) as [[number, number], [number, number]];
        expect(across).toBeCloseTo((q[0] - p[0]) / (2 * little), 2);
        expect(known.down[k]).toBeCloseTo((q[1] - p[1]) / (2 * little), 2);
      });
    }
  },
);

test("what a camera cannot see has no error and says so", () => {
  const behind: Camera = { ...CAMERA, rotation: rotationFromVector([0, Math.PI, 0]) };
  expect(reprojection(CAMERA, behind, 3, true).at([600, 400, 600, 400])).toBe(false);
  const [a, b] = FLAT;
  const along: Camera = { ...b, rotation: rotationFromVector([0, Math.PI / 2, 0]) };
  expect(reprojection(a, along, 3, false).at([600, 400, 1100, 400])).toBe(false);
});

import { enlargement, inFrame, LENS_KINDS, rayOf, seen, worldRay, type Camera } from "./camera";
import { dot, unit } from "../math/vector";

const camera = (o: Partial<Camera>): Camera => ({
  rotation: [0, 0, 1, 0, 1, 0, -1, 0, 0],
  focalPx: 300,
  distortion: [-0.03, 0.006, 0],
  width: 800,
  height: 600,
  ...o,
});

test.each(LENS_KINDS)("%s: what a pixel looks along is seen in that pixel", (lens) => {
  const c = camera({ lens });
  for (const [x, y] of [
    [400, 300],
    [12.5, 20],
    [790, 300],
    [400, 5],
    [633, 480],
  ] as const) {
    const p = seen(c, worldRay(c, x, y))!;
    expect(p[0]).toBeCloseTo(x, 4);
    expect(p[1]).toBeCloseTo(y, 4);
  }
});

test.each(LENS_KINDS)(
  "%s: a small way on the sphere is drawn as much larger as is said",
  (lens) => {
    const c = camera({ lens, distortion: [0, 0, 0], rotation: [1, 0, 0, 0, 1, 0, 0, 0, 1] });
    const r = 0.8;
    const { outwards, across } = enlargement(lens, r);
    const here = unit(rayOf(c, 400 + 300 * r, 300));
    const angle = (x: number, y: number): number =>
      Math.acos(Math.min(1, dot(here, unit(rayOf(c, 400 + 300 * r + x, 300 + y)))));
    expect(0.5 / 300 / angle(0.5, 0)).toBeCloseTo(outwards, 2);
    expect(0.5 / 300 / angle(0, 0.5)).toBeCloseTo(across, 2);
  },
);

test("a fisheye lens sees beside itself, a straight one nothing behind it; the image circle ends a frame", () => {
  const beside = [0, 0, 1];
  // both look along +x
  expect(seen(camera({}), beside)).toBeUndefined();
  expect(seen(camera({ lens: "equisolid", distortion: [0, 0, 0] }), beside)![0]).toBeCloseTo(
    400 - 300 * Math.SQRT2,
    6,
  );
  const c = camera({ circle: 200 });
  expect([
    inFrame(c, [400, 300]),
    inFrame(c, [598, 300]),
    inFrame(c, [580, 300], 20),
    inFrame(camera({}), [598, 300]),
  ]).toEqual([true, false, false, true]);
});

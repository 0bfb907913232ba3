import { worldRay, type Camera } from "../panorama/camera";
import { canvasFor } from "../panorama/canvas/projection";
import { findSeams } from "../../tests/findSeams";
import { lookingAt } from "../../simulate/sweep";
import { panoramaSuspects } from "./panoramaSuspects";

const cameras: Camera[] = [-15, 15].map((yaw) => ({
  rotation: lookingAt(yaw, 0, 0),
  focalPx: 600,
  distortion: [0, 0, 0],
  width: 500,
  height: 400,
}));
const light = {
  gains: [
    [1, 1, 1],
    [1, 1, 1],
  ] as [number, number, number][],
  vignetting: [0, 0] as [number, number],
};
const canvas = canvasFor(cameras, { projection: "cylindrical", most: 1e9 });
const joined = (
  apart: (lon: number, lat: number) => number,
  filled = false,
  errors: number[] = [],
) => {
  // the second frame differs where `apart` says
  const colourAt = (i: number, x: number, y: number): [number, number, number] => {
    const d = worldRay(cameras[i]!, x, y);
    const v =
      0.25 + (i ? apart(Math.atan2(d[0], d[2]), Math.atan2(d[1], Math.hypot(d[0], d[2]))) : 0);
    return [v, v, v];
  };
  const { labels } = findSeams(cameras, canvas, colourAt, light);
  const points = errors.map((_, k): [number, number, number, number] => [
    400 + k,
    200,
    100 + k,
    200,
  ]);
  return panoramaSuspects({
    cameras,
    canvas,
    labels,
    light,
    colourAt,
    filled,
    pairs: [{ a: 0, b: 1, points, errors }],
  });
};

test("a seam between equal frames is none to look at, and one that cannot get round a difference is", () => {
  expect(joined(() => 0)).toEqual([]);
  // a band right across the overlap
  const [band, ...more] = joined((_, lat) => (Math.abs(lat) < 0.06 ? 0.3 : 0));
  expect([band!.kind, more.length]).toEqual(["seam", 0]);
  expect(Math.abs(band!.y + band!.height / 2 - canvas.centreY)).toBeLessThan(30);
  expect(Math.abs(band!.x + band!.width / 2 - canvas.centreX)).toBeLessThan(
    0.2 * canvas.pxPerRadian,
  );
});

test("a difference that the seam can go round is none", () =>
  expect(joined((lon, lat) => (Math.hypot(lon - 0.05, lat) < 0.03 ? 0.4 : 0))).toEqual([]));

test("ties that do not meet and parts that were made up are listed", () => {
  expect(joined(() => 0, false, [0.1, 0.2, 0.1])).toEqual([]);
  expect(joined(() => 0, false, [3, 4, 5, 3]).map((s) => s.kind)).toEqual(["residual"]);
  const made = joined(() => 0, true);
  expect(made.length).toBeGreaterThan(1);
  expect(new Set(made.map((s) => s.kind))).toEqual(new Set(["filled"]));
  for (const s of made) {
    expect(s.x + s.width).toBeLessThanOrEqual(canvas.width + 1);
    expect(s.y + s.height).toBeLessThanOrEqual(canvas.height + 1);
  }
});

test("a thing that a seam cuts through is reported as one, and a band right across as a seam", () => {
  const colourAt = (i: number, x: number, y: number): [number, number, number] => {
    const d = worldRay(cameras[i]!, x, y);
    const v =
      i && Math.hypot(Math.atan2(d[0], d[2]), Math.atan2(d[1], Math.hypot(d[0], d[2])) - 0.1) < 0.07
        ? 0.6
        : 0.25;
    return [v, v, v];
  };
  // straight through the middle, which no cut would do
  const { labels } = findSeams(cameras, canvas, () => [0.25, 0.25, 0.25], light);
  const straight = {
    ...labels,
    of: labels.of.map((o, k) => (o ? (k % labels.width < labels.width / 2 ? 1 : 2) : 0)),
  };
  const [thing, ...more] = panoramaSuspects({
    cameras,
    canvas,
    labels: straight,
    light,
    colourAt,
    filled: false,
    pairs: [],
  });
  expect([thing!.kind, more.length]).toEqual(["moved part", 0]);
  const { pxPerRadian, centreX, centreY } = canvas;
  expect(Math.abs(thing!.x + thing!.width / 2 - centreX)).toBeLessThan(0.02 * pxPerRadian);
  expect(Math.abs(thing!.y + thing!.height / 2 - centreY - 0.1 * pxPerRadian)).toBeLessThan(
    0.02 * pxPerRadian,
  );
  expect(Math.abs(thing!.width - 0.14 * pxPerRadian)).toBeLessThan(0.03 * pxPerRadian);
});

test("a frame that shares little with its neighbour is reported where they meet", () => {
  const far = [-20.5, 20.5].map((yaw): Camera => ({
    ...cameras[0]!,
    rotation: lookingAt(yaw, 0, 0),
  }));
  const wide = canvasFor(far, { projection: "cylindrical", most: 1e9 });
  const grey = (): [number, number, number] => [0.25, 0.25, 0.25];
  const { labels } = findSeams(far, wide, grey, light);
  const found = panoramaSuspects({
    cameras: far,
    canvas: wide,
    labels,
    light,
    colourAt: grey,
    filled: false,
    pairs: [],
  });
  expect(found.map((s) => s.kind)).toEqual(["thin overlap", "thin overlap"]);
  for (const s of found)
    expect(Math.abs(s.x + s.width / 2 - wide.centreX)).toBeLessThan(0.05 * wide.pxPerRadian);
});

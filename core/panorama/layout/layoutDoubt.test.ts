import { simulatedRoom } from "../../../simulate/room";
import { placeSweep, scorePanorama } from "../../../simulate/scorePanorama";
import { lookingAt, simulateSweep, type World } from "../../../simulate/sweep";
import { multiply, transpose } from "../../math/matrix3";
import { type Camera } from "../camera";
import { doubtfulPlaces } from "./layoutDoubt";
import type { VerifiedPair } from "../ties/verifyPair";

const w = 420;
const h = 300;
const focalPx = 0.62 * w;
/** Frames all round of a world of four quarters, all of them their own or all alike. */
function allRound(alike: boolean) {
  const own = simulatedRoom(1600, 800, 33);
  const part = own.width / 4;
  const planes = own.planes.map((p) =>
    p.map(
      (_, i) =>
        p[
          Math.floor(i / own.width) * own.width + (alike ? (i % own.width) % part : i % own.width)
        ]!,
    ),
  ) as unknown as World["planes"];
  return simulateSweep(
    { ...own, planes },
    {
      directions: Array.from({ length: 8 }, (_, i): [number, number] => [i * 45, 0]),
      width: w,
      height: h,
      focalPx,
      roll: 0.8,
      seed: 3,
    },
  );
}

test("a full turn of a scene that repeats itself is folded up by its matches, and the doubt is reported; one that does not has none", () => {
  const repeated = allRound(true);
  const own = allRound(false);
  const found = placeSweep(own, focalPx);
  const folded = placeSweep(repeated, focalPx);
  expect(scorePanorama(own, found).turn).toBeLessThan(0.05);
  expect(found.doubtful).toBeUndefined();
  if (scorePanorama(repeated, folded).turn > 1)
    expect(folded.doubtful!.length).toBeGreaterThanOrEqual(3);
}, 60000);

const cameras = [-40, -20, 0, 20, 40].map((yaw): Camera => ({
  rotation: lookingAt(yaw, 0, 0),
  focalPx: 900,
  distortion: [0, 0, 0],
  width: 900,
  height: 600,
}));
const pair = (a: number, b: number, matches: number, turnedBy = 0): VerifiedPair => ({
  a,
  b,
  points: Array.from({ length: matches }, () => [0, 0, 0, 0]),
  rmsPx: 0.2,
  leads: multiply(
    multiply(transpose(cameras[a]!.rotation), cameras[b]!.rotation),
    lookingAt(turnedBy, 0, 0),
  ),
});

test("a frame that strong matches have elsewhere is in doubt, and against whom; a few chance matches raise none", () => {
  const row = [0, 1, 2, 3].map((k) => pair(k, k + 1, 100));
  expect(doubtfulPlaces(cameras, row)).toEqual([]);
  expect(doubtfulPlaces(cameras, [...row, pair(0, 4, 12, 30)])).toEqual([]);
  expect(doubtfulPlaces(cameras, [...row, pair(0, 4, 90, 30)])).toEqual([
    { frame: 0, against: [4] },
    { frame: 4, against: [0] },
  ]);
});

test("a row taken once has no frame upon another; neighbours taken twice are no doubt", () => {
  const rotated = (yaws: number[]): Camera[] =>
    yaws.map((yaw) => ({ ...cameras[0]!, rotation: lookingAt(yaw, 0, 0) }));
  expect(doubtfulPlaces(rotated([0, 0.5, 20, 20.5, 40, 40.5]), [])).toEqual([]);
  expect(doubtfulPlaces(rotated([0, 20, 40, 0.5, 20.5, 40.5]), []).map((d) => d.frame)).toEqual([
    0, 1, 2, 3, 4, 5,
  ]);
});

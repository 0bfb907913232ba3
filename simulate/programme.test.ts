import {
  bracketEvs,
  expectBracket,
  noiseAt,
  planBracket,
  planRun,
  planSweep,
  type CameraSettings,
} from "./programme";

const settings: CameraSettings = {
  scene: "s",
  focal: 35,
  iso: 100,
  hand: false,
  moving: "nothing",
  frames: 1,
  step: 2,
  rows: 1,
  overlap: 0.3,
  turned: "portrait",
  near: 0,
  far: 23,
  gap: 1,
};
/** A scene of 14 EV, evenly spread. */
const scene = {
  fromEv: -14,
  binEv: 0.25,
  counts: Array.from({ length: 96 }, (_, i) => (i >= 8 && i < 64 ? 10 : 0)),
  lowEv: -12,
  highEv: 2,
  rangeEv: 14,
  floorEv: -14,
};

test("a bracket is taken from its middle outwards, also with an even count", () => {
  expect(bracketEvs({ frames: 5, step: 2 })).toEqual([0, -2, 2, -4, 4]);
  expect(bracketEvs({ frames: 4, step: 1 })).toEqual([0, -1, 1, 2]);
  expect(planBracket({ frames: 1, step: 2 })).toEqual([{ ev: 0, yaw: 0, pitch: 0, focus: 0 }]);
});

test("more exposures hold more, and a higher ISO less", () => {
  const of = (frames: number, step: number, iso = 100) =>
    expectBracket(scene, { frames, step, iso });
  expect(of(5, 2).rangeEv - of(3, 2).rangeEv).toBeCloseTo(4, 0);
  // seven a stop apart reach as far as three times two do on either side, with less noise between
  expect(of(7, 1).clipped).toBeCloseTo(of(4, 2).clipped, 1);
  expect(of(7, 1).shadowDb).toBeGreaterThan(of(3, 2).shadowDb);
  expect(of(3, 2, 1600).shadowDb).toBeLessThan(of(3, 2).shadowDb - 4);
  expect(noiseAt(1600).gain).toBe(1500);
});

test("a sweep covers the scene with the overlap asked for, and no more rows than it has room for", () => {
  const reach = { across: 160, down: 66, right: 0, up: 2 };
  const one = planSweep(settings, reach);
  const two = planSweep({ ...settings, rows: 3, turned: "landscape" }, reach);
  const yaws = one.shots.map((s) => s.yaw);
  const wide = 2 * Math.atan(960 / 2 / 1400) * (180 / Math.PI);
  expect(one.shots.length).toBe(one.columns);
  yaws.slice(1).forEach((y, i) => expect(y - yaws[i]!).toBeCloseTo(wide * 0.7, 6));
  expect(one.across).toBeLessThanOrEqual(160);
  expect(one.across + wide * 0.7).toBeGreaterThan(160);
  expect(Math.max(...yaws) + wide / 2).toBeLessThanOrEqual(80.001);
  expect(one.shots[0]!.pitch).toBe(2);
  expect([two.rows, two.lost]).toEqual([2, 1]);
  // back again in the second row
  expect(two.shots[two.columns]!.yaw).toBeCloseTo(two.shots[two.columns - 1]!.yaw, 9);
  expect(planSweep({ ...settings, frames: 3 }, reach).shots.length).toBe(one.shots.length * 3);
  expect(
    planSweep({ ...settings, focal: 10 }, { across: 20, down: 10, right: 0, up: 0 }).shots.length,
  ).toBe(1);
});

test("a run through focus says where it leads and whether its sharp zones meet", () => {
  const lens = { positions: 24, near: 76, far: 109, sharpSteps: 2.5 };
  const all = planRun(settings, lens);
  const wide = planRun({ near: 20, far: 4, gap: 4 }, lens);
  expect([all.shots.length, all.from, all.to]).toEqual([24, 76, expect.closeTo(109, 6)]);
  expect(all.overlap).toBeCloseTo(0.6, 9);
  expect(wide.shots.map((s) => s.focus)).toEqual([4, 8, 12, 16, 20]);
  expect(wide.overlap).toBeLessThan(0);
});

import { placeSweep, scorePanorama } from "../../../simulate/scorePanorama";
import { simulatedRoom } from "../../../simulate/room";
import { simulateSweep, type SweepFrame, type SweepOptions } from "../../../simulate/sweep";

const world = simulatedRoom(4000, 2000, 5);
const W = 480;
const H = 640;
const row = (n: number, step: number, o: Partial<SweepOptions> = {}): SweepFrame[] =>
  simulateSweep(world, {
    directions: Array.from({ length: n }, (_, i) => [(i - (n - 1) / 2) * step, 0] as const),
    width: W,
    height: H,
    focalPx: 620,
    roll: 0.8,
    drift: 1,
    vignetting: 0.25,
    distortion: [-0.04, 0.01, 0],
    seed: 3,
    ...o,
  });

test("a hand-held row in any order, its lens unknown: every frame placed, turns and focal length found", () => {
  const frames = row(6, 27);
  const order = [3, 0, 5, 2, 4, 1];
  const shuffled = order.map((i) => frames[i]!);
  const inRow = frames.map((_, i) => order.indexOf(i));
  const g = placeSweep(shuffled);
  process.stdout.write(
    `row of six, lens unknown: turns to ${scorePanorama(shuffled, g, inRow).turn.toFixed(3)} degrees, focal length to ${((g.cameras[0]!.focalPx / 620 - 1) * 100).toFixed(2)} %, RMS ${Math.max(...g.rmsPx).toFixed(2)} px\n`,
  );
  expect(g.leftOut).toEqual([]);
  expect(scorePanorama(shuffled, g, inRow).turn).toBeLessThan(0.05);
  expect(Math.abs(g.cameras[0]!.focalPx / 620 - 1)).toBeLessThan(0.01);
});

test("a lens whose axis misses the middle of the frames: where it meets them is found", () => {
  const centre = [W / 2 + 3.5, H / 2 - 2.5] as const;
  const frames = row(6, 24, { centre });
  const g = placeSweep(frames, 620);
  const score = scorePanorama(frames, g);
  const off = g.cameras[0]!.centre!.map((v, k) => v - centre[k]!);
  process.stdout.write(
    `an axis off the middle: found to ${off.map((v) => v.toFixed(2)).join(", ")} px; ${JSON.stringify(score)}\n`,
  );
  expect(Math.hypot(...off)).toBeLessThan(1.2);
  // small frames of a soft world
  expect(score.turn).toBeLessThan(0.1);
});

test("a frame of another scene and a group that does not meet are left out and named", () => {
  const frames = [
    ...row(4, 27),
    ...simulateSweep(simulatedRoom(4000, 2000, 50), {
      directions: [[0, 0]],
      width: W,
      height: H,
      focalPx: 620,
      seed: 9,
    }),
  ];
  const g = placeSweep(frames, 620);
  expect(g.leftOut).toEqual([4]);
  expect(g.warnings[0]!.code).toBe("left-out");
  expect(scorePanorama(frames, g, [0, 1, 2, 3]).turn).toBeLessThan(0.1);
});

test("a long row through soft clouds that shares a quarter: neighbours of which few corners match are placed where the row goes on", () => {
  // 56 mm upright; of two pairs 13 and 16 matches of about 40 are right
  const w = 640;
  const h = 960;
  const focalPx = 1490.7;
  const degrees = (px: number): number => (2 * Math.atan(px / 2 / focalPx) * 180) / Math.PI;
  const step = degrees(w) * 0.74;
  const across = 11 * step + degrees(w) + 8;
  const down = degrees(h) + 12;
  const size = (d: number): number => Math.round((d * focalPx * Math.PI) / 180);
  const frames = simulateSweep(
    { ...simulatedRoom(size(across), size(down), 309), piece: { across, down } },
    {
      directions: Array.from({ length: 12 }, (_, k) => [(k - 5.5) * step, 0] as const),
      width: w,
      height: h,
      focalPx,
      roll: 1.2,
      drift: 1,
      vignetting: 0.2,
      distortion: [0.03, 0, 0],
      seed: 9,
    },
  );
  const g = placeSweep(frames);
  const score = scorePanorama(frames, g);
  process.stdout.write(`soft row of twelve: ${JSON.stringify(score)}\n`);
  expect(g.leftOut).toEqual([]);
  expect(score.turn).toBeLessThan(0.1);
  expect(score.focal).toBeLessThan(0.01);
});

test("frames that share nothing make no picture", () => {
  const frames = [5, 50, 51].flatMap((seed) =>
    simulateSweep(simulatedRoom(2000, 1000, seed + 1), {
      directions: [[0, 0]],
      width: W,
      height: H,
      focalPx: 620,
      seed,
    }),
  );
  expect(placeSweep(frames).leftOut).toHaveLength(3);
});

test.each([
  ["as their files tell", (f: number) => f],
  ["as their files tell, a little wrong", (f: number) => f * (f > 600 ? 1.012 : 0.985)],
] as const)(
  "frames of two lenses, or of a zoom that was turned, %s: each lens is found",
  (_what, tell) => {
    const wide = row(3, 40, { focalPx: 480, distortion: [-0.06, 0, 0], seed: 8 });
    const long = simulateSweep(world, {
      directions: [
        [-20, 6],
        [0, -4],
        [20, 6],
      ],
      width: W,
      height: H,
      focalPx: 800,
      roll: 0.8,
      drift: 0.5,
      vignetting: 0.1,
      seed: 12,
    });
    const frames = [...wide, ...long];
    const g = placeSweep(
      frames,
      frames.map((f) => tell(f.camera.focalPx)),
    );
    const s = scorePanorama(frames, g);
    process.stdout.write(`two lenses: ${JSON.stringify(s)}\n`);
    expect(g.leftOut).toEqual([]);
    expect(new Set(g.cameras.map((c) => c!.focalPx)).size).toBe(2);
    expect(s.focal).toBeLessThan(0.01);
    // three frames of each lens tell less of it than a whole row
    expect(s.turn).toBeLessThan(0.15);
  },
);

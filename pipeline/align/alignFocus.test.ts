import type { Matrix3 } from "../../core/math/matrix3";
import { simulateFocusRun } from "../../simulate/focusRun";
import { plainGround } from "../../simulate/plainGround";
import { simulatedRoom } from "../../simulate/room";
import { offPose } from "../../simulate/scoreFocus";
import { inProcess } from "../../tests/inProcess";
import { decodeReduced } from "../readFrames";
import { alignFocus } from "./alignFocus";

const W = 480;
const H = 320;
const watch = { progress: () => undefined };
const run = simulateFocusRun(plainGround(W, H, 14), {
  width: W,
  height: H,
  count: 9,
  blur: W / 50,
  breathing: 0.03,
  shift: 8,
  roll: 0.7,
  flicker: 0.1,
  seed: 14,
});

async function aligned(
  samples: readonly Uint8Array[],
  motion: "auto" | "none" = "auto",
  progress: (share: number, doing: string) => void = () => undefined,
) {
  const { pool, frames } = inProcess(
    samples.map((s, i) => ({ name: `f${i}.png`, samples: s, width: W, height: H })),
  );
  const loaded = await decodeReduced(pool, frames, 1, watch);
  return alignFocus(pool, { frames, loaded, downscale: 1 }, { motion, forced: [] }, { progress });
}
const off = (found: Matrix3, frame: number, reference: number): number =>
  offPose(run, found, run.frames[frame]!.pose, run.frames[reference]!.pose);

test("frames of a run that were given in no order are put in that of the travel, all of them used, and lie on each other to a part of a px", async () => {
  const shares: number[] = [];
  const given = [4, 0, 7, 2, 8, 5, 1, 6, 3];
  const found = await aligned(
    given.map((i) => run.frames[i]!.samples),
    "auto",
    (share) => shares.push(share),
  );
  const travel = found.order!.map((i) => given[i]!);
  expect([travel, [...travel].reverse()]).toContainEqual([0, 1, 2, 3, 4, 5, 6, 7, 8]);
  expect(found.warnings!.map((w) => w.code)).toEqual(["order-found"]);
  // what is reported of the way done only grows, to its end
  expect(shares).toEqual([...shares].sort((a, b) => a - b));
  expect([shares.length, shares.at(-1)]).toEqual([9 + 8 + 7 + 9, 1]);
  for (const [k, f] of found.frames.entries()) {
    expect(f.used).toBe(true);
    expect(off(f.fromReference, given[k]!, given[found.reference]!)).toBeLessThan(0.15);
  }
});

const other = simulateFocusRun(simulatedRoom(W, H, 3), {
  width: W,
  height: H,
  count: 3,
  blur: 4,
  seed: 2,
}).frames[1]!.samples;

test("a frame of another place is stepped over: it is left out and named, and those beyond it lie where they belong", async () => {
  const found = await aligned(run.frames.map(({ samples }, i) => (i === 6 ? other : samples)));
  expect(found.frames[6]!.used).toBe(false);
  expect(found.frames[6]!.warning).toContain("left out");
  const [seven, eight] = [7, 8].map((i) =>
    off(found.frames[i]!.fromReference, i, found.reference),
  ) as [number, number];
  expect(seven).toBeLessThan(0.3);
  expect(eight).toBeLessThan(0.3);
});

test("where the middle frame is the one of another place, the run lies on the one beside it", async () => {
  const found = await aligned(run.frames.map(({ samples }, i) => (i === 4 ? other : samples)));
  expect([3, 5]).toContain(found.reference);
  expect(found.frames.flatMap((f, i) => (f.used ? [] : [i]))).toEqual([4]);
  for (const [i, f] of found.frames.entries())
    if (i !== 4) expect(off(f.fromReference, i, found.reference)).toBeLessThan(0.3);
});

test("frames that are to be taken as they lie stay where they are", async () => {
  const found = await aligned(
    run.frames.map(({ samples }) => samples),
    "none",
  );
  for (const f of found.frames) expect(f.fromReference).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
});

test("two frames lie on each other, and one lies as it is", async () => {
  const two = await aligned([run.frames[3]!.samples, run.frames[4]!.samples]);
  const one = await aligned([run.frames[3]!.samples]);
  for (const [i, f] of two.frames.entries()) {
    expect(f.used).toBe(true);
    expect(off(f.fromReference, 3 + i, 3 + two.reference)).toBeLessThan(0.15);
  }
  expect(one).toMatchObject({
    reference: 0,
    order: [0],
    gaps: [],
    twice: [],
    frames: [{ fromReference: [1, 0, 0, 0, 1, 0, 0, 0, 1], used: true }],
  });
});

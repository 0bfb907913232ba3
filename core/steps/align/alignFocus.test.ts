import { invert, project, type Matrix3 } from "../../raster/matrix3";
import { simulateFocusRun } from "../../simulate/focusRun";
import { plainGround } from "../../simulate/plainGround";
import { simulatedRoom } from "../../simulate/room";
import { inProcess } from "../../../tests/inProcess";
import { decodeReduced } from "../readFrames";
import { alignFocus } from "./alignFocus";

const W = 480, H = 320, watch = { progress: () => undefined };
const run = simulateFocusRun(plainGround(W, H, 14), { width: W, height: H, count: 9, blur: W / 50, breathing: 0.03, shift: 8, roll: 0.7, flicker: 0.1, seed: 14 });

async function aligned(samples: readonly Uint8Array[], motion: "auto" | "none" = "auto") {
  const { pool, frames } = inProcess(samples.map((s, i) => ({ name: `f${i}.png`, samples: s, width: W, height: H }))), held = await decodeReduced(pool, frames, 1, watch);
  return alignFocus(pool, { frames, held, shrink: 1 }, { motion, forced: [] });
}
/** Px by which a frame is off its truth, in the mean over the picture. */
function off(found: Matrix3, pose: Matrix3, reference: Matrix3): number {
  let s = 0, n = 0;
  for (const x of [60, 180, 300, 420]) for (const y of [50, 160, 270]) { const at = project(invert(pose), ...project(reference, x, y)), q = project(found, x, y); s += (at[0] - q[0]) ** 2 + (at[1] - q[1]) ** 2; n++; }
  return Math.sqrt(s / n);
}

test("frames of a run that were given in no order are put in that of the travel, all of them used, and lie on each other to a part of a px", async () => {
  const given = [4, 0, 7, 2, 8, 5, 1, 6, 3], found = await aligned(given.map((i) => run.frames[i]!.samples)), travel = found.order!.map((i) => given[i]!);
  expect([travel, [...travel].reverse()]).toContainEqual([0, 1, 2, 3, 4, 5, 6, 7, 8]);
  expect(found.warnings!.map((w) => w.code)).toEqual(["order-found"]);
  for (const [k, f] of found.frames.entries()) {
    expect(f.used).toBe(true);
    expect(off(f.fromReference, run.frames[given[k]!]!.pose, run.frames[given[found.reference]!]!.pose)).toBeLessThan(0.15);
  }
});

const other = simulateFocusRun(simulatedRoom(W, H, 3), { width: W, height: H, count: 3, blur: 4, seed: 2 }).frames[1]!.samples;

test("a frame of another place is stepped over: it is left out and named, and those beyond it lie where they belong", async () => {
  const found = await aligned(run.frames.map(({ samples }, i) => (i === 6 ? other : samples)));
  expect(found.frames[6]!.used).toBe(false);
  expect(found.frames[6]!.warning).toContain("left out");
  const [seven, eight] = [7, 8].map((i) => off(found.frames[i]!.fromReference, run.frames[i]!.pose, run.frames[found.reference]!.pose)) as [number, number];
  expect(seven).toBeLessThan(0.3);
  expect(eight).toBeLessThan(0.3);
});

test("where the middle frame is the one of another place, the run lies on the one beside it", async () => {
  const found = await aligned(run.frames.map(({ samples }, i) => (i === 4 ? other : samples)));
  expect([3, 5]).toContain(found.reference);
  expect(found.frames.flatMap((f, i) => (f.used ? [] : [i]))).toEqual([4]);
  for (const [i, f] of found.frames.entries()) if (i !== 4) expect(off(f.fromReference, run.frames[i]!.pose, run.frames[found.reference]!.pose)).toBeLessThan(0.3);
});

test("frames that are to be taken as they lie stay where they are", async () => {
  const found = await aligned(run.frames.map(({ samples }) => samples), "none");
  for (const f of found.frames) expect(f.fromReference).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
});

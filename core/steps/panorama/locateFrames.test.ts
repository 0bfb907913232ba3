import { inProcess } from "../../../tests/inProcess";
import { simulatedRoom } from "../../simulate/room";
import { scorePanorama } from "../../simulate/scorePanorama";
import { simulateSweep, type SweepFrame } from "../../simulate/sweep";
import { decodeInto } from "../readFrames";
import { locateFrames } from "./step";

async function located(sweep: readonly SweepFrame[]) {
  const { pool, frames } = inProcess(sweep.map((f, i) => ({ name: `p${i}.png`, samples: f.samples, width: f.width, height: f.height })));
  const held = await Promise.all(frames.map((f) => decodeInto(pool, f, 1)));
  const found = await locateFrames(pool, frames, held, 1, { taken: "point", lens: "auto", circle: "auto" }, { progress: () => undefined }).finally(() => { for (const h of held) pool.give(h.ptr); });
  expect(pool.arena.inUse).toBe(0);
  return found.geometry;
}

test("a wide row that shares little and whose files tell no lens: what did not match is looked at again with the lens that was found", async () => {
  // 62 degrees across, a quarter of it shared
  const W = 480, H = 720, focalPx = 402, step = 47, across = 3 * step + 70, down = 97, world = { ...simulatedRoom(Math.round((across * focalPx * Math.PI) / 180), Math.round((down * focalPx * Math.PI) / 180), 310), piece: { across, down } };
  const sweep = simulateSweep(world, { directions: Array.from({ length: 4 }, (_, i) => [(i - 1.5) * step, 0] as const), width: W, height: H, focalPx, roll: 1.2, drift: 1, vignetting: 0.1, seed: 10 }), g = await located(sweep);
  process.stdout.write(`wide row, lens untold: ${JSON.stringify(scorePanorama(sweep, g))}\n`);
  expect(g.leftOut).toEqual([]);
  expect(scorePanorama(sweep, g).focal).toBeLessThan(0.01);
});

test("frames of other places make no picture: an error that says what to do, and all memory back", async () => {
  const strangers = [71, 72].flatMap((seed) => simulateSweep(simulatedRoom(1400, 700, seed), { directions: [[0, 0]], width: 320, height: 240, focalPx: 400, seed }));
  await expect(located(strangers)).rejects.toMatchObject({ code: "no-overlap" });
});

import { HeldFrames } from "../run/heldFrames";
import { inProcess } from "../../tests/inProcess";
import { simulatedRoom } from "../../simulate/room";
import { scorePanorama } from "../../simulate/scorePanorama";
import { simulateSweep, type SweepFrame } from "../../simulate/sweep";
import { decodeInto } from "../readFrames";
import { seen, shownBy } from "../../core/panorama/camera";
import { locateFrames } from "./locateFrames";
import { placeTie } from "./placeTie";

async function located(sweep: readonly SweepFrame[]) {
  const { pool, frames } = inProcess(
    sweep.map((f, i) => ({
      name: `p${i}.png`,
      samples: f.samples,
      width: f.width,
      height: f.height,
    })),
  );
  const loaded = await Promise.all(frames.map((f) => decodeInto(pool, f, 1)));
  const found = await locateFrames(
    pool,
    frames,
    loaded,
    1,
    { taken: "point", lens: "auto", circle: "auto" },
    { progress: () => undefined },
  ).finally(() => {
    for (const h of loaded) pool.free(h.ptr);
  });
  expect(pool.arena.inUse).toBe(0);
  return found.geometry;
}

test("a wide row that shares little and whose files tell no lens: what did not match is looked at again with the lens that was found", async () => {
  // 62 degrees across, a quarter of it shared
  const W = 480;
  const H = 720;
  const focalPx = 402;
  const step = 47;
  const across = 3 * step + 70;
  const down = 97;
  const world = {
    ...simulatedRoom(
      Math.round((across * focalPx * Math.PI) / 180),
      Math.round((down * focalPx * Math.PI) / 180),
      310,
    ),
    piece: { across, down },
  };
  const sweep = simulateSweep(world, {
    directions: Array.from({ length: 4 }, (_, i) => [(i - 1.5) * step, 0] as const),
    width: W,
    height: H,
    focalPx,
    roll: 1.2,
    drift: 1,
    vignetting: 0.1,
    seed: 10,
  });
  const g = await located(sweep);
  process.stdout.write(`wide row, lens untold: ${JSON.stringify(scorePanorama(sweep, g))}\n`);
  expect(g.leftOut).toEqual([]);
  expect(scorePanorama(sweep, g).focal).toBeLessThan(0.01);
});

test("frames of other places find none, and all memory is given back", async () => {
  const strangers = [71, 72].flatMap((seed) =>
    simulateSweep(simulatedRoom(1400, 700, seed), {
      directions: [[0, 0]],
      width: 320,
      height: 240,
      focalPx: 400,
      seed,
    }),
  );
  expect(await located(strangers)).toMatchObject({
    leftOut: [0, 1],
    cameras: [undefined, undefined],
  });
});

test("a tie set manually is moved to its exact place in the second frame, and all memory is given back", async () => {
  const W = 900;
  const H = 640;
  const sweep = simulateSweep(simulatedRoom(4800, 2400, 5), {
    directions: [
      [-10, 0],
      [10, 2],
    ],
    width: W,
    height: H,
    focalPx: 900,
    roll: 1,
    drift: 0.5,
    seed: 6,
  });
  const [A, B] = sweep.map((f) => f.camera) as [SweepFrame["camera"], SweepFrame["camera"]];
  const { pool, frames } = inProcess(
    sweep.map((f, i) => ({ name: `p${i}.png`, samples: f.samples, width: W, height: H })),
  );
  const held = new HeldFrames(pool);
  const two = [frames[0]!, frames[1]!] as const;
  const off: number[] = [];
  let asked = 0;
  for (let y = 80; y < H - 60; y += 60)
    for (let x = 420; x < W - 60; x += 60) {
      const to = seen(B, shownBy(A, x, y))!;
      if (to[0] < 60 || to[1] < 60 || to[1] > H - 60) continue;
      asked++;
      const found = await placeTie(pool, held, two, [A, B], [x, y, to[0] + 5, to[1] - 4]);
      if (!found) continue;
      const exact = seen(B, shownBy(A, found[0], found[1]))!;
      off.push(Math.hypot(found[2] - exact[0], found[3] - exact[1]));
    }
  off.sort((a, b) => a - b);
  process.stdout.write(
    `ties set manually: ${off.length} of ${asked} found, to ${off[off.length >> 1]!.toFixed(2)} px in the middle, ${off.at(-1)!.toFixed(2)} at worst\n`,
  );
  // where there is nothing to hold on to it says so
  expect(off.length).toBeGreaterThan(asked / 3);
  expect(off[off.length >> 1]).toBeLessThan(0.4);
  expect(off[Math.floor(off.length * 0.9)]).toBeLessThan(1);
  held.drop();
  expect(pool.arena.inUse).toBe(0);
});

import { inProcess } from "../../tests/inProcess";
import { simulateFocusRun } from "../../simulate/focusRun";
import { plainGround } from "../../simulate/plainGround";
import { haloPlaces, scoreFocus } from "../../simulate/scoreFocus";
import { simulatedRoom } from "../../simulate/room";
import { alignFocus } from "../align/alignFocus";
import { decodeReduced } from "../readFrames";
import { focusFrames } from "./focusFrames";
import type { FocusMethod } from "./focusPass";

const W = 540;
const H = 360;
const watch = { progress: () => undefined };
const run = simulateFocusRun(simulatedRoom(W, H, 21), {
  width: W,
  height: H,
  count: 12,
  blur: W / 60,
  breathing: 0.02,
  shift: 9,
  roll: 0.5,
  flicker: 0.1,
  falloff: 0.3,
  seed: 21,
});
const places = haloPlaces(run);
const ground = run.ground();

test.each([
  ["pyramid", 36, 0.08],
  ["mixed", 37.5, 0],
] as [FocusMethod, number, number][])(
  "bristles before a slope, hand-held, breathing, flickering and falling off otherwise from frame to frame: by %s at least %d dB against the scene all in focus, and a halo in no more than %d of the places",
  async (method, least, most) => {
    const { pool, frames } = inProcess(
      run.frames.map(({ samples }, i) => ({ name: `f${i}.png`, samples, width: W, height: H })),
    );
    const loaded = await decodeReduced(pool, frames, 1, watch);
    const aligned = await alignFocus(
      pool,
      { frames, loaded, downscale: 1 },
      { motion: "auto", forced: [] },
    );
    expect(aligned.frames.every((f) => f.used)).toBe(true);
    // the middle frame falls off as it does; the ends by half the difference more and less
    process.stdout.write(
      `corners: ${aligned.frames.map((f) => (f.cornerEv ?? 0).toFixed(2)).join(", ")} EV\n`,
    );
    expect(
      Math.abs((aligned.frames.at(-1)!.cornerEv ?? 0) - (aligned.frames[0]!.cornerEv ?? 0) - 0.3),
    ).toBeLessThan(0.1);
    const scene = await focusFrames(
      pool,
      { frames, aligned, reference: aligned.reference, downscale: 1, patches: [] },
      method,
      watch,
    );
    const planes: Float32Array[] = [];
    for (let c = 0; c < 3; c++)
      planes.push(
        new Float32Array((await pool.read(scene.ptr + c * scene.planeBytes, W * H * 4)).buffer),
      );
    const { db, halos } = scoreFocus(run, planes, places, ground);
    process.stdout.write(
      `focus run by ${method}: ${db.toFixed(1)} dB, ${halos} of ${places.length} places with a halo\n`,
    );
    expect(db).toBeGreaterThan(least);
    expect(places.length).toBeGreaterThan(50);
    expect(halos).toBeLessThanOrEqual(most * places.length);
    scene.release();
  },
);

test("bristles before a plain ground, on which nothing hides a halo, hand-held: none is wider than two px at a twentieth of the contrast", async () => {
  const run = simulateFocusRun(plainGround(W, H, 23), {
    width: W,
    height: H,
    count: 14,
    blur: W / 60,
    breathing: 0.03,
    shift: 10,
    roll: 1,
    flicker: 0.1,
    seed: 23,
  });
  const places = haloPlaces(run);
  const { pool, frames } = inProcess(
    run.frames.map(({ samples }, i) => ({ name: `f${i}.png`, samples, width: W, height: H })),
  );
  const loaded = await decodeReduced(pool, frames, 1, watch);
  const aligned = await alignFocus(
    pool,
    { frames, loaded, downscale: 1 },
    { motion: "auto", forced: [] },
  );
  const scene = await focusFrames(
    pool,
    { frames, aligned, reference: aligned.reference, downscale: 1, patches: [] },
    "mixed",
    watch,
  );
  const planes: Float32Array[] = [];
  for (let c = 0; c < 3; c++)
    planes.push(
      new Float32Array((await pool.read(scene.ptr + c * scene.planeBytes, W * H * 4)).buffer),
    );
  const { db, wide } = scoreFocus(run, planes, places);
  process.stdout.write(
    `focus run before a plain ground: ${db.toFixed(1)} dB, ${wide} of ${places.length} places with a halo\n`,
  );
  expect(places.length).toBeGreaterThan(60);
  expect(wide).toBe(0);
  scene.release();
});

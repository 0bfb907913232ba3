import { inProcess } from "../../../tests/inProcess";
import { encode, SPACES } from "../../colour/spaces";
import { simulateFocusRun } from "../../simulate/focusRun";
import { simulatedRoom } from "../../simulate/room";
import { alignFocus } from "../align/step";
import { decodeReduced } from "../readFrames";
import { focusFrames } from "./focusFrames";
import type { FocusMethod } from "./focusPass";

const W = 540, H = 360, LEFT = 45, TOP = 30, watch = { progress: () => undefined };
const run = simulateFocusRun(simulatedRoom(W, H, 21), { width: W, height: H, count: 12, blur: W / 60, breathing: 0.02, shift: 9, roll: 0.5, flicker: 0.1, falloff: 0.3, seed: 21 });

test.each([["pyramid", 33.5], ["mixed", 34.5]] as [FocusMethod, number][])("bristles before a slope, taken by hand, breathing, flickering and falling off otherwise from frame to frame: by %s at least %d dB against the scene all in focus", async (method, least) => {
  const { pool, frames } = inProcess(run.frames.map(({ samples }, i) => ({ name: `f${i}.png`, samples, width: W, height: H }))), held = await decodeReduced(pool, frames, 1, watch);
  const aligned = await alignFocus(pool, { frames, held, shrink: 1 }, { motion: "auto", forced: [] });
  expect(aligned.frames.every((f) => f.used)).toBe(true);
  // the middle frame falls off as it does; the ends by half the difference more and less
  process.stdout.write(`corners: ${aligned.frames.map((f) => (f.cornerEv ?? 0).toFixed(2)).join(", ")} EV\n`);
  expect(Math.abs((aligned.frames.at(-1)!.cornerEv ?? 0) - (aligned.frames[0]!.cornerEv ?? 0) - 0.3)).toBeLessThan(0.1);
  const scene = await focusFrames(pool, { frames, aligned, reference: aligned.reference, shrink: 1, patches: [] }, method, watch);
  let sum = 0, n = 0;
  for (let c = 0; c < 3; c++) {
    const plane = new Float32Array((await pool.read(scene.ptr + c * scene.planeBytes, W * H * 4)).buffer);
    for (let y = TOP; y < H - TOP; y++) for (let x = LEFT; x < W - LEFT; x++, n++) sum += (255 * encode(SPACES.srgb.curve, Math.min(1, Math.max(0, plane[y * W + x]!))) - run.sharp[(y * W + x) * 3 + c]!) ** 2;
  }
  const db = 10 * Math.log10((255 ** 2 * n) / sum);
  process.stdout.write(`focus run by ${method}: ${db.toFixed(1)} dB\n`);
  expect(db).toBeGreaterThan(least);
  scene.release();
});

// Holds focus stacks against their simulated scenes and prints the table: node
// build/node/benchFocusTable.js [WIDTH] [room|plain]: before a room full of texture, or a plain
// ground. By each method dB, the places beside bristles that are off, and those of them with a halo
import { simulateFocusRun } from "../simulate/focusRun";
import { haloPlaces, offPose, scoreFocus } from "../simulate/scoreFocus";
import { plainGround } from "../simulate/plainGround";
import { simulatedRoom } from "../simulate/room";
import { alignFocus } from "../pipeline/align/alignFocus";
import { focusFrames } from "../pipeline/merge/focusFrames";
import type { FocusMethod } from "../pipeline/merge/focusPass";
import { decodeReduced } from "../pipeline/readFrames";
import { inProcess } from "../tests/inProcess";

const W = Number(process.argv[2] ?? 720);
const H = Math.round((W * 2) / 3);
const world = process.argv[3] === "plain" ? plainGround : simulatedRoom;
const METHODS: FocusMethod[] = ["pyramid", "depth", "mixed"];
const watch = { progress: () => undefined };
const SETS = [
  [12, 5, "tripod"],
  [12, 7, "hand"],
  [18, 5, "tripod"],
  [18, 31, "hand"],
  [24, 11, "hand"],
  [24, 32, "shuffled"],
  [36, 33, "hand"],
  [60, 41, "hand"],
] as const;
const rows: string[] = [];
for (const [count, seed, mode] of SETS) {
  const moves = mode !== "tripod";
  const run = simulateFocusRun(world(W, H, seed), {
    width: W,
    height: H,
    count,
    blur: W / 60,
    breathing: 0.03,
    shift: moves ? (20 * W) / 1080 : 0,
    roll: moves ? 1 : 0,
    flicker: moves ? 0.1 : 0,
    seed,
  });
  const places = haloPlaces(run);
  const ground = run.ground();
  const shuffled = run.frames.map((_, i) => i);
  // every seventh from wherever it comes to be: no order at all
  if (mode === "shuffled") shuffled.sort((a, b) => ((a * 7) % count) - ((b * 7) % count));
  const { pool, frames } = inProcess(
    shuffled.map((i) => ({
      name: `f${i}.png`,
      samples: run.frames[i]!.samples,
      width: W,
      height: H,
    })),
  );
  const loaded = await decodeReduced(pool, frames, 1, watch);
  const aligned = await alignFocus(
    pool,
    { frames, loaded, downscale: 1 },
    { motion: "auto", forced: [] },
  );
  const travel = aligned.order!.map((i) => shuffled[i]!);
  const inOrder = [travel, [...travel].reverse()].some((t) =>
    t.every((f, k) => k === 0 || f > t[k - 1]!),
  );
  const poseOf = (i: number): number[] => run.frames[shuffled[i]!]!.pose;
  const off = aligned.frames.map((f, i) =>
    offPose(run, f.fromReference, poseOf(i), poseOf(aligned.reference)),
  );
  const cells: string[] = [];
  for (const method of METHODS) {
    const scene = await focusFrames(
      pool,
      { frames, aligned, reference: aligned.reference, downscale: 1, patches: [] },
      method,
      watch,
    );
    const planes: Float32Array[] = [];
    for (let c = 0; c < 3; c++)
      planes.push(
        new Float32Array(
          (await pool.read(scene.ptr + c * scene.planeBytes, W * H * 4)).buffer.slice(0),
        ),
      );
    const { db, wide, halos } = scoreFocus(run, planes, places, ground);
    cells.push(`${db.toFixed(1)} dB, ${wide}, ${halos}`);
    scene.release();
  }
  rows.push(
    `| ${count} frames, seed ${seed}, ${mode} | ${cells.join(" | ")} | ${places.length} | ${(off.reduce((s, v) => s + v, 0) / count).toFixed(3)}, ${Math.max(...off).toFixed(3)} | ${inOrder ? "yes" : "no"} | ${aligned.frames.filter((f) => f.used).length} |`,
  );
  process.stderr.write(`${rows.at(-1)}\n`);
}
process.stdout.write(
  `\n| run | ${METHODS.join(" | ")} | places | off its place, px: mean, worst | in order | used |\n|${"---|".repeat(METHODS.length + 5)}\n${rows.join("\n")}\n`,
);
process.exit(0);

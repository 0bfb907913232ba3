import { RhizomeError } from "../../core/error";
import { plainGround } from "../../simulate/plainGround";
import { srgbResponse, takeFrame } from "../../simulate/camera";
import { simulateFocusRun } from "../../simulate/focusRun";
import { simulatedRoom } from "../../simulate/room";
import { simulateSweep } from "../../simulate/sweep";
import { inProcess, type MemoryFrame } from "../../tests/inProcess";
import { deliverStack } from "../deliverStack";
import type { Pool, Threads } from "../pool";
import { defaultRecipe, type Recipe, type Section } from "../recipe/recipe";
import type { Merged } from "./run";
import { runPipeline } from "./runPipeline";
import type { StackFrame } from "../work";

const W = 160;
const H = 120;
/** Two bands of the least height. */
const TALL = 320;
const silent = { progress: () => undefined };

const bracket = (width: number, height: number): MemoryFrame[] =>
  [0, 2, -2].map((ev, i) => ({
    name: `b${i}.png`,
    width,
    height,
    exif: { exposureTime: 0.1 * 2 ** ev },
    samples: takeFrame(simulatedRoom(width, height, 3), {
      width,
      height,
      ev,
      toScene: [1, 0, 0, 0, 1, 0, 0, 0, 1],
      seed: 70 + i,
      response: srgbResponse,
      gain: 15000,
      read: 8e-4,
    }) as Uint8Array,
  }));

const focusRun = (width: number, height: number): MemoryFrame[] =>
  simulateFocusRun(plainGround(width, height, 14), {
    width,
    height,
    count: 3,
    blur: width / 50,
    breathing: 0.02,
    shift: 2,
    roll: 0.2,
    flicker: 0,
    seed: 14,
  }).frames.map(({ samples }, i) => ({ name: `f${i}.png`, samples, width, height }));

const sweep = (): MemoryFrame[] =>
  simulateSweep(
    { ...simulatedRoom(700, 420, 21), piece: { across: 120, down: 70 } },
    {
      directions: [
        [-14, 0],
        [14, 0],
      ],
      width: W * 2,
      height: H * 2,
      focalPx: 330,
      seed: 4,
    },
  ).map(({ samples }, i) => ({
    name: `p${i}.png`,
    samples,
    width: W * 2,
    height: H * 2,
    exif: { focalLength35: (330 / (W * 2)) * 36 },
  }));

const withMethod = (kind: "bracket" | "focus", method: Section<"merge">["method"]): Recipe => {
  const recipe = defaultRecipe(kind);
  return { ...recipe, merge: { ...recipe.merge, method } };
};
const smoothed = (recipe: Recipe): Recipe => ({
  ...recipe,
  prepare: { ...recipe.prepare, noise: 0.4, distortion: 0.02 },
});
const filled = (recipe: Recipe): Recipe => ({
  ...recipe,
  edges: { ...recipe.edges, mode: "extend" },
});

/** A run of one kind, ended by releasing what came of it. */
interface Case {
  frames: (width: number, height: number) => MemoryFrame[];
  recipe: Recipe;
  /** with so little memory that a full-size merge comes in bands */
  inBands?: boolean;
}
const CASES: Record<string, Case> = {
  "bracket, radiance, prepared": {
    frames: bracket,
    recipe: smoothed(defaultRecipe("bracket")),
  },
  "bracket, fusion": { frames: bracket, recipe: withMethod("bracket", "fusion") },
  "focus run, mixed": { frames: focusRun, recipe: defaultRecipe("focus") },
  "focus run, pyramid": { frames: focusRun, recipe: withMethod("focus", "pyramid") },
  "panorama, filled": { frames: sweep, recipe: filled(defaultRecipe("panorama")) },
  "bracket in bands, fusion": {
    frames: bracket,
    recipe: withMethod("bracket", "fusion"),
    inBands: true,
  },
  "focus run in bands": { frames: focusRun, recipe: defaultRecipe("focus"), inBands: true },
};

/** A pool on which the nth task that is asked for does not end well. */
function spoiling(
  pool: Pool,
  nth: number,
  spoil: () => "fails" | "stops",
): Threads & { asked: number } {
  const spoiled = {
    asked: 0,
    threads: pool.threads,
    // a merge whole takes more than this, a band of the least height does not
    budget: pool.budget,
    allocate: (bytes: number) => pool.allocate(bytes),
    free: (at: number) => pool.free(at),
    read: pool.read.bind(pool),
    idle: () => pool.idle(),
    start(task: never, args: never, options: never) {
      if (++spoiled.asked === nth && spoil() === "fails")
        return {
          result: Promise.reject(new RhizomeError("unreadable", "This task was made to fail.", "")),
          ended: Promise.resolve(),
        };
      return pool.start(task, args, options);
    },
    run: (task: never, args: never, options: never) => spoiled.start(task, args, options).result,
  };
  return spoiled as unknown as Threads & { asked: number };
}

/** Merges at full size, goes through all bands, and releases all of it. */
async function throughAll(
  threads: Threads,
  frames: readonly StackFrame[],
  given: Case,
  signal?: AbortSignal,
): Promise<void> {
  const merged: Merged = await runPipeline(threads, frames, given.recipe, {
    ...silent,
    scale: "full",
    sources: true,
    ...(signal ? { signal } : {}),
  });
  try {
    expect(merged.coming !== undefined).toBe(given.inBands ?? false);
    await merged.suspects();
    for (const band of merged.coming?.bands ?? []) (await band.take()).done();
  } finally {
    await threads.idle();
    merged.scene.release();
  }
}
/** What everything besides the pictures takes, and a little more. */
const SMALL_BUDGET = 601e6;
const taken = new Map<string, MemoryFrame[]>();

/** A new pool for a case, with its frames. */
function start(name: string): ReturnType<typeof inProcess> {
  const { frames, inBands } = CASES[name]!;
  const files = taken.get(name) ?? frames(W, inBands ? TALL : H);
  taken.set(name, files);
  return inProcess(files, inBands ? SMALL_BUDGET : undefined);
}

/** Moments of a run of so many tasks, from its first one on, others for a failure than for a stop. */
const MOMENTS = 6;
const spread = (tasks: number, how: "fails" | "stops"): number[] =>
  Array.from({ length: MOMENTS }, (_, i) =>
    Math.max(1, Math.floor(((i + (how === "stops" ? 0.5 : 0)) * tasks) / MOMENTS)),
  );

test.each(Object.keys(CASES))(
  "%s: whichever task fails or is stopped, nothing is left in memory",
  async (name) => {
    const given = CASES[name]!;
    const whole = start(name);
    const counting = spoiling(whole.pool, 0, () => "fails");
    await throughAll(counting, whole.frames, given);
    expect(whole.pool.arena.inUse).toBe(0);
    const tasks = counting.asked;
    for (const how of ["fails", "stops"] as const)
      for (const nth of spread(tasks, how)) {
        const { pool, frames } = start(name);
        const stopper = new AbortController();
        const spoiled = spoiling(pool, nth, () => {
          if (how === "stops") stopper.abort();
          return how;
        });
        const ended = await throughAll(spoiled, frames, given, stopper.signal).then(
          () => "well",
          (e: unknown) => RhizomeError.from(e).code,
        );
        await pool.idle();
        expect([name, how, nth, pool.arena.inUse]).toEqual([name, how, nth, 0]);
        // what is kept for later runs or only looked for may fail without harm
        expect(["well", "unreadable", "stopped"]).toContain(ended);
      }
  },
);

test("a delivery whose file cannot be written leaves nothing in memory", async () => {
  const { pool, frames } = inProcess(bracket(W, H));
  await expect(
    deliverStack(pool, frames, defaultRecipe("bracket"), { ...silent, now: () => 0 }),
  ).rejects.toThrow();
  expect(pool.arena.inUse).toBe(0);
});

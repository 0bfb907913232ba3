// Holds what is reported of alignment against the truth: node build/node/benchResiduals.js
// brackets|focus COUNT SEED [PHOTOGRAPH...] Hand-held brackets of photographs in a light of several
// stops, or simulated focus runs; each frame's error over the whole frame, px, against what is
// reported of it.
import { alignStack } from "../core/align/alignStack";
import { invert, multiply, project, type Matrix3 } from "../core/math/matrix3";
import { simulateBracket } from "../simulate/bracket";
import { random } from "../core/math/random";
import { simulateFocusRun } from "../simulate/focusRun";
import { plainGround } from "../simulate/plainGround";
import { simulatedRoom } from "../simulate/room";
import { offPose } from "../simulate/scoreFocus";
import { alignFocus } from "../pipeline/align/alignFocus";
import { decodeReduced } from "../pipeline/readFrames";
import { Heap } from "../kernels/heap";
import { inProcess } from "../tests/inProcess";
import { DECODED, illuminate, throughJpeg } from "./photographScene";

const W = 1200;
const H = 800;
const MARGIN = 60;
const [, , kind, countText, seedText, ...photographs] = process.argv;

/** RMS over the frame of what lies between two ways, px. */
function between(a: Matrix3, b: Matrix3): number {
  let sum = 0;
  let n = 0;
  for (let y = 0; y <= H; y += 50)
    for (let x = 0; x <= W; x += 50, n++) {
      const [u, v] = project(a, x, y);
      const [p, q] = project(b, x, y);
      sum += (u - p) ** 2 + (v - q) ** 2;
    }
  return Math.sqrt(sum / n);
}

interface Judged {
  errors: { error: number; reported?: number }[];
  name: string;
}

const EVS = [
  [-4, -2, 0, 2, 4],
  [-4, -2, 0, 2, 4],
  [-3, 0, 3],
  [-3, -2, -1, 0, 1, 2, 3],
];
function bracket(seed: number): Judged {
  const rnd = random(seed);
  const photograph = photographs[seed % photographs.length]!;
  const evs = EVS[seed % EVS.length]!;
  const reference = evs.length >> 1;
  const scene = illuminate(photograph, W + 2 * MARGIN, H + 2 * MARGIN, seed);
  const { frames } = simulateBracket(scene, {
    width: W,
    height: H,
    evs,
    baseEv: Math.round(rnd() * 2 - 1),
    hand: seed % 5 === 4 ? 0 : 0.5 + rnd() / 2,
    seed,
    reference,
  });
  const heap = Heap.local(400e6);
  const reduced = frames.map((f) => ({
    ptr: heap.putBytes(throughJpeg(f.samples as Uint8Array, W, H)),
    type: "u8" as const,
    width: W,
    height: H,
    lut: DECODED,
    block: 8,
  }));
  const aligned = alignStack(heap, reduced, evs, {
    motion: "auto",
    reference,
    deghost: true,
    strength: 0.5,
    forced: [],
    scale: 1,
  });
  const errors = aligned.flatMap((a, i) => {
    if (i === reference || !a.used) return [];
    const truth = multiply(invert(frames[i]!.toScene), frames[reference]!.toScene);
    return [
      {
        error: between(truth, a.fromReference),
        ...(a.residualPx === undefined ? {} : { reported: a.residualPx }),
      },
    ];
  });
  return { errors, name: photograph.split("/").at(-1)!.slice(0, 16) };
}

async function focus(seed: number): Promise<Judged> {
  const width = 720;
  const height = 480;
  const count = [12, 18, 24][seed % 3]!;
  const hand = seed % 4 > 0;
  const world = seed % 2 ? simulatedRoom : plainGround;
  const run = simulateFocusRun(world(width, height, seed), {
    width,
    height,
    count,
    blur: width / 60,
    breathing: (0.03 * (seed % 3)) / 2,
    shift: hand ? (20 * width) / 1080 : 0,
    roll: hand ? 1 : 0,
    flicker: hand ? 0.1 : 0,
    seed,
  });
  const { pool, frames } = inProcess(
    run.frames.map((f, i) => ({ name: `f${i}.png`, samples: f.samples, width, height })),
  );
  const loaded = await decodeReduced(pool, frames, 1, { progress: () => undefined });
  const aligned = await alignFocus(
    pool,
    { frames, loaded, downscale: 1 },
    { motion: "auto", forced: [] },
  );
  const errors = aligned.frames.flatMap((f, i) =>
    i === aligned.reference || !f.used
      ? []
      : [
          {
            error: offPose(
              run,
              f.fromReference,
              run.frames[i]!.pose,
              run.frames[aligned.reference]!.pose,
            ),
            ...(f.residualPx === undefined ? {} : { reported: f.residualPx }),
          },
        ],
  );
  return { errors, name: `${count} ${hand ? "hand" : "tripod"} ${seed % 2 ? "room" : "plain"}` };
}

let reported = 0;
let agreeing = 0;
let setsHeld = 0;
const worst: number[] = [];
for (let s = 0; s < Number(countText); s++) {
  const seed = Number(seedText) + s;
  const { errors, name } = await (kind === "focus" ? focus : bracket)(seed);
  const known = errors.filter((e) => e.reported !== undefined);
  const within = known.filter((e) => e.error <= 2 * e.reported!);
  reported += known.length;
  agreeing += within.length;
  if (within.length === known.length) setsHeld++;
  worst.push(...errors.map((e) => e.error));
  process.stdout.write(
    `${seed} ${name} ${errors.map(({ error, reported: t }) => `${error.toFixed(3)}/${t === undefined ? "not known" : t.toFixed(3)}${t !== undefined && error > 2 * t ? "!" : ""}`).join(" ")}\n`,
  );
}
worst.sort((a, b) => a - b);
process.stdout.write(
  `frames within twice: ${agreeing} of ${reported}; sets: ${setsHeld} of ${countText}; error: middle ${worst[worst.length >> 1]!.toFixed(3)}, 95 % ${worst[Math.floor(worst.length * 0.95)]!.toFixed(3)}, worst ${worst.at(-1)!.toFixed(3)} px\n`,
);
process.exit(0);

// Holds the core against simulated truth and prints the tables: node build/node/benchAccuracy.js
// [deghosting|panoramas|grouping|grouping-pixels [COUNT [SEED]]]
import { MOVING } from "../simulate/moving";
import { simulatedRoom } from "../simulate/room";
import { random } from "../core/math/random";
import { groupFrames } from "../core/grouping/groupFrames";
import { mixedShoot } from "../simulate/mixedShoot";
import type { FrameInfo } from "../core/frame/frame";
import { scoreGrouping, type GroupingScore } from "../simulate/scoreGrouping";
import { scoreDeghosting } from "../simulate/scoreDeghosting";
import { placeSweep, scorePanorama } from "../simulate/scorePanorama";
import { simulateSweep, type SweepFrame, type SweepOptions, type World } from "../simulate/sweep";
import { median } from "../core/math/median";

/** Rows of panoramas; of the other sets of frames in proportion. */
const COUNT = Number(process.argv[3] ?? 32);
const table = (head: readonly string[], rows: readonly (readonly (string | number)[])[]): void => {
  process.stdout.write(
    `\n| ${head.join(" | ")} |\n|${head.map(() => "---").join("|")}|\n${rows.map((r) => `| ${r.join(" | ")} |`).join("\n")}\n`,
  );
};
function groupingOf(known: (info: FrameInfo) => FrameInfo): void {
  const kinds: GroupingScore["byKind"] = new Map();
  const rows = Array.from({ length: COUNT }, (_, i) => {
    const seed = Number(process.argv[4] ?? 120) + i;
    const shoot = mixedShoot(300, seed);
    const s = scoreGrouping(
      shoot,
      groupFrames(
        shoot.frames.map((f) => known(f.info)),
        shoot.frames.map((f) => f.signature),
      ),
    );
    process.stderr.write(
      `day ${seed}: ${(100 * s.framesRight).toFixed(1)} %${s.wrong.map((w) => `\n  ${w}`).join("")}\n`,
    );
    for (const [kind, k] of s.byKind) {
      const sum = kinds.get(kind) ?? { frames: 0, right: 0, stacks: 0, kindsRight: 0 };
      kinds.set(kind, {
        frames: sum.frames + k.frames,
        right: sum.right + k.right,
        stacks: sum.stacks + k.stacks,
        kindsRight: sum.kindsRight + k.kindsRight,
      });
    }
    return [
      seed,
      shoot.frames.length,
      (100 * s.framesRight).toFixed(1),
      `${s.kindsRight} of ${s.stacks}`,
    ];
  });
  table(["day", "frames", "in the right stack, %", "kinds right, of three frames and more"], rows);
  table(
    ["kind", "stacks", "kind right", "frames", "in the right stack, %"],
    [...kinds].map(([kind, k]) => [
      kind,
      k.stacks,
      k.kindsRight,
      k.frames,
      ((100 * k.right) / k.frames).toFixed(1),
    ]),
  );
}
const sets: Record<string, () => void> = {
  deghosting() {
    const rows = [12, 77].flatMap((seed) => {
      const scene = simulatedRoom(1040, 700, seed);
      return Object.entries(MOVING).flatMap(([what, moving]) =>
        [
          [3, 0],
          [5, 0],
          [5, 0.25],
          [9, 0.1],
        ].map(([count, hand]) => {
          const evs = Array.from(
            { length: count! },
            (_, i) => (i - (count! >> 1)) * (count === 9 ? 1 : 2),
          );
          const s = scoreDeghosting(scene, evs, moving, hand!, seed + 40);
          const row = [
            what,
            seed,
            count!,
            hand ? "yes" : "no",
            s.untreatedDb.toFixed(1),
            s.withinDb.toFixed(1),
            (s.stillDb - s.elsewhereDb).toFixed(2),
          ];
          process.stderr.write(`${row.join(", ")}\n`);
          return row;
        }),
      );
    });
    table(
      [
        "what moves",
        "scene",
        "frames",
        "hand-held",
        "untreated dB",
        "deghosted dB",
        "lost elsewhere dB",
      ],
      rows,
    );
  },
  grouping: () => groupingOf((info) => info),
  "grouping-pixels": () =>
    groupingOf((info) => ({
      ...info,
      name: info.name.replace("jpg", "png"),
      format: "png",
      exif: {},
    })),
  panoramas() {
    const W = 640;
    const H = 960;
    const rows: (string | number)[][] = [];
    const kinds = new Map<
      string,
      {
        sets: number;
        right: number;
        wrong: number;
        turns: number[];
        focals: number[];
        horizons: number[];
      }
    >();
    const note = (kind: string, frames: SweepFrame[], among: number[], focalPx?: number): void => {
      const g = placeSweep(frames, focalPx);
      const s = scorePanorama(frames, g, among);
      const strangers = g.cameras.filter((c, i) => c && !among.includes(i)).length;
      const k = kinds.get(kind) ?? {
        sets: 0,
        right: 0,
        wrong: 0,
        turns: [],
        focals: [],
        horizons: [],
      };
      k.sets++;
      process.stderr.write(
        `${kind}: ${s.placed} of ${among.length} placed, turn ${s.turn.toFixed(3)} degrees, focal length ${(100 * s.focal).toFixed(2)} %, horizon ${s.horizon.toFixed(2)} degrees\n`,
      );
      if (s.placed === among.length && !strangers) k.right++;
      // placed with confidence where it does not lie
      if (strangers || s.turn > 1) k.wrong++;
      k.turns.push(s.turn);
      k.focals.push(s.focal);
      k.horizons.push(s.horizon);
      kinds.set(kind, k);
    };
    // as much of a world as the row sees, as fine as the frames show it
    const degrees = (px: number, focalPx: number): number =>
      (2 * Math.atan(px / 2 / focalPx) * 180) / Math.PI;
    const part = (seed: number, n: number, step: number, focalPx: number): World => {
      const across = (n - 1) * step + degrees(W, focalPx) + 8;
      const down = degrees(H, focalPx) + 12;
      return {
        ...simulatedRoom(
          Math.round((across * focalPx * Math.PI) / 180),
          Math.round((down * focalPx * Math.PI) / 180),
          seed,
        ),
        piece: { across, down },
      };
    };
    const sweep = (
      seed: number,
      of: number,
      n: number,
      overlap: number,
      focalPx: number,
      o: Partial<SweepOptions> = {},
    ): SweepFrame[] => {
      const step = degrees(W, focalPx) * (1 - overlap);
      return simulateSweep(part(of, n, step, focalPx), {
        directions: Array.from({ length: n }, (_, i) => [(i - (n - 1) / 2) * step, 0] as const),
        width: W,
        height: H,
        focalPx,
        roll: 1.2,
        drift: 1,
        vignetting: 0.3,
        seed,
        ...o,
      });
    };
    for (let i = 0; i < COUNT; i++) {
      // lenses of 20 to 60 mm, overlaps of 25 to 45 %, barrels and cushions
      const rnd = random(900 + i);
      const focalPx = (H * (20 + 40 * rnd())) / 36;
      const n = Math.min(5 + Math.floor(rnd() * 8), Math.floor(300 / degrees(W, focalPx) / 0.75));
      const overlap = 0.25 + 0.2 * rnd();
      const frames = sweep(i, 300 + i, n, overlap, focalPx, {
        distortion: [(rnd() - 0.5) * 0.1, 0, 0],
        vignetting: 0.35 * rnd(),
      });
      note(
        i % 2 ? "row, lens unknown" : "row, lens known",
        frames,
        frames.map((_, k) => k),
        i % 2 ? undefined : focalPx,
      );
    }
    for (let i = 0; i < COUNT / 4; i++) {
      const frames = [...sweep(i, 400 + i, 5, 0.35, 900), ...sweep(i + 50, 450 + i, 1, 0.35, 900)];
      note("row and a stranger", frames, [0, 1, 2, 3, 4], 900);
    }
    for (let i = 0; i < COUNT / 5; i++) {
      const frames = [...sweep(i, 500 + i, 5, 0.35, 900), ...sweep(i + 50, 550 + i, 3, 0.35, 900)];
      note("two rows of other places", frames, [0, 1, 2, 3, 4], 900);
    }
    for (let i = 0; i < COUNT / 16; i++) {
      const frames = simulateSweep(simulatedRoom(4000, 2000, 600 + i), {
        directions: [
          ...[0, 45, -45].flatMap((pitch) =>
            Array.from({ length: 8 }, (_, k): [number, number] => [k * 45, pitch]),
          ),
          [0, 88],
          [0, -88],
        ],
        width: W,
        height: H,
        focalPx: 0.556 * H,
        roll: 0.6,
        drift: 0.5,
        vignetting: 0.25,
        distortion: [-0.02, 0.004, 0],
        seed: i,
      });
      note(
        "sphere of 26",
        frames,
        frames.map((_, k) => k),
        0.556 * H,
      );
    }
    const worst = (v: number[]): number => Math.max(...v);
    for (const [kind, k] of kinds)
      rows.push([
        kind,
        k.sets,
        k.right,
        k.wrong,
        `${median(k.turns).toFixed(3)}, ${worst(k.turns).toFixed(3)}`,
        `${(100 * median(k.focals)).toFixed(2)}, ${(100 * worst(k.focals)).toFixed(2)}`,
        `${median(k.horizons).toFixed(2)}, ${worst(k.horizons).toFixed(2)}`,
      ]);
    table(
      [
        "sets",
        "count",
        "all placed",
        "wrongly placed",
        "turn, degrees: middle, worst",
        "focal length, %",
        "horizon, degrees",
      ],
      rows,
    );
  },
};
for (const name of process.argv[2] ? [process.argv[2]] : Object.keys(sets)) sets[name]!();

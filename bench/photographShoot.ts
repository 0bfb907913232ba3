// Groups mixed shoots of small frames cut from photographs: node build/node/benchPhotographShoot.js
// COUNT SEED PHOTOGRAPH... Brackets, two bodies at work at once, rows, bracketed rows and singles;
// every frame is really taken, through JPEG.
import type { FrameInfo } from "../core/frame/frame";
import { groupFrames } from "../core/grouping/groupFrames";
import { makeSignature } from "../core/grouping/signature";
import type { MixedShoot, ShootFrame, TrueStack } from "../simulate/mixedShoot";
import { random } from "../core/math/random";
import { scoreGrouping } from "../simulate/scoreGrouping";
import { simulateSweep, type World } from "../simulate/sweep";
import { DECODED, photographLight, throughJpeg } from "./photographScene";
import { clamp } from "../core/math/clamp";

const [countText, seedText, ...photographs] = process.argv.slice(2);
const COUNT = Number(countText);
const SEED = Number(seedText);
const W = 480;
const H = 320;
const RAD = Math.PI / 180;
/** A photograph as the part of the world that it shows, wide enough for two rows. */
const worlds = photographs.map((file): World => ({
  ...photographLight(file, 2600, 1500),
  piece: { across: 130, down: 75 },
}));

function shootOf(seed: number): MixedShoot {
  const rnd = random(seed);
  const frames: ShootFrame[] = [];
  const truth: TrueStack[] = [];
  let clock = 36000;
  const pick = <T>(list: readonly T[]): T => list[Math.floor(rnd() * list.length)]!;
  const take = (
    world: World,
    yaw: number,
    pitch: number,
    ev: number,
    focal: number,
    name: string,
  ): number => {
    const focalPx = (W * focal) / 36;
    const [frame] = simulateSweep(world, {
      directions: [[yaw, pitch]],
      width: W,
      height: H,
      focalPx,
      roll: 0.4,
      vignetting: 0.15,
      ev: ev - 0.5,
      seed: seed * 1000 + frames.length,
    });
    const samples = throughJpeg(frame!.samples, W, H);
    const info: FrameInfo = {
      name,
      format: "jpeg",
      width: W,
      height: H,
      depth: 8,
      profile: "sRGB",
      exif: {
        takenAt: Math.round(clock * 100) / 100,
        exposureTime: 2 ** ev / 60,
        aperture: 8,
        iso: 100,
        focalLength: focal,
        focalLength35: focal,
        camera: "Stand-in 24",
      },
    };
    frames.push({
      info,
      signature: makeSignature({ samples, lut: DECODED, width: W, height: H }),
      samples,
    });
    return frames.length - 1;
  };
  let number = 100 + Math.floor(rnd() * 1000);
  const next = (): string => `QM_${String(number++).padStart(4, "0")}.jpg`;
  const across = (focal: number): number => (2 * Math.atan(18 / focal)) / RAD;
  const down = (focal: number): number => (2 * Math.atan((18 * H) / W / focal)) / RAD;
  const KINDS = ["bracket", "two bodies", "rows", "bracketed", "single", "bracket"] as const;
  for (let k = 0; k < 12; k++) {
    const kind = KINDS[k % KINDS.length]!;
    const world = pick(worlds);
    const other = pick(worlds.filter((w) => w !== world));
    const focal = pick([24, 35, 50]);
    clock += pick([4, 20, 90]);
    const yaw = (rnd() - 0.5) * 60;
    const pitch = (rnd() - 0.5) * 20;
    const shot = (w: World, y: number, p: number, ev: number, name = next()): number => {
      clock += 0.4 + 2 ** ev / 60;
      return take(w, y + (rnd() - 0.5) * 0.6, p + (rnd() - 0.5) * 0.6, ev, focal, name);
    };
    if (kind === "bracket")
      truth.push({
        kind: "bracket",
        frames: pick([
          [-2, 0, 2],
          [0, -2, 2, -4, 4],
        ]).map((ev) => shot(world, yaw, pitch, ev)),
      });
    else if (kind === "single")
      truth.push({ kind: "single", frames: [shot(world, yaw, pitch, 0)] });
    else if (kind === "two bodies") {
      const evs = [-2, 0, 2, -4, 4].slice(0, pick([3, 5]));
      const a: number[] = [];
      const b: number[] = [];
      const base = Math.floor(rnd() * 900);
      evs.forEach((ev, i) => {
        a.push(shot(world, yaw, pitch, ev, `br-a${k}_f${base + i}.jpg`));
        b.push(shot(other, -yaw, pitch, ev, `br-b${k}_f${base + i}.jpg`));
      });
      truth.push({ kind: "bracket", frames: a }, { kind: "bracket", frames: b });
    } else if (kind === "rows") {
      const wide = focal === 24 ? 35 : focal;
      const step = across(wide) * 0.63;
      const rise = down(wide) * 0.6;
      const n = 6;
      const all: number[] = [];
      const per = Math.min(step, 100 / n);
      for (let r = 0; r < 2; r++)
        for (let i = 0; i < n; i++) {
          clock += 1.2;
          const at = r % 2 ? n - 1 - i : i;
          clock += 0.4;
          all.push(
            take(
              world,
              (at - (n - 1) / 2) * per + (rnd() - 0.5) * 0.6,
              (r - 0.5) * rise + (rnd() - 0.5) * 0.6,
              0,
              per < step ? 50 : wide,
              next(),
            ),
          );
        }
      truth.push({ kind: "panorama", frames: all });
    } else {
      const wide = Math.max(35, focal);
      const step = across(wide) * 0.63;
      const members = Array.from({ length: 4 }, (_, i) => {
        clock += 1.5;
        return [0, -2, 2].map((ev) => {
          clock += 0.4;
          return take(
            world,
            clamp((i - 1.5) * Math.min(step, 30), -60, 60) + (rnd() - 0.5) * 0.6,
            pitch / 2 + (rnd() - 0.5) * 0.6,
            ev,
            step > 30 ? 44 : wide,
            next(),
          );
        });
      });
      truth.push({ kind: "panorama", frames: members.flat(), members });
    }
  }
  return { frames, truth, borders: [] };
}

let frames = 0;
let right = 0;
for (let s = SEED; s < SEED + COUNT; s++) {
  const shoot = shootOf(s);
  const score = scoreGrouping(
    shoot,
    groupFrames(
      shoot.frames.map((f) => f.info),
      shoot.frames.map((f) => f.signature),
    ),
  );
  frames += shoot.frames.length;
  right += score.framesRight * shoot.frames.length;
  process.stdout.write(
    `shoot ${s}: ${shoot.frames.length} frames, ${(100 * score.framesRight).toFixed(1)} % right, kinds ${score.kindsRight} of ${score.stacks}${score.wrong.map((w) => `\n  ${w}`).join("")}\n`,
  );
}
process.stdout.write(`all: ${frames} frames, ${((100 * right) / frames).toFixed(2)} % right\n`);
process.exit(0);

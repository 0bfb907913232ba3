import { decode, SPACES } from "../../colour/spaces";
import { simulatedRoom } from "../../../simulate/room";
import { simulateSweep, type SweepFrame } from "../../../simulate/sweep";
import { findDuplicates, fineDetail } from "./duplicates";
import type { SmallFrame } from "./smallFrame";
import { clamp } from "../../math/clamp";

const W = 420;
const H = 300;
const world = simulatedRoom(2600, 1300, 9);
const light = (v: number): number => decode(SPACES.srgb.curve, v / 255);
const taken = (
  directions: readonly (readonly [number, number])[],
  seed: number,
  ev = 0,
): SweepFrame[] =>
  simulateSweep(world, { directions, width: W, height: H, focalPx: 420, seed, ev });
const lookOf = ({ samples }: SweepFrame): SmallFrame => ({
  width: W,
  height: H,
  rgb: Float32Array.from(samples, light),
  scale: 1,
});
const detailOf = ({ samples }: SweepFrame): number =>
  fineDetail(
    Float32Array.from({ length: W * H }, (_, i) => Math.log(0.02 + light(samples[i * 3 + 1]!))),
    W,
    H,
  );
const found = (frames: readonly SweepFrame[], kept: readonly number[] = []) =>
  findDuplicates(
    frames.map((f) => f.camera),
    frames.map(lookOf),
    frames.map(detailOf),
    frames.map((_, i) => kept.includes(i)),
  );
const row = taken(
  [
    [-20, 0],
    [0, 0],
    [20, 0],
  ],
  3,
);
/** A part of a frame drawn over, as by somebody who walks through. */
const walked = (f: SweepFrame): SweepFrame => {
  const samples = f.samples.slice();
  for (let y = 120; y < 260; y++) samples.fill(90, (y * W + 180) * 3, (y * W + 230) * 3);
  return { ...f, samples };
};
/** Moved by the hand while it was open. */
const shaken = (f: SweepFrame): SweepFrame => ({
  ...f,
  samples: Uint8Array.from(f.samples, (_, i) => {
    let s = 0;
    for (let d = -1; d <= 1; d++) s += f.samples[clamp(i + d * 3, 0, f.samples.length - 1)]!;
    return s / 3;
  }),
});

test("a frame taken once more, with noise of its own and a hand's width beside, is a duplicate; neighbours are none", () => {
  expect(found(row)).toEqual([]);
  expect(found([...row, ...taken([[0.2, -0.1]], 8), ...taken([[20.1, 0.1]], 9)])).toEqual([
    { frame: 3, of: 1 },
    { frame: 4, of: 2 },
  ]);
  expect(found([...row, ...taken([[6, 0]], 8)])).toEqual([]);
});

test("what was exposed otherwise, or shows something that moved, is wanted", () => {
  expect(found([...row, ...taken([[0, 0]], 8, -1)])).toEqual([]);
  const [again] = taken([[0, 0]], 8);
  expect(found([...row, walked(again!)])).toEqual([]);
  expect(found([...row, again!, again!])).toEqual([
    { frame: 3, of: 1 },
    { frame: 4, of: 1 },
  ]);
});

test("the sharper one stays, and so does one that is kept", () => {
  const [again] = taken([[0, 0]], 8);
  expect(found([row[0]!, shaken(row[1]!), row[2]!, again!])).toEqual([{ frame: 1, of: 3 }]);
  expect(found([...row, again!], [3])).toEqual([{ frame: 1, of: 3 }]);
  expect(found([...row, again!], [1, 3])).toEqual([]);
});

import { Heap } from "../../kernels/heap";
import { decode, SPACES } from "../colour/spaces";
import { multiply } from "../raster/matrix3";
import { simulatedRoom } from "../simulate/room";
import { simulateSweep, type SweepFrame, type SweepOptions } from "../simulate/sweep";
import { degreesApart, transpose } from "./camera";
import { findFeatures, type Features } from "./features";
import { logPyramid } from "../align/logPyramid";
import { refineTies } from "./refineTies";
import { matchFeatures } from "./matchFeatures";
import type { Geometry } from "./geometry";
import { solvePanorama } from "./solvePanorama";

const LUT = Float32Array.from({ length: 768 }, (_, i) => decode(SPACES.srgb.curve, (i % 256) / 255));
const world = simulatedRoom(4000, 2000, 5), W = 480, H = 640;

function solve(frames: readonly SweepFrame[], focalPx?: number): Geometry {
  const heap = Heap.local(W * H * 40 * (frames.length + 1)), held = frames.map((f) => ({ ptr: heap.putBytes(f.samples), type: "u8" as const, width: f.width, height: f.height, lut: LUT }));
  const pyramids = held.map((f) => logPyramid(heap, f, 0)), features = pyramids.map((f): Features => findFeatures(heap, f)), planes = pyramids.map((p) => p.levels[0]!);
  const matches = frames.flatMap((_, a) => frames.slice(a + 1).map((_f, k) => ({ a, b: a + 1 + k, found: matchFeatures(heap, features[a]!, features[a + 1 + k]!) })));
  return solvePanorama(frames.map((f) => ({ width: f.width, height: f.height, focalPx })), features, 1, matches, (cameras, pairs) => refineTies(heap, planes, cameras, pairs, 1));
}
/** The worst error of the turn between two frames, degrees. */
const worstTurn = (frames: readonly SweepFrame[], { cameras }: Geometry): number => Math.max(...frames.slice(1).map((f, i) => { const between = (a: readonly number[], b: readonly number[]): number[] => multiply(transpose(a), b); return cameras[0] && cameras[i + 1] ? degreesApart(between(frames[0]!.camera.rotation, f.camera.rotation), between(cameras[0].rotation, cameras[i + 1]!.rotation)) : 180; }));
const row = (n: number, step: number, o: Partial<SweepOptions> = {}): SweepFrame[] => simulateSweep(world, { directions: Array.from({ length: n }, (_, i) => [(i - (n - 1) / 2) * step, 0] as const), width: W, height: H, focalPx: 620, roll: 0.8, drift: 1, vignetting: 0.25, distortion: [-0.04, 0.01, 0], seed: 3, ...o });

test("a hand-held row in any order, its lens unknown: every frame placed, turns and focal length found", () => {
  const frames = row(6, 27), shuffled = [3, 0, 5, 2, 4, 1].map((i) => frames[i]!), g = solve(shuffled);
  process.stdout.write(`row of six, lens unknown: turns to ${worstTurn(shuffled, g).toFixed(3)} degrees, focal length to ${((g.cameras[0]!.focalPx / 620 - 1) * 100).toFixed(2)} %, RMS ${Math.max(...g.rmsPx).toFixed(2)} px\n`);
  expect(g.leftOut).toEqual([]);
  // small frames: over five steps of a third of a frame each
  expect(worstTurn(shuffled, g)).toBeLessThan(0.35);
  expect(Math.abs(g.cameras[0]!.focalPx / 620 - 1)).toBeLessThan(0.02);
});

test("a frame of another scene and a group that does not meet are left out and named", () => {
  const frames = [...row(4, 27), ...simulateSweep(simulatedRoom(4000, 2000, 50), { directions: [[0, 0]], width: W, height: H, focalPx: 620, seed: 9 })], g = solve(frames, 620);
  expect(g.leftOut).toEqual([4]);
  expect(g.warnings[0]!.code).toBe("left-out");
  expect(worstTurn(frames.slice(0, 4), g)).toBeLessThan(0.1);
});

test("frames that share nothing make no picture", () => {
  const frames = [5, 50, 51].flatMap((seed) => simulateSweep(simulatedRoom(2000, 1000, seed + 1), { directions: [[0, 0]], width: W, height: H, focalPx: 620, seed }));
  expect(solve(frames).leftOut).toHaveLength(3);
});

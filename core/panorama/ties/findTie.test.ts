import { Heap } from "../../../kernels/heap";
import { random } from "../../math/random";
import { lookingAt } from "../../../simulate/sweep";
import type { Camera } from "../camera";
import { findTie } from "./findTie";
import type { LogPlane } from "./tiePlane";

const W = 220;
const H = 160;
const heap = Heap.local(8e6);

/** A plane of log light by a function of its px. */
function plane(at: (x: number, y: number) => number): LogPlane {
  const log = heap.alloc(W * H * 4 + 64);
  const confidence = heap.alloc(W * H * 4 + 64);
  const values = heap.f32(log, W * H);
  for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) values[y * W + x] = at(x, y);
  heap.f32(confidence, W * H).fill(1);
  return { log, confidence, w: W, h: H };
}

/** Tiles that repeat every 18 px, each with a texture of its own that is fainter than the grain. */
const uniform = random(3);
const own = Array.from({ length: 64 * 64 }, () => uniform() - 0.5);
const tiles = (x: number, y: number): number =>
  Math.sin((2 * Math.PI * x) / 18) +
  Math.cos((2 * Math.PI * y) / 18) +
  0.02 * own[(Math.floor(y / 4) & 63) * 64 + (Math.floor(x / 4) & 63)]!;
const SHIFT = 30;
const A = plane(tiles);
const grain = random(11);
const B = plane((x, y) => tiles(x + SHIFT, y) + 0.1 * (grain() - 0.5));

test("of places that are alike the one nearest to where was pointed is meant", () => {
  const pointing = random(8);
  for (let k = 0; k < 12; k++) {
    const x = 80 + 80 * pointing();
    const y = 50 + 60 * pointing();
    const off = [6 * (pointing() - 0.5), 6 * (pointing() - 0.5)] as const;
    const found = findTie(heap, A, B, undefined, 1, [x, y, x - SHIFT + off[0], y + off[1]])!;
    expect(Math.abs(found[2] - (found[0] - SHIFT))).toBeLessThan(0.6);
    expect(Math.abs(found[3] - found[1])).toBeLessThan(0.6);
  }
});

test("cameras that have the place elsewhere do not say how the frames are rotated", () => {
  const camera = (yaw: number, roll: number): Camera => ({
    rotation: lookingAt(yaw, 0, roll),
    focalPx: 300,
    distortion: [0, 0, 0],
    width: W,
    height: H,
  });
  // wrong by far: one upside down, and looking past the other
  const wrong = [camera(0, 0), camera(25, 170)] as const;
  const found = findTie(heap, A, B, wrong, 1, [120, 80, 90, 80])!;
  expect(Math.abs(found[2] - (found[0] - SHIFT))).toBeLessThan(0.6);
});

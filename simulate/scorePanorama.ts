import { Heap } from "../kernels/heap";
import { logPyramid } from "../core/align/logPyramid";
import { decode, SPACES } from "../core/colour/spaces";
import { degreesBetween } from "../core/math/rotation";
import { transpose, apply, multiply } from "../core/math/matrix3";
import { findFeatures, type Features } from "../core/features/features";
import type { Geometry } from "../core/panorama/layout/geometry";
import { makeSmallFrame } from "../core/panorama/seams/smallFrame";
import { matchFeatures } from "../core/features/matchFeatures";
import { PIXELS_BYTES, pixelsOf } from "../core/panorama/layout/pixels";
import { placeFrames } from "../core/panorama/layout/placeFrames";
import { straightEdges } from "../core/panorama/level/findLevel";
import { tiePlane } from "../core/panorama/ties/tiePlane";
import type { SweepFrame } from "./sweep";

const LUT = Float32Array.from({ length: 768 }, (_, i) =>
  decode(SPACES.srgb.curve, (i % 256) / 255),
);

/**
 * Finds how simulated frames lie, from their pixels alone.
 *
 * @param focalPx  as the files would tell it, if they do, of all or of each
 * @param flat  they were taken along a plane
 */
export function placeSweep(
  frames: readonly SweepFrame[],
  focalPx?: number | readonly number[],
  flat = false,
): Geometry {
  const heap = Heap.local(
    frames.reduce((s, f) => s + f.width * f.height * 48, 40e6 + PIXELS_BYTES),
  );
  const loaded = frames.map((f) => ({
    ptr: heap.putBytes(f.samples),
    type: "u8" as const,
    width: f.width,
    height: f.height,
    lut: LUT,
  }));
  const stated = (i: number): number | undefined =>
    typeof focalPx === "object" ? focalPx[i] : focalPx;
  const pyramids = loaded.map((f) => logPyramid(heap, f, 0));
  const features = pyramids.map((f, i): Features => findFeatures(heap, f, stated(i)));
  const planes = pyramids.map((p) => {
    const [first] = p.levels;
    return tiePlane(heap, first!, heap.alloc(first!.w * first!.h * 8 + 64));
  });
  const matches = frames.flatMap((_, a) =>
    frames.slice(a + 1).map((_f, k) => ({
      a,
      b: a + 1 + k,
      found: matchFeatures(heap, features[a]!, features[a + 1 + k]!),
    })),
  );
  return placeFrames(
    frames.map((f, i) => ({ width: f.width, height: f.height, focalPx: stated(i) })),
    features,
    1,
    matches,
    loaded.map((h) => straightEdges(makeSmallFrame(heap, h, 1))),
    pixelsOf(heap, planes, 1),
    flat,
  );
}

export interface PanoramaScore {
  placed: number;
  /**
   * the worst error of the turn between two placed frames that follow each other, and of the
   * horizon, degrees
   */
  turn: number;
  horizon: number;
  /** share by which the focal length is wrong */
  focal: number;
}

/**
 * Holds what was found against the truth.
 *
 * @param among  places of the frames that belong together
 */
export function scorePanorama(
  frames: readonly SweepFrame[],
  { cameras }: Pick<Geometry, "cameras">,
  among: readonly number[] = frames.map((_, i) => i),
): PanoramaScore {
  const placed = among.filter((i) => cameras[i]);
  const between = (a: readonly number[], b: readonly number[]): number[] =>
    multiply(transpose(a), b);
  const RAD = Math.PI / 180;
  const turn = Math.max(
    0,
    ...placed.slice(1).map((b, k) => {
      const a = placed[k]!;
      return degreesBetween(
        between(frames[a]!.camera.rotation, frames[b]!.camera.rotation),
        between(cameras[a]!.rotation, cameras[b]!.rotation),
      );
    }),
  );
  // what the found world makes of the true one's down
  const downs = placed.map((i) =>
    apply(multiply(cameras[i]!.rotation, transpose(frames[i]!.camera.rotation)), [0, 1, 0]),
  );
  return {
    placed: placed.length,
    turn,
    horizon: Math.max(0, ...downs.map((d) => Math.acos(Math.min(1, d[1])) / RAD)),
    focal: placed.length
      ? Math.max(
          ...placed.map((i) => Math.abs(cameras[i]!.focalPx / frames[i]!.camera.focalPx - 1)),
        )
      : 1,
  };
}

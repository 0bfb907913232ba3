import { alignStack } from "../../core/align/alignStack";
import type { ReducedFrame } from "../../core/align/logPyramid";
import { withGains } from "../../core/colour/whiteBalance";
import { invert, multiply, rescale } from "../../core/math/matrix3";
import { findDust } from "../../core/frame/findDust";
import { healSpots } from "../../core/frame/healSpots";
import type { Size } from "../../core/frame/lens";
import { lensWarp, type FrameRows } from "../../core/frame/lensWarp";
import type { Measured } from "../../core/frame/measureBending";
import { coarseLight, measureFalloff } from "../../core/frame/measureFalloff";
import { measureLens, type LensFit } from "../../core/frame/measureLens";
import type { DustSpot, Preparation } from "../../core/frame/preparation";
import { reduceNoise } from "../../core/frame/reduceNoise";
import { whiten } from "../../core/frame/whiten";
import { rootsTable } from "../../core/frame/roots";
import type { StepContext } from "../stepContext";

/** Longer side of the frames by which corners are measured, px. */
const FALLOFF_EDGE = 480;

/** What preparing frames asks of a worker. */
export const prepareTasks = {
  /**
   * Rows of a frame as square roots of light, RGB of 16 bit.
   *
   * @param gains  factors on its linear Rec. 2020 light; what is clipped stays clipped
   */
  toRoots(
    { heap }: StepContext,
    {
      loaded,
      gains,
      to,
      y0,
      y1,
    }: {
      loaded: ReducedFrame & { matrix: number[] };
      gains?: readonly number[];
      to: number;
      y0: number;
      y1: number;
    },
  ) {
    heap.ensure(to + loaded.width * loaded.height * 6 + 64);
    const from = heap.samples(loaded.ptr, loaded.type, loaded.width * loaded.height * 3);
    const out = heap.u16(to, from.length);
    if (gains) {
      whiten(
        from,
        loaded.lut,
        multiply(withGains(invert(loaded.matrix), gains), loaded.matrix),
        out,
        y0 * loaded.width * 3,
        y1 * loaded.width * 3,
      );
      return;
    }
    const size = loaded.lut.length / 3;
    const root = (v: number): number =>
      Math.min(65535, Math.round(Math.sqrt(Math.max(0, v)) * 65535));
    const table = size ? Uint16Array.from(loaded.lut, root) : undefined;
    for (
      let i = y0 * loaded.width * 3, c = 0;
      i < y1 * loaded.width * 3;
      i++, c = c === 2 ? 0 : c + 1
    )
      out[i] = table ? table[c * size + from[i]!]! : root(from[i]!);
  },
  /** What a frame tells of the lens it was taken with. */
  measureLens({ heap }: StepContext, { loaded }: { loaded: ReducedFrame }): LensFit {
    const { width, height, lut } = loaded;
    const n = width * height;
    const from = heap.samples(loaded.ptr, loaded.type, n * 3);
    const size = lut.length / 3;
    const root = (v: number): number => Math.min(255, Math.round(Math.sqrt(Math.max(0, v)) * 255));
    const table = Uint8Array.from(lut, root);
    const [r, g, b] = [0, 1, 2].map((c) => {
      const out = new Uint8Array(n);
      for (let i = 0; i < n; i++)
        out[i] = size ? table[c * size + from[i * 3 + c]!]! : root(from[i * 3 + c]!);
      return out;
    }) as [Uint8Array, Uint8Array, Uint8Array];
    return measureLens({ width, height, r, g, b });
  },
  /** What the corners lack, from exposures of one size between which the camera moved. */
  measureFalloff(
    { heap }: StepContext,
    {
      frames,
      evs,
      reference,
    }: { frames: ReducedFrame[]; evs: (number | undefined)[]; reference: number },
  ): Measured | undefined {
    const aligned = alignStack(heap, frames, evs, {
      motion: "auto",
      reference,
      deghost: false,
      strength: 0.5,
      forced: [],
      scale: 1,
    });
    const { width, height } = frames[0]!;
    const by = Math.max(1, Math.ceil(Math.max(width, height) / FALLOFF_EDGE));
    const lights = frames.map(({ ptr, type, lut }) => {
      const from = heap.samples(ptr, type, width * height * 3);
      const green = lut.length / 3;
      return coarseLight(width, height, by, (i) =>
        green ? lut[green + from[i * 3 + 1]!]! : from[i * 3 + 1]!,
      );
    });
    return measureFalloff(
      Math.floor(width / by),
      Math.floor(height / by),
      lights[reference]!,
      aligned.flatMap((a, i) =>
        i !== reference && a.used
          ? [{ light: lights[i]!, fromReference: rescale(a.fromReference, 1 / by) }]
          : [],
      ),
    );
  },
  healSpots(
    { heap }: StepContext,
    a: { at: number; width: number; height: number; spots: DustSpot[]; top: number; whole: number },
  ) {
    healSpots(heap.u16(a.at, a.width * a.height * 3), a.width, a.height, a.spots, a.top, a.whole);
  },
  /** Likely dust in frames of one camera. */
  findDust({ heap }: StepContext, { frames }: { frames: ReducedFrame[] }): DustSpot[] {
    return findDust(heap, frames);
  },
  reduceNoise(
    { heap }: StepContext,
    a: {
      from: number;
      to: number;
      width: number;
      height: number;
      strength: number;
      downscale: number;
      y0: number;
      y1: number;
    },
  ) {
    heap.ensure(a.to + a.width * a.height * 6 + 64);
    reduceNoise(heap, a.from, a.to, a.width, a.height, a.strength, a.downscale, a.y0, a.y1);
  },
  lensWarp(
    { heap }: StepContext,
    a: { lens: Preparation; size: Size; from: FrameRows; to: FrameRows; y0: number; y1: number },
  ) {
    heap.ensure(a.to.ptr + a.size.width * a.to.rows * 6 + 64);
    const mark = heap.mark();
    lensWarp(heap, a.lens, a.size, a.from, a.to, heap.put(rootsTable()), a.y0, a.y1);
    heap.release(mark);
  },
};

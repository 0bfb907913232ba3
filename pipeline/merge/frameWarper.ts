import type { AlignedFrame } from "../../core/align/alignedFrame";
import { foldScratch } from "../../core/bracket/foldFrame";
import { encodedTables, isPlainSrgb } from "../../core/bracket/warpEncoded";
import { warpScratch } from "../../core/bracket/warpThroughLight";
import type { WarpedFrame } from "../../core/bracket/mertens";
import { outlineOf, type Outline } from "../../core/raster/coveredRectangle";
import { IDENTITY, rescale, type Matrix3 } from "../../core/math/matrix3";
import type { Sampling } from "../../core/raster/sampling";
import { decodeInto } from "../readFrames";
import { sizeAt } from "../step";
import { inStrips, type RunOptions } from "../../runtime/work";
import { type StackFrame, type Work } from "../work";
import { type LoadedFrame } from "../loadedFrame";
import { rowsBehind, shifted, type Band } from "./band";
import { foldInput } from "./fold";

interface Input {
  frames: readonly StackFrame[];
  reference: number;
  downscale: number;
  loaded?: LoadedFrame[] | undefined;
  /** the picture's size at 1/downscale */
  whole: { width: number; height: number };
  /** its rows that are wanted, if not all */
  part?: Band | undefined;
  on: RunOptions;
  sampling?: Sampling | undefined;
  /** the picture's px to the reference frame's, where it is straightened */
  fromPicture?: Matrix3 | undefined;
}
export interface FrameWarper {
  /**
   * begins to read frames that will be warped soon; of those whose place is known only what is wanted
   */
  readAhead(frames: readonly number[], aligned?: readonly AlignedFrame[]): void;
  /**
   * the frame as an sRGB picture in the reference's place, the reference itself without a
   * place; its memory is the scope's
   */
  warp(i: number, aligned?: AlignedFrame): Promise<WarpedFrame>;
}

/**
 * What of a picture its reference frame covers where it is straightened, px of the picture at
 * 1/downscale.
 *
 * @param top  the picture's row that comes first
 */
export function coveredBy(
  fromPicture: Matrix3 | undefined,
  downscale: number,
  { width, height }: { width: number; height: number },
  top: number,
): { outline?: Outline } {
  if (!fromPicture) return {};
  const outline = outlineOf(rescale(fromPicture, 1 / downscale), width, height);
  return { outline: outline.map(([x, y]) => [x, y - top] as const) };
}

/** Lays frames, one by one, in the reference frame's place as pictures of 16 bit. */
export function frameWarper(
  scope: Work,
  { frames, reference, downscale, loaded, whole, part, on, sampling, fromPicture }: Input,
): FrameWarper {
  const { width } = whole;
  const height = part ? part.y1 - part.y0 : whole.height;
  const top = part?.y0 ?? 0;
  const ahead = new Map<number, Promise<LoadedFrame>>();
  const placeOf = (i: number, aligned: AlignedFrame | undefined): Matrix3 =>
    i === reference || !aligned ? (fromPicture ?? IDENTITY) : aligned.fromReference;
  const mapping = (i: number, aligned: AlignedFrame | undefined): Matrix3 =>
    rescale(placeOf(i, aligned), 1 / downscale);
  // a straightened picture reaches beyond its frames: there their edges are repeated
  const goingOn = fromPicture ? { beyond: 2 * Math.max(whole.width, whole.height) } : {};
  const read = (i: number, aligned: AlignedFrame | undefined): Promise<LoadedFrame> => {
    const asked =
      ahead.get(i) ??
      decodeInto(
        scope,
        frames[i]!,
        downscale,
        on.signal,
        part && rowsBehind(part, mapping(i, aligned), whole),
      );
    asked.catch(() => undefined);
    ahead.set(i, asked);
    return asked;
  };
  return {
    readAhead(list, aligned) {
      if (!loaded) for (const i of list) void read(i, aligned?.[i]);
    },
    async warp(i, aligned) {
      const own = loaded?.[i] ?? (await read(i, aligned));
      const ptr = scope.allocate(width * height * 6 + 64);
      const gain = 2 ** (aligned?.gainEv ?? 0);
      const still = !fromPicture && (i === reference || !aligned);
      const sampled = { ...(sampling ? { sampling } : {}), ...goingOn };
      const fromReference = mapping(i, aligned);
      ahead.delete(i);
      if (isPlainSrgb(own.matrix, own.type)) {
        const { ptr: samples, type, width: w, height: h } = own;
        const input = {
          samples,
          type,
          width: w,
          height: h,
          lut: encodedTables(own.lut, gain),
          fromReference: shifted(fromReference, top, own.top ?? 0),
          ...sampled,
        };
        await inStrips(scope, height, (y0, y1) =>
          scope.run(
            "layEncoded",
            { input, width, height, dst: ptr, y0, y1 },
            { scratch: foldScratch(width, type), ...on },
          ),
        );
      } else {
        const input = foldInput(
          own,
          {
            fromReference: [...placeOf(i, aligned)],
            ev: 0,
            darkest: true,
            ...sampled,
          },
          downscale,
          still,
          top,
        );
        await inStrips(scope, height, (y0, y1) =>
          scope.run(
            "layThroughLight",
            { input, matrix: own.matrix, gain, width, height, dst: ptr, y0, y1 },
            { scratch: warpScratch(width, own.type), ...on },
          ),
        );
      }
      // each strip's rows are its own: the same bytes for any cut
      if (aligned?.cornerEv) {
        const { width: fw, height: fh } = sizeAt(frames[i]!.info, downscale);
        const warped = {
          ptr,
          width,
          height,
          toFrame: shifted(fromReference, top, 0),
          frame: { width: fw, height: fh },
          ev: aligned.cornerEv,
        };
        await inStrips(scope, height, (y0, y1) =>
          scope.run("evenCorners", { warped, y0, y1 }, { scratch: 1 << 14, ...on }),
        );
      }
      if (!loaded) scope.free(own.ptr);
      // where no frame reaches the reference goes on
      if (fromPicture && i === reference) return { ptr, width, height };
      const outline = outlineOf(fromReference, width, whole.height).map(
        ([x, y]) => [x, y - top] as const,
      );
      return { ptr, width, height, covered: { outline, y0: -top, y1: whole.height - top } };
    },
  };
}

import { clamp } from "../../core/math/clamp";
import type { StackFrame } from "../work";
import { exposureEv } from "../../core/frame/frame";

/**
 * How many frames of so many bytes are read while the alignment is under way: two at least, four if
 * they are small enough.
 */
export const readAhead = (bytes: number): number =>
  clamp(Math.floor(READ_AHEAD_BYTES / bytes), 2, 4);
const READ_AHEAD_BYTES = 300e6;

/**
 * The places of all frames but the reference, from the longest exposure on, as far as the files
 * say.
 */
export const longestFirst = (frames: readonly StackFrame[], reference: number): number[] =>
  frames
    .map((_, i) => i)
    .filter((i) => i !== reference)
    .sort(
      (a, b) =>
        (exposureEv(frames[b]!.info.exif) ?? 0) - (exposureEv(frames[a]!.info.exif) ?? 0) || a - b,
    );

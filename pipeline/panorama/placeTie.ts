import type { TiePair } from "../../core/panorama/layout/geometry";
import type { Camera } from "../../core/panorama/camera";
import type { Watch } from "../../runtime/work";
import type { HeldFrames } from "../run/heldFrames";
import type { Threads } from "../pool";
import { downscaleTo, WORK_EDGE, type StackFrame } from "../work";

type Point = TiePair["points"][number];
/** Bytes of scratch that a px of a frame takes. */
const SCRATCH_A_PX = 28;

/**
 * The exact place in the second frame of what was pointed at in both, px of both; undefined if
 * nothing there fits.
 *
 * @param held     where the two are, or are read to
 * @param cameras  how they lie, as far as it is known
 */
export async function placeTie(
  threads: Threads,
  held: HeldFrames,
  frames: readonly [StackFrame, StackFrame],
  [a, b]: readonly [Camera | undefined, Camera | undefined],
  point: Point,
  on: Pick<Watch, "signal"> = {},
): Promise<Point | undefined> {
  const scale = downscaleTo(frames[0].info, WORK_EDGE);
  const loaded = await held.read(frames, scale, { progress: () => undefined, ...on });
  const px = loaded.reduce((sum, { width, height }) => sum + width * height, 0);
  return threads.run(
    "findTie",
    { frames: loaded, scale, cameras: a && b ? [a, b] : undefined, point },
    { scratch: px * SCRATCH_A_PX + (1 << 22), ...on },
  );
}

import { dustScratch } from "../../core/frame/findDust";
import type { DustSpot } from "../../core/frame/preparation";
import { decodeReduced } from "../../pipeline/readFrames";
import { downscaleTo, WORK_EDGE } from "../../pipeline/work";
import { middleExposure } from "../../core/frame/middleExposure";
import { otherScenes, type WorkFrame } from "../store/shoots";
import { pool } from "./pool";
import { stackFrames } from "./stackWork";

/** Scenes that are looked at, and as few as the stack's own frames help out. */
const MAX_FRAMES = 15;
const MIN_FRAMES = 4;

/** Looks for dust over the day's scenes, as the files are, and tells over how many frames. */
export async function findDust(
  shootId: string,
  stackId: string,
  own: readonly WorkFrame[],
  originals: Map<string, Blob>,
): Promise<{ spots: DustSpot[]; frames: number }> {
  const taken = own.filter((f) => !f.merged);
  const middle = middleExposure(taken);
  if (!middle) return { spots: [], frames: 0 };
  const others = await otherScenes(shootId, stackId, middle, MAX_FRAMES);
  const frames = stackFrames(
    [
      ...(others.frames.length < MIN_FRAMES ? taken.slice(0, MAX_FRAMES) : [middle]),
      ...others.frames,
    ],
    new Map([...originals, ...others.originals]),
  );
  const loaded = await decodeReduced(pool(), frames, downscaleTo(middle.info, WORK_EDGE), {
    progress: () => undefined,
  });
  try {
    return {
      spots: await pool().run(
        "findDust",
        { frames: loaded },
        { scratch: dustScratch(loaded[0]!.width, loaded[0]!.height) },
      ),
      frames: frames.length,
    };
  } finally {
    for (const h of loaded) pool().free(h.ptr);
  }
}

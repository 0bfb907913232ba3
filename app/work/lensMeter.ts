import type { LensFit } from "../../core/frame/measureLens";
import type { Measured } from "../../core/frame/measureBending";
import { alignScratch } from "../../pipeline/align/step";
import { exposureEv, type FileLens } from "../../core/frame/frame";
import type { Recipe } from "../../pipeline/recipe/recipe";
import { decodeReduced } from "../../pipeline/readFrames";
import { downscaleTo, WORK_EDGE } from "../../pipeline/work";
import { middleExposure } from "../../core/frame/middleExposure";
import type { WorkFrame } from "../store/shoots";
import { pool } from "./pool";
import { stackFrames } from "./stackWork";

/**
 * Measures the lens of a stack as its files are: bending and fringes by its best exposed frame at
 * full size, corners by all that moved; what that file says of its lens goes before.
 */
export async function measureLens(
  kind: Recipe["kind"],
  all: readonly WorkFrame[],
  originals: Map<string, Blob>,
): Promise<LensFit> {
  const own = all.filter((f) => !f.merged);
  const middle = middleExposure(own);
  if (!middle) return {};
  const fit = await measureFrame(middle, originals);
  const vignetting = kind === "bracket" ? await measureCorners(own, middle, originals) : undefined;
  return { ...fit, ...(vignetting ? { vignetting } : {}), ...knownOf(middle.info.lens ?? {}) };
}

async function measureFrame(frame: WorkFrame, originals: Map<string, Blob>): Promise<LensFit> {
  const [loaded] = await decodeReduced(pool(), stackFrames([frame], originals), 1, {
    progress: () => undefined,
  });
  try {
    return await pool().run("measureLens", { loaded: loaded! });
  } finally {
    pool().free(loaded!.ptr);
  }
}

/** Told by no edge and no frame, but by the file. */
const knownOf = (lens: FileLens): LensFit =>
  Object.fromEntries(
    Object.entries(lens).map(([key, value]) => [key, { value, deviation: 0, of: 0 }]),
  );

async function measureCorners(
  own: readonly WorkFrame[],
  middle: WorkFrame,
  originals: Map<string, Blob>,
): Promise<Measured | undefined> {
  const frames = own.filter(
    (f) => f.info.width === middle.info.width && f.info.height === middle.info.height,
  );
  if (frames.length < 2) return undefined;
  const loaded = await decodeReduced(
    pool(),
    stackFrames(frames, originals),
    downscaleTo(middle.info, WORK_EDGE),
    { progress: () => undefined },
  );
  try {
    return await pool().run(
      "measureFalloff",
      {
        frames: loaded,
        evs: frames.map((f) => exposureEv(f.info.exif)),
        reference: frames.indexOf(middle),
      },
      { scratch: alignScratch(loaded[0]!.width * loaded[0]!.height) },
    );
  } finally {
    for (const h of loaded) pool().free(h.ptr);
  }
}

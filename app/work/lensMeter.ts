import type { LensFit } from "../../core/frame/measureLens";
import { decodeReduced } from "../../core/steps/readFrames";
import { middleExposure, type WorkFrame } from "../store/shoots";
import { pool } from "./pool";
import { stackFrames } from "./stackWork";

/** Measures the lens of a stack by its best exposed frame, at full size, as the file is; nothing where all its frames are merged ones. */
export async function measureLens(own: readonly WorkFrame[], originals: Map<string, Blob>): Promise<LensFit> {
  const middle = middleExposure(own.filter((f) => !f.merged));
  if (!middle) return {};
  const [held] = await decodeReduced(pool(), stackFrames([middle], originals), 1, { progress: () => undefined });
  try { return await pool().run("measureLens", { held: held! }); } finally { pool().give(held!.ptr); }
}

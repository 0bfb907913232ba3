import type { Run } from "../run/run";
import { downscaleTo, frameKey, WORK_EDGE, type StackFrame } from "../work";
import type { Upright } from "../../core/straighten/findUpright";
import { asksForUpright, type StraightenSettings } from "./settings";
import { focalOf, straighteningOf, type Straightening } from "./straightening";

/** Bytes of scratch that making a frame small takes: tables, and a row of it with its sums. */
const TABLE_BYTES = 1 << 20;
const ROW_BYTES_PER_PX = 32;

/**
 * How the picture of a run lies on its reference frame. The frame's edges are asked where the recipe
 * wants them to say what is upright; what they said is held.
 *
 * @returns undefined where the picture is not turned
 */
export async function straightenRun(
  run: Run,
  reference: number,
): Promise<Straightening | undefined> {
  const { frames, recipe } = run;
  const { info } = frames[reference]!;
  const found = asksForUpright(recipe.edges)
    ? await askEdges(run, frames[reference]!, recipe.edges)
    : undefined;
  return straighteningOf(recipe.edges, info, found);
}

/**
 * What the edges of a frame say is upright; it is read if it is not there.
 *
 * @param settings  of which the focal length is taken
 */
export async function askEdges(
  { threads, held, signal }: Pick<Run, "threads" | "held" | "signal">,
  frame: StackFrame,
  settings: Pick<StraightenSettings, "focal">,
): Promise<Upright | undefined> {
  const workDownscale = downscaleTo(frame.info, WORK_EDGE);
  const lens = focalOf(settings, frame.info);
  const key = JSON.stringify([frameKey(frame), lens.focalPx]);
  const known = held.upright.at(key);
  if (known) return known.found;
  const silent = { progress: () => undefined, ...(signal ? { signal } : {}) };
  const [loaded] = await held.read([frame], workDownscale, silent);
  const { width, height } = frame.info;
  const found = await threads.run(
    "findUpright",
    {
      frame: loaded!,
      scale: workDownscale,
      lens: { width, height, focalPx: lens.focalPx },
    },
    {
      scratch: loaded!.width * ROW_BYTES_PER_PX + TABLE_BYTES,
      ...(signal ? { signal } : {}),
    },
  );
  held.upright.set(key, { found });
  return found;
}

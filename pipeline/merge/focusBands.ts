import type { SharpLevel } from "../../core/focus/depthMap";
import { sizeAt } from "../step";
import type { RunOptions, Watch } from "../../runtime/work";
import type { Work } from "../work";
import { composeAlongDepth, findDepth, type AllocatedDepth } from "./alongDepth";
import { widened, type Band, type ComingBand } from "./band";
import { depthLevel, fuseByPyramid, type FocusInput, type FocusMethod } from "./focusPass";

/**
 * Rows that a band needs round it to come out as in the whole: what the pyramid's six levels, and
 * the sharpness measured on them, reach.
 */
export const FOCUS_MARGIN = 8 * 2 ** 6;

/**
 * The map of depth of a focus run that does not fit in memory whole: goes through it band by band,
 * and keeps of each what the map is made of. Together with focusBand it gives the bytes of
 * focusFrames.
 *
 * @param bands  beginning at multiples of 64
 */
export async function depthInBands(
  work: Work,
  input: FocusInput,
  bands: readonly Band[],
  { progress, signal }: Watch,
): Promise<AllocatedDepth> {
  const on: RunOptions = signal ? { signal } : {};
  const { level, w, h } = depthLevel(sizeAt(input.frames[input.reference]!.info, input.downscale));
  const by = 2 ** level;
  const n = w * h;
  const plane = Math.ceil(n / 16) * 64;
  const at = work.allocate(5 * plane + n + 64);
  const all: SharpLevel = {
    level,
    w,
    h,
    best: at,
    total: at + plane,
    guide: at + 2 * plane,
    lower: at + 3 * plane,
    upper: at + 4 * plane,
    sources: at + 5 * plane,
  };
  try {
    let order: readonly number[] = [];
    for (const [b, band] of bands.entries()) {
      const part = widened(
        band,
        FOCUS_MARGIN,
        sizeAt(input.frames[input.reference]!.info, input.downscale).height,
      );
      const pass = await fuseByPyramid(
        work,
        input,
        part,
        (k, of) =>
          progress(
            (b + (k + 1) / of) / bands.length,
            `Finding the depth, part ${b + 1} of ${bands.length}`,
          ),
        on,
      );
      try {
        order = pass.order;
        const first = band.y0 / by;
        const rows = Math.ceil(band.y1 / by) - first;
        const from = (first - part.y0 / by) * w;
        for (const [key, bytes] of [
          ["best", 4],
          ["total", 4],
          ["guide", 4],
          ["lower", 4],
          ["upper", 4],
          ["sources", 1],
        ] as const)
          await work.run(
            "copy",
            {
              from: pass.sharp[key] + from * bytes,
              to: all[key] + first * w * bytes,
              bytes: rows * w * bytes,
            },
            on,
          );
      } finally {
        await pass.drop();
      }
    }
    return await findDepth(work, all, order, on);
  } finally {
    await work.idle();
    work.free(at);
  }
}

/**
 * Some rows of a focus run as light; `done` gives them back.
 *
 * @param depth  of the whole, unless the pyramid alone is asked for
 */
export async function focusBand(
  work: Work,
  input: FocusInput,
  band: Band,
  method: FocusMethod,
  depth: AllocatedDepth | undefined,
  { signal }: Watch,
): ReturnType<ComingBand["take"]> {
  const on: RunOptions = signal ? { signal } : {};
  const part = widened(
    band,
    FOCUS_MARGIN,
    sizeAt(input.frames[input.reference]!.info, input.downscale).height,
  );
  const pass = await fuseByPyramid(work, input, part, () => undefined, on);
  const { acc, sharp } = pass;
  try {
    const skipped = (part.y0 / 2 ** sharp.level) * sharp.w * 4;
    if (depth)
      await composeAlongDepth(
        work,
        pass,
        { level: depth.level, depth: depth.depth + skipped, trust: depth.trust + skipped },
        method === "mixed",
        () => undefined,
        on,
      );
    await pass.inStrips((y0, y1) => work.run("fusedToScene", { acc, y0, y1 }, on));
    pass.done();
    return {
      rows: {
        ...acc,
        ptr: acc.ptr + (band.y0 - part.y0) * acc.width * 4,
        height: band.y1 - band.y0,
      },
      done: () => work.free(acc.ptr),
    };
  } catch (e) {
    await pass.drop();
    throw e;
  }
}

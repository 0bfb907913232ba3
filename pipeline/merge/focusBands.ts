import type { SharpLevel } from "../../core/focus/depthMap";
import { sizeAt } from "../step";
import { TaskScope } from "../../runtime/taskScope";
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
  scope: Work,
  input: FocusInput,
  bands: readonly Band[],
  { progress, signal }: Watch,
): Promise<AllocatedDepth> {
  const on: RunOptions = signal ? { signal } : {};
  const size = sizeAt(input.frames[input.reference]!.info, input.downscale);
  const all = wholeLevel(scope, size);
  let order: readonly number[] = [];
  for (const [b, band] of bands.entries()) {
    await using forBand = new TaskScope(scope);
    const part = widened(band, FOCUS_MARGIN, size.height);
    const tell = (k: number, of: number): void =>
      progress(
        (b + (k + 1) / of) / bands.length,
        `Finding the depth, part ${b + 1} of ${bands.length}`,
      );
    const pass = await fuseByPyramid(forBand, input, part, tell, on);
    order = pass.order;
    await copyRows(forBand, pass.sharp, all, part, band, on);
  }
  const depth = await findDepth(scope, all, order, on);
  scope.free(all.best);
  return depth;
}

/** Room for the level on which depth is judged, of the whole picture; its planes lie in one block. */
function wholeLevel(scope: Work, size: Parameters<typeof depthLevel>[0]): SharpLevel {
  const { level, w, h } = depthLevel(size);
  const n = w * h;
  const plane = Math.ceil(n / 16) * 64;
  const at = scope.allocate(5 * plane + n + 64);
  return {
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
}

/** Copies a band's own rows of all that depth is found from, out of those of a wider part. */
async function copyRows(
  work: Work,
  from: SharpLevel,
  to: SharpLevel,
  part: Band,
  band: Band,
  on: RunOptions,
): Promise<void> {
  const { level, w } = to;
  const by = 2 ** level;
  const first = band.y0 / by;
  const rows = Math.ceil(band.y1 / by) - first;
  const skipped = (first - part.y0 / by) * w;
  for (const [plane, bytes] of [
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
        from: from[plane] + skipped * bytes,
        to: to[plane] + first * w * bytes,
        bytes: rows * w * bytes,
      },
      on,
    );
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
  await using scope = new TaskScope(work);
  const on: RunOptions = signal ? { signal } : {};
  const { height } = sizeAt(input.frames[input.reference]!.info, input.downscale);
  const part = widened(band, FOCUS_MARGIN, height);
  const pass = await fuseByPyramid(scope, input, part, () => undefined, on);
  const { acc, sharp } = pass;
  const skipped = (part.y0 / 2 ** sharp.level) * sharp.w * 4;
  if (depth)
    await composeAlongDepth(
      scope,
      pass,
      { level: depth.level, depth: depth.depth + skipped, trust: depth.trust + skipped },
      method === "mixed",
      () => undefined,
      on,
    );
  await pass.inStrips((y0, y1) => scope.run("fusedToScene", { acc, y0, y1, ...pass.covered }, on));
  scope.keep(acc.ptr);
  return {
    rows: {
      ...acc,
      ptr: acc.ptr + (band.y0 - part.y0) * acc.width * 4,
      height: band.y1 - band.y0,
    },
    done: () => work.free(acc.ptr),
  };
}

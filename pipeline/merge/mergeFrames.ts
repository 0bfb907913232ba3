import type { AlignedFrame } from "../../core/align/alignedFrame";
import { USUAL_NOISE } from "../../core/align/logPyramid";
import { respond, type ResponseCurve } from "../../core/bracket/estimateResponse";
import { findHoles, type Fill, type Holes } from "../../core/bracket/fillHoles";
import { foldScratch, type FoldInput } from "../../core/bracket/foldFrame";
import { planeBytesOf, type Accumulator } from "../../core/raster/accumulator";
import { withPatches } from "../../core/bracket/ghostPatches";
import { namesOf, exposureEv } from "../../core/frame/frame";
import { IDENTITY, rescale, type Matrix3 } from "../../core/math/matrix3";
import { QUANTILE_SCRATCH } from "../../core/math/quantiles";
import { BASIS_PARTS, basisBytes, basisScratch } from "../../core/tone/toneBasis";
import { darkNoise } from "../../core/tone/darkNoise";
import { gridSize } from "../../core/tone/toneGrid";
import { confidenceGrid } from "../ghosts/step";
import { sizeAt } from "../step";
import { decodeInto } from "../readFrames";
import { cleared, rowsOf, type RunOptions, type Watch } from "../../runtime/work";
import { decodedBytes, type LoadedFrame, type StackFrame, type Work } from "../work";
import { rowsBehind, shifted, type Band } from "./band";
import type { Scene } from "./scene";
import { sourceMap, withSources, type SourceMap } from "./sourceMap";
import type { Aligned } from "../align/step";
import type { MergeInput } from "./input";
import { clamp } from "../../core/math/clamp";

export interface Layout
  extends Pick<AlignedFrame, "fromReference" | "ev" | "ghosts">, Pick<FoldInput, "sampling"> {
  /** no other frame knows better what is brightest in it */
  darkest?: boolean;
}

/**
 * Merges the frames at 1/downscale of their size: the reference frame first, which may start before
 * the alignment is known, then the others from the longest exposure on, since what that shows well
 * spares the darker ones their resampling. Frames are decoded one ahead of the fold and dropped
 * after it, so memory does not depend on their number; what the viewer asks for meanwhile goes
 * before it. The order of folding is fixed, and with it every byte of the result.
 */
export async function mergeFrames(work: Work, input: MergeInput, watch: Watch): Promise<Scene> {
  const on = watch.signal ? { signal: watch.signal } : {};
  const { frames, reference, downscale } = input;
  const acc = begin(work, sizeAt(frames[reference]!.info, downscale));
  const map = input.sources ? sourceMap(work, acc) : undefined;
  return gather(work, acc, input, watch, undefined, map, async (matrix, aligned) => {
    const longest = Math.max(0, ...aligned.frames.filter((f) => f.used).map((f) => f.ev));
    const noise = darkNoise(frames[reference]!.info, longest);
    const scene = await finish(
      work,
      acc,
      matrix,
      { holes: findHoles(aligned.frames, downscale), basisParts: BASIS_PARTS, noise },
      on,
    );
    return map ? withSources(work, scene, map) : scene;
  });
}

/**
 * Some rows of the merge, for pictures that do not fit in memory whole; the alignment must be
 * known. Of each frame only what lies in those rows is held, so a frame is read again for every
 * band.
 *
 * @param fill  what the merge at a smaller size put into holes
 */
export function mergeBand(
  work: Work,
  input: MergeInput & { aligned: Aligned },
  band: Band,
  fill: Fill | undefined,
  watch: Watch,
): Promise<Accumulator> {
  const on = watch.signal ? { signal: watch.signal } : {};
  const { frames, reference, downscale } = input;
  const acc = begin(work, {
    width: sizeAt(frames[reference]!.info, downscale).width,
    height: band.y1 - band.y0,
  });
  return gather(work, acc, input, watch, band, undefined, async (matrix) => {
    const holes = findHoles(input.aligned.frames, downscale);
    await finalise(work, acc, matrix, on);
    if (holes && fill)
      await Promise.all(
        rowsOf(acc.height, work.threads * 2).map(([y0, y1]) =>
          work.run("fillHoles", { acc, holes: { ...holes, top: band.y0 }, fill, y0, y1 }, on),
        ),
      );
    return acc;
  });
}

/**
 * Folds all frames into an accumulator and ends it as asked; after an error nothing is left in
 * memory.
 */
async function gather<T>(
  work: Work,
  acc: Accumulator,
  {
    frames,
    reference,
    aligned: align,
    downscale,
    loaded: all,
    patches,
    response: finding,
    sampling,
  }: MergeInput,
  { signal, progress }: Watch,
  band: Band | undefined,
  map: SourceMap | undefined,
  end: (matrix: number[], aligned: Aligned) => Promise<T>,
): Promise<T> {
  const on = signal ? { signal } : {};
  const info = frames[reference]!.info;
  const grid = confidenceGrid(info);
  const placed = band && (await align);
  const size = sizeAt(info, downscale);
  const ahead = new Map<number, Promise<LoadedFrame>>();
  const evs = frames.map((f) => exposureEv(f.info.exif) ?? NaN);
  const least = (list: readonly number[]): number => list.indexOf(Math.min(...list));
  // by the file, where it says; the reference is merged before anything else is known
  let darkest = least(evs);
  let response: ResponseCurve | undefined;
  const load = (i: number | undefined): void => {
    if (i === undefined || ahead.has(i)) return;
    const p = all
      ? Promise.resolve(all[i]!)
      : decodeInto(
          work,
          frames[i]!,
          downscale,
          signal,
          band &&
            placed &&
            rowsBehind(
              band,
              i === reference ? IDENTITY : rescale(placed.frames[i]!.fromReference, 1 / downscale),
              size,
            ),
        );
    p.catch(() => undefined);
    ahead.set(i, p);
  };
  const release = (loaded: LoadedFrame): void => {
    if (!all) work.free(loaded.ptr);
  };
  const patched = (i: number, ghosts: AlignedFrame["ghosts"]): Pick<Layout, "ghosts"> => {
    const confidences = withPatches(ghosts, namesOf(frames[i]!), patches, grid);
    return confidences ? { ghosts: confidences } : {};
  };
  const add = async (
    i: number,
    { ghosts, ...layout }: Layout,
    first: boolean,
  ): Promise<LoadedFrame> => {
    const loaded = await ahead.get(i)!;
    await fold(
      work,
      acc,
      { ...loaded, lut: respond(loaded.lut, response) },
      {
        ...layout,
        ...(sampling ? { sampling } : {}),
        ...patched(i, ghosts),
        darkest: i === darkest || frames.length === 1,
      },
      downscale,
      first,
      on,
      band?.y0,
    );
    await map?.claim(acc.ptr + 3 * acc.planeBytes, true, i, on);
    ahead.delete(i);
    release(loaded);
    return loaded;
  };
  try {
    await map?.clear(on);
    load(reference);
    response = await finding;
    const guess = longestFirst(frames, reference).filter((i) => !placed || placed.frames[i]!.used);
    // while the alignment keeps one thread
    guess.slice(0, readAhead(decodedBytes(info, downscale))).forEach(load);
    const { matrix } = await add(reference, { fromReference: [...IDENTITY], ev: 0 }, true);
    progress(1 / frames.length, `Merging frames, 1 of ${frames.length}`);
    const aligned = await align;
    if (darkest < 0) darkest = least(aligned.frames.map((a) => (a.used ? a.ev : Infinity)));
    const others = guess
      .filter((i) => aligned.frames[i]!.used)
      .sort((a, b) => aligned.frames[b]!.ev - aligned.frames[a]!.ev || a - b);
    for (let k = 0; k < others.length; k++) {
      load(others[k]);
      load(others[k + 1]);
      await add(others[k]!, aligned.frames[others[k]!]!, false);
      progress((k + 2) / (others.length + 1), `Merging frames, ${k + 2} of ${others.length + 1}`);
    }
    return await end(matrix, aligned);
  } catch (e) {
    await work.idle();
    work.free(acc.ptr);
    map?.drop();
    throw e;
  } finally {
    // what was read ahead for nothing
    for (const p of ahead.values()) void p.then(release, () => undefined);
  }
}

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

/** One frame by itself, warped to where the reference frame lies, at its own exposure. */
export async function frameAlone(
  work: Work,
  frame: StackFrame,
  fromReference: Matrix3,
  downscale: number,
): Promise<Scene> {
  const acc = begin(work, sizeAt(frame.info, downscale));
  let loaded: LoadedFrame | undefined;
  try {
    await cleared(work, acc.ptr, acc.planeBytes * 4, {});
    loaded = await decodeInto(work, frame, downscale);
    await fold(
      work,
      acc,
      loaded,
      { fromReference: [...fromReference], ev: 0, darkest: true },
      downscale,
      false,
      {},
    );
    return await finish(
      work,
      acc,
      loaded.matrix,
      { basisParts: 0, noise: darkNoise(frame.info) },
      {},
    );
  } catch (e) {
    await work.idle();
    work.free(acc.ptr);
    throw e;
  } finally {
    if (loaded) work.free(loaded.ptr);
  }
}

/** Takes the memory that a merge adds its frames up in, not cleared. The caller frees it. */
export function begin(
  work: Work,
  { width, height }: { width: number; height: number },
): Accumulator {
  const planeBytes = planeBytesOf(width, height);
  return { ptr: work.allocate(planeBytes * 4 + 64), planeBytes, width, height };
}

/**
 * A frame's samples with where they lie and what they count.
 *
 * @param top  the picture's row that is the accumulator's first
 */
export const foldInput = (
  loaded: LoadedFrame,
  { fromReference, ev, ghosts, darkest, sampling }: Layout,
  downscale: number,
  first: boolean,
  top = 0,
): FoldInput => ({
  samples: loaded.ptr,
  type: loaded.type,
  width: loaded.width,
  height: loaded.height,
  lut: loaded.lut,
  ...(loaded.block && !darkest ? { block: loaded.block } : {}),
  ...(sampling ? { sampling } : {}),
  fromReference: shifted(rescale(fromReference, 1 / downscale), top, loaded.top ?? 0),
  ev,
  first,
  noise: { gain: USUAL_NOISE.gain, read: loaded.type === "u8" ? USUAL_NOISE.read : 5e-4 },
  ...(ghosts ? { ghosts: { ...ghosts, scale: ghosts.scale / downscale, top } } : {}),
});

async function fold(
  work: Work,
  acc: Accumulator,
  loaded: LoadedFrame,
  layout: Layout,
  downscale: number,
  first: boolean,
  on: RunOptions,
  top = 0,
): Promise<void> {
  const input = foldInput(loaded, layout, downscale, first, top);
  await Promise.all(
    rowsOf(acc.height, work.threads * 4).map(([y0, y1]) =>
      work.run(
        "fold",
        { acc, input, y0, y1 },
        { scratch: foldScratch(acc.width, loaded.type), ...on },
      ),
    ),
  );
}

const finalise = (
  work: Work,
  acc: Accumulator,
  matrix: number[],
  on: RunOptions,
): Promise<unknown> =>
  Promise.all(
    rowsOf(acc.height, work.threads * 2).map(([y0, y1]) =>
      work.run("finalise", { acc, matrix, y0, y1 }, on),
    ),
  );

async function finish(
  work: Work,
  acc: Accumulator,
  matrix: number[],
  { holes, ...analysis }: ToneAnalysis & { holes?: Holes | undefined },
  on: RunOptions,
): Promise<Scene> {
  let fill: Fill | undefined;
  await finalise(work, acc, matrix, on);
  if (holes) {
    const parts = await Promise.all(
      rowsOf(holes.height, work.threads * 2).map(async ([g0, g1]) => ({
        g0,
        g1,
        cells: await work.run("measureCells", { acc, holes, g0, g1 }, on),
      })),
    );
    const found = (fill = await work.run("fillCells", { parts, holes }, on));
    await Promise.all(
      rowsOf(acc.height, work.threads * 2).map(([y0, y1]) =>
        work.run("fillHoles", { acc, holes, fill: found, y0, y1 }, on),
      ),
    );
  }
  return { ...acc, ...(fill ? { fill } : {}), ...(await toneAnalysis(work, acc, analysis, on)) };
}

/**
 * What is made of a scene for toning: how many of the BASIS_PARTS (a frame that is shown as it is
 * needs none), and the scene's noise in the dark, linear.
 */
export interface ToneAnalysis {
  basisParts: number;
  noise: number;
}

/** The reduced picture and what local tone needs of it, in the workers' memory. */
export async function toneAnalysis(
  work: Work,
  acc: Accumulator,
  { basisParts, noise }: ToneAnalysis,
  on: RunOptions,
): Promise<Pick<Scene, "grid" | "basis" | "release">> {
  const size = gridSize(acc.width, acc.height);
  const planes = size.width * size.height * 4;
  const ptr = work.allocate(planes + basisBytes(size));
  const cells = { ...size, ptr };
  const basis = ptr + planes;
  try {
    await Promise.all(
      rowsOf(size.height, work.threads * 2).map(([g0, g1]) =>
        work.run("reduce", { scene: acc, grid: cells, g0, g1 }, on),
      ),
    );
    const grid = await work.run(
      "floorGrid",
      { grid: cells, noise, basis },
      { scratch: QUANTILE_SCRATCH, ...on },
    );
    await Promise.all(
      Array.from({ length: basisParts }, (_, part) =>
        work.run("toneBasis", { grid, basis, part }, { scratch: basisScratch(size), ...on }),
      ),
    );
    return {
      grid,
      basis,
      release: () => {
        work.free(acc.ptr);
        work.free(ptr);
      },
    };
  } catch (e) {
    void work.idle().then(() => work.free(ptr));
    throw e;
  }
}

import { type Work, decodedBytes } from "../work";
import { type LoadedFrame } from "../loadedFrame";
import type { MergeInput } from "./input";
import { cleared, type Watch, rowsOf } from "../../runtime/work";
import { addressesOf, type Scene } from "./scene";
import { begin, finalise, type FrameFold, fold } from "./fold";
import { sizeAt } from "../step";
import { sourceMap, type SourceMap } from "./sourceMap";
import { darkNoise } from "../../core/tone/darkNoise";
import { fillBetweenWeights } from "../fill/fillUncovered";
import { finish, toScene } from "./finish";
import { TaskScope } from "../../runtime/taskScope";
import { findHoles, type Fill } from "../../core/bracket/fillHoles";
import { BASIS_PARTS } from "../../core/tone/toneBasis";
import type { Aligned } from "../align/step";
import { type Band, rowsBehind } from "./band";
import type { Accumulator } from "../../core/raster/accumulator";
import { confidenceGrid } from "../ghosts/step";
import { exposureEv, namesOf } from "../../core/frame/frame";
import { respond } from "../../core/bracket/estimateResponse";
import { decodeInto } from "../readFrames";
import { IDENTITY, isIdentity, rescale } from "../../core/math/matrix3";
import type { AlignedFrame } from "../../core/align/alignedFrame";
import { withPatches } from "../../core/bracket/ghostPatches";
import { longestFirst, readAhead } from "./readOrder";

/**
 * Merges the frames at 1/downscale of their size: the reference frame first, which may start before
 * the alignment is known, then the others from the longest exposure on, since what that shows well
 * spares the darker ones their resampling. Frames are decoded one ahead of the fold and dropped
 * after it, so memory does not depend on their number; what the viewer asks for meanwhile goes
 * before it. The order of folding is fixed, and with it every byte of the result.
 */
export async function mergeFrames(work: Work, input: MergeInput, watch: Watch): Promise<Scene> {
  await using scope = new TaskScope(work);
  const on = watch.signal ? { signal: watch.signal } : {};
  const { frames, reference, downscale } = input;
  const acc = begin(scope, sizeAt(frames[reference]!.info, downscale));
  const map = input.sources ? sourceMap(scope, acc) : undefined;
  const { matrix, aligned } = await foldAll(scope, acc, input, watch, undefined, map);
  const longest = Math.max(0, ...aligned.frames.filter((f) => f.used).map((f) => f.ev));
  const noise = darkNoise(frames[reference]!.info, longest);
  const holes = findHoles(aligned.frames, downscale);
  const finished = await finish(scope, acc, matrix, holes, on);
  if (input.fill) await fillBetweenWeights(scope, acc, on);
  const sources = map ? { sources: map.sources } : {};
  const analysis = { basisParts: BASIS_PARTS, noise };
  const scene = await toScene(scope, { ...finished, ...sources }, analysis, on);
  scope.keep(...addressesOf(scene));
  return scene;
}

/**
 * Some rows of the merge, for pictures that do not fit in memory whole; the alignment must be
 * known. Of each frame only what lies in those rows is held, so a frame is read again for every
 * band.
 *
 * @param fill  what the merge at a smaller size put into holes
 */
export async function mergeBand(
  work: Work,
  input: MergeInput & { aligned: Aligned },
  band: Band,
  fill: Fill | undefined,
  watch: Watch,
): Promise<Accumulator> {
  await using scope = new TaskScope(work);
  const on = watch.signal ? { signal: watch.signal } : {};
  const { frames, reference, downscale } = input;
  const acc = begin(scope, {
    width: sizeAt(frames[reference]!.info, downscale).width,
    height: band.y1 - band.y0,
  });
  const { matrix } = await foldAll(scope, acc, input, watch, band, undefined);
  const holes = findHoles(input.aligned.frames, downscale);
  await finalise(scope, acc, matrix, on);
  if (holes && fill)
    await Promise.all(
      rowsOf(acc.height, scope.threads * 2).map(([y0, y1]) =>
        scope.run("fillHoles", { acc, holes: { ...holes, top: band.y0 }, fill, y0, y1 }, on),
      ),
    );
  scope.keep(acc.ptr);
  return acc;
}

/**
 * Folds all frames into an accumulator. What was read for nothing is left to the scope.
 *
 * @returns the colour matrix of the reference frame, and how the frames lie
 */
async function foldAll(
  scope: Work,
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
    fromPicture = IDENTITY,
  }: MergeInput,
  { signal, progress }: Watch,
  band: Band | undefined,
  map: SourceMap | undefined,
): Promise<{ matrix: number[]; aligned: Aligned }> {
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
  const load = (i: number | undefined): void => {
    if (i === undefined || ahead.has(i)) return;
    const p = all
      ? Promise.resolve(all[i]!)
      : decodeInto(
          scope,
          frames[i]!,
          downscale,
          signal,
          band &&
            placed &&
            rowsBehind(
              band,
              rescale(
                i === reference ? fromPicture : placed.frames[i]!.fromReference,
                1 / downscale,
              ),
              size,
            ),
        );
    p.catch(() => undefined);
    ahead.set(i, p);
  };
  const release = (loaded: LoadedFrame): void => {
    if (!all) scope.free(loaded.ptr);
  };
  const patched = (i: number, ghosts: AlignedFrame["ghosts"]): Pick<FrameFold, "ghosts"> => {
    const confidences = withPatches(ghosts, namesOf(frames[i]!), patches, grid);
    return confidences ? { ghosts: confidences } : {};
  };
  await map?.clear(on);
  load(reference);
  const response = await finding;
  const add = async (
    i: number,
    { ghosts, ...layout }: FrameFold,
    first: boolean,
  ): Promise<LoadedFrame> => {
    const loaded = await ahead.get(i)!;
    await fold(
      scope,
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
  const guess = longestFirst(frames, reference).filter((i) => !placed || placed.frames[i]!.used);
  // while the alignment keeps one thread
  guess.slice(0, readAhead(decodedBytes(info, downscale))).forEach(load);
  // a straightened reference frame does not lie on every pixel
  const isWhole = isIdentity(fromPicture);
  if (!isWhole) await cleared(scope, acc.ptr, acc.planeBytes * 4, on);
  const { matrix } = await add(reference, { fromReference: [...fromPicture], ev: 0 }, isWhole);
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
  return { matrix, aligned };
}

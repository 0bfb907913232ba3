import type { Coarser, LaidFrame } from "../../bracket/mertens";
import { blockScratch } from "../../bracket/mertens";
import { withPatches } from "../../bracket/ghostPatches";
import { coarserShape } from "../../raster/pyramid";
import { BASIS_PARTS } from "../../tone/toneBasis";
import { voteGrid } from "../ghosts/step";
import { cleared, rowsOf, type Watch, type Work } from "../work";
import { sizeAt } from "../step";
import { begin, longestFirst, toneAnalysis } from "./mergeFrames";
import { layFrames } from "./layFrames";
import type { Scene } from "./scene";
import { sourceMap, withSources } from "./sourceMap";
import type { MergeInput } from "./input";

/** What a fusion may hold at once, bytes: the scene, the pyramids, and as many laid frames as fit beside them. */
const HELD = 1600e6;
/** How many laid frames of a picture of n px are kept, with their weights, for the second pass; the others are laid again. */
export const keptFrames = (width: number, height: number): number => Math.max(0, Math.floor((HELD - width * height * 16 - 7 * coarserShape(width, height).bytes) / (width * height * 8)));

/**
 * Exposure fusion of the aligned frames at 1/shrink of their size: a picture, not radiance, put into the scene's planes
 * as the light that shows it. Two passes over the frames, since a weight counts against the sum of all; the finest level is
 * added up in the scene's own planes, and memory does not depend on the number of frames. The reference frame is laid while the others are aligned.
 */
export async function fuseFrames(work: Work, { frames, aligned: aligning, reference, shrink, held, patches, sources, sampling }: MergeInput, { progress, signal }: Watch): Promise<Scene> {
  const on = signal ? { signal } : {}, info = frames[reference]!.info, grid = voteGrid(info), acc = begin(work, sizeAt(info, shrink));
  const { width, height } = acc, n = width * height, size = { width, height }, room = keptFrames(width, height);
  const taken = new Set<number>([acc.ptr]);
  const take = (bytes: number): number => { const at = work.take(bytes); taken.add(at); return at; };
  const giveBack = (at: number): void => { work.give(at); taken.delete(at); };
  const strips = rowsOf(height, work.threads * 4), kept = new Map<number, LaidFrame>(), inStrips = (run: (y0: number, y1: number) => Promise<unknown>): Promise<unknown> => Promise.all(strips.map(([y0, y1]) => run(y0, y1)));
  const clear = (ptr: number, bytes: number): Promise<unknown> => cleared(work, ptr, bytes, on);
  const layer = layFrames(work, { frames, reference, shrink, held, ...size, take, on, sampling });
  const map = sources ? sourceMap(work, acc) : undefined;
  try {
    await map?.clear(on);
    const [first] = await Promise.all([layer.lay(reference), clear(acc.ptr, acc.planeBytes * 4)]);
    // what is read meanwhile need not wait for the alignment either
    const guess = longestFirst(frames, reference);
    layer.readAhead(guess.slice(0, Math.min(3, room)));
    const aligned = await aligning, used = [reference, ...guess.filter((i) => aligned.frames[i]!.used)];
    let done = 0;
    const tell = (): void => progress(++done / (used.length * 2), `Fusing frames, ${Math.min(done, used.length * 2)} of ${used.length * 2}`);
    const lay = async (i: number, next: number | undefined): Promise<LaidFrame> => {
      if (next !== undefined) layer.readAhead([next]);
      const laid = i === reference && done === 0 ? first : await layer.lay(i, aligned.frames[i]!), ghosts = withPatches(aligned.frames[i]!.ghosts, [frames[i]!.id, frames[i]!.info.name], patches, grid);
      return { ...laid, ...(ghosts ? { ghosts: { ...ghosts, scale: ghosts.scale / shrink } } : {}) };
    };
    for (const [k, i] of used.entries()) {
      const laid = await lay(i, used[k + 1]), keep = kept.size < room, frame = keep ? { ...laid, weights: take(n * 2 + 64) } : laid;
      await inStrips((y0, y1) => work.run("sumWeights", { frame, sum: acc.ptr + 3 * acc.planeBytes, y0, y1 }, { scratch: blockScratch(width), ...on }));
      tell();
      if (keep) kept.set(i, frame); else giveBack(frame.ptr);
    }
    const { bytes } = coarserShape(width, height), block = (): number => take(bytes), coarser: Coarser = { weights: block(), own: [block(), block(), block()], fused: [block(), block(), block()] };
    for (const f of coarser.fused) await clear(f, bytes);
    const shares = map && take(n * 4 + 64);
    for (const [k, i] of used.entries()) {
      const frame = kept.get(i) ?? (await lay(i, used.find((j, q) => q > k && !kept.has(j))));
      await inStrips((y0, y1) => work.run("addFinest", { frame, sums: acc, coarser, shares, y0, y1 }, { scratch: blockScratch(width), ...on }));
      giveBack(frame.ptr);
      if (frame.weights !== undefined) giveBack(frame.weights);
      if (shares !== undefined) await map?.claim(shares, false, i, on);
      await work.run("reduceWeights", { weights: coarser.weights, ...size }, { scratch: width * 8 + (1 << 12), ...on });
      await Promise.all([0, 1, 2].map((channel) => work.run("addCoarser", { coarser, ...size, channel }, { scratch: width * 8 + (1 << 12), ...on })));
      tell();
    }
    await Promise.all(coarser.fused.map((at) => work.run("collapseCoarser", { at, ...size }, { scratch: width * 8 + (1 << 12), ...on })));
    await inStrips((y0, y1) => work.run("addUp", { acc, coarser: coarser.fused, y0, y1 }, { scratch: width * 4 + (1 << 12), ...on }));
    await inStrips((y0, y1) => work.run("fusedToScene", { acc, y0, y1 }, on));
    for (const at of taken) if (at !== acc.ptr) giveBack(at);
    const scene = { ...acc, ...(await toneAnalysis(work, acc, BASIS_PARTS, on)) };
    return map ? withSources(work, scene, map) : scene;
  } catch (e) {
    await work.idle();
    map?.drop();
    for (const at of taken) work.give(at);
    throw e;
  } finally {
    layer.drop();
  }
}

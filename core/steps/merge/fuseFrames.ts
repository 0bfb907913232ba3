import type { LaidFrame } from "../../bracket/mertens";
import { channelScratch, weightScratch } from "../../bracket/mertens";
import { pyramidShape } from "../../raster/pyramid";
import { BASIS_PARTS } from "../../tone/toneBasis";
import { withPatches } from "../../bracket/ghostPatches";
import { voteGrid } from "../ghosts/step";
import { rowsOf, type Watch, type Work } from "../work";
import { begin, toneAnalysis } from "./mergeFrames";
import { layFrames } from "./layFrames";
import type { Scene } from "./scene";
import { sourceMap, withSources } from "./sourceMap";
import type { MergeInput } from "./input";

/** Laid frames are kept for the second pass if all of them take no more than this, bytes; else each is laid again. */
const KEPT = 750e6;

/**
 * Exposure fusion of the aligned frames at 1/shrink of their size: a picture, not radiance, put into the scene's planes
 * as the light that shows it. Two passes over the frames, since a weight counts against the sum of all; memory does not
 * depend on their number.
 */
export async function fuseFrames(work: Work, { frames, aligned: aligning, shrink, held, patches, sources }: MergeInput, { progress, signal }: Watch): Promise<Scene> {
  const aligned = await aligning, on = signal ? { signal } : {}, { reference } = aligned, grid = voteGrid(frames[reference]!.info);
  const used = frames.map((_, i) => i).filter((i) => aligned.frames[i]!.used), info = frames[reference]!.info;
  let acc = begin(work, info, shrink);
  const { width, height } = acc, n = width * height, shape = pyramidShape(width, height), keeps = used.length * n * 6 <= KEPT;
  const taken = new Set<number>([acc.ptr]);
  const take = (bytes: number): number => { const at = work.take(bytes); taken.add(at); return at; };
  const giveBack = (at: number): void => { work.give(at); taken.delete(at); };
  const strips = rowsOf(height, work.threads * 4), kept = new Map<number, LaidFrame>();
  const clear = (ptr: number, bytes: number): Promise<unknown> => Promise.all(rowsOf(bytes, work.threads).map(([a, b]) => work.run("clear", { ptr: ptr + a, bytes: b - a }, on)));
  let done = 0;
  const tell = (): void => progress(++done / (used.length * 2), `Fusing frames, ${Math.min(done, used.length * 2)} of ${used.length * 2}`);
  const layer = layFrames(work, { frames, aligned: aligned.frames, reference, shrink, held, acc, take, on });
  const lay = async (i: number, next: number | undefined): Promise<LaidFrame> => {
    const laid = await layer.lay(i, next), ghosts = withPatches(aligned.frames[i]!.ghosts, [frames[i]!.id, frames[i]!.info.name], patches, grid);
    return { ...laid, ...(ghosts ? { ghosts: { ...ghosts, scale: ghosts.scale / shrink } } : {}) };
  };
  const map = sources ? sourceMap(work, acc) : undefined;
  try {
    await map?.clear(on);
    const weights = take(shape.bytes), sum = take(n * 4 + 64);
    await clear(sum, n * 4 + 64);
    const weigh = (frame: LaidFrame, share: boolean): Promise<unknown> => Promise.all(strips.map(([y0, y1]) => work.run("exposureWeights", { frame, weights, sum, share, y0, y1 }, { scratch: weightScratch(width), ...on })));
    for (const [k, i] of used.entries()) {
      const laid = await lay(i, used[k + 1]);
      await weigh(laid, false);
      tell();
      if (keeps) kept.set(i, laid); else giveBack(laid.ptr);
    }
    if (keeps) giveBack(acc.ptr);
    const fused = [take(shape.bytes), take(shape.bytes), take(shape.bytes)];
    for (const f of fused) await clear(f, shape.bytes);
    for (const [k, i] of used.entries()) {
      const laid = kept.get(i) ?? (await lay(i, used[k + 1]));
      await weigh(laid, true);
      await map?.claim(weights, false, i, on);
      await work.run("reduceWeights", { weights, width, height }, { scratch: width * 8 + (1 << 12), ...on });
      await Promise.all(fused.map((to, channel) => work.run("addChannel", { frame: laid, channel, weights, sum: to }, { scratch: channelScratch(width, height), ...on })));
      giveBack(laid.ptr);
      tell();
    }
    if (keeps) { acc = begin(work, info, shrink); taken.add(acc.ptr); }
    await Promise.all(fused.map((from, channel) => work.run("collapseChannel", { acc, channel, sum: from }, { scratch: width * 8 + (1 << 12), ...on })));
    await Promise.all(strips.map(([y0, y1]) => work.run("fusedToScene", { acc, y0, y1 }, on)));
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

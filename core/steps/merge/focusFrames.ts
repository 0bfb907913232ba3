import type { LaidFrame } from "../../bracket/mertens";
import { withPatches } from "../../bracket/ghostPatches";
import { depthScratch } from "../../focus/depthMap";
import { coarseScratch, focusBlockScratch, FOCUS_LEVELS, focusShape, type FocusSums } from "../../focus/sharpest";
import { pyramidShape } from "../../raster/pyramid";
import { BASIS_PARTS } from "../../tone/toneBasis";
import { voteGrid } from "../ghosts/step";
import { cleared, rowsOf, type Watch, type Work } from "../work";
import { layFrames } from "./layFrames";
import { sizeAt } from "../step";
import { begin, toneAnalysis } from "./mergeFrames";
import type { Scene } from "./scene";
import type { MergeInput } from "./input";

/** Samples of the map of depth along the longer side, at most; the same for a preview and the final picture. */
const DEPTH_EDGE = 1600;

/**
 * Fuses a focus run: on every scale and at every place the coefficients of the frame that is sharpest there; or composed in
 * a second pass along a map of depth made of that; or by both, the pyramid's where depths cross. Frames come one by one, so
 * memory does not depend on their number. The scene's `sources` tells which frame was sharpest.
 */
export async function focusFrames(work: Work, { frames, aligned: aligning, shrink, held, patches, sources, sampling }: MergeInput, method: "pyramid" | "depth" | "mixed", { progress, signal }: Watch): Promise<Scene> {
  const aligned = await aligning, grid = voteGrid(frames[aligned.reference]!.info), passes = method === "pyramid" ? 1 : 2, on = signal ? { signal } : {}, { reference } = aligned, used = frames.map((_, i) => i).filter((i) => aligned.frames[i]!.used);
  const acc = begin(work, sizeAt(frames[reference]!.info, shrink));
  const { width, height } = acc, taken = new Set<number>([acc.ptr]);
  const take = (bytes: number): number => { const at = work.take(bytes); taken.add(at); return at; }, give = (at: number): void => { work.give(at); taken.delete(at); };
  const clear = (ptr: number, bytes: number): Promise<unknown> => cleared(work, ptr, bytes, on);
  const layer = layFrames(work, { frames, reference, shrink, held, width, height, take, on, sampling });
  const lay = (i: number, next: number | undefined): Promise<LaidFrame> => { if (next !== undefined) layer.readAhead([i, next]); return layer.lay(i, aligned.frames[i]!); };
  const strips = rowsOf(height, work.threads * 4), inStrips = (run: (y0: number, y1: number) => Promise<unknown>): Promise<unknown> => Promise.all(strips.map(([y0, y1]) => run(y0, y1)));
  /** The second pass: each frame is added where the depth lies nearest to it. */
  const alongDepth = async (level: number, n: number, best: number, won: { sources: number; total: number; level: number }): Promise<void> => {
    const order = (aligned.order ?? frames.map((_, i) => i)).filter((i) => used.includes(i)), small = [take(n * 4 + 64), take(n * 4 + 64)] as const, planes = [take(width * height * 4 + 64), take(width * height * 4 + 64)] as const;
    await work.run("depthMap", { acc, best, won, frames: used.length, order, depth: small[0], trust: small[1] }, { scratch: depthScratch(n), ...on });
    await Promise.all(small.map((from, i) => work.run("spreadPlane", { from, level, width, height, to: planes[i]! }, { scratch: width * height * 8 + width * 8 + (1 << 12), ...on })));
    for (const s of small) give(s);
    const sums = begin(work, sizeAt(frames[reference]!.info, shrink));
    taken.add(sums.ptr);
    await clear(sums.ptr, sums.planeBytes * 4);
    for (const [k, i] of order.entries()) {
      const laid = await lay(i, order[k + 1]);
      await inStrips((y0, y1) => work.run("addAlongDepth", { frame: laid, k, depth: planes[0], sums, y0, y1 }, on));
      give(laid.ptr);
      progress((1 + (k + 1) / order.length) / 2, `Composing along the depth, ${k + 1} of ${order.length}`);
    }
    await inStrips((y0, y1) => work.run("mixDepth", { acc, sums, trust: method === "mixed" ? planes[1] : undefined, y0, y1 }, on));
    for (const at of [...planes, sums.ptr]) give(at);
  };
  try {
    const { bytes } = focusShape(width, height), block = (): number => take(bytes), sums: FocusSums = { own: [block(), block(), block()], greys: take(((width + 1) >> 1) * ((height + 1) >> 1) * 4 + 64), energy: block(), best: block(), taken: [block(), block(), block()] };
    const shape = pyramidShape(width, height, FOCUS_LEVELS), level = Math.min(shape.levels.length - 2, Math.max(0, Math.ceil(Math.log2(Math.max(width, height) / DEPTH_EDGE)))), l = shape.levels[level]!, won = { sources: take(l.w * l.h), total: take(l.w * l.h * 4 + 64), level };
    await Promise.all([sums.best, ...sums.taken].map((p) => clear(p, bytes)));
    await clear(acc.ptr, acc.planeBytes * 4);
    await clear(won.sources, l.w * l.h);
    await clear(won.total, l.w * l.h * 4 + 64);
    for (const [k, i] of used.entries()) {
      const laid = await lay(i, used[k + 1]), votes = withPatches(undefined, [frames[i]!.id, frames[i]!.info.name], patches, grid), frame = { ...laid, ...(votes ? { ghosts: { ...votes, scale: votes.scale / shrink } } : {}) }, own = { ...won, frame: i };
      await inStrips((y0, y1) => work.run("halveFrame", { frame, sums, y0, y1 }, { scratch: focusBlockScratch(width), ...on }));
      await work.run("coarseSharpness", { frame, sums }, { scratch: coarseScratch(width, height), ...on });
      await inStrips((y0, y1) => work.run("takeFinest", { frame, acc, sums, won: own, y0, y1 }, { scratch: focusBlockScratch(width), ...on }));
      give(laid.ptr);
      await Promise.all([0, 1, 2].map((channel) => work.run("takeCoarser", { width, height, channel, sums }, { scratch: width * 8 + (1 << 12), ...on })));
      await work.run("keepBest", { width, height, sums, won: own }, on);
      progress((k + 1) / used.length / passes, `Fusing frames, ${k + 1} of ${used.length}`);
    }
    for (const at of [...sums.own, sums.greys, sums.energy]) give(at);
    await Promise.all(sums.taken.map((taken) => work.run("collapseFocus", { width, height, taken, best: sums.best }, { scratch: width * 8 + (1 << 12), ...on })));
    await inStrips((y0, y1) => work.run("addUp", { acc, coarser: sums.taken, y0, y1 }, { scratch: width * 4 + (1 << 12), ...on }));
    for (const s of sums.taken) give(s);
    if (method !== "pyramid") await alongDepth(level, l.w * l.h, level === 0 ? acc.ptr + 3 * acc.planeBytes : sums.best + focusShape(width, height).levels[level - 1]!.at, won);
    give(sums.best);
    give(won.total);
    // the weight of a finished scene says that it is covered
    await inStrips((y0, y1) => work.run("fusedToScene", { acc, y0, y1 }, on));
    const map = sources ? take(width * height) : undefined;
    if (map !== undefined) await work.run("spreadSources", { from: won.sources, w: l.w, h: l.h, to: map, width, height }, on);
    give(won.sources);
    const scene = { ...acc, ...(await toneAnalysis(work, acc, BASIS_PARTS, on)) };
    return map === undefined ? scene : { ...scene, sources: map, release() { scene.release(); work.give(map); } };
  } catch (e) {
    await work.idle();
    for (const at of taken) work.give(at);
    throw e;
  } finally { layer.drop(); }
}

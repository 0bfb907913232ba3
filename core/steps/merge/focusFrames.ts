import type { LaidFrame } from "../../bracket/mertens";
import { withPatches } from "../../bracket/ghostPatches";
import { depthScratch } from "../../focus/depthMap";
import { channelScratch, FOCUS_LEVELS, sharpnessScratch } from "../../focus/sharpest";
import { pyramidShape } from "../../raster/pyramid";
import { BASIS_PARTS } from "../../tone/toneBasis";
import { voteGrid } from "../ghosts/step";
import { rowsOf, type Watch, type Work } from "../work";
import { layFrames } from "./layFrames";
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
export async function focusFrames(work: Work, { frames, aligned: aligning, shrink, held, patches, sources }: MergeInput, method: "pyramid" | "depth" | "mixed", { progress, signal }: Watch): Promise<Scene> {
  const aligned = await aligning, grid = voteGrid(frames[aligned.reference]!.info), passes = method === "pyramid" ? 1 : 2, on = signal ? { signal } : {}, { reference } = aligned, used = frames.map((_, i) => i).filter((i) => aligned.frames[i]!.used);
  const acc = begin(work, frames[reference]!.info, shrink);
  const { width, height } = acc, shape = pyramidShape(width, height, FOCUS_LEVELS), taken = new Set<number>([acc.ptr]);
  const take = (bytes: number): number => { const at = work.take(bytes); taken.add(at); return at; }, give = (at: number): void => { work.give(at); taken.delete(at); };
  const clear = (ptr: number, bytes: number): Promise<unknown> => Promise.all(rowsOf(bytes, work.threads).map(([a, b]) => work.run("clear", { ptr: ptr + a, bytes: b - a }, on)));
  const layer = layFrames(work, { frames, reference, shrink, held, width, height, take, on });
  const lay = (i: number, next: number | undefined): Promise<LaidFrame> => { if (next !== undefined) layer.readAhead([i, next]); return layer.lay(i, aligned.frames[i]!); };
  const strips = rowsOf(height, work.threads * 4);
  /** The second pass: each frame is added where the depth lies nearest to it. */
  const alongDepth = async (level: number, n: number, best: number, won: { sources: number; total: number; level: number }): Promise<void> => {
    const order = (aligned.order ?? frames.map((_, i) => i)).filter((i) => used.includes(i)), small = [take(n * 4 + 64), take(n * 4 + 64)] as const, planes = [take(width * height * 4 + 64), take(width * height * 4 + 64)] as const;
    await work.run("depthMap", { acc, best, won, frames: used.length, order, depth: small[0], trust: small[1] }, { scratch: depthScratch(n), ...on });
    await Promise.all(small.map((from, i) => work.run("spreadPlane", { from, level, width, height, to: planes[i]! }, { scratch: width * height * 8 + width * 8 + (1 << 12), ...on })));
    for (const s of small) give(s);
    const sums = begin(work, frames[reference]!.info, shrink);
    taken.add(sums.ptr);
    await clear(sums.ptr, sums.planeBytes * 4);
    for (const [k, i] of order.entries()) {
      const laid = await lay(i, order[k + 1]);
      await Promise.all(strips.map(([y0, y1]) => work.run("addAlongDepth", { frame: laid, k, depth: planes[0], sums, y0, y1 }, on)));
      give(laid.ptr);
      progress((1 + (k + 1) / order.length) / 2, `Composing along the depth, ${k + 1} of ${order.length}`);
    }
    await Promise.all(strips.map(([y0, y1]) => work.run("mixDepth", { acc, sums, trust: method === "mixed" ? planes[1] : undefined, y0, y1 }, on)));
    for (const at of [...planes, sums.ptr]) give(at);
  };
  try {
    const energy = take(shape.bytes), best = take(shape.bytes), sums = [take(shape.bytes), take(shape.bytes), take(shape.bytes)], level = Math.min(shape.levels.length - 2, Math.max(0, Math.ceil(Math.log2(Math.max(width, height) / DEPTH_EDGE)))), l = shape.levels[level]!, won = { sources: take(l.w * l.h), total: take(l.w * l.h * 4 + 64), level };
    await Promise.all([best, ...sums].map((p) => clear(p, shape.bytes)));
    await clear(won.sources, l.w * l.h);
    await clear(won.total, l.w * l.h * 4 + 64);
    for (const [k, i] of used.entries()) {
      const laid = await lay(i, used[k + 1]), votes = withPatches(undefined, [frames[i]!.id, frames[i]!.info.name], patches, grid);
      await work.run("sharpness", { frame: { ...laid, ...(votes ? { ghosts: { ...votes, scale: votes.scale / shrink } } : {}) }, energy, bytes: shape.bytes }, { scratch: sharpnessScratch(width, height), ...on });
      await Promise.all(sums.map((sum, channel) => work.run("takeChannel", { frame: laid, channel, energy, best, sum, bytes: shape.bytes }, { scratch: channelScratch(width, height), ...on })));
      await work.run("keepBest", { width, height, energy, best, won: { ...won, frame: i } }, on);
      give(laid.ptr);
      progress((k + 1) / used.length / passes, `Fusing frames, ${k + 1} of ${used.length}`);
    }
    give(energy);
    await Promise.all(sums.map((sum, channel) => work.run("finishFocus", { acc, channel, sum, best }, { scratch: width * 8 + (1 << 12), ...on })));
    for (const s of sums) give(s);
    if (method !== "pyramid") await alongDepth(level, l.w * l.h, best, won);
    give(best);
    give(won.total);
    // the weight of a finished scene says that it is covered
    await Promise.all(strips.map(([y0, y1]) => work.run("fusedToScene", { acc, y0, y1 }, on)));
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

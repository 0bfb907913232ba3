import { channelScratch } from "../../bracket/mertens";
import { FOCUS_LEVELS, sharpnessScratch } from "../../focus/sharpest";
import { pyramidShape } from "../../raster/pyramid";
import { BASIS_PARTS } from "../../tone/toneBasis";
import { rowsOf, type Watch, type Work } from "../work";
import { layFrames } from "./layFrames";
import { begin, toneAnalysis } from "./mergeFrames";
import type { Scene } from "./scene";
import type { MergeInput } from "./input";

/**
 * Fuses a focus run: on every scale and at every place the coefficients of the frame that is sharpest there. One pass, so
 * memory does not depend on the number of frames. The scene's `sources` tells which frame that was.
 */
export async function focusFrames(work: Work, { frames, aligned: aligning, shrink, held, sources }: MergeInput, { progress, signal }: Watch): Promise<Scene> {
  const aligned = await aligning, on = signal ? { signal } : {}, { reference } = aligned, used = frames.map((_, i) => i).filter((i) => aligned.frames[i]!.used);
  const acc = begin(work, frames[reference]!.info, shrink);
  const { width, height } = acc, shape = pyramidShape(width, height, FOCUS_LEVELS), taken = new Set<number>([acc.ptr]);
  const take = (bytes: number): number => { const at = work.take(bytes); taken.add(at); return at; }, give = (at: number): void => { work.give(at); taken.delete(at); };
  const clear = (ptr: number, bytes: number): Promise<unknown> => Promise.all(rowsOf(bytes, work.threads).map(([a, b]) => work.run("clear", { ptr: ptr + a, bytes: b - a }, on)));
  const layer = layFrames(work, { frames, aligned: aligned.frames, reference, shrink, held, acc, take, on });
  const strips = rowsOf(height, work.threads * 4);
  try {
    const energy = take(shape.bytes), best = take(shape.bytes), sums = [take(shape.bytes), take(shape.bytes), take(shape.bytes)], level = Math.min(1, shape.levels.length - 2), l = shape.levels[level]!, won = take(l.w * l.h);
    await Promise.all([best, ...sums].map((p) => clear(p, shape.bytes)));
    await clear(won, l.w * l.h);
    for (const [k, i] of used.entries()) {
      const laid = await layer.lay(i, used[k + 1]);
      await work.run("sharpness", { frame: laid, energy, bytes: shape.bytes }, { scratch: sharpnessScratch(width, height), ...on });
      await Promise.all(sums.map((sum, channel) => work.run("takeChannel", { frame: laid, channel, energy, best, sum, bytes: shape.bytes }, { scratch: channelScratch(width, height), ...on })));
      await work.run("keepBest", { width, height, energy, best, won: { sources: won, level, frame: i } }, on);
      give(laid.ptr);
      progress((k + 1) / used.length, `Fusing frames, ${k + 1} of ${used.length}`);
    }
    give(energy);
    await Promise.all(sums.map((sum, channel) => work.run("finishFocus", { acc, channel, sum, best }, { scratch: width * 8 + (1 << 12), ...on })));
    for (const s of [...sums, best]) give(s);
    // the weight of a finished scene says that it is covered
    await Promise.all(strips.map(([y0, y1]) => work.run("fusedToScene", { acc, y0, y1 }, on)));
    const map = sources ? take(width * height) : undefined;
    if (map !== undefined) await work.run("spreadSources", { from: won, w: l.w, h: l.h, to: map, width, height }, on);
    give(won);
    const scene = { ...acc, ...(await toneAnalysis(work, acc, BASIS_PARTS, on)) };
    return map === undefined ? scene : { ...scene, sources: map, release() { scene.release(); work.give(map); } };
  } catch (e) {
    await work.idle();
    for (const at of taken) work.give(at);
    throw e;
  } finally { layer.drop(); }
}

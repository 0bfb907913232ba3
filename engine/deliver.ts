import { RhizomeError } from "../core/error";
import type { Recipe } from "../core/recipe/recipe";
import { WORK_EDGE, alignFrames, decodeReduced, isLinear, referenceOf, renderWhole, shrinkTo, toneField, type Aligned, type BracketFrame, type Progress } from "./bracket";
import { mergeFrames } from "./mergeFrames";
import type { Pool } from "./pool";
import type { HeldSamples } from "./worker/tasks";

export interface Delivered { /** a Blob in the browser */ file: Uint8Array | Blob; width: number; height: number; aligned: Aligned; timingsMs: Record<"decode" | "align" | "merge" | "tone" | "encode" | "total", number> }
export interface DeliverOptions { progress: Progress; signal?: AbortSignal; aligned?: Aligned; now: () => number }

/** The whole way of a bracket at full size: read, align, merge, tone, encode. */
export async function deliverBracket(pool: Pool, all: readonly BracketFrame[], recipe: Recipe, options: DeliverOptions): Promise<Delivered> {
  const { progress, signal, now } = options;
  const frames = all.filter((f) => !recipe.frames.leftOut.includes(f.id));
  if (!frames.length) throw new RhizomeError("no-frames", "Every frame of this stack is left out.", "take at least one frame in again");
  const t0 = now();
  const span = (from: number, to: number): Progress => (share, doing) => progress(from + (to - from) * share, doing);
  const shrink = shrinkTo(frames[0]!.info, WORK_EDGE);
  const reference = referenceOf(frames, recipe);
  let held: HeldSamples[] | undefined;
  let t1 = t0, t2 = t0, t3 = t0;
  const dropReduced = (): void => { for (const h of held ?? []) pool.give(h.ptr); held = undefined; };
  try {
    if (!options.aligned || shrink === 1) held = await decodeReduced(pool, frames, shrink, span(0, 0.15), signal);
    t1 = t2 = now();
    // the reference frame needs no alignment: it is read and merged while the others are aligned
    const aligning = options.aligned ? Promise.resolve(options.aligned) : alignFrames(pool, frames, held!, recipe, shrink, signal).then((a) => {
      t2 = now();
      if (shrink > 1) dropReduced();
      return a;
    });
    aligning.catch(() => undefined);
    const scene = await mergeFrames(pool, frames, reference, aligning, 1, { progress: span(0.15, 0.7), ...(signal ? { signal } : {}), ...(held && shrink === 1 ? { held } : {}) });
    const aligned = await aligning;
    dropReduced();
    t3 = now();
    const { format, space, quality, chroma, compression, creator, copyright } = recipe.deliver;
    const depth = format === "hdr" || format === "exr" ? "32f" : format === "jpg" ? "8" : recipe.deliver.depth === "32f" && format === "png" ? "16" : recipe.deliver.depth;
    const kind = depth === "32f" ? "rgb32f" : depth === "16" ? "rgb16" : "rgba8";
    let dst: number;
    try {
      const tone = await toneField(pool, scene, recipe, signal);
      try { dst = await renderWhole(pool, scene, tone.field, recipe, kind, span(0.7, 0.9), signal); } finally { await pool.idle(); tone.release(); }
    } finally { await pool.idle(); scene.release(); }
    const t4 = now();
    progress(0.9, "Writing the file");
    try {
      const file = await pool.run("encode", {
        ptr: dst, width: scene.width, height: scene.height, kind: kind === "rgba8" ? "rgb8" : kind, format,
        space, linear: isLinear(recipe), quality, chroma, compression, half: recipe.deliver.depth !== "32f", metadataFrom: frames[aligned.reference]!.source,
        caption: { creator, copyright, kind: recipe.kind, frames: frames.map((f) => f.info.name), evs: aligned.frames.map((a) => a.ev) },
      }, signal ? { signal } : {});
      progress(1, "Done");
      const t5 = now();
      return { file, width: scene.width, height: scene.height, aligned: full(all, frames, aligned), timingsMs: { decode: t1 - t0, align: t2 - t1, merge: t3 - t2, tone: t4 - t3, encode: t5 - t4, total: t5 - t0 } };
    } finally { await pool.idle(); pool.give(dst); }
  } catch (e) {
    await pool.idle();
    dropReduced();
    throw e;
  }
}

/** Alignment for all frames of the stack, those left out marked as unused. */
function full(all: readonly BracketFrame[], used: readonly BracketFrame[], aligned: Aligned): Aligned {
  const at = new Map(used.map((f, i) => [f.id, i]));
  const frames = all.map((f) => { const i = at.get(f.id); return i === undefined ? { fromReference: [1, 0, 0, 0, 1, 0, 0, 0, 1], ev: 0, residualPx: 0, movedPx: 0, used: false } : aligned.frames[i]!; });
  return { ...aligned, frames, reference: all.indexOf(used[aligned.reference]!) };
}

import { toneOf, type Recipe } from "../core/recipe/recipe";
import { alignStep, overAll, type Aligned } from "../core/steps/align/step";
import { deliverStep, pixelKind } from "../core/steps/deliver/step";
import { finishStep } from "../core/steps/finish/step";
import { framesStep } from "../core/steps/frames/step";
import { mergeKey } from "../core/steps/keys";
import { mergeStep, referenceOf } from "../core/steps/merge/step";
import { findResponse, prepareStep } from "../core/steps/prepare/step";
import { toneStep } from "../core/steps/tone/step";
import { decodeReduced, shrinkTo, WORK_EDGE, type HeldSamples, type Progress, type StackFrame, type Watch } from "../core/steps/work";
import { ranked, type Suspect } from "../core/suspects/suspect";
import { findSuspects } from "./mergeStack";
import type { Pool } from "./pool";
import { recallFindings, type Drawer } from "./sceneCache";

export interface Delivered { /** a Blob in the browser */ file: Uint8Array | Blob; width: number; height: number; aligned: Aligned; suspects: Suspect[]; timingsMs: Record<"decode" | "align" | "merge" | "tone" | "encode" | "total", number> }
export interface DeliverOptions extends Watch { /** where an alignment found before may lie */ drawer?: Drawer; now: () => number }

/** Whether the file holds light itself: untoned results, and the formats that are made for it. */
const isLinear = ({ merge, tone, deliver }: Recipe): boolean => (tone.operator === "none" && merge.method !== "fusion") || ["exr", "hdr"].includes(deliver.format) || deliver.space === "linear";

/** The whole way of a stack at full size: read, align, merge, tone, encode. */
export async function deliverStack(pool: Pool, all: readonly StackFrame[], recipe: Recipe, options: DeliverOptions): Promise<Delivered> {
  const { progress, signal, now, drawer } = options, on = signal ? { signal } : {};
  const frames = framesStep.run(all, recipe.frames);
  const t0 = now();
  const span = (from: number, to: number): Progress => (share, doing) => progress(from + (to - from) * share, doing);
  const shrink = shrinkTo(frames[0]!.info, WORK_EDGE), reference = referenceOf(frames, recipe.merge);
  let held: HeldSamples[] | undefined;
  let t1 = t0, t2 = t0, t3 = t0;
  const dropReduced = (): void => { for (const h of held ?? []) pool.give(h.ptr); held = undefined; };
  try {
    const known = drawer && (await recallFindings(pool, drawer, mergeKey(frames, recipe, shrink)))?.aligned;
    if (!known || shrink === 1) held = await decodeReduced(pool, frames, shrink, { progress: span(0, 0.15), ...on });
    const response = known ? known.response : await findResponse(pool, frames, held!, recipe.prepare, on);
    t1 = t2 = now();
    // the reference frame needs no alignment: it is read and merged while the others are aligned
    const aligning = known ? Promise.resolve(known) : alignStep.run(pool, { frames, held: held!, reference, deghost: recipe.merge.deghost === "auto", strength: recipe.merge.ghostStrength, response, shrink }, recipe.align, on).then((a) => {
      t2 = now();
      if (shrink > 1) dropReduced();
      return a;
    });
    aligning.catch(() => undefined);
    const scene = await mergeStep.run(pool, { frames, aligned: aligning, reference, shrink: 1, patches: recipe.ghosts.patches, response, ...(held && shrink === 1 ? { held } : {}) }, recipe.merge, { progress: span(0.15, 0.7), ...on });
    const aligned = await aligning;
    dropReduced();
    t3 = now();
    let dst: number, suspects: Suspect[];
    try {
      const tone = await toneStep.run(pool, scene, toneOf(recipe), on);
      suspects = ranked([...(await findSuspects(pool, scene, aligned, recipe, 1, on)), ...(await pool.run("haloSuspects", { grid: scene.grid, field: tone.field, scale: scene.width / scene.grid.width }, { scratch: 1 << 16, ...on }))]);
      const render = finishStep.run(prepareStep.run(recipe.prepare), recipe.tone.exposure, recipe.finish, recipe.deliver.space, isLinear(recipe));
      try { dst = await deliverStep.run(pool, scene, tone, render, recipe.deliver, { progress: span(0.7, 0.9), ...on }); } finally { await pool.idle(); tone.release(); }
    } finally { await pool.idle(); scene.release(); }
    const t4 = now();
    progress(0.9, "Writing the file");
    try {
      const { format, space, depth, quality, chroma, compression, creator, copyright } = recipe.deliver, kind = pixelKind(recipe.deliver);
      const file = await pool.run("encode", {
        ptr: dst, width: scene.width, height: scene.height, kind: kind === "rgba8" ? "rgb8" : kind, format,
        space, linear: isLinear(recipe), quality, chroma, compression, half: depth !== "32f", metadataFrom: frames[reference]!.source,
        caption: { creator, copyright, kind: recipe.kind, frames: frames.map((f) => f.info.name), evs: aligned.frames.map((a) => a.ev) },
      }, on);
      progress(1, "Done");
      const t5 = now();
      return { file, width: scene.width, height: scene.height, aligned: overAll(all, frames, aligned), suspects, timingsMs: { decode: t1 - t0, align: t2 - t1, merge: t3 - t2, tone: t4 - t3, encode: t5 - t4, total: t5 - t0 } };
    } finally { await pool.idle(); pool.give(dst); }
  } catch (e) {
    await pool.idle();
    dropReduced();
    throw e;
  }
}

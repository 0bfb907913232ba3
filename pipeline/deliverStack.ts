import { OUTPUT_FORMATS } from "../codecs/outputFormats";
import type { Parts } from "../codecs/stream";
import type { Rectangle } from "../core/raster/largestRectangle";
import { ranked, type Suspect } from "../core/suspects/suspect";
import type { ResultCache } from "../runtime/resultCache";
import { TaskScope } from "../runtime/taskScope";
import { spanOf, type Priority, type Watch } from "../runtime/work";
import { overAll, type Aligned } from "./align/step";
import { captionOf } from "./deliver/caption";
import { atOnce, deliverStep, pixelKind, type Delivery } from "./deliver/step";
import { emptyIs } from "./edges/step";
import { emptyIn, keptRegion } from "./edges/keptRegion";
import { finishStep } from "./finish/step";
import type { Layout } from "./panorama/layout";
import type { Threads } from "./pool";
import { OwnPieces } from "./finish/pieces";
import { renderSettings } from "./deliver/renderSettings";
import { withPreparation } from "./prepare/step";
import { toneOf, weighsNoise, type Recipe } from "./recipe/recipe";
import { runPipeline } from "./run/runPipeline";
import type { Merged } from "./run/run";
import { SCENE_MAKERS } from "./run/sceneMakers";
import { retouchStep } from "./retouch/step";
import { toneSuspects } from "./tone/suspects";
import { toneStep, type AllocatedField } from "./tone/step";
import type { StackFrame } from "./work";

export interface Delivered {
  /** a Blob in the browser */
  file: Parts | Blob;
  width: number;
  height: number;
  /** how all the stack's frames lie, those left out among them */
  aligned?: Aligned;
  panorama?: { layout: Layout; region: Rectangle };
  suspects: Suspect[];
  timingsMs: Record<"decode" | "align" | "merge" | "tone" | "encode" | "total", number>;
}
export interface DeliverOptions extends Watch {
  priority?: Priority;
  /** where the frames' places may have been found before */
  placesIn?: ResultCache;
  /** where brackets and focus stacks merged at full size are kept */
  keptIn?: ResultCache;
  /** a clock, ms */
  now: () => number;
  /** how the user marked the stack */
  marks?: { rating: number; label: string };
}

/** Shares of the way up to which a stack is merged, whole or ready for its bands, and rendered. */
const MERGED = 0.7;
const READY_FOR_BANDS = 0.4;
const RENDERED = 0.9;

/** Whether the file holds light itself: untoned results, and the formats that are made for it. */
const isLinear = ({ merge, tone, deliver }: Recipe): boolean =>
  (tone.operator === "none" && merge.method !== "fusion") ||
  OUTPUT_FORMATS[deliver.format].light ||
  deliver.space === "linear";

/**
 * The whole way of a stack at full size: merged, toned, rendered and encoded.
 *
 * @throws RhizomeError what any step throws; then nothing of it is left in memory
 */
export async function deliverStack(
  threads: Threads,
  stack: readonly StackFrame[],
  recipe: Recipe,
  { now, marks, keptIn, placesIn, ...options }: DeliverOptions,
): Promise<Delivered> {
  const { signal, priority } = options;
  const scope = new TaskScope(threads, priority);
  const began = now();
  const watch = onlyForward(options);
  const merged = await runPipeline(scope, stack, recipe, {
    ...spanOf(watch, 0, MERGED),
    scale: "full",
    sources: SCENE_MAKERS[recipe.kind].judgedBySources,
    ...(keptIn ? { keptIn } : {}),
    ...(placesIn ? { placesIn } : {}),
    now,
  });
  const mergedAt = now();
  const { picture, suspects, region } = await render(scope, merged, recipe, watch);
  const renderedAt = now();
  const { dst, coverage, width, height } = picture;
  watch.progress(RENDERED, "Writing the file");
  try {
    const { format, space, depth, quality, chroma, compression, ppi } = recipe.deliver;
    const first = merged.frames[firstOf(merged)]!;
    const encoded = await scope.run(
      "encode",
      {
        ptr: dst,
        width,
        height,
        kind: pixelKind(recipe.deliver),
        ...(coverage === undefined ? {} : { coverage }),
        format,
        space,
        linear: isLinear(recipe),
        quality,
        chroma,
        compression,
        ppi,
        half: depth !== "32f",
        metadataFrom: { source: first.source, exif: first.info.exif },
        caption: captionOf(merged, recipe, { region, width, ...marks }),
      },
      signal ? { signal } : {},
    );
    watch.progress(1, "Done");
    const all = withPreparation(stack, recipe.prepare);
    return {
      file: encoded,
      width,
      height,
      suspects,
      ...(merged.aligned ? { aligned: overAll(all, merged.frames, merged.aligned) } : {}),
      ...(merged.layout ? { panorama: { layout: merged.layout, region } } : {}),
      timingsMs: {
        decode: merged.readAt - began,
        align: merged.placedAt - merged.readAt,
        merge: mergedAt - merged.placedAt,
        tone: renderedAt - mergedAt,
        encode: now() - renderedAt,
        total: now() - began,
      },
    };
  } finally {
    await scope.idle();
    scope.free(dst);
    if (coverage !== undefined) scope.free(coverage);
  }
}

/** A watch that is never told of a smaller share than before. */
function onlyForward({ progress, signal }: Watch): Watch {
  let reached = 0;
  return {
    progress(share, doing) {
      reached = Math.max(reached, share);
      progress(reached, doing);
    },
    ...(signal ? { signal } : {}),
  };
}

/** Place of the frame whose metadata goes with the file. */
const firstOf = ({ aligned, layout }: Merged): number =>
  aligned ? aligned.reference : layout!.cameras.findIndex((c) => c !== undefined);

/** Tones a merged stack and renders what is kept of it; the scene is released then. */
async function render(
  scope: Threads,
  merged: Merged,
  recipe: Recipe,
  watch: Watch,
): Promise<{ picture: Delivery; suspects: Suspect[]; region: Rectangle }> {
  const on = watch.signal ? { signal: watch.signal } : {};
  const { size } = merged;
  let retouched: Awaited<ReturnType<typeof retouchStep.run>> | undefined;
  let tone: AllocatedField | undefined;
  const pieces = new OwnPieces();
  try {
    retouched = await retouchStep.run(scope, merged, recipe.retouch, on);
    const { scene, coming } = retouched;
    tone = await toneStep.run(scope, scene, toneOf(recipe), on);
    const finish = await finishStep.run(
      scope,
      {
        scene,
        tone,
        toneKey: "",
        exposure: recipe.tone.exposure,
        size,
        noiseByWeights: weighsNoise(recipe),
      },
      recipe.finish,
      pieces,
      on,
    );
    const region = keptRegion(recipe.edges, merged);
    // beside the rendering
    const found = Promise.all([
      merged.suspects(),
      toneSuspects(scope, scene, tone.field, size.width, on),
    ]);
    found.catch(() => undefined);
    const picture = await deliverStep.run(
      scope,
      coming ?? atOnce(scene),
      region,
      {
        field: tone.field,
        settings: renderSettings(recipe, recipe.deliver.space, isLinear(recipe)),
        finish,
      },
      recipe.deliver,
      showsEmpty(recipe, region, merged),
      spanOf(watch, coming ? READY_FOR_BANDS : MERGED, RENDERED),
    );
    return { picture, suspects: ranked((await found).flat()), region };
  } finally {
    await scope.idle();
    await pieces.release();
    tone?.release();
    retouched?.release();
    merged.scene.release();
  }
}

/** Whether a file can say what of it is empty, and some of it is or may be. */
function showsEmpty({ edges, deliver }: Recipe, region: Rectangle, merged: Merged): boolean {
  if (!OUTPUT_FORMATS[deliver.format].alpha) return false;
  const empty = emptyIs(edges);
  // a part that was chosen manually may reach over what is empty
  const { layout, aligned } = merged;
  if (!layout && !aligned?.straightening) return false;
  return empty === "keep" || (empty === "crop" && emptyIn(region, edges, merged) > 0);
}

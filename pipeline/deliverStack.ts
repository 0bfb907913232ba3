import { OUTPUT_FORMATS } from "../codecs/outputFormats";
import type { Parts } from "../codecs/stream";
import type { Rectangle } from "../core/raster/largestRectangle";
import { ranked, type Suspect } from "../core/suspects/suspect";
import type { ResultCache } from "../runtime/resultCache";
import { marksOfFrames, type Marks } from "./deliver/marks";
import { TaskScope } from "../runtime/taskScope";
import { spanOf, type Priority, type Watch } from "../runtime/work";
import { overAll, type Aligned } from "./align/step";
import { captionOf } from "./deliver/caption";
import { fileLayout } from "./deliver/fileLayout";
import { beyondWhiteOf, headroomOf, type FileSettings } from "./deliver/settings";
import { atOnce, deliverStep, pixelKind, type Delivery } from "./deliver/step";
import { emptyIs } from "./edges/step";
import { emptyIn, keptRegion } from "./edges/keptRegion";
import { finishStep } from "./finish/step";
import type { Layout } from "./panorama/layout";
import type { Threads } from "./pool";
import { OwnPieces } from "./finish/pieces";
import { renderSettings } from "./deliver/renderSettings";
import { isFused, toneOf, weighsNoise, type Recipe } from "./recipe/recipe";
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
  /** what deserves a look, where it was asked for */
  suspects?: Suspect[];
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
  marks?: Marks;
  /** whether to find what deserves a look */
  findSuspects?: boolean;
}

/** Shares of the way up to which a stack is merged, whole or ready for its bands. */
const MERGED = 0.7;
const READY_FOR_BANDS = 0.4;
/** Share of a file's way up to which it is rendered. */
const RENDERED = 0.67;

/** Whether the file holds light itself: untoned results, and the formats that are made for it. */
const isLinear = (recipe: Recipe): boolean =>
  (recipe.tone.operator === "none" && !isFused(recipe)) ||
  OUTPUT_FORMATS[recipe.deliver.format].light ||
  recipe.deliver.space === "linear";

/** One file of a stack that is delivered in several. */
export interface DeliveredFile extends Delivered {
  /** place of its settings among those that were asked for */
  index: number;
}

/**
 * The whole way of a stack at full size: merged, toned, rendered and encoded.
 *
 * @throws RhizomeError what any step throws; then nothing of it is left in memory
 */
export async function deliverStack(
  threads: Threads,
  stack: readonly StackFrame[],
  recipe: Recipe,
  options: DeliverOptions,
): Promise<Delivered> {
  let only: Delivered | undefined;
  await deliverEach(threads, stack, recipe, [recipe.deliver], options, (file) => {
    only = file;
    return Promise.resolve();
  });
  return only!;
}

/**
 * A stack merged and toned once, and rendered and encoded as several files, one after the other.
 *
 * @param take  is handed each file as soon as it is there; it is waited for
 * @throws RhizomeError what any step throws; then nothing of it is left in memory
 */
export async function deliverEach(
  threads: Threads,
  stack: readonly StackFrame[],
  recipe: Recipe,
  outputs: readonly FileSettings[],
  { now, marks, keptIn, placesIn, findSuspects = false, ...options }: DeliverOptions,
  take: (file: DeliveredFile) => Promise<unknown>,
): Promise<void> {
  const { priority } = options;
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
  await withToned(scope, merged, recipe, { ...watch, findSuspects }, async (toned) => {
    for (const [index, settings] of outputs.entries()) {
      const from = merged.coming ? READY_FOR_BANDS : MERGED;
      const share = (1 - from) / outputs.length;
      const own = spanOf(watch, from + index * share, from + (index + 1) * share);
      const renderedFrom = now();
      const output = { ...recipe, deliver: { ...recipe.deliver, ...settings } };
      const { picture, region } = await render(scope, merged, toned, output, own);
      const renderedAt = now();
      own.progress(RENDERED, "Writing the file");
      try {
        const file = await encodePicture(scope, merged, output, picture, region, marks, own);
        own.progress(1, "Done");
        await take({
          index,
          file,
          width: picture.width,
          height: picture.height,
          ...(toned.suspects ? { suspects: await toned.suspects } : {}),
          ...(merged.aligned ? { aligned: overAll(stack, merged.frames, merged.aligned) } : {}),
          ...(merged.layout ? { panorama: { layout: merged.layout, region } } : {}),
          timingsMs: {
            decode: merged.readAt - began,
            align: merged.placedAt - merged.readAt,
            merge: mergedAt - merged.placedAt,
            tone: renderedAt - (index ? renderedFrom : mergedAt),
            encode: now() - renderedAt,
            total: now() - began,
          },
        });
      } finally {
        await scope.idle();
        for (const at of [picture.dst, picture.coverage, picture.gain])
          if (at !== undefined) scope.free(at);
      }
    }
  });
}

/** A rendered picture as its file. */
async function encodePicture(
  scope: Threads,
  merged: Merged,
  recipe: Recipe,
  { dst, coverage, gain, width, height }: Delivery,
  region: Rectangle,
  marks: DeliverOptions["marks"],
  { signal }: Watch,
): Promise<Parts | Blob> {
  const { format, depth, quality, chroma, compression, metadata, headroom, scan, limit, tiling } =
    recipe.deliver;
  const { ppi } = fileLayout(region, recipe.deliver);
  const first = merged.frames[firstOf(merged)]!;
  return scope.run(
    "encode",
    {
      ptr: dst,
      width,
      height,
      kind: pixelKind(recipe.deliver),
      ...(coverage === undefined ? {} : { coverage }),
      ...(gain === undefined ? {} : { gain, headroom }),
      format,
      space: spaceOf(recipe),
      ...(beyondWhite(recipe) === "code" ? { displayCode: recipe.deliver.displayCode } : {}),
      linear: isLinear(recipe),
      quality,
      chroma,
      progressive: scan === "progressive",
      limit: Math.round(limit * 1e6),
      compression,
      tiles: tiling === "tiles",
      ppi,
      half: depth !== "32f",
      keep: metadata,
      metadataFrom: { source: first.source, exif: first.info.exif },
      caption: captionOf(merged, recipe, {
        region,
        width,
        ...(marks ?? marksOfFrames(merged.frames)),
      }),
    },
    signal ? { signal } : {},
  );
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

/** A merged stack that is toned and finished, ready to be rendered. */
interface Toned {
  retouched: Awaited<ReturnType<typeof retouchStep.run>>;
  tone: AllocatedField;
  finish: Awaited<ReturnType<typeof finishStep.run>>;
  suspects?: Promise<Suspect[]>;
}

/** Tones a merged stack and hands it on; the scene is released then. */
async function withToned(
  scope: Threads,
  merged: Merged,
  recipe: Recipe,
  watch: Watch & { findSuspects: boolean },
  use: (toned: Toned) => Promise<void>,
): Promise<void> {
  const on = watch.signal ? { signal: watch.signal } : {};
  const { size } = merged;
  let retouched: Toned["retouched"] | undefined;
  let tone: AllocatedField | undefined;
  const pieces = new OwnPieces();
  try {
    retouched = await retouchStep.run(scope, merged, recipe.retouch, on);
    const { scene } = retouched;
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
    if (!watch.findSuspects) return await use({ retouched, tone, finish });
    // beside the rendering
    const suspects = Promise.all([
      merged.suspects(),
      toneSuspects(scope, scene, tone.field, size.width, on),
    ]).then((found) => ranked(found.flat()));
    suspects.catch(() => undefined);
    await use({ retouched, tone, finish, suspects });
  } finally {
    await scope.idle();
    await pieces.release();
    tone?.release();
    retouched?.release();
    merged.scene.release();
  }
}

/** Renders what is kept of a toned stack as a file holds it; the pixels are the caller's. */
async function render(
  scope: Threads,
  merged: Merged,
  { retouched: { scene, coming }, tone, finish }: Toned,
  recipe: Recipe,
  watch: Watch,
): Promise<{ picture: Delivery; region: Rectangle }> {
  const region = keptRegion(recipe.edges, merged);
  const on = watch.signal ? { signal: watch.signal } : {};
  const headroom = headroomOf(recipe.deliver);
  const bright =
    beyondWhite(recipe) === "none"
      ? undefined
      : await toneStep.run(scope, scene, { ...toneOf(recipe), headroom }, on);
  try {
    const picture = await deliverStep.run(
      scope,
      coming ?? atOnce(scene),
      region,
      {
        field: tone.field,
        settings: renderSettings(recipe, spaceOf(recipe), isLinear(recipe)),
        finish,
        bright: bright && { field: bright.field, headroom },
      },
      recipe.deliver,
      showsEmpty(recipe, region, merged),
      spanOf(watch, 0, RENDERED),
    );
    return { picture, region };
  } finally {
    bright?.release();
  }
}

/** How a file tells what is brighter than white; one that holds light itself need not. */
const beyondWhite = (recipe: Recipe): ReturnType<typeof beyondWhiteOf> =>
  isLinear(recipe) ? "none" : beyondWhiteOf(recipe.deliver);

/** The space of a file's colours; one that is coded for displays has the widest. */
const spaceOf = (recipe: Recipe): FileSettings["space"] =>
  beyondWhite(recipe) === "code" ? "rec2020" : recipe.deliver.space;

/** Whether a file can say what of it is empty, and some of it is or may be. */
function showsEmpty({ edges, deliver }: Recipe, region: Rectangle, merged: Merged): boolean {
  if (!OUTPUT_FORMATS[deliver.format].alpha) return false;
  const empty = emptyIs(edges);
  // a part that was chosen manually may reach over what is empty
  const { layout, aligned } = merged;
  if (!layout && !aligned?.straightening) return false;
  return empty === "keep" || (empty === "crop" && emptyIn(region, edges, merged) > 0);
}

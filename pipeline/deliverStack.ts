import { toneOf, type Recipe } from "./recipe/recipe";
import { alignFocus } from "./align/alignFocus";
import { alignStep, overAll, type Aligned } from "./align/step";
import { atOnce, deliverStep, pixelKind, type Coming, type Delivery } from "./deliver/step";
import { commonArea, edgesStep, emptyIs, emptyShare } from "./edges/step";
import { finishStep } from "./finish/step";
import { framesStep } from "./frames/step";
import { mergeKey } from "./keys";
import type { Scene } from "./merge/scene";
import { mergeInBands } from "./merge/bands";
import { mergeStep, referenceOf } from "./merge/step";
import { bandsOf, joinFrames } from "./panorama/renderPanorama";
import { composePanorama, locateFrames, panoramaStep } from "./panorama/step";
import type { Layout } from "./panorama/layout";
import { findResponse, prepareStep, withPreparation } from "./prepare/step";
import { toneStep } from "./tone/step";
import { KeptFrames } from "./keptFrames";
import { decodeReduced } from "./readFrames";
import { downscaleTo, WORK_EDGE, type LoadedFrame, type StackFrame } from "./work";
import { type Progress, type Watch } from "../runtime/work";
import type { Rectangle } from "../core/raster/largestRectangle";
import { ranked, type Suspect } from "../core/suspects/suspect";
import { findingsOf, findSuspects } from "./mergeStack";
import { bandRows, READ_AHEAD_BYTES } from "./memory";
import { WorkSet } from "./workSet";
import type { Caption } from "../codecs/codec";
import type { Parts } from "../codecs/stream";
import type { Threads } from "./pool";
import { keepScene, recallFindings, recallScene } from "./cache/sceneCache";
import type { ResultCache } from "../runtime/resultCache";
import { OUTPUT_FORMATS } from "../codecs/outputFormats";
import { TaskScope } from "../runtime/taskScope";

/** A merged scene at full size, and what was found on the way. */
export interface Made {
  scene: Scene;
  /** the picture at full size where the scene is a smaller one */
  coming?: Coming;
  /** the part of it that goes out */
  region: Rectangle;
  /** place of the frame whose metadata goes with the file */
  first: number;
  evs: number[];
  aligned?: Aligned;
  layout?: Layout;
  /** looks for what may have gone wrong, as long as the scene is there */
  suspects: () => readonly Suspect[] | Promise<readonly Suspect[]>;
  /** when reading and aligning were done */
  readAt: number;
  alignedAt: number;
}
export interface Delivered {
  /** a Blob in the browser */
  file: Parts | Blob;
  width: number;
  height: number;
  aligned?: Aligned;
  panorama?: { layout: Layout; region: Rectangle };
  suspects: Suspect[];
  timingsMs: Record<"decode" | "align" | "merge" | "tone" | "encode" | "total", number>;
}
export interface DeliverOptions extends Watch {
  /** where an alignment found before may lie */
  resultCache?: ResultCache;
  /** where brackets and focus stacks merged at full size are kept */
  whole?: ResultCache;
  now: () => number;
  /** how the user marked the stack */
  marks?: { rating: number; label: string };
}

/** Whether the file holds light itself: untoned results, and the formats that are made for it. */
const isLinear = ({ merge, tone, deliver }: Recipe): boolean =>
  (tone.operator === "none" && merge.method !== "fusion") ||
  OUTPUT_FORMATS[deliver.format].light ||
  deliver.space === "linear";

/** The whole way of a stack at full size: read, align, merge, tone, encode. */
export async function deliverStack(
  threads: Threads,
  given: readonly StackFrame[],
  recipe: Recipe,
  options: DeliverOptions,
): Promise<Delivered> {
  const { signal, now } = options;
  const on = signal ? { signal } : {};
  const pool = new TaskScope(threads);
  const all = withPreparation(given, recipe.prepare);
  const frames = framesStep.run(all, recipe.frames);
  const t0 = now();
  let reached = 0;
  const progress: Progress = (share, doing) =>
    options.progress((reached = Math.max(reached, share)), doing);
  const span =
    (from: number, to: number): Progress =>
    (share, doing) =>
      progress(from + (to - from) * share, doing);
  const rows = bandRows(pool.budget, frames, recipe);
  const made = rows
    ? await makeInBands(pool, frames, recipe, rows, { ...options, progress: span(0, 0.45) })
    : await makeScene(pool, frames, recipe, { ...options, progress: span(0, 0.7) });
  const t3 = now();
  const whole = made.coming ?? atOnce(made.scene);
  let picture: Delivery;
  let suspects: Suspect[];
  try {
    const tone = await toneStep.run(pool, made.scene, toneOf(recipe), on);
    try {
      // beside the toning
      const found = Promise.all([
        made.suspects(),
        pool.run(
          "haloSuspects",
          { grid: made.scene.grid, field: tone.field, scale: whole.width / made.scene.grid.width },
          { scratch: 1 << 16, ...on },
        ),
      ]);
      found.catch(() => undefined);
      const render = finishStep.run(
        prepareStep.run(recipe.prepare),
        recipe.tone.exposure,
        recipe.finish,
        recipe.deliver.space,
        isLinear(recipe),
      );
      // where a part was chosen manually it may reach over what is empty
      const left = emptyIs(recipe.edges);
      const open =
        made.layout !== undefined &&
        (left === "keep" ||
          (left === "crop" && emptyShare(made.region, whole, made.layout.labels) > 0)) &&
        OUTPUT_FORMATS[recipe.deliver.format].alpha;
      picture = await deliverStep.run(
        pool,
        whole,
        made.region,
        tone,
        render,
        recipe.deliver,
        open,
        { progress: span(reached, 0.9), ...on },
      );
      suspects = ranked((await found).flat());
    } finally {
      await pool.idle();
      tone.release();
    }
  } finally {
    await pool.idle();
    made.scene.release();
  }
  const t4 = now();
  const { dst, coverage, width, height } = picture;
  progress(0.9, "Writing the file");
  try {
    const { format, space, depth, quality, chroma, compression, ppi, creator, copyright } =
      recipe.deliver;
    const file = await pool.run(
      "encode",
      {
        ptr: dst,
        width,
        height,
        kind: pixelKind(recipe.deliver),
        format,
        ...(coverage === undefined ? {} : { coverage }),
        space,
        linear: isLinear(recipe),
        quality,
        chroma,
        compression,
        half: depth !== "32f",
        ppi,
        metadataFrom: { source: frames[made.first]!.source, exif: frames[made.first]!.info.exif },
        caption: {
          creator,
          copyright,
          kind: recipe.kind,
          frames: frames.map((f) => f.info.name),
          evs: made.evs,
          ...options.marks,
          ...(made.layout ? onSphere(made.layout.canvas, made.region, width) : {}),
        },
      },
      on,
    );
    progress(1, "Done");
    const t5 = now();
    return {
      file,
      width,
      height,
      suspects,
      ...(made.aligned ? { aligned: overAll(all, frames, made.aligned) } : {}),
      ...(made.layout ? { panorama: { layout: made.layout, region: made.region } } : {}),
      timingsMs: {
        decode: made.readAt - t0,
        align: made.alignedAt - made.readAt,
        merge: t3 - made.alignedAt,
        tone: t4 - t3,
        encode: t5 - t4,
        total: t5 - t0,
      },
    };
  } finally {
    await pool.idle();
    pool.free(dst);
    if (coverage !== undefined) pool.free(coverage);
  }
}

/** What an alignment tells of the file that will come of it. */
const ofAligned = (
  { edges }: Recipe,
  aligned: Aligned,
  { width, height }: { width: number; height: number },
): Pick<Made, "region" | "first" | "evs"> & { aligned: Aligned } => ({
  region: commonArea(edges, aligned.frames, width, height),
  first: aligned.reference,
  evs: aligned.frames.map((a) => a.ev),
  aligned,
});

/**
 * Aligns, merges at the size one works at, which is enough to place the tones, and leaves the whole
 * to come in bands.
 */
async function makeInBands(
  pool: Threads,
  frames: readonly StackFrame[],
  recipe: Recipe,
  rows: number,
  watch: DeliverOptions,
): Promise<Made> {
  const on = watch.signal ? { signal: watch.signal } : {};
  const { now } = watch;
  const downscale = downscaleTo(frames[0]!.info, WORK_EDGE);
  const set = new WorkSet(pool);
  const { width, height } = frames[0]!.info;
  try {
    const { loaded, aligned } = await set.align(frames, recipe, {
      progress: (share, doing) => watch.progress(share * 0.3, doing),
      ...on,
    });
    const readAt = now();
    const alignedAt = readAt;
    const { response, reference } = aligned;
    const input = {
      frames,
      aligned,
      reference,
      patches: recipe.ghosts.patches,
      response,
      sampling: recipe.merge.sampling,
    };
    const scene = await mergeStep.run(
      pool,
      { ...input, downscale, loaded, sources: recipe.kind === "focus" },
      recipe.merge,
      { progress: (share, doing) => watch.progress(0.3 + share * 0.2, doing), ...on },
    );
    set.drop();
    try {
      const { bands, release } = await mergeInBands(
        pool,
        { ...input, downscale: 1 },
        recipe.merge,
        rows,
        scene.fill,
        { progress: (share, doing) => watch.progress(0.5 + share * 0.5, doing), ...on },
      );
      return {
        scene: {
          ...scene,
          release() {
            scene.release();
            release();
          },
        },
        coming: { width, height, bands },
        ...ofAligned(recipe, aligned, { width, height }),
        suspects: () => findSuspects(pool, scene, aligned, recipe, downscale, on),
        readAt,
        alignedAt,
      };
    } catch (e) {
      await pool.idle();
      scene.release();
      throw e;
    }
  } finally {
    await pool.idle();
    set.drop();
  }
}

/** Reads, aligns and merges at full size; the scene is to be released. */
export const makeScene = (
  pool: Threads,
  frames: readonly StackFrame[],
  recipe: Recipe,
  options: DeliverOptions,
): Promise<Made> =>
  (recipe.kind === "panorama" ? makePanorama : makeBracket)(pool, frames, recipe, options);

/** How a delivered picture of this width lies on its whole sphere, if it is equirectangular. */
function onSphere(
  { projection, pxPerRadian, centreX, centreY, bend }: Layout["canvas"],
  region: Rectangle,
  delivered: number,
): Pick<Caption, "sphere"> {
  if (projection !== "equirectangular" || bend) return {};
  const by = delivered / region.width;
  const width = 2 * Math.PI * pxPerRadian * by;
  return {
    sphere: {
      width,
      height: width / 2,
      left: Math.max(0, width / 2 + (region.x - centreX) * by),
      top: Math.max(0, width / 4 + (region.y - centreY) * by),
      croppedWidth: delivered,
      croppedHeight: region.height * by,
    },
  };
}

async function makeBracket(
  pool: Threads,
  frames: readonly StackFrame[],
  recipe: Recipe,
  options: DeliverOptions,
): Promise<Made> {
  const { whole, now, signal } = options;
  const on = signal ? { signal } : {};
  const { info } = frames[0]!;
  const key = mergeKey(frames, recipe, 1);
  const kept = whole && (await recallScene(pool, whole, key, info, 1, false));
  if (kept) {
    const {
      scene,
      findings: { aligned, suspects },
    } = kept;
    const readAt = now();
    return {
      scene,
      ...ofAligned(recipe, aligned, scene),
      suspects: () => suspects,
      readAt,
      alignedAt: readAt,
    };
  }
  const made = await mergeWhole(pool, frames, recipe, options);
  try {
    if (!whole) return made;
    const findings = await findingsOf(pool, made.scene, frames, made.aligned, recipe, 1, on);
    await keepScene(pool, whole, key, made.scene, findings);
    return { ...made, suspects: () => findings.suspects };
  } catch (e) {
    await pool.idle();
    made.scene.release();
    throw e;
  }
}

/** Share of the way that aligning a focus run takes; a bracket is merged meanwhile. */
const ALIGNING = 0.2;

async function mergeWhole(
  pool: Threads,
  frames: readonly StackFrame[],
  recipe: Recipe,
  { progress, signal, now, resultCache }: DeliverOptions,
): Promise<Made & { aligned: Aligned }> {
  const on = signal ? { signal } : {};
  const downscale = downscaleTo(frames[0]!.info, WORK_EDGE);
  const reference = referenceOf(frames, recipe.merge);
  let loaded: LoadedFrame[] | undefined;
  const dropReduced = (): void => {
    for (const h of loaded ?? []) pool.free(h.ptr);
    loaded = undefined;
  };
  try {
    const known =
      resultCache &&
      (await recallFindings(pool, resultCache, mergeKey(frames, recipe, downscale)))?.aligned;
    if (!known || downscale === 1)
      loaded = await decodeReduced(pool, frames, downscale, {
        progress: (share, doing) => progress(share * 0.2, doing),
        ...on,
      });
    const focus = recipe.kind === "focus";
    const readAt = now();
    const merging = focus && !known ? 0.2 + ALIGNING : 0.2;
    let alignedAt = readAt;
    // the reference frame needs no alignment: it is read while a tone curve is looked for, and
    // merged while the others are aligned
    let response: ReturnType<typeof findResponse> | Promise<undefined>;
    if (known) response = Promise.resolve(known.response);
    else if (focus) response = Promise.resolve(undefined);
    else response = findResponse(pool, frames, loaded!, recipe.prepare, on);
    const aligning = known
      ? Promise.resolve(known)
      : (focus
          ? alignFocus(pool, { frames, loaded: loaded!, downscale }, recipe.align, {
              progress: (share, doing) => progress(0.2 + share * ALIGNING, doing),
              ...on,
            })
          : response.then((found) =>
              alignStep.run(
                pool,
                {
                  frames,
                  loaded: loaded!,
                  reference,
                  deghost: recipe.merge.deghost === "auto",
                  strength: recipe.merge.ghostStrength,
                  response: found,
                  downscale,
                },
                recipe.align,
                on,
              ),
            )
        ).then((a) => {
          alignedAt = now();
          if (downscale > 1) dropReduced();
          return a;
        });
    aligning.catch(() => undefined);
    const scene = await mergeStep.run(
      pool,
      {
        frames,
        aligned: aligning,
        reference,
        downscale: 1,
        patches: recipe.ghosts.patches,
        response,
        sources: focus,
        ...(loaded && downscale === 1 ? { loaded } : {}),
      },
      recipe.merge,
      { progress: (share, doing) => progress(merging + (1 - merging) * share, doing), ...on },
    );
    try {
      const aligned = await aligning;
      dropReduced();
      return {
        scene,
        ...ofAligned(recipe, aligned, scene),
        suspects: () => findSuspects(pool, scene, aligned, recipe, 1, on),
        readAt,
        alignedAt,
      };
    } catch (e) {
      await pool.idle();
      scene.release();
      throw e;
    }
  } catch (e) {
    await pool.idle();
    dropReduced();
    throw e;
  }
}

/** Pixels by which the light of a larger panorama is judged, at most. */
const JUDGED_PX = 16e6;
async function makePanorama(
  pool: Threads,
  frames: readonly StackFrame[],
  recipe: Recipe,
  { progress, signal, now }: DeliverOptions,
): Promise<Made> {
  const on = signal ? { signal } : {};
  const downscale = downscaleTo(frames[0]!.info, WORK_EDGE);
  const loaded = await decodeReduced(pool, frames, downscale, {
    progress: (share, doing) => progress(share * 0.15, doing),
    ...on,
  });
  const readAt = now();
  const drop = (): void => {
    for (const h of loaded.splice(0)) pool.free(h.ptr);
  };
  const kept = new KeptFrames(pool, frames, 1, signal, READ_AHEAD_BYTES);
  try {
    const located = await locateFrames(
      pool,
      frames,
      loaded,
      downscale,
      recipe.panorama,
      { progress: (share, doing) => progress(0.15 + share * 0.25, doing), ...on },
      () => void kept.readAhead(frames.map((_, i) => i)),
    );
    const layout = await composePanorama(pool, frames, located, recipe, on);
    const { canvas } = layout;
    const alignedAt = now();
    const bands = bandsOf(canvas);
    const whole = bands.length === 1;
    kept.stop();
    // the light of a picture that comes in bands is judged by a smaller one, also where its frames
    // are small themselves
    let by = downscale;
    while (by < 8 && canvas.width * canvas.height > JUDGED_PX * by ** 2) by *= 2;
    // no thread works on the small ones any more
    if (whole) drop();
    else await kept.drop();
    const scene = await panoramaStep.run(
      pool,
      {
        frames,
        layout,
        canvas,
        ...(whole
          ? { downscale: 1, kept }
          : { downscale: by, ...(by === downscale ? { loaded } : {}) }),
        fill: emptyIs(recipe.edges) === "extend",
      },
      recipe.panorama,
      { progress: (share, doing) => progress(0.4 + (whole ? 0.6 : 0.1) * share, doing), ...on },
    );
    const coming = whole
      ? {}
      : {
          coming: {
            width: canvas.width,
            height: canvas.height,
            bands: bands.map((band) => ({
              ...band,
              async take() {
                const rows = await joinFrames(
                  pool,
                  { frames, layout, canvas, downscale: 1 },
                  band,
                  {
                    progress: () => undefined,
                    ...on,
                  },
                );
                return { rows, done: () => pool.free(rows.ptr) };
              },
            })),
          },
        };
    return {
      scene,
      ...coming,
      region: edgesStep.run(recipe.edges, canvas, layout.labels, canvas.closed),
      first: layout.cameras.findIndex((c) => c !== undefined),
      evs: frames.map(() => 0),
      layout,
      suspects: () => layout.suspects,
      readAt,
      alignedAt,
    };
  } finally {
    await kept.drop();
    drop();
  }
}

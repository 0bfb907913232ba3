import { spanOf, type Watch } from "../../runtime/work";
import {
  keepJoined,
  keepLocated,
  recallJoined,
  recallLocated,
  type JoinedPanorama,
} from "../cache/keptPanorama";
import { emptyIs } from "../edges/step";
import { KeptFrames } from "../keptFrames";
import { locatedKey, sceneKey } from "../keys";
import { READ_AHEAD_BYTES } from "../memory";
import { sharesOf, statisticsOf } from "../merge/measures";
import type { Scene } from "../merge/scene";
import { composePanorama } from "../panorama/composePanorama";
import type { Layout } from "../panorama/layout";
import { locateFrames, type Located } from "../panorama/locateFrames";
import { bandsOf, joinFrames } from "../panorama/renderPanorama";
import { joiningBytes, panoramaStep } from "../panorama/step";
import { withSources } from "../panorama/withSources";
import type { PanoramaRecipe } from "../recipe/recipe";
import type { Findings, Merged, Run, SceneMaker } from "./run";

/** A panorama is worked on as large as one frame would be: about so many px of it, however wide. */
const WORK_PX = 4e6;
/** Pixels by which the light of a panorama that comes in bands is judged, at most. */
const JUDGED_PX = 16e6;

/** Shares of a run's time at which its parts begin. */
const LOCATING = 0.2;
const COMPOSING = 0.5;
const JOINING = 0.55;

/** Panoramas: located round the camera, laid out on a canvas, and joined there. */
export const joinedFrames: SceneMaker<PanoramaRecipe> = {
  async recall(run) {
    const { threads, frames, recipe, keptIn, now } = run;
    if (!keptIn || run.scale !== "work") return undefined;
    const kept = await recallJoined(threads, keptIn, sceneKey(frames, recipe, run.workDownscale));
    if (!kept) return undefined;
    return { ...mergedOf(run, kept, kept), readAt: now(), placedAt: now() };
  },

  async make(run) {
    const ahead =
      run.scale === "full" && run.workDownscale > 1
        ? new KeptFrames(run.threads, run.frames, 1, run.signal, READ_AHEAD_BYTES)
        : undefined;
    try {
      return await join(run, ahead);
    } finally {
      await ahead?.drop();
    }
  },

  async keep({ threads, frames, recipe, keptIn, scale, workDownscale }, merged) {
    if (!keptIn || scale !== "work") return;
    const { statistics, shares } = await merged.findings();
    const { scene, downscale } = merged;
    await keepJoined(threads, keptIn, sceneKey(frames, recipe, workDownscale), {
      scene,
      layout: merged.layout!,
      statistics,
      shares,
      downscale,
    });
  },

  bytesAt: ({ size }, _recipe, downscale) =>
    joiningBytes({
      width: Math.ceil(size.width / downscale),
      height: Math.ceil(size.height / downscale),
    }),
};

/**
 * Places, lays out and joins.
 *
 * @param ahead  full-size frames, read while the last of placing leaves threads free
 */
async function join(run: Run<PanoramaRecipe>, ahead: KeptFrames | undefined): Promise<Merged> {
  const { threads, frames, recipe, held, now } = run;
  const { layout, readAt } = await layOut(run, () => {
    void ahead?.readAhead(frames.map((_, i) => i));
  });
  ahead?.stop();
  const placedAt = now();
  const { canvas } = layout;
  const inBands = run.scale === "full" && bandsOf(canvas).length > 1;
  const downscale = downscaleOf(run, layout, inBands);
  // what is joined from other sizes needs the small frames no more, and bands read their own
  if (run.heldForRun && downscale !== run.workDownscale) held.drop();
  if (inBands) await ahead?.drop();
  const loaded = held.at(frames, downscale);
  const joined = await panoramaStep.run(
    threads,
    {
      frames,
      layout,
      canvas,
      downscale,
      fill: emptyIs(recipe.edges) === "extend",
      ...(loaded ? { loaded } : {}),
      ...(ahead && !inBands ? { kept: ahead } : {}),
    },
    recipe.panorama,
    spanOf(run, JOINING, inBands ? JOINING + 0.1 : 1),
  );
  const scene = run.sources ? await withSources(threads, joined, layout, run) : joined;
  return {
    ...mergedOf(run, { scene, layout, downscale }),
    ...(inBands ? { coming: { ...sizeOf(layout), bands: comingBands(run, layout) } } : {}),
    readAt,
    placedAt,
  };
}

/** The reduction from full size at which a panorama is joined at once. */
function downscaleOf({ scale, workDownscale }: Run, layout: Layout, inBands: boolean): number {
  const { width, height } = layout.canvas;
  if (typeof scale === "number") return scale;
  if (scale === "work") {
    const px = (width * height) / workDownscale ** 2;
    return workDownscale * Math.max(1, Math.ceil(Math.sqrt(px / WORK_PX)));
  }
  if (!inBands) return 1;
  // the light is judged by a smaller picture, also where the frames are small themselves
  let by = workDownscale;
  while (by < 8 && width * height > JUDGED_PX * by ** 2) by *= 2;
  return by;
}

const sizeOf = ({ canvas: { width, height } }: Layout): Merged["size"] => ({ width, height });

/** The picture at full size, band by band. */
const comingBands = (
  { caller: threads, frames, signal }: Run,
  layout: Layout,
): NonNullable<Merged["coming"]>["bands"] =>
  bandsOf(layout.canvas).map((band) => ({
    ...band,
    async take() {
      const input = { frames, layout, canvas: layout.canvas, downscale: 1 };
      const silent: Watch = { progress: () => undefined, ...(signal ? { signal } : {}) };
      const rows = await joinFrames(threads, input, band, silent);
      return { rows, done: () => threads.free(rows.ptr) };
    },
  }));

/** How the frames lie on the canvas; as it was found before, if nothing of it has changed. */
export async function layOut(
  run: Run<PanoramaRecipe>,
  meanwhile: () => void,
): Promise<{ layout: Layout; readAt: number }> {
  const { threads, frames, recipe, held, workDownscale, signal, progress, now } = run;
  const key = sceneKey(frames, recipe, workDownscale);
  const known = held.layout.at(key);
  if (known) return { layout: known, readAt: now() };
  const { located, readAt } = await locate(run, meanwhile);
  progress(COMPOSING, "Equalising exposure, finding seams");
  const on = signal ? { signal } : {};
  const layout = await composePanorama(threads, frames, located, recipe, on);
  held.layout.set(key, layout);
  return { layout, readAt };
}

/** Where the frames lie round the camera: another projection matches nothing again. */
async function locate(
  run: Run<PanoramaRecipe>,
  meanwhile: () => void,
): Promise<{ located: Located; readAt: number }> {
  const { threads, frames, recipe, held, workDownscale, placesIn, now } = run;
  const key = locatedKey(frames, recipe);
  const known = held.located.at(key) ?? (placesIn && (await recallLocated(threads, placesIn, key)));
  const needed = !known || run.scale === "work";
  const loaded = needed && (await held.read(frames, workDownscale, spanOf(run, 0, LOCATING)));
  const readAt = now();
  if (known) {
    held.located.set(key, known);
    return { located: known, readAt };
  }
  const located = await locateFrames(
    threads,
    frames,
    loaded || [],
    workDownscale,
    recipe.panorama,
    spanOf(run, LOCATING, COMPOSING),
    meanwhile,
  );
  held.located.set(key, located);
  if (placesIn) await keepLocated(threads, placesIn, key, located);
  return { located, readAt };
}

/** A joined scene with the ways to find out more of it. @param known  what was found before */
function mergedOf(
  { caller: threads, frames, signal }: Run,
  { scene, layout, downscale }: { scene: Scene; layout: Layout; downscale: number },
  known?: Pick<JoinedPanorama, "statistics" | "shares">,
): Omit<Merged, "readAt" | "placedAt"> {
  const on = signal ? { signal } : {};
  const measured = async (): Promise<Pick<Findings, "statistics" | "shares">> => {
    const [statistics, shares] = await Promise.all([
      statisticsOf(threads, scene, on),
      sharesOf(threads, scene, frames.length, on),
    ]);
    return { statistics, shares };
  };
  let found: Promise<Pick<Findings, "statistics" | "shares">> | undefined =
    known && Promise.resolve(known);
  return {
    frames,
    scene,
    downscale,
    size: sizeOf(layout),
    layout,
    suspects: () => Promise.resolve(layout.suspects),
    async findings() {
      const { statistics, shares } = await (found ??= measured());
      const facts = panoramaStep.facts(layout);
      return { statistics, shares, suspects: layout.suspects, facts };
    },
  };
}

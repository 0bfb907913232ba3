import { leaseOf } from "../../runtime/lease";
import { spanOf } from "../../runtime/work";
import type { alignBracket } from "../align/alignBracket";
import type { Aligned } from "../align/step";
import { keepScene, recallFindings, recallScene } from "../cache/sceneCache";
import { placesKey, sceneKey } from "../keys";
import { bandRows } from "../memory";
import { mergeInBands } from "../merge/bands";
import { mergeFindings, factsOf } from "../merge/findings";
import type { MergeFindings } from "../merge/input";
import type { Scene } from "../merge/scene";
import { emptyIs, type EdgesSettings } from "../edges/step";
import { RhizomeError } from "../../core/error";
import { straightenedPlaces } from "../straighten/straightenedPlaces";
import {
  straightenWarnings,
  UPRIGHT_UNKNOWN,
  type Straightening,
} from "../straighten/straightening";
import { straightenRun } from "../straighten/straightenRun";
import { mergeStep, referenceOf } from "../merge/step";
import type { FindSuspects } from "../merge/suspects";
import type { OneViewRecipe } from "../recipe/recipe";
import type { LoadedFrame } from "../loadedFrame";
import type { Findings, Merged, Run, SceneMaker } from "./run";

/** What one kind of stack whose frames are aligned does in a way of its own. */
export interface AlignedKind {
  align: typeof alignBracket;
  findSuspects: FindSuspects;
  /** share of a run's time that aligning takes; 0 where frames are merged meanwhile */
  aligningShare: number;
}

/** What merging has of placing while that still goes on. */
interface Placing {
  reference: number;
  /** the frames at the size one works at, where they had to be read */
  loaded?: LoadedFrame[];
  aligned: Promise<Aligned>;
  response: Promise<Aligned["response"]>;
  straightening: Straightening | undefined;
  readAt: number;
}

/** Share of a run's time that reading takes. */
const READING = { work: 0.6, full: 0.2 };
/** Shares up to which a merge in bands has its small scene, and what its bands have in common. */
const IN_BANDS = { scene: 0.3, bands: 0.55 };

/** How stacks whose frames are aligned to a reference frame are merged on its grid. */
export const alignedFrames = (kind: AlignedKind): SceneMaker<OneViewRecipe> => ({
  async recall(run) {
    const { threads, frames, recipe, keptIn, sources = false, now } = run;
    if (!keptIn || bandsOf(run)) return undefined;
    const downscale = downscaleOf(run, undefined);
    const key = sceneKey(frames, recipe, downscale);
    const kept = await recallScene(threads, keptIn, key, frames[0]!.info, downscale, sources);
    if (!kept) return undefined;
    const { scene, findings } = kept;
    return {
      ...mergedOf(kind, run, scene, downscale, findings.aligned, findings),
      readAt: now(),
      placedAt: now(),
    };
  },

  async make(run) {
    const { threads, frames, recipe, held } = run;
    const rows = bandsOf(run);
    const downscale = downscaleOf(run, rows);
    const watch = spanOf(run, 0, rows ? IN_BANDS.scene : 1);
    const placing = await place(kind, run, downscale);
    let placedAt = placing.readAt;
    void placing.aligned.then(
      () => {
        placedAt = run.now();
        // what is merged from other sizes needs them no more
        if (run.heldForRun && downscale !== run.workDownscale) held.drop();
      },
      () => undefined,
    );
    const { reference, response, loaded } = placing;
    const { straightening } = placing;
    const fill = straightening !== undefined && emptyIs(recipe.edges) === "extend";
    if (rows && fill)
      throw new RhizomeError(
        "too-large-to-fill",
        "This picture is too large to have its empty corners filled at full size.",
        "crop it, or keep the corners empty",
      );
    const { info } = frames[reference]!;
    const input = {
      frames,
      reference,
      patches: recipe.ghosts.patches,
      sampling: recipe.merge.sampling,
      ...(straightening ? { fromPicture: straightening.fromPicture } : {}),
      fill,
    };
    const begun = placing.loaded ? readingShare(run) + kind.aligningShare : 0;
    const places = placing.aligned.then((found) => straightenedPlaces(found, info));
    places.catch(() => undefined);
    let scene = await mergeStep.run(
      threads,
      {
        ...input,
        aligned: places,
        response,
        downscale,
        sources: Boolean(run.sources),
        ...(loaded && downscale === run.workDownscale ? { loaded } : {}),
      },
      recipe.merge,
      spanOf(watch, begun, 1),
    );
    const aligned = await placing.aligned;
    let inBands: Pick<Merged, "coming"> = {};
    if (rows) {
      if (run.heldForRun) held.drop();
      const { bands, release } = await mergeInBands(
        run.caller,
        {
          ...input,
          aligned: straightenedPlaces(aligned, info),
          response: aligned.response,
          downscale: 1,
        },
        recipe.merge,
        rows,
        scene.fill,
        spanOf(run, IN_BANDS.scene, IN_BANDS.bands),
      );
      inBands = { coming: { ...sizeOf(run), bands } };
      scene = alsoReleasing(scene, release);
    }
    return {
      ...mergedOf(kind, run, scene, downscale, aligned),
      ...inBands,
      readAt: placing.readAt,
      placedAt,
    };
  },

  async keep({ threads, frames, recipe, keptIn }, merged) {
    if (!keptIn || merged.coming) return;
    const { facts, ...findings } = (await merged.findings()) as Findings & MergeFindings;
    const key = sceneKey(frames, recipe, merged.downscale);
    await keepScene(threads, keptIn, key, merged.scene, findings);
  },

  bytesAt: ({ frames }, recipe, downscale) =>
    mergeStep.plan(
      frames.map((f) => f.info),
      recipe.merge,
      downscale,
    ).peakBytes,
});

const readingShare = (run: Run): number => READING[run.scale === "work" ? "work" : "full"];

/** Rows of the bands in which a full-size merge comes that does not fit in memory whole. */
const bandsOf = ({ scale, threads, frames, recipe }: Run): number | undefined =>
  scale === "full" ? bandRows(threads.budget, frames, recipe) : undefined;

/** Reduction of the scene from full size. @param rows  of a band, where the whole comes in bands */
function downscaleOf({ scale, workDownscale }: Run, rows: number | undefined): number {
  if (scale === "work" || rows !== undefined) return workDownscale;
  return scale === "full" ? 1 : scale;
}

const sizeOf = ({ frames }: Pick<Run, "frames">): Merged["size"] => {
  const { width, height } = frames[0]!.info;
  return { width, height };
};

const alsoReleasing = (scene: Scene, release: () => void): Scene => ({
  ...scene,
  ...leaseOf(() => {
    scene.release();
    release();
  }),
});

/**
 * Reads the frames at the size one works at and begins to align them; reads nothing where that was
 * done before, and the merge is of another size.
 */
async function place(
  kind: AlignedKind,
  run: Run<OneViewRecipe>,
  downscale: number,
): Promise<Placing> {
  const { threads, frames, recipe, held, workDownscale, now, placesIn } = run;
  const reference = referenceOf(frames, recipe.merge);
  const key = placesKey(frames, recipe, workDownscale);
  const known =
    held.aligned.at(key) ??
    (placesIn &&
      (await recallFindings(threads, placesIn, sceneKey(frames, recipe, workDownscale)))?.aligned);
  const wanted = !known || downscale === workDownscale;
  const reading = spanOf(run, 0, readingShare(run));
  const loaded = wanted ? { loaded: await held.read(frames, workDownscale, reading) } : undefined;
  const readAt = now();
  const straightening = await straightenRun(run, reference);
  const straightened = (aligned: Aligned): Aligned =>
    withStraightening(aligned, straightening, recipe.edges);
  if (known)
    return {
      reference,
      ...loaded,
      aligned: Promise.resolve(straightened(known)),
      response: Promise.resolve(known.response),
      straightening,
      readAt,
    };
  const { aligned, response } = kind.align(
    threads,
    { frames, loaded: loaded!.loaded, reference, downscale: workDownscale },
    recipe,
    spanOf(run, readingShare(run), readingShare(run) + kind.aligningShare),
  );
  const noted = aligned.then((found) => {
    held.aligned.set(key, found);
    return straightened(found);
  });
  noted.catch(() => undefined);
  response.catch(() => undefined);
  return { reference, ...loaded, aligned: noted, response, straightening, readAt };
}

/** What was found of frames, with how the picture is set upright and what is to be said of that. */
function withStraightening(
  { straightening: _, warnings = [], ...aligned }: Aligned,
  straightening: Straightening | undefined,
  edges: EdgesSettings,
): Aligned {
  const others = warnings.filter(({ code }) => code !== UPRIGHT_UNKNOWN);
  const said = [...others, ...straightenWarnings(edges, straightening)];
  return {
    ...aligned,
    ...(said.length ? { warnings: said } : {}),
    ...(straightening ? { straightening } : {}),
  };
}

/** A merged scene with the ways to find out more of it. @param known  what was found before */
function mergedOf(
  kind: AlignedKind,
  { caller: threads, frames, recipe, signal }: Run<OneViewRecipe>,
  scene: Scene,
  downscale: number,
  aligned: Aligned,
  known?: MergeFindings,
): Omit<Merged, "readAt" | "placedAt"> {
  const on = signal ? { signal } : {};
  const places = straightenedPlaces(aligned, frames[aligned.reference]!.info);
  const input = { scene, frames, aligned: places, recipe, downscale };
  let found: Promise<MergeFindings> | undefined = known && Promise.resolve(known);
  const measured = (): Promise<MergeFindings> =>
    (found ??= mergeFindings(threads, input, kind.findSuspects, on).then((measured) => ({
      ...measured,
      aligned,
    })));
  return {
    frames,
    scene,
    downscale,
    size: sizeOf({ frames }),
    aligned,
    suspects: async () => (found ? (await found).suspects : kind.findSuspects(threads, input, on)),
    async findings() {
      const findings = await measured();
      return { ...findings, facts: factsOf(findings, recipe) };
    },
  };
}

/* eslint-disable max-lines -- one lifetime: what reads an opened stack's scenes and what frees them stand together */
import { createStore, type StoreApi } from "zustand/vanilla";
import { RhizomeError } from "../../core/error";
import { overAll, placesInStack } from "../../pipeline/align/step";
import { renderSettings } from "../../pipeline/deliver/renderSettings";
import { framesStep } from "../../pipeline/frames/step";
import { frameAlone } from "../../pipeline/merge/frameAlone";
import { plain, type Scene } from "../../pipeline/merge/scene";
import { withPreparation } from "../../pipeline/prepare/step";
import { toneStep } from "../../pipeline/tone/step";
import type { ColourGrid } from "../../core/finish/colourGrid";
import { type Progress, type RunOptions } from "../../runtime/work";
import { downscaleTo, WORK_EDGE, type StackFrame } from "../../pipeline/work";
import { mergeMembers, type NestableFrame } from "../../pipeline/memberResults";
import { HeldFrames } from "../../pipeline/run/heldFrames";
import { fittingDownscale, runPipeline } from "../../pipeline/run/runPipeline";
import type { Findings, Merged } from "../../pipeline/run/run";
import { sceneKey } from "../../pipeline/keys";
import { emptyIn, keptRegion } from "../../pipeline/edges/keptRegion";
import type { EdgesSettings } from "../../pipeline/edges/step";
import { placeTie } from "../../pipeline/panorama/placeTie";
import type { JudgedPicture } from "../../pipeline/tone/tasks";
import { toneSuspects } from "../../pipeline/tone/suspects";
import type { MaskStyle } from "../../core/finish/paintMask";
import type { Likeness } from "../../core/finish/part";
import type { KeptPart } from "../../pipeline/finish/partSchema";
import { gridScratch } from "../../pipeline/finish/prepareFinish";
import type { Rectangle } from "../../core/raster/largestRectangle";
import type { Tie } from "../../core/panorama/ties/verifyPair";
import { ranked, type Suspect } from "../../core/suspects/suspect";
import { type MapKind } from "../../core/maps/maps";
import { partOf, type DepthGrid } from "../../core/focus/depthGrid";
import { fewerFrames } from "../../core/bracket/fewerFrames";
import type { AlignedFrame } from "../../core/align/alignedFrame";
import { resultCache } from "../store/resultCache";
import { toneOf, untoned, weighsNoise, type Recipe } from "../../pipeline/recipe/recipe";
import type { Upright } from "../../core/straighten/findUpright";
import { askEdges } from "../../pipeline/straighten/straightenRun";
import { placeInPicture } from "../../pipeline/straighten/straightenedPlaces";
import { IDENTITY } from "../../core/math/matrix3";
import { pool } from "./pool";
import { clamp } from "../../core/math/clamp";
import { Readers } from "../../runtime/readers";
import { LeaseCache } from "../../runtime/leaseCache";
import { SceneDrawing } from "./sceneDrawing";
import { frameColours } from "./frameColours";
import { SceneRetouch } from "./sceneRetouch";
import {
  type BrightView,
  coverageFacts,
  placesOf,
  type Kept,
  type PartFigures,
  type SessionState,
  type View,
  type ViewRequest,
} from "./sessionState";

/** Does something with a merge; where that fails the merge is not needed any more. */
async function releasedOnError<T>({ scene }: Merged, act: () => Promise<T>): Promise<T> {
  try {
    return await act();
  } catch (e) {
    scene.release();
    throw e;
  }
}

/** What a stack's merge is made from: it is made anew when this changes. */
export const mergeIdentity = (stack: readonly StackFrame[], recipe: Recipe): string =>
  JSON.stringify([sceneKey(withPreparation(stack, recipe.prepare), recipe, 1), recipe.frames]);

/** Single frames that are kept. */
const FRAMES_ALONE = 4;

/** The px of a scene at 1/by of full size that a region of full size needs; undefined if none. */
function partIn(scene: Scene, region: Rectangle, by: number): Rectangle | undefined {
  const x = Math.max(0, Math.floor(region.x / by));
  const y = Math.max(0, Math.floor(region.y / by));
  const width = Math.min(scene.width - x, Math.ceil((region.x + region.width) / by) - x);
  const height = Math.min(scene.height - y, Math.ceil((region.y + region.height) / by) - y);
  return width < 1 || height < 1 ? undefined : { x, y, width, height };
}

const scaled = ({ x, y, width, height }: Rectangle, by: number): Rectangle => ({
  x: x * by,
  y: y * by,
  width: width * by,
  height: height * by,
});

/**
 * One opened stack at work: reads, aligns and merges in the background, first at preview size, then
 * at full size, and renders what the viewer asks for. Tone and finish never merge again; frames,
 * align and merge settings do.
 */
export class StackSession {
  /** what is known of the stack at the moment; replaced, never changed */
  readonly store: StoreApi<SessionState>;
  private stopper = new AbortController();
  private scenes: {
    preview?: Scene;
    /** as large as fits in memory, at 1/by of its size */
    full?: Scene & { by: number };
  } = {};
  /** who looks at the scenes and what was made of them */
  private readonly readers = new Readers();
  private readonly drawing = new SceneDrawing(this.readers);
  private readonly retouch = new SceneRetouch(this.readers, () =>
    this.set({ settled: (this.state.settled ?? 0) + 1 }),
  );
  /** single frames at their own exposure */
  private readonly frameScenes = new LeaseCache<Scene>(this.readers, FRAMES_ALONE);
  private mergedKey = "";
  private readonly held = new HeldFrames(pool());
  private mergeSuspects: Suspect[] = [];
  private depth: DepthGrid | undefined;
  private used: AlignedFrame[] = [];
  /** place in the stack of each frame that takes part */
  private places: number[] = [];
  /** the frames as the recipe has them read */
  private prepared: NestableFrame[];
  private kept?: Kept & { of: unknown; key: string };
  private closed = false;
  private work: Promise<void> = Promise.resolve();
  private seen: () => void = () => undefined;
  private readonly firstView = new Promise<void>((ok) => {
    this.seen = ok;
  });

  constructor(private readonly frames: NestableFrame[]) {
    const info = frames[0]!.info;
    this.prepared = frames;
    this.store = createStore<SessionState>(() => ({
      phase: "working",
      doing: "Opening",
      share: 0,
      fullReady: false,
      facts: [],
      suspects: [],
      size: { width: info.width, height: info.height },
    }));
  }

  get state(): SessionState {
    return this.store.getState();
  }
  private set(part: Partial<SessionState>): void {
    this.store.setState(part);
  }

  /** Starts what the recipe needs and nothing else. */
  update(recipe: Recipe): void {
    const key = mergeIdentity(this.frames, recipe);
    if (key === this.mergedKey || this.closed) return;
    this.mergedKey = key;
    this.restart(recipe);
  }

  /**
   * The part of the picture that is kept, and how much of it is empty, once the frames have their
   * places.
   */
  keptOf(edges: EdgesSettings): Kept | undefined {
    const { layout, aligned, size } = this.state;
    const of = layout ?? aligned;
    const key = JSON.stringify(edges);
    if (!of) return undefined;
    if (this.kept?.of !== of || this.kept.key !== key) {
      const placed = { size, ...(layout ? { layout } : {}), ...(aligned ? { aligned } : {}) };
      const region = keptRegion(edges, placed);
      this.kept = {
        of,
        key,
        region,
        empty: emptyIn(region, edges, placed),
      };
    }
    return this.kept;
  }

  retry(recipe: Recipe): void {
    this.mergedKey = "";
    this.update(recipe);
  }

  stop(): void {
    this.stopper.abort();
    this.set({
      phase: this.scenes.preview ? "ready" : "stopped",
      doing: "Stopped",
      fullShare: undefined,
    });
  }

  close(): void {
    this.closed = true;
    this.stopper.abort();
    void this.work.then(() => {
      this.releaseScenes();
      this.frameScenes.clear();
      this.readers.retire(() => this.held.drop());
    });
  }

  private restart(recipe: Recipe): void {
    this.stopper.abort();
    const stopper = (this.stopper = new AbortController());
    this.work = this.work.then(() => this.run(recipe, stopper.signal)).catch(() => undefined);
  }

  /** Takes the scenes out of use; they are freed when nobody looks at them any more. */
  private releaseScenes(): void {
    const { preview, full } = this.scenes;
    this.scenes = {};
    this.drawing.clear();
    this.retouch.clear();
    this.readers.retire(() => {
      preview?.release();
      if (full?.ptr !== preview?.ptr) full?.release();
    });
  }

  private async run(recipe: Recipe, signal: AbortSignal): Promise<void> {
    if (signal.aborted) return;
    const all = (this.prepared = withPreparation(this.frames, recipe.prepare));
    try {
      const frames = framesStep.run(all, recipe.frames);
      this.places = placesInStack(all, frames);
      this.set({
        phase: "working",
        doing: "Opening",
        share: 0,
        fullReady: false,
        error: undefined,
        fullShare: undefined,
        shownBy: undefined,
      });
      const progress: Progress = (share, doing) => this.set({ share, doing });
      await mergeMembers(
        pool(),
        all.filter((f) => frames.includes(f)),
        { signal, progress },
        resultCache,
        () => performance.now(),
      );
      const preview = await runPipeline(pool(), this.frames, recipe, {
        scale: "work",
        priority: "opened",
        sources: true,
        held: this.held,
        keptIn: resultCache,
        placesIn: resultCache,
        signal,
        progress,
      });
      const findings = await releasedOnError(preview, () => preview.findings());
      this.releaseScenes();
      if (this.closed || signal.aborted) {
        preview.scene.release();
        return;
      }
      this.show(preview, findings, recipe);
      await this.mergeLarger(preview, recipe, signal);
    } catch (e) {
      const error = RhizomeError.from(e);
      if (signal.aborted || error.code === "stopped") return;
      this.set({ phase: this.scenes.preview ? "ready" : "failed", error });
    }
  }

  /** Takes a merge at the size one works at for the picture, and says what was found of it. */
  private show(preview: Merged, findings: Findings, recipe: Recipe): void {
    const { scene, downscale, frames, layout, size } = preview;
    const aligned = preview.aligned && overAll(this.frames, frames, preview.aligned);
    const shares = this.frames.map(() => 0);
    for (const [i, place] of this.places.entries()) shares[place] = findings.shares[i] ?? 0;
    const fewer =
      aligned && weighsNoise(recipe)
        ? fewerFrames(
            findings.statistics,
            aligned.frames.map((f) => (f.used ? f.ev : undefined)),
          )
        : undefined;
    this.mergeSuspects = findings.suspects;
    this.depth = findings.depth;
    this.used = placesOf(preview);
    this.scenes = { preview: scene, ...(downscale === 1 ? { full: { ...scene, by: 1 } } : {}) };
    this.set({
      phase: "ready",
      doing: "",
      share: 1,
      size,
      aligned,
      layout,
      statistics: findings.statistics,
      suspects: ranked(findings.suspects),
      shares,
      fewer,
      facts: [...findings.facts, ...coverageFacts(fewer)],
      preview: { width: scene.width, height: scene.height, downscale },
      fullReady: Boolean(this.scenes.full),
    });
  }

  /** Merges once more as large as fits in memory, where the picture is smaller than that. */
  private async mergeLarger(preview: Merged, recipe: Recipe, signal: AbortSignal): Promise<void> {
    if (this.scenes.full) return;
    // what is seen first goes first
    await this.firstView;
    if (this.closed || signal.aborted) return;
    const by = fittingDownscale(pool().budget, preview, recipe);
    this.set({ shownBy: by });
    if (by === preview.downscale) return;
    const { scene } = await runPipeline(pool(), this.frames, recipe, {
      scale: by,
      priority: "opened",
      held: this.held,
      signal,
      progress: (share) => this.set({ fullShare: share }),
    });
    if (this.closed || signal.aborted) {
      scene.release();
      return;
    }
    this.scenes.full = { ...scene, by };
    this.set({ fullReady: true, fullShare: undefined });
  }

  /**
   * Renders a part of the merge or of a frame, at full sharpness when the full-size merge is there
   * and needed.
   */
  view(request: ViewRequest): Promise<View | undefined> {
    return this.readers.note(this.renderView(request));
  }

  private async renderView(r: ViewRequest): Promise<View | undefined> {
    const preview = this.scenes.preview;
    const downscale =
      this.state.preview?.downscale ?? downscaleTo(this.prepared[0]!.info, WORK_EDGE);
    const large = r.zoom > 1.01 / downscale;
    const full = large ? this.scenes.full : undefined;
    const by = full?.by ?? (large && !preview ? 1 : downscale);
    // where nothing was merged, frames can still be looked at
    if (r.frame !== undefined) return this.frameView(r, await this.frameScene(r.frame, by), by);
    const merged = full ?? preview;
    if (!merged) return undefined;
    return this.retouched(preview ?? merged, r.recipe, (shown, toned) => {
      // a preview at full size is the full size as well: one memory, retouched once
      if (!preview || merged.ptr === preview.ptr) return this.mergeView(r, shown, toned, by);
      const { repairs } = r.recipe.retouch;
      return this.retouch.look(merged, repairs, false, (scene) =>
        this.mergeView(r, scene, toned, by),
      );
    });
  }

  /** Looks at the merge as the recipe's repairs make it, and says where they take from. */
  private retouched<T>(
    scene: Scene,
    { retouch: { repairs } }: Recipe,
    act: (scene: Scene, toned: Scene) => Promise<T>,
  ): Promise<T> {
    return this.retouch.look(scene, repairs, true, (shown, toned, sources) => {
      const known = JSON.stringify(this.state.repairSources);
      if (known !== JSON.stringify(sources)) this.set({ repairSources: sources });
      return act(shown, toned);
    });
  }

  /** A part of the merge. @param toned  the scene that its tone is found from */
  private async mergeView(
    r: ViewRequest,
    scene: Scene,
    toned: Scene,
    by: number,
  ): Promise<View | undefined> {
    const part = partIn(scene, r.region, by);
    if (!part) return undefined;
    const { field } = await this.drawing.field(toned, r.recipe);
    const { histogram, outside, ...picture } = await this.drawing.draw(scene, part, r.zoom * by, {
      field,
      settings: renderSettings(r.recipe, r.softProof?.space ?? "srgb"),
      softProof: r.softProof,
      finish: await this.drawing.finish(toned, r.recipe, this.state.size),
      size: this.state.size,
      clipped: r.clipped,
      measured: true,
      into: r.into,
    });
    this.seen();
    if (histogram) this.set({ goesOut: histogram, outsidePaper: outside });
    return { ...picture, region: scaled(part, by), sharp: r.zoom <= 1.01 / by };
  }

  /** The preview, by how much it is smaller, and the part of it that goes out. */
  private keptOfPreview(recipe: Recipe): { scene: Scene; by: number; part: Rectangle } | undefined {
    const scene = this.scenes.preview;
    const by = this.state.preview?.downscale ?? 1;
    const region = this.keptOf(recipe.edges)?.region;
    const part = scene && region && partIn(scene, region, by);
    return part && { scene, by, part };
  }

  /** The whole picture in numbers, and how well it shows its scene. @param longEdge  px it is seen at */
  judge(recipe: Recipe, longEdge = 720): Promise<JudgedPicture | undefined> {
    const kept = this.keptOfPreview(recipe);
    if (!kept) return Promise.resolve(undefined);
    const { scene, part } = kept;
    return this.readers.note(
      this.retouched(scene, recipe, async (shown, toned) => {
        const { field } = await this.drawing.field(toned, recipe);
        return this.drawing.judge(shown, part, longEdge / Math.max(part.width, part.height), {
          field,
          settings: renderSettings(recipe, "srgb"),
          finish: await this.drawing.finish(toned, recipe, this.state.size),
          size: this.state.size,
          clipped: false,
          measured: false,
          into: undefined,
        });
      }),
    );
  }

  /**
   * What is kept of the picture, at the size of its preview, for a display that goes beyond white.
   *
   * @param headroom  how far that goes, EV
   * @returns a PNG and where it lies in the full-size picture; undefined while nothing is merged
   */
  bright(recipe: Recipe, headroom: number): Promise<BrightView | undefined> {
    const kept = this.keptOfPreview(recipe);
    if (!kept) return Promise.resolve(undefined);
    const { scene, by, part } = kept;
    return this.readers.note(
      this.retouched(scene, recipe, async (shown, toned) => {
        const tone = { ...toneOf(recipe), headroom };
        const bright = await toneStep.run(pool(), toned, tone, { priority: "screen" });
        try {
          const { field } = await this.drawing.field(toned, recipe);
          const picture = await this.drawing.drawBright(
            shown,
            part,
            1,
            {
              field,
              settings: renderSettings(recipe, "rec2020"),
              finish: await this.drawing.finish(toned, recipe, this.state.size),
              size: this.state.size,
            },
            { field: bright.field, headroom },
          );
          return { picture, region: scaled(part, by) };
        } finally {
          bright.release();
        }
      }),
    );
  }

  /** A part of a frame, as its own file shows it and not with the recipe's tone. */
  private async frameView(r: ViewRequest, scene: Scene, by: number): Promise<View | undefined> {
    const part = partIn(scene, r.region, by);
    if (!part) return undefined;
    const recipe = untoned(r.recipe, "plain", r.lift ?? 0);
    const tone = await toneStep.run(pool(), scene, toneOf(recipe), { priority: "screen" });
    try {
      const { histogram: _histogram, ...picture } = await this.drawing.draw(
        scene,
        part,
        r.zoom * by,
        {
          field: tone.field,
          settings: renderSettings(recipe, "srgb"),
          finish: undefined,
          size: this.state.size,
          clipped: r.clipped,
          measured: false,
          into: r.into,
        },
      );
      this.seen();
      return { ...picture, region: scaled(part, by), sharp: r.zoom <= 1.01 / by };
    } finally {
      tone.release();
    }
  }

  /** A map over the part of the picture that is seen, at the size of the preview. */
  map(kind: MapKind, region: ViewRequest["region"], zoom: number): Promise<View | undefined> {
    return this.readers.note(this.renderMap(kind, region, zoom));
  }

  private async renderMap(
    kind: MapKind,
    r: ViewRequest["region"],
    zoom: number,
  ): Promise<View | undefined> {
    const scene = this.scenes.preview;
    const by = this.state.preview?.downscale ?? 1;
    const reference = this.used;
    if (!scene || scene.sources === undefined) return undefined;
    const region = partIn(scene, r, by);
    if (!region) return undefined;
    const colours = frameColours(reference);
    const pixels = await pool().run(
      "paintMap",
      {
        kind,
        scene: plain(scene),
        sources: scene.sources,
        colours,
        maps:
          kind === "moving" || kind === "disagreement"
            ? reference.map(({ ghosts, differs }) => ({ ghosts, differs }))
            : [],
        ...(kind === "sources" && this.depth
          ? {
              known: {
                width: this.depth.width,
                height: this.depth.height,
                known: this.depth.known,
              },
            }
          : {}),
        downscale: by,
        thin: 1 / (zoom * by),
        region,
      },
      { priority: "screen" },
    );
    return {
      pixels: pixels as View["pixels"],
      width: region.width,
      height: region.height,
      region: scaled(region, by),
      sharp: true,
    };
  }

  /** The mask of a part over the part of the picture that is seen. */
  mask(
    recipe: Recipe,
    part: KeptPart,
    { region, zoom }: Pick<ViewRequest, "region" | "zoom">,
    style: MaskStyle,
  ): Promise<View | undefined> {
    return this.readers.note(
      (async () => {
        const scene = this.scenes.preview;
        const by = this.state.preview?.downscale ?? 1;
        const seen = scene && partIn(scene, region, by);
        if (!seen) return undefined;
        return this.retouched(scene, recipe, async (shown, toned) => {
          const lines = await (await this.drawing.piecesFor(toned, recipe)).mask(part);
          const drawn = await this.drawing.mask(shown, seen, zoom * by, lines, style);
          return { ...drawn, region: scaled(seen, by), sharp: true };
        });
      })(),
    );
  }

  /** How much of the picture a part takes in, its mean light, and how sure a sky is of being one. */
  measurePart(
    recipe: Recipe,
    { shapes, inverted, feather }: KeptPart,
  ): Promise<PartFigures | undefined> {
    return this.onColours(recipe, (grid, options) =>
      pool().run("measurePart", { grid, part: { shapes, inverted, feather } }, options),
    );
  }

  /** What is seen at a place, in shares of the picture, for finding what is like it. */
  likeness(recipe: Recipe, at: readonly [number, number]): Promise<Likeness | undefined> {
    return this.onColours(recipe, (grid, options) => pool().run("likeness", { grid, at }, options));
  }

  /** Finds something on the grid on which parts are found; undefined while nothing is merged. */
  private onColours<T>(
    recipe: Recipe,
    find: (grid: ColourGrid, options: RunOptions) => Promise<T>,
  ): Promise<T | undefined> {
    return this.readers.note(
      (async () => {
        const scene = this.scenes.preview;
        if (!scene) return undefined;
        return this.retouched(scene, recipe, async (_shown, toned) => {
          const grid = await (await this.drawing.piecesFor(toned, recipe)).colours();
          return find(grid, { scratch: gridScratch(grid), priority: "screen" });
        });
      })(),
    );
  }

  /** Looks for halos of the present tone and lists them with the merge's own suspects. */
  judgeTone(recipe: Recipe): Promise<void> {
    return this.readers.note(this.findHalos(recipe));
  }

  private async findHalos(recipe: Recipe): Promise<void> {
    const scene = this.scenes.preview;
    if (!scene || this.closed) return;
    // only the analysed light is looked at: repairs need not wait for it
    const toned = await this.retouched(scene, recipe, (_shown, analysed) =>
      Promise.resolve(analysed),
    );
    const { field } = await this.drawing.field(toned, recipe);
    const halos = await toneSuspects(pool(), toned, field, this.state.size.width);
    if (!this.closed) this.set({ suspects: ranked([...this.mergeSuspects, ...halos]) });
  }

  /** A single frame aligned to the reference frame, at its own exposure: a merge of one. */
  private frameScene(index: number, downscale: number): Promise<Scene> {
    return this.frameScenes.get(`${index}/${downscale}/${this.mergedKey}`, () => {
      const { aligned } = this.state;
      const place = aligned ? placeInPicture(aligned, index) : IDENTITY;
      return frameAlone(pool(), this.prepared[index]!, place, downscale);
    });
  }

  /**
   * The exact place in frame b of what was pointed at in frames a and b of those that take part,
   * px; undefined if nothing there fits.
   */
  placeTie(a: number, b: number, point: Tie): Promise<Tie | undefined> {
    const at = (used: number): StackFrame => this.prepared[this.places[used]!]!;
    const cameras = this.state.layout?.cameras;
    return this.readers.note(
      placeTie(pool(), this.held, [at(a), at(b)], [cameras?.[a], cameras?.[b]], point),
    );
  }

  /** What the edges of the reference frame say is upright, where they say it clearly. */
  askEdges({ edges }: Recipe): Promise<Upright | undefined> {
    const reference = this.prepared[this.state.aligned?.reference ?? 0]!;
    return this.readers.note(askEdges({ threads: pool(), held: this.held }, reference, edges));
  }

  /** The place in the stack of a frame that takes part. */
  placeOf(used: number): number {
    return this.places[used] ?? used;
  }

  /** The frame, by its place in the stack, that gave most to a place of the full-size picture. */
  async sourceAt(x: number, y: number): Promise<number | undefined> {
    const scene = this.scenes.preview;
    const by = this.state.preview?.downscale ?? 1;
    if (!scene || scene.sources === undefined || x < 0 || y < 0) return undefined;
    const [s] = await this.readers.note(
      pool().read(
        scene.sources +
          Math.min(scene.height - 1, Math.floor(y / by)) * scene.width +
          Math.min(scene.width - 1, Math.floor(x / by)),
        1,
      ),
    );
    return s ? this.places[s - 1] : undefined;
  }

  /**
   * The picture, and how far along the focus travel each part of it lies (0 to 1), small enough to
   * be drawn in space.
   */
  async relief(
    recipe: Recipe,
    longEdge = 900,
  ): Promise<{ view: View; depth: Float32Array; width: number; height: number } | undefined> {
    const { size } = this.state;
    const region = this.keptOf(recipe.edges)?.region;
    if (!this.depth || !region) return undefined;
    // beyond what is kept some frames show nothing, and depth is a guess
    const { width, height, places } = partOf(this.depth, {
      x: region.x / size.width,
      y: region.y / size.height,
      width: region.width / size.width,
      height: region.height / size.height,
    });
    const most = Math.max(1, this.used.filter((f) => f.used).length - 1);
    const view = await this.view({
      region,
      zoom: Math.min(1, longEdge / Math.max(region.width, region.height)),
      recipe,
      clipped: false,
    });
    return view && { view, width, height, depth: places.map((p) => clamp(p / most, 0, 1)) };
  }

  /** Scene radiance at a place of the full-size picture, before white balance. */
  async sample(
    x: number,
    y: number,
    radius: number,
  ): Promise<[number, number, number] | undefined> {
    const scene = this.scenes.preview;
    const by = this.state.preview?.downscale ?? 1;
    if (!scene) return undefined;
    return this.readers.note(
      pool().run(
        "sample",
        { scene: plain(scene), x: Math.floor(x / by), y: Math.floor(y / by), radius },
        { priority: "screen" },
      ),
    );
  }
}

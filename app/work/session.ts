import { RhizomeError } from "../../core/error";
import { overAll, type Aligned } from "../../pipeline/align/step";
import { renderScratch } from "../../pipeline/deliver/step";
import { finishStep } from "../../pipeline/finish/step";
import { framesStep } from "../../pipeline/frames/step";
import { frameAlone } from "../../pipeline/merge/frameAlone";
import { plain, type Scene } from "../../pipeline/merge/scene";
import { prepareStep, withPreparation } from "../../pipeline/prepare/step";
import type { Fact } from "../../pipeline/step";
import { toneStep, type AllocatedField } from "../../pipeline/tone/step";
import { rowsOf, type Progress } from "../../runtime/work";
import { downscaleTo, WORK_EDGE, type StackFrame } from "../../pipeline/work";
import { mergeMembers, type NestableFrame } from "../../pipeline/memberResults";
import { HeldFrames } from "../../pipeline/run/heldFrames";
import { fittingDownscale, runPipeline } from "../../pipeline/run/runPipeline";
import type { Findings, Merged } from "../../pipeline/run/run";
import { sceneKey } from "../../pipeline/keys";
import { keptRegion } from "../../pipeline/edges/keptRegion";
import { emptyIs, emptyShare, type EdgesSettings } from "../../pipeline/edges/step";
import { placeTie } from "../../pipeline/panorama/placeTie";
import { toneSuspects } from "../../pipeline/tone/suspects";
import type { Layout } from "../../pipeline/panorama/layout";
import type { Rectangle } from "../../core/raster/largestRectangle";
import type { Tie } from "../../core/panorama/ties/verifyPair";
import { ranked, type Suspect } from "../../core/suspects/suspect";
import { scaleColour, type MapKind } from "../../core/maps/maps";
import { partOf, type DepthGrid } from "../../core/focus/depthGrid";
import { fewerFrames, type FewerFrames } from "../../core/bracket/fewerFrames";
import type { AlignedFrame } from "../../core/align/alignedFrame";
import { resultCache } from "../store/resultCache";
import { toneOf, type Recipe } from "../../pipeline/recipe/recipe";
import { IDENTITY } from "../../core/math/matrix3";
import type { SceneStatistics } from "../../core/tone/sceneStatistics";
import { planeBytesOf } from "../../core/raster/accumulator";
import type { Planes, RenderSettings } from "../../core/tone/renderStrip";
import type { ToneField } from "../../core/tone/toneField";
import { pool } from "./pool";
import { clamp } from "../../core/math/clamp";
import { leaseOf, type Lease } from "../../runtime/lease";
import { Readers } from "../../runtime/readers";
import { TaskScope } from "../../runtime/taskScope";
import { type Tasks } from "../../pipeline/worker/tasks";

export interface SessionState {
  phase: "working" | "ready" | "stopped" | "failed";
  doing: string;
  share: number;
  error?: RhizomeError;
  aligned?: Aligned;
  statistics?: SceneStatistics;
  /** the steps' measurements */
  facts: Fact[];
  /** of a panorama: where its frames lie */
  layout?: Layout;
  /** places to look at, worst first */
  suspects: Suspect[];
  /** share of the pixels that each of the stack's frames gave most to */
  shares?: number[];
  /** what each frame is worth */
  fewer?: FewerFrames;
  preview?: { width: number; height: number; downscale: number };
  fullShare?: number;
  fullReady: boolean;
  /** full size does not fit in memory: it is shown at 1/by */
  shownBy?: number;
  size: { width: number; height: number };
}
export interface ViewRequest {
  /** region of the full-size picture to show, and how many device px a full-size px takes */
  region: { x: number; y: number; width: number; height: number };
  zoom: number;
  recipe: Recipe;
  clipped: boolean;
  /** a frame to show instead of the merge, by its place in the stack */
  frame?: number;
  /** EV by which a frame is shown brighter than it is */
  lift?: number;
  /** pixels of a view that is no longer needed, to be written over */
  into?: View["pixels"] | undefined;
}
export interface View {
  pixels: Uint8ClampedArray<ArrayBuffer>;
  width: number;
  height: number;
  /** where it lies in the full-size picture */
  region: ViewRequest["region"];
  sharp: boolean;
}

export interface Kept {
  region: Rectangle;
  /** share that no frame covers, 0 to 1 */
  empty: number;
}
/** A part of a scene at the size it is seen, and its region to render: all of it. */
type Reduced = Planes & Lease & { part: Rectangle };

/** A part of a scene at another size, to be drawn at once. */
async function resized(
  scene: Scene,
  part: Rectangle,
  { width, height }: { width: number; height: number },
): Promise<Reduced> {
  await using scope = new TaskScope<Tasks>(pool(), "screen");
  const planeBytes = planeBytesOf(width, height);
  const to = { ptr: scope.allocate(planeBytes * 3 + 64), planeBytes, width, height };
  await Promise.all(
    rowsOf(height, scope.threads).map(([y0, y1]) =>
      scope.run(
        "resize",
        { scene: plain(scene), part, to, y0, y1 },
        { scratch: (scene.width + scene.height) * 16 + (width + height) * 16 + (1 << 16) },
      ),
    ),
  );
  scope.keep(to.ptr);
  return {
    ...to,
    lies: {
      x: part.x / scene.width,
      y: part.y / scene.height,
      width: part.width / scene.width,
      height: part.height / scene.height,
    },
    part: { x: 0, y: 0, width, height },
    ...leaseOf(() => pool().free(to.ptr)),
  };
}

/** One colour a frame, from the shortest exposure to the longest on one scale. */
export function frameColours(
  frames: readonly { ev: number; used: boolean }[],
): [number, number, number][] {
  const order = frames.map((_, i) => i).sort((a, b) => frames[a]!.ev - frames[b]!.ev);
  return frames.map((_, i) =>
    scaleColour(frames.length < 2 ? 0.5 : order.indexOf(i) / (frames.length - 1)),
  );
}

const coverageFacts = (f: FewerFrames | undefined): Fact[] =>
  f
    ? [
        { what: "Range gained", value: f.all.rangeEv - f.single.rangeEv, unit: "EV", digits: 1 },
        {
          what: "Shadows gained",
          value: f.all.shadowDb - f.single.shadowDb,
          unit: "dB",
          digits: 1,
        },
      ]
    : [];

/** How the frames that take part lie; the colours of a focus run go along its travel. */
function placesOf({ aligned, layout, frames }: Merged): AlignedFrame[] {
  if (aligned)
    return aligned.frames.map((f, i) =>
      aligned.order ? { ...f, ev: aligned.order.indexOf(i) } : f,
    );
  return frames.map((_, i) => ({
    fromReference: [...IDENTITY],
    ev: i,
    residualPx: layout!.rmsPx[i]!,
    movedPx: 0,
    used: layout!.cameras[i] !== undefined,
  }));
}

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
const mergeIdentity = (stack: readonly StackFrame[], recipe: Recipe): string =>
  JSON.stringify([sceneKey(withPreparation(stack, recipe.prepare), recipe, 1), recipe.frames]);

/** Frees something as soon as it is there, if it comes at all. */
const releaseLater = (coming: Promise<{ release(): void }>): void =>
  void coming.then(
    (made) => made.release(),
    () => undefined,
  );

/**
 * One opened stack at work: reads, aligns and merges in the background, first at preview size, then
 * at full size, and renders what the viewer asks for. Tone and finish never merge again; frames,
 * align and merge settings do.
 */
export class StackSession {
  state: SessionState;
  private listeners = new Set<() => void>();
  private stopper = new AbortController();
  private scenes: {
    preview?: Scene;
    /** as large as fits in memory, at 1/by of its size */
    full?: Scene & { by: number };
  } = {};
  /** who looks at the scenes and what was made of them */
  private readonly readers = new Readers();
  private frameScenes = new Map<string, Promise<Scene>>();
  private reducedScenes = new Map<string, Promise<Reduced>>();
  private fields = new Map<string, Promise<AllocatedField>>();
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
    this.state = {
      phase: "working",
      doing: "Opening",
      share: 0,
      fullReady: false,
      facts: [],
      suspects: [],
      size: { width: info.width, height: info.height },
    };
  }

  subscribe = (f: () => void): (() => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };
  snapshot = (): SessionState => this.state;
  private set(part: Partial<SessionState>): void {
    this.state = { ...this.state, ...part };
    for (const f of this.listeners) f();
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
      const region = keptRegion(edges, this.state);
      this.kept = {
        of,
        key,
        region,
        empty: layout && emptyIs(edges) !== "extend" ? emptyShare(region, size, layout.labels) : 0,
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
    delete this.state.fullShare;
    this.set({ phase: this.scenes.preview ? "ready" : "stopped", doing: "Stopped" });
  }

  close(): void {
    this.closed = true;
    this.stopper.abort();
    void this.work.then(() => {
      this.releaseScenes();
      const alone = [...this.frameScenes.values()];
      this.frameScenes.clear();
      this.readers.retire(() => {
        alone.forEach(releaseLater);
        this.held.drop();
      });
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
    this.dropFields(0);
    this.dropReduced(0);
    this.readers.retire(() => {
      preview?.release();
      if (full?.ptr !== preview?.ptr) full?.release();
    });
  }
  /** Keeps the youngest fields. */
  private dropFields(keep: number): void {
    for (const [key, field] of this.fields) {
      if (this.fields.size <= keep) return;
      this.fields.delete(key);
      this.readers.retire(() => releaseLater(field));
    }
  }

  private async run(recipe: Recipe, signal: AbortSignal): Promise<void> {
    if (signal.aborted) return;
    const all = (this.prepared = withPreparation(this.frames, recipe.prepare));
    try {
      const frames = framesStep.run(all, recipe.frames);
      this.places = frames.map((f) => all.indexOf(f));
      delete this.state.error;
      delete this.state.fullShare;
      delete this.state.shownBy;
      this.set({ phase: "working", doing: "Opening", share: 0, fullReady: false });
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
    const aligned = preview.aligned && overAll(this.prepared, frames, preview.aligned);
    const fewer =
      aligned && recipe.merge.method === "radiance"
        ? fewerFrames(
            findings.statistics,
            aligned.frames.map((f) => (f.used ? f.ev : undefined)),
          )
        : undefined;
    this.mergeSuspects = findings.suspects;
    this.depth = findings.depth;
    this.used = placesOf(preview);
    delete this.state.aligned;
    delete this.state.layout;
    this.scenes = { preview: scene, ...(downscale === 1 ? { full: { ...scene, by: 1 } } : {}) };
    this.set({
      phase: "ready",
      doing: "",
      share: 1,
      size,
      ...(aligned ? { aligned } : {}),
      ...(layout ? { layout } : {}),
      statistics: findings.statistics,
      suspects: ranked(findings.suspects),
      shares: this.prepared.map((f) => findings.shares[frames.indexOf(f)] ?? 0),
      ...(fewer ? { fewer } : {}),
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
    delete this.state.fullShare;
    this.set({ fullReady: true });
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
    const scene = r.frame !== undefined ? await this.frameScene(r.frame, by) : (full ?? preview);
    if (!scene) return undefined;
    const x = Math.max(0, Math.floor(r.region.x / by));
    const y = Math.max(0, Math.floor(r.region.y / by));
    const width = Math.min(scene.width - x, Math.ceil((r.region.x + r.region.width) / by) - x);
    const height = Math.min(scene.height - y, Math.ceil((r.region.y + r.region.height) / by) - y);
    if (width < 1 || height < 1) return undefined;
    // a frame is shown as its own file shows it; the merge with the recipe's tone
    const recipe: Recipe =
      r.frame === undefined
        ? r.recipe
        : {
            ...r.recipe,
            tone: {
              ...r.recipe.tone,
              operator: "plain",
              exposure: r.lift ?? 0,
              lifts: [0, 0, 0, 0, 0],
              white: 0,
              black: 0,
            },
            finish: { contrast: 0, saturation: 0 },
          };
    const tone = await (r.frame === undefined
      ? this.field(preview ?? scene, recipe)
      : toneStep.run(pool(), scene, toneOf(recipe), { priority: "screen" }));
    const part = { x, y, width, height };
    const scale = r.zoom * by;
    const seen =
      scale < 0.99
        ? await this.reduced(scene, part, scale, `${r.frame ?? ""}/${by}`)
        : { ...plain(scene), part };
    const region = seen.part;
    const pixels = await this.render(
      seen,
      tone.field,
      finishStep.run(prepareStep.run(recipe.prepare), recipe.tone.exposure, recipe.finish, "srgb"),
      region,
      r.clipped,
      r.into,
    );
    if (r.frame !== undefined) tone.release();
    this.seen();
    return {
      pixels,
      width: region.width,
      height: region.height,
      region: { x: x * by, y: y * by, width: width * by, height: height * by },
      sharp: r.zoom <= 1.01 / by,
    };
  }

  /** Rows shared out to all threads, which write into one place. */
  private async render(
    scene: Planes,
    field: ToneField,
    settings: RenderSettings,
    region: Rectangle,
    clipped: boolean,
    into: View["pixels"] | undefined,
  ): Promise<View["pixels"]> {
    const { width, height } = region;
    const bytes = width * height * 4;
    await using scope = new TaskScope<Tasks>(pool(), "screen");
    const dst = scope.allocate(bytes + 64);
    const parts = Math.min(height, scope.threads);
    await Promise.all(
      Array.from({ length: parts }, (_, i) =>
        scope.run(
          "render",
          {
            scene,
            field,
            settings,
            region,
            kind: "rgba8",
            dst,
            y0: Math.floor((height * i) / parts),
            y1: Math.floor((height * (i + 1)) / parts),
            clipped,
          },
          { scratch: renderScratch(width) },
        ),
      ),
    );
    const pixels = await scope.read(dst, bytes, into && new Uint8Array(into.buffer));
    return new Uint8ClampedArray(pixels.buffer);
  }

  /**
   * A part of a scene at the size it is seen, so that a change of tone renders no more than that;
   * the youngest are kept.
   */
  private reduced(scene: Scene, part: Rectangle, scale: number, of: string): Promise<Reduced> {
    const width = Math.max(1, Math.round(part.width * scale));
    const height = Math.max(1, Math.round(part.height * scale));
    const key = JSON.stringify([of, this.mergedKey, part, width, height]);
    let r = this.reducedScenes.get(key);
    if (!r) {
      r = resized(scene, part, { width, height });
      this.reducedScenes.set(key, r);
      r.catch(() => this.reducedScenes.delete(key));
      this.dropReduced(3);
    }
    return r;
  }
  private dropReduced(keep: number): void {
    for (const [key, reduced] of this.reducedScenes) {
      if (this.reducedScenes.size <= keep) return;
      this.reducedScenes.delete(key);
      this.readers.retire(() => releaseLater(reduced));
    }
  }

  private field(scene: Scene, recipe: Recipe): Promise<AllocatedField> {
    const key = JSON.stringify([{ ...toneOf(recipe), exposure: 0 }, this.mergedKey]);
    let f = this.fields.get(key);
    if (!f) {
      f = toneStep.run(pool(), scene, toneOf(recipe), { priority: "screen" });
      this.fields.set(key, f);
      f.catch(() => this.fields.delete(key));
      this.dropFields(12);
    }
    return f;
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
    const x = Math.max(0, Math.floor(r.x / by));
    const y = Math.max(0, Math.floor(r.y / by));
    const width = Math.min(scene.width - x, Math.ceil((r.x + r.width) / by) - x);
    const height = Math.min(scene.height - y, Math.ceil((r.y + r.height) / by) - y);
    if (width < 1 || height < 1) return undefined;
    const region = { x, y, width, height };
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
      width,
      height,
      region: { x: x * by, y: y * by, width: width * by, height: height * by },
      sharp: true,
    };
  }

  /** Looks for halos of the present tone and lists them with the merge's own suspects. */
  judgeTone(recipe: Recipe): Promise<void> {
    return this.readers.note(this.findHalos(recipe));
  }

  private async findHalos(recipe: Recipe): Promise<void> {
    const scene = this.scenes.preview;
    if (!scene || this.closed) return;
    const { field } = await this.field(scene, recipe);
    const halos = await toneSuspects(pool(), scene, field, this.state.size.width);
    if (!this.closed) this.set({ suspects: ranked([...this.mergeSuspects, ...halos]) });
  }

  /** A single frame aligned to the reference frame, at its own exposure: a merge of one. */
  private frameScene(index: number, downscale: number): Promise<Scene> {
    const key = `${index}/${downscale}/${this.mergedKey}`;
    let s = this.frameScenes.get(key);
    if (!s) {
      const a = this.state.aligned?.frames[index];
      s = frameAlone(pool(), this.prepared[index]!, a?.fromReference ?? IDENTITY, downscale);
      this.frameScenes.set(key, s);
      s.catch(() => this.frameScenes.delete(key));
      if (this.frameScenes.size > 4) {
        const [oldest, scene] = this.frameScenes.entries().next().value!;
        this.frameScenes.delete(oldest);
        this.readers.retire(() => releaseLater(scene));
      }
    }
    return s;
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

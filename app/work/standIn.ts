import { RhizomeError } from "../../core/error";
import { IDENTITY } from "../../core/math/matrix3";
import { defaultRecipe, type Recipe } from "../../pipeline/recipe/recipe";
import type { CameraSettings, LensTravel, PlannedShot, Reach } from "../../simulate/programme";
import { renderScratch } from "../../pipeline/deliver/step";
import { renderSettings } from "../../pipeline/deliver/renderSettings";
import { frameAlone } from "../../pipeline/merge/frameAlone";
import { statisticsOf } from "../../pipeline/merge/measures";
import { plain, type Scene } from "../../pipeline/merge/scene";
import { toneStep } from "../../pipeline/tone/step";
import type { StackFrame } from "../../pipeline/work";
import type { SceneStatistics } from "../../core/tone/sceneStatistics";
import { runPipeline } from "../../pipeline/run/runPipeline";
import { fetchFrames, type DemoScene } from "../store/demo";
import { pool } from "./pool";
import { TaskScope } from "../../runtime/taskScope";
import type { Tasks } from "../../pipeline/worker/tasks";

/** Px of a panorama that the stand-in camera turns in. */
const WIDTH = 4200;

/**
 * The stand-in camera before one scene: its light is what the demo's own frames of it hold, merged.
 */
export class StandIn {
  /** of the latest shot: when no thread works on it any more */
  private shooting: Promise<void> = Promise.resolve();

  private constructor(
    readonly scene: DemoScene,
    private readonly frames: StackFrame[],
    private readonly light: Scene,
    readonly statistics: SceneStatistics,
    /** the scene as the finder shows it */
    readonly picture: ImageBitmap,
    readonly reach: Reach | undefined,
  ) {}

  /** @throws RhizomeError */
  static async open(
    scene: DemoScene,
    progress: (share: number, doing: string) => void,
    signal: AbortSignal,
  ): Promise<StandIn> {
    const files = await fetchFrames(scene.frames, (s) => progress(s * 0.2, "Fetching the scene"));
    const frames: StackFrame[] = await Promise.all(
      files.map(async (blob) => {
        const source = { name: blob.name, blob };
        const { info, hash } = await pool().run("inspect", { source, thumbnail: 0 }, { signal });
        return { id: blob.name, content: hash, source, info };
      }),
    );
    const base = defaultRecipe(scene.kind);
    const recipe: Recipe =
      base.kind === "panorama"
        ? {
            ...base,
            panorama: { ...base.panorama, projection: "equirectangular", width: WIDTH },
            edges: { ...base.edges, mode: "extend" },
          }
        : base;
    let light: Scene;
    let reach: Reach | undefined;
    if (scene.kind === "focus")
      light = await frameAlone(pool(), frames[frames.length >> 1]!, IDENTITY, 1);
    else {
      const made = await runPipeline(pool(), frames, recipe, {
        scale: 1,
        priority: "opened",
        progress: (s, doing) => progress(0.2 + s * 0.7, doing),
        signal,
      });
      light = made.scene;
      if (made.layout) {
        const { pxPerRadian: px, width, height, centreX, centreY } = made.layout.canvas;
        const degrees = (v: number): number => (v / px) * (180 / Math.PI);
        reach = {
          across: degrees(width),
          down: degrees(height),
          right: degrees(width / 2 - centreX),
          up: degrees(centreY - height / 2),
        };
      }
    }
    return StandIn.before(light, scene, frames, reach, signal).then(
      (camera) => {
        progress(1, "Ready");
        return camera;
      },
      (e: unknown) => {
        light.release();
        throw e;
      },
    );
  }

  /** @param light  of the scene, the camera's from then on */
  private static async before(
    light: Scene,
    scene: DemoScene,
    frames: StackFrame[],
    reach: Reach | undefined,
    signal: AbortSignal,
  ): Promise<StandIn> {
    await using scope = new TaskScope<Tasks>(pool(), "opened");
    const statistics = await statisticsOf(scope, light, { signal });
    const picture = await shown(light);
    await scope.run("asSrgbLight", { scene: plain(light) });
    return new StandIn(scene, frames, light, statistics, picture, reach);
  }

  /** Of a scene that is taken by a run through focus: how far the lens travels. */
  get travel(): LensTravel | undefined {
    const { kind, frames, near, far, sharpSteps } = this.scene;
    return kind === "focus" && near && far && sharpSteps
      ? { positions: frames.length, near, far, sharpSteps }
      : undefined;
  }

  /**
   * Takes frames one after another, each a file as a camera leaves it.
   *
   * @param first  number of the first one
   */
  async *take(
    plan: readonly PlannedShot[],
    settings: CameraSettings,
    first: number,
    signal: AbortSignal,
  ): AsyncGenerator<File> {
    const { scene } = this;
    const time = scene.time * (100 / settings.iso);
    const began = Math.floor(Date.now() / 1000 - new Date().getTimezoneOffset() * 60);
    let elapsed = 0;
    let near: { focus: number; light: Scene } | undefined;
    const ended: Promise<void>[] = [];
    try {
      for (const [k, shot] of plan.entries()) {
        if (signal.aborted) return;
        if (scene.kind === "focus" && near?.focus !== shot.focus) {
          near?.light.release();
          near = undefined;
          const light = await frameAlone(pool(), this.frames[shot.focus]!, IDENTITY, 1);
          near = { focus: shot.focus, light };
          await pool().run("asSrgbLight", { scene: plain(light) });
        }
        const exposureTime = time * 2 ** shot.ev;
        const number = first + k;
        const exif = {
          exposureTime,
          aperture: scene.aperture,
          iso: settings.iso,
          focalLength: settings.focal,
          focalLength35: settings.focal,
          takenAt: began + elapsed,
          camera: "Quillmoor Stand-in 24",
          lens: `Stand-in ${settings.focal} mm`,
        };
        const shooting = pool().start(
          "takeShot",
          {
            scene: plain(near?.light ?? this.light),
            ...(this.reach ? { reach: this.reach } : {}),
            sceneFocal: scene.focal,
            settings,
            shot,
            number,
            exif,
          },
          { signal },
        );
        ended.push(shooting.ended);
        this.shooting = shooting.ended;
        const file = await shooting.result;
        elapsed +=
          exposureTime +
          (plan[k + 1] && (plan[k + 1]!.yaw !== shot.yaw || plan[k + 1]!.pitch !== shot.pitch)
            ? 2.2
            : 0.3);
        yield new File([file as BlobPart], `SI_${String(number % 10000).padStart(4, "0")}.jpg`, {
          type: "image/jpeg",
        });
      }
    } catch (e) {
      if (RhizomeError.from(e).code !== "stopped") throw e;
    } finally {
      await Promise.all(ended);
      near?.light.release();
    }
  }

  close(): void {
    this.picture.close();
    void this.shooting.then(() => this.light.release());
  }
}

/** A scene as an ordinary picture of it. */
async function shown(scene: Scene): Promise<ImageBitmap> {
  await using scope = new TaskScope<Tasks>(pool(), "opened");
  const recipe = defaultRecipe("focus");
  const { width, height } = scene;
  const region = { x: 0, y: 0, width, height };
  const dst = scope.allocate(width * height * 4 + 64);
  using toned = await toneStep.run(scope, scene, recipe.tone, {});
  await scope.run(
    "render",
    {
      scene: plain(scene),
      field: toned.field,
      settings: renderSettings(recipe, "srgb"),
      region,
      kind: "rgba8",
      dst,
      y0: 0,
      y1: height,
    },
    { scratch: renderScratch(width) },
  );
  const pixels = new Uint8ClampedArray(await scope.read(dst, width * height * 4));
  return createImageBitmap(new ImageData(pixels, width, height));
}

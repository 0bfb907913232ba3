import { RhizomeError } from "../../core/error";
import { IDENTITY } from "../../core/math/matrix3";
import { defaultRecipe, type Recipe } from "../../pipeline/recipe/recipe";
import type { CameraSettings, LensTravel, PlannedShot, Reach } from "../../simulate/programme";
import { renderScratch } from "../../pipeline/deliver/step";
import { finishStep } from "../../pipeline/finish/step";
import { frameAlone } from "../../pipeline/merge/mergeFrames";
import { plain, type Scene } from "../../pipeline/merge/scene";
import { prepareStep } from "../../pipeline/prepare/step";
import { toneStep } from "../../pipeline/tone/step";
import type { StackFrame } from "../../pipeline/work";
import type { SceneStatistics } from "../../core/tone/sceneStatistics";
import { runPipeline } from "../../pipeline/run/runPipeline";
import { fetchFrames, type DemoScene } from "../store/demo";
import { pool } from "./pool";

/** Px of a panorama that the stand-in camera turns in. */
const WIDTH = 4200;

/**
 * The stand-in camera before one scene: its light is what the demo's own frames of it hold, merged.
 */
export class StandIn {
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
      scene.kind === "panorama"
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
    try {
      const statistics = await pool().run(
        "statistics",
        { grid: light.grid },
        { scratch: 1 << 18, signal },
      );
      const picture = await shown(light);
      await pool().run("asSrgbLight", { scene: plain(light) });
      progress(1, "Ready");
      return new StandIn(scene, frames, light, statistics, picture, reach);
    } catch (e) {
      await pool().idle();
      light.release();
      throw e;
    }
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
        const file = await pool().run(
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
      near?.light.release();
    }
  }

  close(): void {
    this.picture.close();
    void pool()
      .idle()
      .then(() => this.light.release());
  }
}

/** A scene as an ordinary picture of it. */
async function shown(scene: Scene): Promise<ImageBitmap> {
  const { tone, finish, prepare } = defaultRecipe("focus");
  const { width, height } = scene;
  const region = { x: 0, y: 0, width, height };
  const dst = pool().allocate(width * height * 4 + 64);
  const field = await toneStep.run(pool(), scene, tone, {});
  try {
    await pool().run(
      "render",
      {
        scene: plain(scene),
        field: field.field,
        settings: finishStep.run(prepareStep.run(prepare), tone.exposure, finish, "srgb"),
        region,
        kind: "rgba8",
        dst,
        y0: 0,
        y1: height,
      },
      { scratch: renderScratch(width) },
    );
    const pixels = new Uint8ClampedArray(await pool().read(dst, width * height * 4));
    return await createImageBitmap(new ImageData(pixels, width, height));
  } finally {
    await pool().idle();
    field.release();
    pool().free(dst);
  }
}

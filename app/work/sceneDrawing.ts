import { planeBytesOf } from "../../core/raster/accumulator";
import type { Rectangle } from "../../core/raster/largestRectangle";
import type { Planes, RenderSettings } from "../../core/tone/renderStrip";
import type { ToneField } from "../../core/tone/toneField";
import { renderScratch } from "../../pipeline/deliver/step";
import { plain, type Scene } from "../../pipeline/merge/scene";
import { toneOf, type Recipe } from "../../pipeline/recipe/recipe";
import { toneStep, type AllocatedField } from "../../pipeline/tone/step";
import type { Tasks } from "../../pipeline/worker/tasks";
import { leaseOf, type Lease } from "../../runtime/lease";
import { LeaseCache } from "../../runtime/leaseCache";
import type { Readers } from "../../runtime/readers";
import { TaskScope } from "../../runtime/taskScope";
import { rowsOf } from "../../runtime/work";
import { pool } from "./pool";
import type { View } from "./sessionState";

/** Tone fields and reduced parts that are kept. */
const FIELDS = 12;
const PARTS = 3;
/** A part is drawn from a reduced one where it is seen smaller than this. */
const REDUCED_BELOW = 0.99;

/** A part of a scene at the size it is seen, and its region to render: all of it. */
type Reduced = Required<Planes> & Lease & { part: Rectangle };

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

/** What a scene is drawn with. */
export interface Drawing {
  field: ToneField;
  settings: RenderSettings;
  clipped: boolean;
  /** pixels to be written over */
  into: View["pixels"] | undefined;
}

/** Draws parts of scenes, and keeps what the next drawing may need as well. */
export class SceneDrawing {
  private readonly fields: LeaseCache<AllocatedField>;
  private readonly parts: LeaseCache<Reduced>;
  /**
   * Tells scenes apart: one that is drawn while it is replaced must not pass for the one that
   * follows it.
   */
  private readonly numbers = new WeakMap<Scene, number>();
  private scenes = 0;

  /**
   * Nothing is drawn yet.
   *
   * @param readers  who look at the scenes and at what is made of them
   */
  constructor(readers: Readers) {
    this.fields = new LeaseCache(readers, FIELDS);
    this.parts = new LeaseCache(readers, PARTS);
  }

  /** Forgets what was made of scenes that are no longer shown. */
  clear(): void {
    this.fields.clear();
    this.parts.clear();
  }

  /** How a recipe tones the scene that is shown. Exposure comes after it. */
  field(scene: Scene, recipe: Recipe): Promise<AllocatedField> {
    const tone = toneOf(recipe);
    const key = JSON.stringify([this.numberOf(scene), { ...tone, exposure: 0 }]);
    return this.fields.get(key, () => toneStep.run(pool(), scene, tone, { priority: "screen" }));
  }

  /**
   * A part of a scene as it is seen.
   *
   * @param scale  device px that a px of the scene takes
   */
  async draw(
    scene: Scene,
    part: Rectangle,
    scale: number,
    drawing: Drawing,
  ): Promise<Pick<View, "pixels" | "width" | "height">> {
    if (scale >= REDUCED_BELOW) return render(plain(scene), part, drawing);
    const size = {
      width: Math.max(1, Math.round(part.width * scale)),
      height: Math.max(1, Math.round(part.height * scale)),
    };
    const key = JSON.stringify([this.numberOf(scene), part, size]);
    const seen = await this.parts.get(key, () => resized(scene, part, size));
    return render({ ...plain(seen), lies: seen.lies }, seen.part, drawing);
  }

  private numberOf(scene: Scene): number {
    const known = this.numbers.get(scene) ?? ++this.scenes;
    this.numbers.set(scene, known);
    return known;
  }
}

/** Rows shared out to all threads, which write into one place. */
async function render(
  scene: Planes,
  region: Rectangle,
  { field, settings, clipped, into }: Drawing,
): Promise<Pick<View, "pixels" | "width" | "height">> {
  await using scope = new TaskScope<Tasks>(pool(), "screen");
  const { width, height } = region;
  const bytes = width * height * 4;
  const dst = scope.allocate(bytes + 64);
  const strips = Math.min(height, scope.threads);
  await Promise.all(
    Array.from({ length: strips }, (_, i) =>
      scope.run(
        "render",
        {
          scene,
          field,
          settings,
          region,
          kind: "rgba8",
          dst,
          y0: Math.floor((height * i) / strips),
          y1: Math.floor((height * (i + 1)) / strips),
          clipped,
        },
        { scratch: renderScratch(width) },
      ),
    ),
  );
  const pixels = await scope.read(dst, bytes, into && new Uint8Array(into.buffer));
  return { pixels: new Uint8ClampedArray(pixels.buffer), width, height };
}

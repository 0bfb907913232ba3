import type { Rectangle } from "../../core/raster/largestRectangle";
import type { Finish } from "../../core/finish/finish";
import type { OutHistogram } from "../../core/finish/outHistogram";
import type { KnownNeighbourhoods } from "../../core/finish/renderFinished";
import type { Planes, RenderSettings } from "../../core/tone/renderStrip";
import type { ToneField } from "../../core/tone/toneField";
import { renderScratch } from "../../pipeline/deliver/step";
import type { PreparedFinish } from "../../pipeline/finish/prepareFinish";
import type { Tasks } from "../../pipeline/worker/tasks";
import { TaskScope } from "../../runtime/taskScope";
import { rowsOf } from "../../runtime/work";
import { pool } from "./pool";
import type { SoftProof, View } from "./sessionState";

/** What a scene is toned and finished with. */
export interface Toning {
  field: ToneField;
  settings: RenderSettings;
  /** of the picture's parts, where any changes something */
  finish?: PreparedFinish | undefined;
  /** px of the scene that a px of the full-size picture takes */
  size: { width: number };
}

/** What a scene is drawn with. */
export interface Drawing extends Toning {
  clipped: boolean;
  /** a paper that it is shown as on, if it is */
  softProof?: SoftProof | undefined;
  /** whether its levels are wanted */
  measured: boolean;
  /** pixels to be written over */
  into: View["pixels"] | undefined;
}

/** What was drawn; where they are wanted with its levels, before marks were laid over it. */
export type Drawn = Pick<View, "pixels" | "width" | "height"> & {
  histogram?: OutHistogram;
  /** share that the paper cannot show, 0 to 1 */
  outside?: number;
};

/** A part of a scene as it is seen, and what its finish needs. */
export interface SeenPart {
  scene: Planes;
  /** of the scene, to be rendered */
  region: Rectangle;
  finish?: Finish | undefined;
  known?: KnownNeighbourhoods | undefined;
}

/** Rows shared out to all threads, which write into one place. */
export async function renderPixels(
  scope: TaskScope<Tasks>,
  { scene, region, finish, known }: SeenPart,
  { field, settings }: Pick<Toning, "field" | "settings">,
  kind: "rgba8" | "rgb16",
  dst: number,
): Promise<void> {
  const how = {
    scene,
    field,
    settings,
    ...(finish ? { finish } : {}),
    ...(known ? { known: { at: known.at, planeBytes: known.planeBytes } } : {}),
    region,
    kind,
    dst,
  };
  await Promise.all(
    rowsOf(region.height, scope.threads).map(([y0, y1]) =>
      scope.run("render", { ...how, y0, y1 }, { scratch: renderScratch(region.width, finish) }),
    ),
  );
}

/** Renders what is seen for the screen. */
export async function render(seen: SeenPart, drawing: Drawing): Promise<Drawn> {
  await using scope = new TaskScope<Tasks>(pool(), "screen");
  const { clipped, softProof, measured, into } = drawing;
  const { region } = seen;
  const { width, height } = region;
  const bytes = width * height * 4;
  const dst = scope.allocate(bytes + 64);
  await renderPixels(scope, seen, drawing, "rgba8", dst);
  const histogram = measured
    ? await scope.run("outHistogram", { at: dst, width, height })
    : undefined;
  const outside = softProof && (await showSoftProof(scope, dst, region, softProof));
  if (clipped) await scope.run("markClipped", { at: dst, region });
  const pixels = await scope.read(dst, bytes, into && new Uint8Array(into.buffer));
  return {
    ...(histogram ? { histogram } : {}),
    ...(outside === undefined ? {} : { outside }),
    pixels: new Uint8ClampedArray(pixels.buffer),
    width,
    height,
  };
}

/** Shows what was rendered as on paper. @returns the share that the paper cannot show, 0 to 1 */
async function showSoftProof(
  scope: TaskScope<Tasks>,
  at: number,
  { x, y, width, height }: Rectangle,
  { table, isMarked }: SoftProof,
): Promise<number> {
  const counts = await Promise.all(
    rowsOf(height, scope.threads).map(([y0, y1]) => {
      const region = { x, y: y + y0, width, height: y1 - y0 };
      return scope.run("softProof", { at: at + y0 * width * 4, region, table, isMarked });
    }),
  );
  return counts.reduce((sum, count) => sum + count, 0) / (width * height);
}

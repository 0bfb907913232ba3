import { type Accumulator } from "../../core/raster/accumulator";
import {
  toneField,
  toneFieldBytes,
  type ToneField,
  type ToneSettings,
} from "../../core/tone/toneField";
import { haloSuspects } from "../../core/suspects/haloSuspects";
import { sceneStatistics } from "../../core/tone/sceneStatistics";
import { basisBytes, fillBlack, toneBasis } from "../../core/tone/toneBasis";
import { floorGrid, reduceToGrid, type ToneGrid } from "../../core/tone/toneGrid";
import { luminance } from "../../core/colour/luminance";
import {
  detailNumbers,
  lightnessOf,
  pictureNumbers,
  type DetailNumbers,
  type PictureNumbers,
} from "../../core/tone/pictureNumbers";
import { tmqi } from "../../core/tone/tmqi";
import type { StepContext } from "../stepContext";

/** A picture in numbers, with how well it shows its scene (TMQI, 0 to 1). */
export interface JudgedPicture extends PictureNumbers, DetailNumbers {
  tmqi: number;
}

/** What toning asks of a worker. */
export const toneTasks = {
  reduce(
    { heap }: StepContext,
    a: { scene: Accumulator; grid: Omit<ToneGrid, "floorEv">; g0: number; g1: number },
  ) {
    heap.ensure(a.grid.ptr + a.grid.width * a.grid.height * 4);
    reduceToGrid(heap, a.scene, a.grid, a.g0, a.g1);
  },

  floorGrid(
    { heap }: StepContext,
    a: { grid: Omit<ToneGrid, "floorEv">; noise: number; basis: number },
  ): ToneGrid {
    heap.ensure(a.basis + basisBytes(a.grid));
    const grid = { ...a.grid, floorEv: floorGrid(heap, a.grid, a.noise) };
    fillBlack(heap, grid, a.basis);
    return grid;
  },

  toneBasis({ heap }: StepContext, a: { grid: ToneGrid; basis: number; part: number }) {
    heap.ensure(a.basis + basisBytes(a.grid));
    toneBasis(heap, a.grid, a.basis, a.part);
  },

  tone(
    { heap }: StepContext,
    a: { grid: ToneGrid; basis: number; settings: ToneSettings; at: number },
  ): ToneField {
    heap.ensure(a.at + toneFieldBytes(a.grid));
    return toneField(heap, a.grid, a.basis, a.settings, a.at);
  },

  /** Measures a picture against the scene that it shows, both at one size. */
  judgePicture(
    { heap }: StepContext,
    { scene, pixels }: { scene: Accumulator; pixels: Uint8ClampedArray },
  ): JudgedPicture {
    const { width, height, ptr, planeBytes } = scene;
    const n = width * height;
    heap.ensure(ptr + planeBytes * 3);
    const [r, g, b] = [0, 1, 2].map((c) => heap.f32(ptr + c * planeBytes, n));
    const light = Float64Array.from({ length: n }, (_, i) =>
      Math.max(0, luminance(r![i]!, g![i]!, b![i]!)),
    );
    const lightness = lightnessOf(pixels);
    return {
      ...pictureNumbers(pixels),
      ...detailNumbers(lightness, width, height),
      tmqi: tmqi(light, lightness, width, height).quality,
    };
  },

  statistics({ heap }: StepContext, a: { grid: ToneGrid }) {
    return sceneStatistics(heap, a.grid);
  },
  haloSuspects({ heap }: StepContext, a: { grid: ToneGrid; field: ToneField; scale: number }) {
    return haloSuspects(heap, a.grid, a.field, a.scale);
  },
};

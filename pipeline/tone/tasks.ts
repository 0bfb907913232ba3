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
import type { StepContext } from "../stepContext";

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

  statistics({ heap }: StepContext, a: { grid: ToneGrid }) {
    return sceneStatistics(heap, a.grid);
  },
  haloSuspects({ heap }: StepContext, a: { grid: ToneGrid; field: ToneField; scale: number }) {
    return haloSuspects(heap, a.grid, a.field, a.scale);
  },
};

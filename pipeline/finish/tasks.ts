import type { Adjustments } from "../../core/finish/adjustments";
import { findAir } from "../../core/finish/air";
import {
  colourGridBytes,
  colourPlane,
  measureTexture,
  reduceColour,
  type ColourGrid,
} from "../../core/finish/colourGrid";
import type { Finish, GlowGrid, GridLines, SceneNoise } from "../../core/finish/finish";
import { glowBytes, spreadLight } from "../../core/finish/glow";
import { lightField } from "../../core/finish/lightField";
import { linesBytes } from "../../core/finish/lines";
import { maskGridOf, maskLines, maskOfPart } from "../../core/finish/maskOfPart";
import { measureNoise } from "../../core/finish/measureNoise";
import {
  neighbourhoodPlan,
  neighbourhoodPlanes,
  neighbourhoods,
  type Tile,
} from "../../core/finish/neighbourhood";
import type { Likeness, Part } from "../../core/finish/part";
import { outHistogram } from "../../core/finish/outHistogram";
import { findSky, likenessOf } from "../../core/finish/shapeMasks";
import { shownEvOf } from "../../core/finish/shownEv";
import { paintMask, type MaskStyle } from "../../core/finish/paintMask";
import type { Planes } from "../../core/tone/renderStrip";
import type { Accumulator } from "../../core/raster/accumulator";
import type { ToneField } from "../../core/tone/toneField";
import type { ToneGrid } from "../../core/tone/toneGrid";
import type { StepContext } from "../stepContext";

/** What finishing asks of a worker. */
export const finishTasks = {
  reduceColour(
    { heap }: StepContext,
    a: { scene: Accumulator; grid: ColourGrid; lowest: number; g0: number; g1: number },
  ) {
    heap.ensure(a.grid.at + colourGridBytes(a.grid));
    reduceColour(heap, a.scene, a.grid, a.lowest, a.g0, a.g1);
  },

  measureTexture({ heap }: StepContext, a: { grid: ColourGrid }) {
    measureTexture(heap, a.grid);
  },

  partMask(
    { heap }: StepContext,
    a: { grid: ColourGrid; part: Pick<Part, "shapes" | "inverted" | "feather">; at: number },
  ): GridLines {
    heap.ensure(a.at + linesBytes(a.grid));
    return maskLines(heap, a.part, a.grid, a.at);
  },

  /** The levels of a picture that is shown. */
  outHistogram({ heap }: StepContext, a: { at: number; width: number; height: number }) {
    return outHistogram(heap.u8(a.at, a.width * a.height * 4), a.width, a.height);
  },

  /** A part's mask over what is seen, as RGBA. */
  paintMask(
    { heap }: StepContext,
    a: { scene: Planes; lines: GridLines; lowest: number; style: MaskStyle },
  ) {
    return paintMask(heap, a.scene, a.lines, a.lowest, a.style);
  },

  /** How much of the picture a part takes in, its mean light in EV, and how sure a sky is of one. */
  measurePart(
    { heap }: StepContext,
    a: { grid: ColourGrid; part: Pick<Part, "shapes" | "inverted" | "feather"> },
  ): { share: number; meanEv: number; skySure?: number } {
    const grid = maskGridOf(heap, a.grid);
    const mask = maskOfPart(heap, a.part, grid);
    let sum = 0;
    let light = 0;
    for (let i = 0; i < mask.length; i++) {
      sum += mask[i]!;
      light += mask[i]! * grid.light[i]!;
    }
    const hasSky = a.part.shapes.some((shape) => shape.type === "sky");
    return {
      share: sum / mask.length,
      meanEv: sum > 0 ? light / sum : 0,
      ...(hasSky ? { skySure: findSky(grid).sure } : {}),
    };
  },

  /** What is seen at a place, so that what is like it can be found. */
  likeness(
    { heap }: StepContext,
    a: { grid: ColourGrid; at: readonly [number, number] },
  ): Likeness {
    return likenessOf(maskGridOf(heap, a.grid), a.at);
  },

  findAir({ heap }: StepContext, a: { grid: ColourGrid; at: number }): NonNullable<Finish["air"]> {
    heap.ensure(a.at + linesBytes(a.grid));
    return findAir(heap, a.grid, a.at);
  },

  spreadLight(
    { heap }: StepContext,
    a: {
      grid: ColourGrid;
      tone: ToneField;
      moved: number;
      spread: { threshold: number; reach: number };
      at: number;
    },
  ): GlowGrid {
    heap.ensure(a.at + glowBytes(a.grid));
    const n = a.grid.width * a.grid.height;
    const light = heap.f32(colourPlane(a.grid, 0), n);
    const shown = shownEvOf(heap, light, a.grid, a.tone, a.moved);
    return spreadLight(heap, a.grid, shown, a.spread, a.at);
  },

  lightField(
    { heap }: StepContext,
    a: {
      grid: ToneGrid;
      basis: number;
      tone: ToneField;
      moved: number;
      adjustments: Adjustments;
      at: number;
    },
  ): GridLines {
    heap.ensure(a.at + linesBytes(a.grid));
    return lightField(heap, a.grid, a.basis, a.tone, a.moved, a.adjustments, a.at);
  },

  measureNoise({ heap }: StepContext, a: { scene: Accumulator; byWeights: boolean }): SceneNoise {
    return measureNoise(heap, a.scene, a.byWeights);
  },

  /** The neighbourhoods of a tile, to their place in planes over the whole raster. */
  neighbourhoods(
    { heap }: StepContext,
    a: {
      scene: Accumulator;
      finish: Finish;
      lowest: number;
      tile: Tile;
      at: number;
      planeBytes: number;
    },
  ) {
    const plan = neighbourhoodPlan(a.finish);
    heap.ensure(a.at + neighbourhoodPlanes(plan) * a.planeBytes);
    const { scale, noise } = a.finish;
    neighbourhoods(
      heap,
      a.scene,
      plan,
      { scale, noise, lowest: a.lowest },
      a.tile,
      a.at + (a.tile.y * a.scene.width + a.tile.x) * 4,
      a.planeBytes,
      a.scene.width,
    );
  },
};

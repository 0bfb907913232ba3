import type { Heap } from "../../kernels/heap";
import {
  encodingTable,
  KINDS,
  renderConstants,
  type PixelKind,
  type Planes,
  type RenderSettings,
} from "../tone/renderStrip";
import { lightRow, localMasks } from "../tone/localLight";
import type { ToneField } from "../tone/toneField";
import type { Adjustments } from "./adjustments";
import { addSlope, addVignette } from "./acrossPicture";
import type { Finish, GlowGrid, GridLines } from "./finish";
import { detailFactor } from "./lightField";
import {
  neighbourhoodPlan,
  neighbourhoodPlanes,
  neighbourhoods,
  neighbourhoodScratch,
  planesOf,
  type NeighbourhoodPlan,
  type Tile,
} from "./neighbourhood";
import { preparePart } from "./preparedPart";

/**
 * Tiles in which neighbourhoods are found, px. They lie at whole multiples from the picture's own
 * corner, so that a pixel comes out the same in whatever band or strip it is asked for.
 */
export const TILE_ROWS = 256;
const TILE_COLUMNS = 1024;

/** Neighbourhoods that were found before: planes over the whole raster, at an address. */
export interface KnownNeighbourhoods {
  at: number;
  planeBytes: number;
}

/** What a strip is rendered from. */
export interface FinishedStrip {
  scene: Planes;
  field: ToneField;
  settings: RenderSettings;
  finish: Finish;
  known?: KnownNeighbourhoods;
}

/** Middle grey, EV from display white. */
const MIDDLE_EV = Math.log2(0.18);
/** Slope of a contrast of -1 to 1. */
const contrastFactor = (contrast: number): number => 2 ** (contrast * 0.8);
/** Columns of a grid at most, as a row of it is prepared. */
const GRID_LINE_BYTES = 1400 * 8 + 64;
/** Rows of scratch that a strip works in beside the neighbourhoods. */
const ROWS = 24;

/** Bytes of scratch of a strip of a region so many px wide. */
export const finishedScratch = (width: number, hasNeighbourhoods: boolean): number => {
  const columns = Math.min(width, TILE_COLUMNS);
  const planes = (columns + 16) * TILE_ROWS * 4 * 12;
  return (
    (columns + 32) * 4 * (ROWS + 64) +
    GRID_LINE_BYTES * 2 +
    (1 << 20) +
    (hasNeighbourhoods ? neighbourhoodScratch(columns, TILE_ROWS) + planes : 0)
  );
};

/**
 * Rows y0 to y1 of a region, toned and finished: each part's light in EV on top of the tone field's,
 * then air, glow and the roll-off to white in linear light, then its curves and colour, as far as
 * each pixel is in it.
 *
 * @param dst  address of the region's first row, tightly packed
 */
export function renderFinished(
  heap: Heap,
  strip: FinishedStrip,
  region: Tile,
  kind: PixelKind,
  dst: number,
  y0: number,
  y1: number,
): void {
  const mark = heap.mark();
  const { scene } = strip;
  const { bytes } = KINDS[kind];
  const plan = neighbourhoodPlan(strip.finish);
  const top = topOf(scene);
  const painter = painterOf(heap, strip, plan, Math.min(region.width, TILE_COLUMNS), kind);
  for (const tile of tilesOf(region, y0, y1, top)) {
    const inner = heap.mark();
    const known = strip.known
      ? { at: strip.known.at, planeBytes: strip.known.planeBytes, stride: scene.width, x: 0, y: 0 }
      : findNeighbourhoods(heap, strip, plan, tile);
    for (let y = 0; y < tile.wanted.height; y++) {
      const [x, row] = [tile.wanted.x, tile.wanted.y + y];
      const at = known && known.at + ((row - known.y) * known.stride + x - known.x) * 4;
      painter.paint(x, row, tile.wanted.width, at, known?.planeBytes ?? 0);
      const to = dst + ((row - region.y) * region.width + x - region.x) * bytes;
      heap.u8(to, tile.wanted.width * bytes).set(heap.u8(painter.out, tile.wanted.width * bytes));
    }
    heap.release(inner);
  }
  heap.release(mark);
}

/** The row of the whole picture that is a raster's first. */
function topOf({ lies, height }: Planes): number {
  return lies ? Math.round((lies.y * height) / lies.height) : 0;
}

interface WantedTile {
  /** the whole tile, as far as the raster goes, and what of it is wanted; px of the raster */
  whole: Tile;
  wanted: Tile;
}

/** The tiles that rows y0 to y1 of a region lie in. */
function tilesOf(region: Tile, y0: number, y1: number, top: number): WantedTile[] {
  const tiles: WantedTile[] = [];
  const [from, to] = [region.y + y0, region.y + y1];
  const [left, right] = [region.x, region.x + region.width];
  for (let ty = Math.floor((from + top) / TILE_ROWS) * TILE_ROWS - top; ty < to; ty += TILE_ROWS)
    for (let tx = Math.floor(left / TILE_COLUMNS) * TILE_COLUMNS; tx < right; tx += TILE_COLUMNS) {
      const x = Math.max(tx, left);
      const y = Math.max(ty, from);
      tiles.push({
        whole: { x: tx, y: ty, width: TILE_COLUMNS, height: TILE_ROWS },
        wanted: {
          x,
          y,
          width: Math.min(tx + TILE_COLUMNS, right) - x,
          height: Math.min(ty + TILE_ROWS, to) - y,
        },
      });
    }
  return tiles;
}

/** The neighbourhoods of a tile in scratch; undefined if no part needs any. */
function findNeighbourhoods(
  heap: Heap,
  { scene, field, finish }: FinishedStrip,
  plan: NeighbourhoodPlan,
  { whole, wanted }: WantedTile,
): { at: number; planeBytes: number; stride: number; x: number; y: number } | undefined {
  const count = neighbourhoodPlanes(plan);
  if (!count) return undefined;
  const x = Math.max(0, whole.x);
  const y = Math.max(0, whole.y);
  const width = Math.min(scene.width, whole.x + whole.width) - x;
  // rows of the tile that nobody asked for are found too: they decide what the others are
  const height = Math.min(scene.height, Math.max(whole.y + whole.height, wanted.y)) - y;
  const planeBytes = width * height * 4 + 64;
  const at = heap.alloc(planeBytes * count);
  neighbourhoods(
    heap,
    scene,
    plan,
    { scale: finish.scale, noise: finish.noise, lowest: field.floor },
    { x, y, width, height },
    at,
    planeBytes,
    width,
  );
  return { at, planeBytes, stride: width, x, y };
}

interface Painter {
  /** address of the row's samples after `paint` */
  out: number;
  /** @param near  address of the row's neighbourhoods, `nearPlane` apart; none if undefined */
  paint(x: number, y: number, n: number, near: number | undefined, nearPlane: number): void;
}

/** Everything that does not change from row to row, and what paints one. */
function painterOf(
  heap: Heap,
  strip: FinishedStrip,
  plan: NeighbourhoodPlan,
  columns: number,
  kind: PixelKind,
): Painter {
  const { scene, field, settings, finish } = strip;
  const { k } = heap;
  const { code, bytes } = KINDS[kind];
  const rowBytes = columns * 4 + 64;
  const row = (): number => heap.alloc(rowBytes);
  const neutral = heap.put([1, 1, 1, 0, 1, 0, 1, 1, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]);
  const constants = heap.put(renderConstants(settings, field));
  const table = heap.put(encodingTable(settings.space));
  const line = heap.alloc(GRID_LINE_BYTES);
  const [slopes, offsets, light, ev, values, strength, colour] = Array.from({ length: 7 }, row) as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const linear = heap.alloc(rowBytes * 3);
  const toned = heap.alloc(rowBytes * 3);
  const out = heap.alloc((columns + 4) * bytes + 64);
  const parts = finish.parts.map((part) => preparePart(heap, part, row()));
  const lies = scene.lies ?? { x: 0, y: 0, width: 1, height: 1 };
  const local = settings.local?.length
    ? localMasks(settings.local, scene.width / lies.width / (scene.height / lies.height))
    : [];
  const planes = planesOf(plan);

  /** Slopes and offsets of lines on a grid, for a row. */
  const sample = (lines: GridLines, s: number, x: number, y: number, n: number): void => {
    const sx = (lines.width * lies.width) / scene.width;
    const sy = (lines.height * lies.height) / scene.height;
    k.gainRow(
      lines.slopes,
      lines.offsets,
      lines.width,
      lines.height,
      (x + 0.5) * sx + lines.width * lies.x - 0.5,
      sx,
      (y + 0.5) * sy + lines.height * lies.y - 0.5,
      n,
      s,
      line,
      slopes,
      offsets,
    );
  };
  const place = (x: number, y: number) => ({
    x: lies.x + ((x + 0.5) * lies.width) / scene.width,
    step: lies.width / scene.width,
    y: lies.y + ((y + 0.5) * lies.height) / scene.height,
  });
  /** A row's light, without noise where that is asked for. */
  const readLight = (
    x: number,
    y: number,
    n: number,
    near: number | undefined,
    nearPlane: number,
  ) => {
    const from = scene.ptr + (y * scene.width + x) * 4;
    for (let c = 0; c < 3; c++)
      heap.f32(linear + c * rowBytes, n).set(heap.f32(from + c * scene.planeBytes, n));
    k.logLight(linear, rowBytes, n, field.floor, light);
    for (const part of parts)
      if (part.mask) {
        sample(part.mask, neutral, x, y, n);
        k.partMask(light, slopes, offsets, n, part.amount, part.row);
      } else heap.f32(part.row, n).fill(part.amount);
    if (!plan.clean || near === undefined) return;
    sumOf(strength, n, (set) => set.noiseReduction);
    sumOf(colour, n, (set) => set.colourNoise);
    holdBelowOne(strength, n);
    holdBelowOne(colour, n);
    k.mixDenoised(linear, rowBytes, near, nearPlane, strength, colour, n);
  };
  const holdBelowOne = (at: number, n: number): void => {
    const held = heap.f32(at, n);
    for (let i = 0; i < n; i++) if (held[i]! > 1) held[i] = 1;
  };
  /** What all parts together ask of something that is found once. */
  const sumOf = (to: number, n: number, of: (set: Adjustments) => number): void => {
    heap.f32(to, n).fill(0);
    for (const { adjustments, row: mask } of parts) {
      const value = of(adjustments);
      if (value) k.addRamp(mask, n, value, 0, to);
    }
  };
  const clear = (x: number, y: number, n: number): void => {
    if (!finish.air) return;
    sumOf(strength, n, (set) => set.haze);
    sample(finish.air, neutral, x, y, n);
    heap.f32(values, n).fill(0);
    k.addLines(light, slopes, offsets, 0, n, values);
    const [red, green, blue] = finish.air.colour;
    k.clearAir(linear, rowBytes, values, strength, n, red, green, blue);
  };
  /** EV of a row: the tone's, and on top of it each part's. */
  const sumLight = (
    x: number,
    y: number,
    n: number,
    near: number | undefined,
    nearPlane: number,
  ) => {
    sample(field, constants, x, y, n);
    heap.f32(ev, n).fill(0);
    k.addLines(light, slopes, offsets, 0, n, ev);
    for (const part of parts) {
      const { adjustments: set, row: mask } = part;
      if (part.light) {
        sample(part.light, neutral, x, y, n);
        k.addLines(light, slopes, offsets, mask, n, ev);
      }
      if (set.exposure) k.addRamp(mask, n, set.exposure, 0, ev);
      if (near !== undefined) {
        const add = (plane: number, factor: number): void =>
          k.addMasked(near + plane * nearPlane, mask, n, factor, ev);
        if (set.fine) add(planes.fine, detailFactor(set.fine));
        if (set.small) add(planes.small, detailFactor(set.small));
        if (set.sharpening) add(planes.sharp + sharpIndex(plan, set), set.sharpening);
      }
      const at = place(x, y);
      if (set.slope) addSlope(heap, set, at, mask, n, ev);
      if (set.vignette) addVignette(heap, set, at, finish.aspect, mask, n, ev);
      if (set.contrast)
        k.steepen(light, mask, n, contrastFactor(set.contrast), MIDDLE_EV + set.pivot, ev);
    }
  };
  const glow = (x: number, y: number, n: number): void => {
    for (const { glow: spread, adjustments, row: mask } of parts) {
      if (!spread) continue;
      for (let c = 0; c < 3; c++) {
        sample(glowLines(spread, c), neutral, x, y, n);
        k.addMasked(offsets, mask, n, adjustments.glow, toned + c * rowBytes);
      }
    }
  };
  const colourise = (n: number, near: number | undefined, nearPlane: number): void => {
    for (const { curves, colours, row: mask, adjustments: set } of parts) {
      if (curves)
        k.curveRow(toned, rowBytes, mask, n, curves[0]!, curves[1]!, curves[2]!, curves[3]!);
      if (!colours) continue;
      const hasRims = (set.purpleFringe > 0 || set.greenFringe > 0) && near !== undefined;
      const rims = hasRims
        ? near + (planes.rims + plan.rims.indexOf(set.fringeReach)) * nearPlane
        : 0;
      k.colourRow(toned, rowBytes, mask, rims, n, colours.constants, colours.hues);
    }
  };
  return {
    out,
    paint(x, y, n, near, nearPlane) {
      readLight(x, y, n, near, nearPlane);
      const at = place(x, y);
      if (local.length) lightRow(heap, local, linear, rowBytes, n, at.x, at.step, at.y);
      clear(x, y, n);
      sumLight(x, y, n, near, nearPlane);
      k.applyGain(linear, rowBytes, ev, n, constants, toned, rowBytes);
      for (const { gains, row: mask } of parts)
        gains?.forEach((gain, c) => k.scaleMasked(mask, n, gain, toned + c * rowBytes));
      glow(x, y, n);
      k.rollOff(toned, rowBytes, n, field.shoulderStart, field.white);
      colourise(n, near, nearPlane);
      k.outRow(toned, rowBytes, n, constants, table, code, out);
    },
  };
}

const sharpIndex = (plan: NeighbourhoodPlan, set: Adjustments): number =>
  plan.sharp.findIndex(
    ({ radius, edges }) => radius === set.sharpeningRadius && edges === set.sharpeningEdges,
  );

/** One channel of spread light as lines without a slope: the sampler's own form. */
const glowLines = ({ width, height, at }: GlowGrid, channel: number): GridLines => {
  const plane = at + channel * width * height * 4;
  return { width, height, slopes: plane, offsets: plane };
};

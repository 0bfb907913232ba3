import { patchMask } from "../bracket/ghostPatches";
import { lightMask } from "../colour/localWhite";
import { clamp } from "../math/clamp";
import { smoothstep } from "../math/smoothstep";
import { hueBetween, hueOf } from "./oklab";
import type { Likeness, PartShape } from "./part";

/** The grid on which parts are found, with what is known of each cell. */
export interface MaskGrid {
  width: number;
  height: number;
  /** log2 luminance, Oklab's a and b at equal light, texture in EV */
  light: Float32Array;
  a: Float32Array;
  b: Float32Array;
  texture: Float32Array;
  /** the scene's middle, EV */
  middle: number;
}

type Shape<T extends PartShape["type"]> = Extract<PartShape, { type: T }>;
type Masks = {
  [T in PartShape["type"]]: (shape: Shape<T>, grid: MaskGrid) => Float32Array;
};

/** A mask of which each cell is computed by itself; x and y are shares. */
function byCell(
  { width, height }: MaskGrid,
  of: (i: number, x: number, y: number) => number,
): Float32Array {
  const mask = new Float32Array(width * height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) mask[i] = of(i, (x + 0.5) / width, (y + 0.5) / height);
  return mask;
}

/** How unlike two things may be: EV of light, Oklab's a and b, EV of texture. */
const UNLIKE = { light: 0.9, colour: 0.035, texture: 0.35 };

/** How alike a cell is to something, 1 to 0. */
function likenessAt(grid: MaskGrid, i: number, like: Likeness, tolerance: number): number {
  const light = (grid.light[i]! - grid.middle - like.light) / UNLIKE.light;
  const a = (grid.a[i]! - like.a) / UNLIKE.colour;
  const b = (grid.b[i]! - like.b) / UNLIKE.colour;
  const texture = (grid.texture[i]! - like.texture) / UNLIKE.texture;
  const distance = Math.sqrt(light * light + a * a + b * b + texture * texture) / tolerance;
  return 1 - smoothstep((distance - 0.7) / 0.9);
}

/** What is seen at a place: the mean over a few cells. */
export function likenessOf(grid: MaskGrid, at: readonly [number, number]): Likeness {
  const { width, height } = grid;
  const cx = clamp(Math.floor(at[0] * width), 0, width - 1);
  const cy = clamp(Math.floor(at[1] * height), 0, height - 1);
  const sum = { light: 0, a: 0, b: 0, texture: 0 };
  let count = 0;
  for (let y = Math.max(0, cy - 2); y <= Math.min(height - 1, cy + 2); y++)
    for (let x = Math.max(0, cx - 2); x <= Math.min(width - 1, cx + 2); x++) {
      const i = y * width + x;
      sum.light += grid.light[i]! - grid.middle;
      sum.a += grid.a[i]!;
      sum.b += grid.b[i]!;
      sum.texture += grid.texture[i]!;
      count++;
    }
  return {
    light: sum.light / count,
    a: sum.a / count,
    b: sum.b / count,
    texture: sum.texture / count,
  };
}

/** The mask of each shape. */
const SHAPE_MASKS: Masks = {
  outline: ({ points }, grid) =>
    patchMask(
      { shape: "outline", points: points.map(([x, y]) => [x, y]), radius: 0, soft: 0 },
      grid,
    ),

  brush: (shape, grid) => {
    const mask = strokeMask(shape, grid);
    return shape.edgeAware ? onItsSide(shape, mask, grid) : mask;
  },

  gradient: ({ from, to }, grid) =>
    lightMask({ shape: "gradient", points: [[...from], [...to]], radius: 0, soft: 0 }, grid),

  ellipse({ centre, radii, angle, feather }, grid) {
    const turn = (-angle * Math.PI) / 180;
    const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
    const aspect = grid.height / grid.width;
    return byCell(grid, (_, x, y) => {
      // lengths are shares of the width
      const dx = x - centre[0];
      const dy = (y - centre[1]) * aspect;
      const u = (dx * cos - dy * sin) / radii[0];
      const v = (dx * sin + dy * cos) / radii[1];
      const d = Math.hypot(u, v);
      if (feather <= 0) return d <= 1 ? 1 : 0;
      return 1 - smoothstep((d - (1 - feather)) / feather);
    });
  },

  tones({ from, to, fade }, grid) {
    const { light, middle } = grid;
    return byCell(grid, (i) => {
      const ev = light[i]! - middle;
      return smoothstep((ev - from) / fade + 1) * smoothstep((to - ev) / fade + 1);
    });
  },

  colours({ hue, reach, least }, grid) {
    const { a, b } = grid;
    return byCell(grid, (i) => {
      const chroma = Math.hypot(a[i]!, b[i]!);
      const off = Math.abs(hueBetween(hue, hueOf(a[i]!, b[i]!)));
      const strong = smoothstep((chroma - least * 0.6) / Math.max(0.004, least * 0.8));
      return strong * (1 - smoothstep((off - reach * 0.7) / (reach * 0.6)));
    });
  },

  sample({ at, like, reach, tolerance }, grid) {
    const aspect = grid.height / grid.width;
    return byCell(grid, (i, x, y) => {
      const d = Math.hypot(x - at[0], (y - at[1]) * aspect) / reach;
      return d >= 1.3
        ? 0
        : likenessAt(grid, i, like, tolerance) * (1 - smoothstep((d - 0.7) / 0.6));
    });
  },

  sky: (_, grid) => findSky(grid).mask,
};

/** The mask of a shape on the grid. */
export const shapeMask = <T extends PartShape["type"]>(
  shape: Shape<T>,
  grid: MaskGrid,
): Float32Array => SHAPE_MASKS[shape.type as T](shape, grid);

/** Whether a shape's border follows the picture's own edges. */
export const followsEdges = (shape: PartShape): boolean =>
  ["tones", "colours", "sample", "sky"].includes(shape.type) ||
  (shape.type === "brush" && shape.edgeAware);

/** How far a stroke covers each cell: its flow, fading over its softness. */
function strokeMask(
  { points, radius, softness, flow }: Shape<"brush">,
  { width, height }: MaskGrid,
): Float32Array {
  const mask = new Float32Array(width * height);
  const r = Math.max(0.7, radius * width);
  const inner = r * (1 - softness);
  for (let k = 0; k < points.length; k++) {
    const [x1, y1] = [points[k]![0] * width, points[k]![1] * height];
    const before = points[Math.max(0, k - 1)]!;
    const [x0, y0] = [before[0] * width, before[1] * height];
    const [dx, dy] = [x1 - x0, y1 - y0];
    const length = dx * dx + dy * dy;
    const top = Math.max(0, Math.floor(Math.min(y0, y1) - r));
    const bottom = Math.min(height - 1, Math.ceil(Math.max(y0, y1) + r));
    const left = Math.max(0, Math.floor(Math.min(x0, x1) - r));
    const right = Math.min(width - 1, Math.ceil(Math.max(x0, x1) + r));
    for (let y = top; y <= bottom; y++)
      for (let x = left; x <= right; x++) {
        const [px, py] = [x + 0.5 - x0, y + 0.5 - y0];
        const t = length ? clamp((px * dx + py * dy) / length, 0, 1) : 0;
        const d = Math.hypot(px - t * dx, py - t * dy);
        if (d > r) continue;
        const covered = flow * (1 - smoothstep((d - inner) / Math.max(0.5, r - inner)));
        const i = y * width + x;
        if (covered > mask[i]!) mask[i] = covered;
      }
  }
  return mask;
}

/** How unlike the start of a stroke a cell may be and still be on its side. */
const SIDE = { light: 0.8, colour: 0.05 };

/**
 * Keeps of a stroke what is connected with its beginning through cells like it: the brush stays on
 * its side of an edge. What it is like drifts along with the stroke as far as it goes on smoothly.
 */
function onItsSide(
  { points }: Shape<"brush">,
  mask: Float32Array,
  { width, height, light, a, b }: MaskGrid,
): Float32Array {
  const cellOf = ([x, y]: readonly [number, number]): number =>
    clamp(Math.floor(y * height), 0, height - 1) * width +
    clamp(Math.floor(x * width), 0, width - 1);
  const reference = { light: 0, a: 0, b: 0 };
  let known = 0;
  const likeReference = (i: number): number => {
    const l = (light[i]! - reference.light) / SIDE.light;
    const u = (a[i]! - reference.a) / SIDE.colour;
    const w = (b[i]! - reference.b) / SIDE.colour;
    return 1 - smoothstep((Math.sqrt(l * l + u * u + w * w) - 0.6) / 0.8);
  };
  const queue: number[] = [];
  const reached = new Uint8Array(width * height);
  for (const point of points) {
    const i = cellOf(point);
    if (known && likeReference(i) < 0.5) continue;
    known = Math.min(known + 1, 30);
    reference.light += (light[i]! - reference.light) / known;
    reference.a += (a[i]! - reference.a) / known;
    reference.b += (b[i]! - reference.b) / known;
    if (!reached[i]) queue.push(i);
    reached[i] = 1;
  }
  const out = new Float32Array(width * height);
  for (let q = 0; q < queue.length; q++) {
    const i = queue[q]!;
    const like = likeReference(i);
    out[i] = mask[i]! * like;
    if (like < 0.25) continue;
    const x = i % width;
    for (const next of [x > 0 ? i - 1 : i, x < width - 1 ? i + 1 : i, i - width, i + width]) {
      if (next < 0 || next >= reached.length || reached[next] || mask[next]! <= 0) continue;
      reached[next] = 1;
      queue.push(next);
    }
  }
  return out;
}

/** What a search for the sky found. */
export interface Sky {
  mask: Float32Array;
  /** 0 to 1: how sure it is that this is sky */
  sure: number;
}

/** Texture under which a cell may be sky, EV, and above which it is none. */
const SMOOTH_EV = 0.06;
const ROUGH_EV = 0.3;
/** Rows from the top, as a share, in which a sky begins. */
const TOP_SHARE = 0.08;
/** Share of the top that is sky at least. */
const LEAST_TOP = 0.06;

/**
 * Finds the sky: what is smooth, bluish or neutral and lighter than the scene's middle, begins at the
 * top of the picture and goes on from there without an edge.
 */
export function findSky(grid: MaskGrid): Sky {
  const { width, height, light, a, b, texture, middle } = grid;
  const n = width * height;
  const score = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const calm = 1 - smoothstep((texture[i]! - SMOOTH_EV) / (ROUGH_EV - SMOOTH_EV));
    const bright = smoothstep((light[i]! - middle + 1) / 1.5);
    // from cyan over blue to grey; evening skies are yellow and red, but brighter still
    const blue = smoothstep((0.02 - b[i]!) / 0.05) * (1 - smoothstep((a[i]! - 0.06) / 0.06));
    const evening = smoothstep((light[i]! - middle - 1.2) / 1.5);
    score[i] = calm * bright * Math.max(blue, evening);
  }
  const top = Math.max(1, Math.round(height * TOP_SHARE));
  const queue: number[] = [];
  const reached = new Uint8Array(n);
  for (let i = 0; i < top * width; i++)
    if (score[i]! > 0.5) {
      reached[i] = 1;
      queue.push(i);
    }
  const begun = queue.length / (top * width);
  for (let q = 0; q < queue.length; q++) {
    const i = queue[q]!;
    const x = i % width;
    for (const next of [x > 0 ? i - 1 : i, x < width - 1 ? i + 1 : i, i - width, i + width]) {
      if (next < 0 || next >= n || reached[next] || score[next]! < 0.35) continue;
      // clouds change slowly; what is not sky begins with an edge
      if (Math.abs(light[next]! - light[i]!) > 0.5) continue;
      reached[next] = 1;
      queue.push(next);
    }
  }
  const mask = new Float32Array(n);
  let sum = 0;
  for (const i of queue) {
    mask[i] = Math.min(1, score[i]! * 1.6);
    sum += score[i]!;
  }
  const typical = queue.length ? sum / queue.length : 0;
  const sure = begun < LEAST_TOP ? 0 : clamp(typical * Math.min(1, begun / 0.2), 0, 1);
  return sure < 0.3 ? { mask: new Float32Array(n), sure } : { mask, sure };
}

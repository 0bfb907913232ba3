import type { Heap } from "../../kernels/heap";
import type { Accumulator } from "../raster/accumulator";
import type { Rectangle } from "../raster/largestRectangle";

/** Rows of a merged scene: all of it, or a window whose first px lies at x, y of the picture. */
export interface PlacedRows extends Accumulator {
  x: number;
  y: number;
}

/** Below this share of a place's mean light its logarithm turns into a line. */
const SOFT_FLOOR = 0.02;
const LEAST_FLOOR = 1e-9;

/**
 * Light on a scale on which equal steps are equal ratios, down to a floor: differences of it are
 * changes of exposure, whatever the light.
 */
export class LogScale {
  private readonly floor: number;

  /** The scale for a place whose light is about `mean`. */
  constructor(mean: number) {
    this.floor = Math.max(LEAST_FLOOR, mean * SOFT_FLOOR);
  }

  of(light: number): number {
    return Math.log2(Math.max(0, light) + this.floor);
  }

  light(value: number): number {
    return Math.max(0, 2 ** value - this.floor);
  }
}

/** The planes of rows of a scene, for reading and writing at places of the picture. */
export class ScenePlanes {
  readonly colours: readonly [Float32Array, Float32Array, Float32Array];
  readonly weight: Float32Array;

  /** A view of the rows; valid as long as the memory does not grow. */
  constructor(
    heap: Heap,
    private readonly rows: PlacedRows,
  ) {
    const plane = (c: number): Float32Array =>
      heap.f32(rows.ptr + c * rows.planeBytes, rows.width * rows.height);
    this.colours = [plane(0), plane(1), plane(2)];
    this.weight = plane(3);
  }

  /** Index of a place; -1 where the rows do not reach. */
  indexOf(x: number, y: number): number {
    const u = x - this.rows.x;
    const v = y - this.rows.y;
    if (u < 0 || v < 0 || u >= this.rows.width || v >= this.rows.height) return -1;
    return v * this.rows.width + u;
  }

  /** Mean light of the covered places of a region; 0 where there are none. */
  meanLight(region: Rectangle): number {
    let sum = 0;
    let count = 0;
    for (let y = region.y; y < region.y + region.height; y++)
      for (let x = region.x; x < region.x + region.width; x++) {
        const i = this.indexOf(x, y);
        if (i < 0 || !(this.weight[i]! > 0)) continue;
        sum += (this.colours[0][i]! + this.colours[1][i]! + this.colours[2][i]!) / 3;
        count++;
      }
    return count && Number.isFinite(sum) ? Math.max(0, sum / count) : 0;
  }
}

/** A part of a picture on the logarithmic scale, at 1/2^level of its size. */
export interface LogWindow {
  width: number;
  height: number;
  /** R, G, B interleaved */
  colour: Float32Array;
  /** 1 where texture may be taken from */
  usable: Uint8Array;
}

/** Reads a window of the picture. @param usableAt  whether a covered place may be taken from */
export function readLogWindow(
  planes: ScenePlanes,
  region: Rectangle,
  scale: LogScale,
  usableAt: (x: number, y: number) => boolean,
): LogWindow {
  const { width, height } = region;
  const colour = new Float32Array(width * height * 3);
  const usable = new Uint8Array(width * height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const at = planes.indexOf(region.x + x, region.y + y);
      if (at < 0 || !(planes.weight[at]! > 0)) continue;
      for (let c = 0; c < 3; c++) colour[i * 3 + c] = scale.of(planes.colours[c]![at]!);
      usable[i] = usableAt(region.x + x, region.y + y) ? 1 : 0;
    }
  return { width, height, colour, usable };
}

/** A window at half its size; usable where all of a cell is. */
export function halveWindow({ width, height, colour, usable }: LogWindow): LogWindow {
  const w = width >> 1;
  const h = height >> 1;
  const small = {
    width: w,
    height: h,
    colour: new Float32Array(w * h * 3),
    usable: new Uint8Array(w * h),
  };
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const a = 2 * y * width + 2 * x;
      const cells = [a, a + 1, a + width, a + width + 1] as const;
      small.usable[i] = cells.every((cell) => usable[cell]) ? 1 : 0;
      for (let c = 0; c < 3; c++)
        small.colour[i * 3 + c] =
          cells.reduce((sum, cell) => sum + colour[cell * 3 + c]!, 0) / cells.length;
    }
  return small;
}

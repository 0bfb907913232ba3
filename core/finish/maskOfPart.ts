import type { Heap } from "../../kernels/heap";
import { boxRows } from "../raster/boxMean";
import { quantiles } from "../math/quantiles";
import { colourPlane, type ColourGrid } from "./colourGrid";
import type { GridLines } from "./finish";
import { fitLines, flatLines } from "./lines";
import type { Part } from "./part";
import { followsEdges, shapeMask, type MaskGrid } from "./shapeMasks";

/** The grid's planes as masks are found on them. */
export function maskGridOf(heap: Heap, grid: ColourGrid): MaskGrid {
  const { width, height } = grid;
  const plane = (i: number): Float32Array => heap.f32(colourPlane(grid, i), width * height);
  const [middle] = quantiles(heap, colourPlane(grid, 0), width * height, [0.5]) as [number];
  return { width, height, light: plane(0), a: plane(1), b: plane(2), texture: plane(3), middle };
}

/** All shapes of a part put together, inverted and feathered: 0 to 1 for each cell. */
export function maskOfPart(
  heap: Heap,
  { shapes, inverted, feather }: Pick<Part, "shapes" | "inverted" | "feather">,
  grid: MaskGrid,
): Float32Array {
  const n = grid.width * grid.height;
  const mask = new Float32Array(n);
  for (const [order, shape] of shapes.entries()) {
    const own = shapeMask(shape, grid);
    const joining = order === 0 && shape.joining === "intersect" ? "add" : shape.joining;
    for (let i = 0; i < n; i++) {
      const [was, now] = [mask[i]!, own[i]!];
      // as probabilities of two independent things, so that soft borders meet without a line
      if (joining === "add") mask[i] = was + now - was * now;
      else mask[i] = joining === "subtract" ? was * (1 - now) : was * now;
    }
  }
  if (inverted) for (let i = 0; i < n; i++) mask[i] = 1 - mask[i]!;
  return feathered(heap, mask, grid, feather);
}

/** A mask with a soft border, `feather` of the width across. */
function feathered(
  heap: Heap,
  mask: Float32Array,
  { width, height }: MaskGrid,
  feather: number,
): Float32Array {
  const radius = Math.round((feather * width) / 2);
  if (radius < 1) return mask;
  const mark = heap.mark();
  const rows = heap.alloc(boxRows(width));
  const other = heap.alloc(mask.length * 4 + 64);
  const at = heap.put(mask);
  heap.k.boxMean(at, width, height, radius, rows, other, 0, height);
  heap.k.boxMean(other, width, height, radius, rows, at, 0, height);
  const soft = heap.f32(at, mask.length).slice();
  heap.release(mark);
  return soft;
}

/**
 * A part's mask as lines in log luminance, which carry it to any size: along the picture's own edges
 * where one of its shapes follows them.
 *
 * @param at  where the lines go, `linesBytes` of the grid
 */
export function maskLines(
  heap: Heap,
  part: Pick<Part, "shapes" | "inverted" | "feather">,
  grid: ColourGrid,
  at: number,
): GridLines {
  const { width, height } = grid;
  const mark = heap.mark();
  const mask = maskOfPart(heap, part, maskGridOf(heap, grid));
  const lines = part.shapes.some(followsEdges)
    ? fitLines(heap, heap.put(mask), colourPlane(grid, 0), width, height, at)
    : flatLines(heap, mask, width, height, at);
  heap.release(mark);
  return lines;
}

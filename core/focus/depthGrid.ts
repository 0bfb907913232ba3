/** Depth of the whole picture, small enough to be drawn in space: places along the focus travel, between frames too, row by row. */
export interface DepthGrid { width: number; height: number; places: Float32Array }

/** Cells along the longer side. */
const LONG_EDGE = 400;

/** A map of depth in means over square cells. */
export function depthGrid(depth: Float32Array, w: number, h: number): DepthGrid {
  const side = Math.max(1, Math.ceil(Math.max(w, h) / LONG_EDGE)), width = Math.max(1, Math.floor(w / side)), height = Math.max(1, Math.floor(h / side)), across = Math.min(side, w), down = Math.min(side, h);
  return { width, height, places: Float32Array.from({ length: width * height }, (_, i) => {
    let sum = 0;
    const left = (i % width) * side, top = Math.floor(i / width) * side;
    for (let y = top; y < top + down; y++) for (let x = left; x < left + across; x++) sum += depth[y * w + x]!;
    return sum / (across * down);
  }) };
}

/** The cells whose middles lie in a part of the picture, given in shares of it. */
export function partOf({ width, height, places }: DepthGrid, part: { x: number; y: number; width: number; height: number }): DepthGrid {
  const [left, w] = cellsIn(part.x, part.width, width), [top, h] = cellsIn(part.y, part.height, height);
  return { width: w, height: h, places: Float32Array.from({ length: w * h }, (_, i) => places[(top + Math.floor(i / w)) * width + left + (i % w)]!) };
}
function cellsIn(from: number, share: number, n: number): [first: number, count: number] {
  const first = Math.min(n - 1, Math.max(0, Math.ceil(from * n - 0.5)));
  return [first, Math.max(1, Math.min(n, Math.ceil((from + share) * n - 0.5)) - first)];
}

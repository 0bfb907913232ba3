import type { AlignedFrame, GhostMap } from "../align/alignedFrame";
import { sharpGrid, type RunSharpness } from "../focus/sharpMap";
import { clamp } from "../math/clamp";
import { invert, multiply, project, type Matrix3 } from "../math/matrix3";

/**
 * Frames as they lie in a picture that is mapped from its reference frame: their places, and what
 * was found of them on a grid over the reference frame.
 *
 * @param fromPicture  the picture's px to the reference frame's, both at full size
 */
export const inPicture = (frames: readonly AlignedFrame[], fromPicture: Matrix3): AlignedFrame[] =>
  frames.map(({ ghosts, differs, ...frame }) => ({
    ...frame,
    fromReference: multiply(frame.fromReference, fromPicture),
    ...(ghosts ? { ghosts: mappedMap(ghosts, fromPicture) } : {}),
    ...(differs ? { differs: mappedMap(differs, fromPicture) } : {}),
  }));

/** A measure over the reference frame as it lies in the picture; borders are repeated. */
function mappedMap(map: GhostMap, fromPicture: Matrix3): GhostMap {
  const { width: w, height: h, scale, confidences: from } = map;
  const confidences = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const [px, py] = project(fromPicture, (x + 0.5) * scale, (y + 0.5) * scale);
      const u = clamp(px / scale - 0.5, 0, w - 1);
      const v = clamp(py / scale - 0.5, 0, h - 1);
      const x0 = Math.floor(u);
      const y0 = Math.floor(v);
      const x1 = Math.min(w - 1, x0 + 1);
      const y1 = Math.min(h - 1, y0 + 1);
      const upper = from[y0 * w + x0]! * (1 - u + x0) + from[y0 * w + x1]! * (u - x0);
      const lower = from[y1 * w + x0]! * (1 - u + x0) + from[y1 * w + x1]! * (u - x0);
      confidences[y * w + x] = Math.round(upper * (1 - v + y0) + lower * (v - y0));
    }
  return { ...map, confidences };
}

/** A box in the reference frame as the box round where it lies in the picture, px. */
export function boxInPicture<B extends { x: number; y: number; width: number; height: number }>(
  box: B,
  fromPicture: Matrix3,
): B {
  const toPicture = invert(fromPicture);
  const corners = [
    project(toPicture, box.x, box.y),
    project(toPicture, box.x + box.width, box.y),
    project(toPicture, box.x, box.y + box.height),
    project(toPicture, box.x + box.width, box.y + box.height),
  ];
  const xs = corners.map((c) => c[0]);
  const ys = corners.map((c) => c[1]);
  const [x, y] = [Math.min(...xs), Math.min(...ys)];
  return { ...box, x, y, width: Math.max(...xs) - x, height: Math.max(...ys) - y };
}

/** Where a run is sharp as it lies in the picture: each cell takes what its middle shows. */
export function sharpnessInPicture(
  sharp: RunSharpness,
  { width, height }: { width: number; height: number },
  fromPicture: Matrix3,
): RunSharpness {
  const grid = sharpGrid(width, height);
  const topOf = new Map(sharp.cells.map((cell, k) => [cell, sharp.top[k]!]));
  const cells: number[] = [];
  const top: number[] = [];
  for (let cell = 0; cell < grid.width * grid.height; cell++) {
    const x = (((cell % grid.width) + 0.5) * width) / grid.width;
    const y = ((Math.floor(cell / grid.width) + 0.5) * height) / grid.height;
    const [px, py] = project(fromPicture, x, y);
    const column = Math.floor((px / width) * grid.width);
    const row = Math.floor((py / height) * grid.height);
    if (column < 0 || row < 0 || column >= grid.width || row >= grid.height) continue;
    const most = topOf.get(row * grid.width + column);
    if (most === undefined) continue;
    cells.push(cell);
    top.push(most);
  }
  return { ...sharp, cells, top };
}

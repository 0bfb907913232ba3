import type { DepthGrid } from "../../core/focus/depthGrid";
import { depthScratch, type SharpLevel } from "../../core/focus/depthMap";
import { cleared, type RunOptions } from "../../runtime/work";
import { type Work } from "../work";
import type { FocusPass } from "./focusPass";

/**
 * A map of depth in the workers' memory, on a level of the picture: places along the focus travel,
 * and the trust in them.
 */
export interface AllocatedDepth {
  level: number;
  /** addresses in the scope that it was made in */
  depth: number;
  trust: number;
  /** the same between frames, as it is shown */
  grid: DepthGrid;
}

/** Makes the map of depth; what `sources` says of each sample follows it. */
export async function findDepth(
  scope: Work,
  sharp: SharpLevel,
  order: readonly number[],
  on: RunOptions,
): Promise<AllocatedDepth> {
  const n = sharp.w * sharp.h;
  const depth = scope.allocate(n * 4 + 64);
  const trust = scope.allocate(n * 4 + 64);
  const grid = await scope.run(
    "depthMap",
    { sharp, order, depth, trust },
    { scratch: depthScratch(n), ...on },
  );
  return { level: sharp.level, depth, trust, grid };
}

/**
 * The second pass over the frames: each is added where the depth lies nearest to it, and the sum
 * blended over the picture by its trust.
 *
 * @param map   of the rows that the pass works on
 * @param mixed  whether the picture stays where the map is not to be believed
 */
export async function composeAlongDepth(
  scope: Work,
  { acc, order, inStrips, warp }: FocusPass,
  map: Omit<AllocatedDepth, "grid">,
  mixed: boolean,
  tell: (frame: number, frames: number) => void,
  on: RunOptions,
): Promise<void> {
  const { width, height } = acc;
  const planes = [
    scope.allocate(width * height * 4 + 64),
    scope.allocate(width * height * 4 + 64),
  ] as const;
  await Promise.all(
    [map.depth, map.trust].map((from, i) =>
      scope.run(
        "spreadPlane",
        { from, level: map.level, width, height, to: planes[i]! },
        { scratch: width * height * 2 + width * 8 + (1 << 12), ...on },
      ),
    ),
  );
  const planeBytes = acc.planeBytes;
  const sums = { ...acc, ptr: scope.allocate(planeBytes * 4 + 64) };
  await cleared(scope, sums.ptr, planeBytes * 4, on);
  for (const [k, i] of order.entries()) {
    const warped = await warp(i, order[k + 1]);
    await inStrips((y0, y1) =>
      scope.run("addAlongDepth", { frame: warped, k, depth: planes[0], sums, y0, y1 }, on),
    );
    scope.free(warped.ptr);
    tell(k, order.length);
  }
  await inStrips((y0, y1) =>
    scope.run("mixDepth", { acc, sums, trust: mixed ? planes[1] : undefined, y0, y1 }, on),
  );
  for (const at of [...planes, sums.ptr]) scope.free(at);
}

import type { Accumulator } from "../../core/raster/accumulator";
import { rowsOf, type RunOptions } from "../../runtime/work";
import { type Work } from "../work";

/** Which frame gives most to each pixel, while frames are merged one by one. */
export interface SourceMap {
  /** address of the map; what it is made with is freed with the scope */
  sources: number;
  clear(on: RunOptions): Promise<void>;
  /** notes where this frame's weight is the greatest so far */
  claim(weights: number, cumulative: boolean, frame: number, on: RunOptions): Promise<void>;
}

/** Notes frame by frame which of them gives most to each pixel of a merge. */
export function sourceMap(
  scope: Work,
  { width, height }: Pick<Accumulator, "width" | "height">,
): SourceMap {
  const n = width * height;
  const before = scope.allocate(n * 4);
  const most = scope.allocate(n * 4);
  const sources = scope.allocate(n);
  const rows = rowsOf(height, scope.threads * 2);
  return {
    sources,
    async clear(on) {
      for (const [ptr, bytes] of [
        [before, n * 4],
        [most, n * 4],
        [sources, n],
      ] as const)
        await scope.run("clear", { ptr, bytes }, on);
    },
    async claim(weights, cumulative, frame, on) {
      await Promise.all(
        rows.map(([y0, y1]) =>
          scope.run(
            "claim",
            { weights, cumulative, before, most, sources, frame, width, y0, y1 },
            on,
          ),
        ),
      );
    },
  };
}

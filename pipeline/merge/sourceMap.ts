import type { Accumulator } from "../../core/raster/accumulator";
import { rowsOf, type RunOptions } from "../../runtime/work";
import { type Work } from "../work";
import type { Scene } from "./scene";

export interface SourceMap {
  sources: number;
  clear(on: RunOptions): Promise<void>;
  /** notes where this frame's weight is the greatest so far */
  claim(weights: number, cumulative: boolean, frame: number, on: RunOptions): Promise<void>;
  /** gives back all but the map */
  done(): void;
  drop(): void;
}

/** Notes frame by frame which of them gives most to each pixel of a merge. */
export function sourceMap(
  work: Work,
  { width, height }: Pick<Accumulator, "width" | "height">,
): SourceMap {
  const n = width * height;
  const before = work.allocate(n * 4);
  const most = work.allocate(n * 4);
  const sources = work.allocate(n);
  const rows = rowsOf(height, work.threads * 2);
  const done = (): void => {
    work.free(before);
    work.free(most);
  };
  return {
    sources,
    async clear(on) {
      for (const [ptr, bytes] of [
        [before, n * 4],
        [most, n * 4],
        [sources, n],
      ] as const)
        await work.run("clear", { ptr, bytes }, on);
    },
    async claim(weights, cumulative, frame, on) {
      await Promise.all(
        rows.map(([y0, y1]) =>
          work.run(
            "claim",
            { weights, cumulative, before, most, sources, frame, width, y0, y1 },
            on,
          ),
        ),
      );
    },
    done,
    drop() {
      done();
      work.free(sources);
    },
  };
}

/** A scene that carries its source map and gives it back with the rest. */
export function withSources(work: Work, scene: Scene, map: SourceMap): Scene {
  map.done();
  return {
    ...scene,
    sources: map.sources,
    release() {
      scene.release();
      work.free(map.sources);
    },
  };
}

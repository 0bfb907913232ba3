import type { Size } from "../../core/frame/lens";
import { lensScratch } from "../../core/frame/lensWarp";
import { hasLens, type Preparation } from "../../core/frame/preparation";
import { noiseScratch } from "../../core/frame/reduceNoise";
import { rootsTable } from "../../core/frame/roots";
import { TaskScope } from "../../runtime/taskScope";
import { rowsOf } from "../../runtime/work";
import { type Work } from "../work";
import { type LoadedFrame } from "../loadedFrame";

/**
 * A frame prepared, in place of the one that was read: dust healed, noise smoothed, the lens's
 * faults undone. It is held as square roots of light in 16 bit from then on.
 *
 * @param size  of the whole frame, of which only some rows may be held
 * @param rows  all that is wanted of it; `preparedRows` tells what has to be held for that
 */
export async function prepareInto(
  work: Work,
  loaded: LoadedFrame,
  preparation: Preparation,
  size: Size,
  rows: readonly [number, number] | undefined,
  downscale: number,
  signal?: AbortSignal,
): Promise<LoadedFrame> {
  const { width, height, top = 0 } = loaded;
  const on = signal ? { signal } : {};
  await using scope = new TaskScope(work);
  const allocate = (n = height): number => scope.allocate(width * n * 6 + 64);
  let at = allocate();
  await Promise.all(
    rowsOf(height, scope.threads).map(([y0, y1]) =>
      scope.run(
        "toRoots",
        { loaded, ...(preparation.gains ? { gains: preparation.gains } : {}), to: at, y0, y1 },
        { scratch: 65536 * 12 + (1 << 14), ...on },
      ),
    ),
  );
  scope.free(loaded.ptr);
  const next = async (
    n: number,
    run: (from: number, to: number) => Promise<unknown>,
  ): Promise<void> => {
    const to = allocate(n);
    await run(at, to);
    scope.free(at);
    at = to;
  };
  if (preparation.dust.length)
    await scope.run(
      "healSpots",
      { at, width, height, spots: preparation.dust, top, whole: size.height },
      on,
    );
  if (preparation.noise > 0)
    await next(height, (from, to) =>
      Promise.all(
        rowsOf(height, Math.max(scope.threads, Math.ceil((width * height) / 2e6))).map(([y0, y1]) =>
          scope.run(
            "reduceNoise",
            { from, to, width, height, strength: preparation.noise, downscale, y0, y1 },
            { scratch: noiseScratch(width, y1 - y0), ...on },
          ),
        ),
      ),
    );
  const [first, end] = rows ?? [0, height];
  const wanted = end - first;
  if (hasLens(preparation))
    await next(wanted, (from, to) =>
      Promise.all(
        rowsOf(wanted, scope.threads * 2).map(([y0, y1]) =>
          scope.run(
            "lensWarp",
            {
              lens: preparation,
              size,
              from: { ptr: from, top, rows: height },
              to: { ptr: to, top: first, rows: wanted },
              y0: first + y0,
              y1: first + y1,
            },
            { scratch: lensScratch(width), ...on },
          ),
        ),
      ),
    );
  else if (wanted < height)
    await next(wanted, (from, to) =>
      scope.run(
        "copy",
        { from: from + (first - top) * width * 6, to, bytes: wanted * width * 6 },
        on,
      ),
    );
  scope.keep(at);
  return {
    ptr: at,
    width,
    height: wanted,
    type: "u16",
    lut: rootsTable(),
    matrix: loaded.matrix,
    ...(rows ? { top: first } : {}),
  };
}

import { planeBytesOf, type Accumulator } from "../../core/raster/accumulator";
import { TILE_ROWS } from "../../core/finish/renderFinished";
import type { TaskScope } from "../../runtime/taskScope";
import type { ComingBand } from "../merge/band";
import type { Tasks } from "../worker/tasks";

/** Rows of a picture that can be rendered, with all that they need round them. */
export interface RowsAtHand {
  /** the light, of which the picture's row `top` is the first */
  rows: Accumulator;
  top: number;
  /** the rows that can be rendered from it */
  y0: number;
  y1: number;
  /** they are rendered: frees what is not needed any more */
  done(): void;
}

/**
 * The bands of a picture one after the other, each with the last rows of the one before it in front,
 * where neighbourhoods reach over the border: a row is at hand when all are there that it is made
 * from.
 *
 * @param margin  rows that a row's neighbourhood reaches up and down; 0 where there is none
 */
export async function* joinedBands(
  scope: TaskScope<Tasks>,
  bands: readonly ComingBand[],
  height: number,
  margin: number,
): AsyncGenerator<RowsAtHand> {
  if (!margin || bands.length === 1) {
    for (const { y0, y1, take } of bands) {
      const { rows, done } = await take();
      yield { rows, top: y0, y0, y1, done };
    }
    return;
  }
  let kept: { rows: Accumulator; top: number } | undefined;
  let rendered = bands[0]!.y0;
  for (const { y0, y1, take } of bands) {
    const { rows, done } = await take();
    const top = kept?.top ?? y0;
    const joined = emptyRows(scope, rows.width, y1 - top);
    if (kept) await copyRows(scope, kept, { rows: joined, top }, y0);
    await copyRows(scope, { rows, top: y0 }, { rows: joined, top }, y1);
    done();
    if (kept) scope.free(kept.rows.ptr);
    kept = { rows: joined, top };
    // whole tiles, so that each is found from the same rows however the bands lie
    const until = y1 >= height ? y1 : Math.floor((y1 - margin) / TILE_ROWS) * TILE_ROWS;
    if (until > rendered)
      yield { rows: joined, top, y0: rendered, y1: until, done: () => undefined };
    rendered = Math.max(rendered, until);
    const last = await lastRows(scope, kept, Math.max(top, rendered - margin), y1);
    scope.free(joined.ptr);
    kept = last;
  }
  if (kept) scope.free(kept.rows.ptr);
}

function emptyRows(scope: TaskScope<Tasks>, width: number, height: number): Accumulator {
  const planeBytes = planeBytesOf(width, height);
  return { ptr: scope.allocate(planeBytes * 4 + 64), planeBytes, width, height };
}

/** A copy of the rows from y0 to y1 of the picture. */
async function lastRows(
  scope: TaskScope<Tasks>,
  from: { rows: Accumulator; top: number },
  y0: number,
  y1: number,
): Promise<{ rows: Accumulator; top: number }> {
  const rows = emptyRows(scope, from.rows.width, y1 - y0);
  await copyRows(scope, from, { rows, top: y0 }, y1);
  return { rows, top: y0 };
}

/** Copies the rows that both have, up to row y1 of the picture, in all four planes. */
async function copyRows(
  scope: TaskScope<Tasks>,
  from: { rows: Accumulator; top: number },
  to: { rows: Accumulator; top: number },
  y1: number,
): Promise<void> {
  const first = Math.max(from.top, to.top);
  const line = from.rows.width * 4;
  await Promise.all(
    [0, 1, 2, 3].map((plane) =>
      scope.run("copy", {
        from: from.rows.ptr + plane * from.rows.planeBytes + (first - from.top) * line,
        to: to.rows.ptr + plane * to.rows.planeBytes + (first - to.top) * line,
        bytes: (y1 - first) * line,
      }),
    ),
  );
}

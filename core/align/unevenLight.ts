import type { Heap } from "../../kernels/heap";
import type { Matrix3 } from "../math/matrix3";
import { equations, inEight, stepped, SUMS_BYTES, type MotionModel } from "./motionModels";
import { TRUSTED } from "./logPyramid";
import { solveSymmetric } from "../math/solveSymmetric";
import { clamp } from "../math/clamp";

/** Side in cells of the tiles that have a light of their own. */
const TILE_CELLS = 8;
/**
 * How much the light of tiles is taken to differ before it is known, EV, and at least: less than
 * this is even.
 */
const UNEVEN_EV = 0.2;
const EVEN_EV = 0.002;
/**
 * The brightness of each tile of a picture against what one offset for all of it says, EV, and the
 * confidences it was measured by.
 */
export interface TiledLight {
  /** px */
  side: number;
  across: number;
  down: number;
  ev: Float32Array;
  confidences: Float32Array;
}

const STEPS = 10;
const SETTLED_PX = 0.006;

/**
 * Refines a motion where the light changed between the frames, as under clouds that drift or shade
 * the land: soft changes of light differ by less than noise, and as there are many they would draw
 * the motion after them. Each tile of the picture has a brightness offset of its own, eliminated
 * from the normal equations (Schur complement), so that slopes alone hold the motion. How much
 * tiles differ beyond noise is measured on the way and is what an offset of its own is held back by
 * (empirical Bayes): where the light is even none has one, and nothing is lost. The middle of every
 * cell has a say as well, or a single edge in a tile could be taken for a change of light.
 *
 * @param offset  EV to add to the image so that it matches the template; @param finest  least width
 *   of the robust loss, EV
 * @returns the motion, template px to image px
 */
export function refineInUnevenLight(
  heap: Heap,
  t: { w: number; h: number; log: number; confidence: number; block?: number },
  im: { log: number; confidence: number },
  model: MotionModel,
  start: Matrix3,
  offset: number,
  cell: number,
  finest: number,
): { H: Matrix3; light: TiledLight } {
  const mark = heap.mark();
  const m = heap.put(start, "f64");
  const out = heap.alloc(SUMS_BYTES);
  const side = cell * TILE_CELLS;
  const across = Math.ceil(t.w / side);
  const down = Math.ceil(t.h / side);
  const tiles: {
    at: number;
    count: number;
    own: number;
    measured: number;
    place: number;
    confidences: number;
  }[] = [];
  for (let y = 0; y < t.h; y += side)
    for (let x = 0; x < t.w; x += side) {
      const at = heap.alloc(TILE_CELLS ** 2 * 64);
      const count = heap.k.selectSamples(
        t.log,
        t.confidence,
        t.w,
        t.h,
        x,
        y,
        x + side,
        y + side,
        cell,
        1,
        t.block ?? 0,
        at,
      );
      if (count)
        tiles.push({
          at,
          count,
          own: 0,
          measured: 0,
          place: Math.floor(y / side) * across + Math.floor(x / side),
          confidences: 0,
        });
    }
  let H = start;
  let scale = 0.12;
  let levelled = TRUSTED / UNEVEN_EV ** 2;
  for (let i = 0; i < STEPS && tiles.length; i++) {
    heap.f64(m, 9).set(H);
    const seen = tiles.map(({ at, count, own }) =>
      equations(heap, model, at, count, im, t.w, t.h, m, offset + own, scale, out),
    );
    const last = seen[0]!.b.length - 1;
    const A = seen[0]!.A.map((row) => row.map(() => 0));
    const b = seen[0]!.b.map(() => 0);
    let confidences = 0;
    let square = 0;
    seen.forEach((e, k) => {
      const own = e.A[last]!;
      const all = own[last]! + levelled;
      const pull = (e.b[last]! + levelled * tiles[k]!.own) / all;
      for (let r = 0; r <= last; r++) {
        for (let c = 0; c <= last; c++) A[r]![c]! += e.A[r]![c]! - (own[r]! * own[c]!) / all;
        b[r]! += e.b[r]! - own[r]! * pull;
      }
      confidences += e.confidences;
      square += e.square;
    });
    const q = confidences > 1 ? solveSymmetric(A, b) : undefined;
    const next = q && stepped(H, inEight(model, q), t.w, t.h);
    if (!next || !Number.isFinite(next.moved) || next.moved > t.w) break;
    H = next.H;
    offset -= q[last]!;
    seen.forEach((e, k) => {
      const tile = tiles[k]!;
      tile.confidences = e.confidences;
      tile.own -=
        (e.b[last]! + levelled * tile.own - e.A[last]!.reduce((s, v, j) => s + v * q[j]!, 0)) /
        (e.confidences + levelled);
      tile.measured = (tile.own * (e.confidences + levelled)) / Math.max(1e-9, e.confidences);
    });
    // a sample's confidence is its trusted share: T / (T + variance), so a tile's offset is known to
    // within T / confidences
    let spread = 0;
    let measured = 0;
    for (const tile of tiles)
      if (tile.confidences > 1) {
        spread += tile.confidences * Math.min(UNEVEN_EV, Math.abs(tile.measured)) ** 2 - TRUSTED;
        measured += tile.confidences;
      }
    levelled = TRUSTED / Math.max(EVEN_EV ** 2, measured > 0 ? spread / measured : 0);
    scale = clamp(2.5 * Math.sqrt(square / confidences), finest, 1);
    if (next.moved < SETTLED_PX) break;
  }
  heap.release(mark);
  const light: TiledLight = {
    side,
    across,
    down,
    ev: new Float32Array(across * down),
    confidences: new Float32Array(across * down),
  };
  for (const { place, measured, confidences } of tiles) {
    light.ev[place] = measured;
    light.confidences[place] = confidences;
  }
  return { H, light };
}

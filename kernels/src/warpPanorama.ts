import { bilinear, cubicBy, FRACTIONS, mixed, TAPS, tapped } from "./resample";
import { nodeAt } from "./panoramaShares";

// Frames warped onto a panorama's canvas: where they are sampled, how they are evened, and what share
// of the seams each has.

/**
 * Rows of n px of a frame warped onto a panorama's canvas: evened light as square roots. What is
 * outside the frame takes its edge, and loses the share that lies there.
 *
 * `tops` and `lows`, `down` px below, hold x, y in px of the frame of srcW x srcH, a factor on its
 * light, and 1 in the tops if the px from there to the next may be soft, else 0, for every `gap`-th
 * px and the one after the last; between them the first three are lines. Samples are bicubic, or
 * bilinear where they may be soft, from a tile as resampleBicubic takes it. `gains` holds three
 * factors; `planes` apart lie R, G, B and share at `dst`, their rows `line` bytes apart.
 */
export function warpRows(
  tile: usize,
  tx: i32,
  ty: i32,
  tw: i32,
  srcW: i32,
  srcH: i32,
  tops: usize,
  lows: usize,
  gap: i32,
  n: i32,
  down: i32,
  rows: i32,
  gains: usize,
  dst: usize,
  line: usize,
  planes: usize,
): void {
  const stride = (<usize>tw) << 4;
  const right = <f32>srcW - 0.5;
  const bottom = <f32>srcH - 0.5;
  const step: f32 = 1 / <f32>gap;
  const even = f32x4(load<f32>(gains), load<f32>(gains, 4), load<f32>(gains, 8), 1);
  const corner = tile - <usize>(ty + 1) * stride - ((<usize>(tx + 1)) << 4);
  const half = f32x4(0.5, 0.5, 0, 0);
  const least = f32x4(-0.5, -0.5, 0, 0);
  const most = f32x4(right, bottom, f32.MAX_VALUE, 1);
  for (let r = 0; r < rows; r++, dst += line) {
    const t = (<f32>r + 0.5) / <f32>down;
    let node: usize = 0;
    for (let start = 0; start < n; start += gap, node += 16) {
      const from = f32x4.sub(downAt(tops + node, lows + node, t), half);
      const way = f32x4.mul(
        f32x4.sub(f32x4.sub(downAt(tops + node + 16, lows + node + 16, t), half), from),
        f32x4.splat(step),
      );
      const count = min(n - start, gap);
      const sharp = load<f32>(tops + node, 12) == 0;
      const last = f32x4.add(from, f32x4.mul(way, f32x4.splat(<f32>count)));
      // where both ends lie in the frame, all between them do
      const inside =
        v128.any_true(
          v128.or(
            v128.or(f32x4.lt(from, least), f32x4.gt(from, most)),
            v128.or(f32x4.lt(last, least), f32x4.gt(last, most)),
          ),
        ) == 0;
      let out = dst + ((<usize>start) << 2);
      for (let k = 0; k < count; k++, out += 4) {
        const here = f32x4.add(from, f32x4.mul(way, f32x4.splat(<f32>k + 0.5)));
        const at = inside ? here : f32x4.max(least, f32x4.min(most, here));
        const low = f32x4.floor(at);
        const part = f32x4.sub(at, low);
        const cell = cellOf(low);
        const a =
          corner +
          <usize>i32x4.extract_lane(cell, 1) * stride +
          ((<usize>i32x4.extract_lane(cell, 0)) << 4);
        let sum: v128;
        if (sharp) {
          const table = tableOf(part);
          sum = cubicBy(
            a,
            stride,
            TAPS + ((<usize>i32x4.extract_lane(table, 0)) << 4),
            TAPS + ((<usize>i32x4.extract_lane(table, 1)) << 4),
          );
        } else {
          const b = a + stride + 16;
          sum = bilinear(b, b + stride, f32x4.extract_lane(part, 0), f32x4.extract_lane(part, 1));
        }
        storeRoots(sum, even, f32x4.extract_lane(here, 2), out, planes);
        if (
          !inside &&
          (f32x4.extract_lane(at, 0) != f32x4.extract_lane(here, 0) ||
            f32x4.extract_lane(at, 1) != f32x4.extract_lane(here, 1))
        )
          store<f32>(out + 3 * planes, 0);
      }
    }
  }
}

/** A share of the way from a node to the one below it. */
// @ts-ignore: decorator
@inline
function downAt(top: usize, low: usize, t: f32): v128 {
  return mixed(v128.load(top), v128.load(low), t);
}

/**
 * A column of at most `gap` x (rows of nodes - 1) x `gap` px of a frame warped onto a panorama's
 * canvas, for a frame that lies there nearly upright and reaches all round: across and then down,
 * in half the work of warpRows and with its result but for rounding.
 *
 * `nodes` holds for each row of nodes, `gap` px apart, the left and the right one as warpRows takes
 * them, `height` px in all. The rows of `dst` are `line` bytes apart. `columns` holds 64 bytes for
 * each of the `th` rows of the tile.
 */
export function warpColumn(
  tile: usize,
  tx: i32,
  ty: i32,
  tw: i32,
  th: i32,
  nodes: usize,
  gap: i32,
  n: i32,
  height: i32,
  gains: usize,
  columns: usize,
  dst: usize,
  line: usize,
  planes: usize,
): void {
  const last = (height - 1) / gap;
  const apart = (<usize>th) << 4;
  const step: f32 = 1 / <f32>gap;
  const evenR = load<f32>(gains);
  const evenG = load<f32>(gains, 4);
  const evenB = load<f32>(gains, 8);
  // four columns at once, so that they are stored together
  for (let i = 0; i < n; i += 4, dst += 16) {
    const few = min(4, n - i);
    for (let c = 0; c < few; c++)
      acrossColumn(
        tile - ((<usize>(tx + 1)) << 4),
        (<usize>tw) << 4,
        ty,
        nodes,
        last,
        (<f32>(i + c) + 0.5) * step,
        columns + <usize>c * apart,
      );
    const u = f32x4.mul(f32x4.add(f32x4.splat(<f32>i + 0.5), f32x4(0, 1, 2, 3)), f32x4.splat(step));
    for (let r = 0, o = dst; r <= last; r++) {
      const count = min(gap, height - r * gap);
      const top = nodes + ((<usize>r) << 5);
      const part: f32 = 1 / <f32>count;
      const y = fourAt(top, u, 4);
      const downY = f32x4.mul(f32x4.sub(fourAt(top + 32, u, 4), y), f32x4.splat(part));
      const factor = fourAt(top, u, 8);
      const more = f32x4.mul(f32x4.sub(fourAt(top + 32, u, 8), factor), f32x4.splat(part));
      for (let k = 0; k < count; k++, o += line) {
        const half = f32x4.splat(<f32>k + 0.5);
        const sy = f32x4.sub(f32x4.add(y, f32x4.mul(downY, half)), f32x4.splat(0.5));
        const low = f32x4.floor(sy);
        const light = f32x4.add(factor, f32x4.mul(more, half));
        const row = i32x4.sub(cellOf(low), i32x4.splat(ty + 1));
        const table = tableOf(f32x4.sub(sy, low));
        const a = tapped(
          columns + ((<usize>i32x4.extract_lane(row, 0)) << 4),
          TAPS + ((<usize>i32x4.extract_lane(table, 0)) << 4),
        );
        // what is behind the last column is not asked for; without the branch this takes a third
        // longer, as more is held at once than there are registers
        let b = a;
        let c = a;
        let d = a;
        if (few == 4) {
          b = tapped(
            columns + apart + ((<usize>i32x4.extract_lane(row, 1)) << 4),
            TAPS + ((<usize>i32x4.extract_lane(table, 1)) << 4),
          );
          c = tapped(
            columns + 2 * apart + ((<usize>i32x4.extract_lane(row, 2)) << 4),
            TAPS + ((<usize>i32x4.extract_lane(table, 2)) << 4),
          );
          d = tapped(
            columns + 3 * apart + ((<usize>i32x4.extract_lane(row, 3)) << 4),
            TAPS + ((<usize>i32x4.extract_lane(table, 3)) << 4),
          );
        } else {
          if (few > 1)
            b = tapped(
              columns + apart + ((<usize>i32x4.extract_lane(row, 1)) << 4),
              TAPS + ((<usize>i32x4.extract_lane(table, 1)) << 4),
            );
          if (few > 2)
            c = tapped(
              columns + 2 * apart + ((<usize>i32x4.extract_lane(row, 2)) << 4),
              TAPS + ((<usize>i32x4.extract_lane(table, 2)) << 4),
            );
        }
        // R, G, B of the four
        const rgLow = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
        const rgHigh = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
        const bLow = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
        const bHigh = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
        storeFew(
          o,
          rootOf(
            v128.shuffle<f32>(rgLow, rgHigh, 0, 1, 4, 5),
            f32x4.mul(light, f32x4.splat(evenR)),
          ),
          few,
        );
        storeFew(
          o + planes,
          rootOf(
            v128.shuffle<f32>(rgLow, rgHigh, 2, 3, 6, 7),
            f32x4.mul(light, f32x4.splat(evenG)),
          ),
          few,
        );
        storeFew(
          o + 2 * planes,
          rootOf(v128.shuffle<f32>(bLow, bHigh, 0, 1, 4, 5), f32x4.mul(light, f32x4.splat(evenB))),
          few,
        );
      }
    }
  }
}

/**
 * All rows of a tile that a column of the canvas crosses, a share `u` of the way between its nodes,
 * sampled across where it does: row ty + r at `to` + 16 r, and up to three more behind the last.
 * `corner` is the tile's address less a sample and all before px 0.
 */
function acrossColumn(
  corner: usize,
  stride: usize,
  ty: i32,
  nodes: usize,
  last: i32,
  u: f32,
  to: usize,
): void {
  let s = i32.MIN_VALUE;
  for (let r = 0; r <= last; r++) {
    const top = nodeAt(nodes + ((<usize>r) << 5), u);
    const low = nodeAt(nodes + ((<usize>(r + 1)) << 5), u);
    const x0 = f32x4.extract_lane(top, 0);
    const y0 = f32x4.extract_lane(top, 1);
    const y1 = f32x4.extract_lane(low, 1);
    const lean = (f32x4.extract_lane(low, 0) - x0) / (y1 - y0);
    const end = <i32>floor<f32>(y1) + (r == last ? 3 : 0);
    if (r == 0) s = <i32>floor<f32>(y0) - 3;
    let row = corner + <usize>(s - ty) * stride;
    let out = to + ((<usize>(s - ty)) << 4);
    // where four rows are met is computed at once
    let sx = f32x4.add(
      f32x4.splat(x0 - 0.5 + lean * (<f32>s + 0.5 - y0)),
      f32x4.mul(f32x4.splat(lean), f32x4(0, 1, 2, 3)),
    );
    for (
      const step = f32x4.splat(4 * lean);
      s < end;
      s += 4, sx = f32x4.add(sx, step), row += 4 * stride, out += 64
    ) {
      const whole = f32x4.floor(sx);
      const cell = cellOf(whole);
      const part = f32x4.sub(sx, whole);
      const table = tableOf(part);
      v128.store(
        out,
        tapped(
          row + ((<usize>i32x4.extract_lane(cell, 0)) << 4),
          TAPS + ((<usize>i32x4.extract_lane(table, 0)) << 4),
        ),
      );
      v128.store(
        out,
        tapped(
          row + stride + ((<usize>i32x4.extract_lane(cell, 1)) << 4),
          TAPS + ((<usize>i32x4.extract_lane(table, 1)) << 4),
        ),
        16,
      );
      v128.store(
        out,
        tapped(
          row + 2 * stride + ((<usize>i32x4.extract_lane(cell, 2)) << 4),
          TAPS + ((<usize>i32x4.extract_lane(table, 2)) << 4),
        ),
        32,
      );
      v128.store(
        out,
        tapped(
          row + 3 * stride + ((<usize>i32x4.extract_lane(cell, 3)) << 4),
          TAPS + ((<usize>i32x4.extract_lane(table, 3)) << 4),
        ),
        48,
      );
    }
    s = end;
  }
}

/** Whole numbers as integers, by the bits of floats so large that they have no fraction. */
// @ts-ignore: decorator
@inline
function cellOf(whole: v128): v128 {
  return i32x4.sub(f32x4.add(whole, f32x4.splat(12582912.0)), i32x4.splat(0x4b400000));
}

/** Places of four fractions in the table of taps. */
// @ts-ignore: decorator
@inline
function tableOf(part: v128): v128 {
  return v128.and(
    f32x4.add(f32x4.mul(part, f32x4.splat(<f32>FRACTIONS)), f32x4.splat(12582912.0)),
    i32x4.splat(2047),
  );
}

/** A number of two nodes, so many bytes on in each, between them: for four shares of the way. */
// @ts-ignore: decorator
@inline
function fourAt(node: usize, u: v128, at: usize): v128 {
  const a = v128.load32_splat(node + at);
  const b = v128.load32_splat(node + at + 16);
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), u));
}

/** Square roots of evened light. */
// @ts-ignore: decorator
@inline
function rootOf(light: v128, even: v128): v128 {
  return f32x4.sqrt(f32x4.mul(f32x4.pmax(f32x4.splat(0), light), even));
}

/** The first few of four numbers. */
// @ts-ignore: decorator
@inline
function storeFew(at: usize, four: v128, few: i32): void {
  if (few == 4) {
    v128.store(at, four);
    return;
  }
  v128.store32_lane(at, four, 0);
  if (few > 1) v128.store32_lane(at, four, 1, 4);
  if (few > 2) v128.store32_lane(at, four, 2, 8);
}

/** Square roots of light that is evened by three factors and by one, to three planes. */
// @ts-ignore: decorator
@inline
function storeRoots(light: v128, even: v128, factor: f32, dst: usize, planes: usize): void {
  const root = f32x4.sqrt(
    f32x4.mul(f32x4.mul(f32x4.pmax(f32x4.splat(0), light), even), f32x4.splat(factor)),
  );
  v128.store32_lane(dst, root, 0);
  v128.store32_lane(dst + planes, root, 1);
  v128.store32_lane(dst + 2 * planes, root, 2);
}

/**
 * Rows y0 to y1 of the mean over a square of 2 r + 1, edges repeated; not in place. `rows` holds
 * four rows of floats, w rounded up to four.
 *
 * Four rows go side by side: their sums down are turned so that one vector holds a column, along
 * which sums run in doubles.
 */
export function boxMean(
  src: usize,
  w: i32,
  h: i32,
  r: i32,
  rows: usize,
  dst: usize,
  y0: i32,
  y1: i32,
): void {
  const stride = (<usize>w) << 2;
  const k = f64x2.splat(1.0 / (<f64>(2 * r + 1) * <f64>(2 * r + 1)));
  for (let y = y0; y < y1; y += 4) {
    // down: afresh for the first of the four rows, so that no error is carried along
    for (let x = 0; x < w; x += 4) {
      // the last columns are summed with those before them once more
      const at = src + ((<usize>(x + 4 <= w ? x : max(0, w - 4))) << 2);
      let a = f32x4.splat(0);
      for (let j = y - r; j <= y + r; j++)
        a = f32x4.add(a, v128.load(at + <usize>max(0, min(h - 1, j)) * stride));
      const b = f32x4.add(
        a,
        f32x4.sub(
          v128.load(at + <usize>min(h - 1, y + r + 1) * stride),
          v128.load(at + <usize>min(h - 1, max(0, y - r)) * stride),
        ),
      );
      const c = f32x4.add(
        b,
        f32x4.sub(
          v128.load(at + <usize>min(h - 1, y + r + 2) * stride),
          v128.load(at + <usize>min(h - 1, max(0, y - r + 1)) * stride),
        ),
      );
      const d = f32x4.add(
        c,
        f32x4.sub(
          v128.load(at + <usize>min(h - 1, y + r + 3) * stride),
          v128.load(at + <usize>min(h - 1, max(0, y - r + 2)) * stride),
        ),
      );
      const ab = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
      const cd = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
      const ef = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
      const gh = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
      const to = rows + ((<usize>(x + 4 <= w ? x : max(0, w - 4))) << 4);
      v128.store(to, v128.shuffle<f64>(ab, cd, 0, 2));
      v128.store(to, v128.shuffle<f64>(ab, cd, 1, 3), 16);
      v128.store(to, v128.shuffle<f64>(ef, gh, 0, 2), 32);
      v128.store(to, v128.shuffle<f64>(ef, gh, 1, 3), 48);
    }
    let s = f64x2.splat(0);
    let t = s;
    for (let i = -r; i <= r; i++) {
      const v = v128.load(rows + ((<usize>max(0, min(w - 1, i))) << 4));
      s = f64x2.add(s, f64x2.promote_low_f32x4(v));
      t = f64x2.add(t, f64x2.promote_low_f32x4(v128.shuffle<f64>(v, v, 1, 1)));
    }
    const out = dst + <usize>y * stride;
    const many = y1 - y;
    for (let i = 0; i < w; i++) {
      const m = v128.shuffle<f64>(
        f32x4.demote_f64x2_zero(f64x2.mul(s, k)),
        f32x4.demote_f64x2_zero(f64x2.mul(t, k)),
        0,
        2,
      );
      const p = out + ((<usize>i) << 2);
      v128.store32_lane(p, m, 0);
      if (many > 1) v128.store32_lane(p + stride, m, 1);
      if (many > 2) v128.store32_lane(p + 2 * stride, m, 2);
      if (many > 3) v128.store32_lane(p + 3 * stride, m, 3);
      const v = f32x4.sub(
        v128.load(rows + ((<usize>min(w - 1, i + r + 1)) << 4)),
        v128.load(rows + ((<usize>max(0, i - r)) << 4)),
      );
      s = f64x2.add(s, f64x2.promote_low_f32x4(v));
      t = f64x2.add(t, f64x2.promote_low_f32x4(v128.shuffle<f64>(v, v, 1, 1)));
    }
  }
}

// @ts-ignore: decorator
@inline
function five(a: v128, b: v128, c: v128, d: v128, e: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.add(a, e), f32x4.mul(f32x4.splat(2), f32x4.add(b, d))),
    f32x4.mul(f32x4.splat(3), c),
  );
}
// @ts-ignore: decorator
@inline
function fiveAlong(p: usize): v128 {
  return five(v128.load(p), v128.load(p, 4), v128.load(p, 8), v128.load(p, 12), v128.load(p, 16));
}
/** Repeats the ends of a row of n floats two px beyond, the first lying two px in. */
// @ts-ignore: decorator
@inline
function repeatTwo(row: usize, n: i32): void {
  const last = row + ((<usize>(n + 1)) << 2);
  store<f32>(row, load<f32>(row, 8));
  store<f32>(row, load<f32>(row, 8), 4);
  store<f32>(last, load<f32>(last), 4);
  store<f32>(last, load<f32>(last), 8);
}

/**
 * A w x h plane smoothed over five px each way with weights 1, 2, 3, 2, 1, as far as its
 * confidences go: what has none has no say, and where there are none stands 0. Edges are repeated.
 * `rows` holds two rows of w + 12 floats. All with room behind.
 */
export function smoothWeighted(
  src: usize,
  confidence: usize,
  w: i32,
  h: i32,
  rows: usize,
  dst: usize,
): void {
  const line = (<usize>w) << 2;
  const sums = rows;
  const weights = rows + ((<usize>((w + 11) & ~3)) << 2);
  for (let y = 0; y < h; y++) {
    const a = <usize>max(0, y - 2) * line;
    const b = <usize>max(0, y - 1) * line;
    const c = <usize>y * line;
    const d = <usize>min(h - 1, y + 1) * line;
    const e = <usize>min(h - 1, y + 2) * line;
    for (let x: usize = 0; x < line; x += 16) {
      const p = src + x;
      const q = confidence + x;
      const va = v128.load(q + a);
      const vb = v128.load(q + b);
      const vc = v128.load(q + c);
      const vd = v128.load(q + d);
      const ve = v128.load(q + e);
      v128.store(
        sums + x,
        five(
          f32x4.mul(v128.load(p + a), va),
          f32x4.mul(v128.load(p + b), vb),
          f32x4.mul(v128.load(p + c), vc),
          f32x4.mul(v128.load(p + d), vd),
          f32x4.mul(v128.load(p + e), ve),
        ),
        8,
      );
      v128.store(weights + x, five(va, vb, vc, vd, ve), 8);
    }
    repeatTwo(sums, w);
    repeatTwo(weights, w);
    for (let x: usize = 0, out = dst + c; x < line; x += 16, out += 16) {
      const weight = fiveAlong(weights + x);
      v128.store(
        out,
        v128.and(f32x4.div(fiveAlong(sums + x), weight), f32x4.gt(weight, f32x4.splat(8.1e-5))),
      );
    }
  }
}

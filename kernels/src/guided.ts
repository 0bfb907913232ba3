// The guided filter's sums (He, Sun, Tang, "Guided image filtering", TPAMI 2013), with a weight for
// each sample if there are any.

/**
 * What means are taken of: weights, guide, values, squares of the guide, products of both, each by
 * the weights; n floats each, with room behind.
 */
export function guidedProducts(
  values: usize,
  guide: usize,
  weights: usize,
  n: i32,
  w: usize,
  g: usize,
  v: usize,
  gg: usize,
  gv: usize,
): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const k = weights ? v128.load(weights + o) : f32x4.splat(1);
    const a = v128.load(guide + o);
    const b = v128.load(values + o);
    const ka = f32x4.mul(k, a);
    if (weights) v128.store(w + o, k);
    v128.store(g + o, ka);
    v128.store(v + o, f32x4.mul(k, b));
    v128.store(gg + o, f32x4.mul(ka, a));
    v128.store(gv + o, f32x4.mul(ka, b));
  }
}

/**
 * From the means: slopes to `gv` and offsets to `v` of the values as lines in the guide. `w` is 0
 * where there are no weights.
 */
export function guidedLines(
  w: usize,
  g: usize,
  v: usize,
  gg: usize,
  gv: usize,
  n: i32,
  eps: f32,
): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const per = w ? f32x4.div(f32x4.splat(1), v128.load(w + o)) : f32x4.splat(1);
    const a = f32x4.mul(v128.load(g + o), per);
    const b = f32x4.mul(v128.load(v + o), per);
    const slope = f32x4.div(
      f32x4.sub(f32x4.mul(v128.load(gv + o), per), f32x4.mul(a, b)),
      f32x4.add(
        f32x4.max(f32x4.splat(0), f32x4.sub(f32x4.mul(v128.load(gg + o), per), f32x4.mul(a, a))),
        f32x4.splat(eps),
      ),
    );
    v128.store(gv + o, slope);
    v128.store(v + o, f32x4.sub(b, f32x4.mul(slope, a)));
  }
}

/** dst = slope * guide + offset. */
export function guidedValues(slope: usize, offset: usize, guide: usize, n: i32, dst: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    v128.store(
      dst + o,
      f32x4.add(f32x4.mul(v128.load(slope + o), v128.load(guide + o)), v128.load(offset + o)),
    );
  }
}

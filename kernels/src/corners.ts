// How strongly a plane's surroundings tell where they are: the structure tensor (Harris and Stephens 1988).

// @ts-ignore: decorator
@inline
function slope(after: v128, before: v128): v128 { return f32x4.pmax(f32x4.splat(-1), f32x4.pmin(f32x4.splat(1), f32x4.mul(f32x4.sub(after, before), f32x4.splat(0.5)))); }

/**
 * Products of the slopes across and down of a w x h plane of log luminance, weighed by the least of the five votes they are made
 * of, to the planes xx, xy, yy; a slope of two stops a px is a hard edge, and more would let one lamp outshine all texture. The
 * outermost px are left as they are. All with room behind.
 */
export function slopeProducts(log: usize, vote: usize, w: i32, h: i32, xx: usize, xy: usize, yy: usize): void {
  const line = <usize>w << 2;
  for (let y = 1; y < h - 1; y++) for (let x = 1; x < w - 1; x += 4) {
    // the last four begin as far before the border as they are
    const o = (<usize>(y * w + max(1, min(x, w - 5)))) << 2, L = log + o, V = vote + o;
    const a = slope(v128.load(L + 4), v128.load(L - 4)), b = slope(v128.load(L + line), v128.load(L - line));
    const v = f32x4.pmin(f32x4.pmin(f32x4.pmin(v128.load(V), v128.load(V - 4)), f32x4.pmin(v128.load(V + 4), v128.load(V - line))), v128.load(V + line));
    const av = f32x4.mul(a, v);
    v128.store(xx + o, f32x4.mul(a, av)); v128.store(xy + o, f32x4.mul(av, b)); v128.store(yy + o, f32x4.mul(f32x4.mul(b, b), v));
  }
}

/** Determinant over trace, half the harmonic mean of the eigenvalues, of n matrices whose entries lie in three planes; to `dst`. All with room behind. */
export function harmonicMeans(xx: usize, xy: usize, yy: usize, n: i32, dst: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = <usize>i << 2, a = v128.load(xx + o), b = v128.load(xy + o), c = v128.load(yy + o);
    v128.store(dst + o, f32x4.div(f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.mul(a, c), f32x4.mul(b, b))), f32x4.add(f32x4.add(a, c), f32x4.splat(1e-6))));
  }
}

/** Places, one after the other to `dst`, of the px of a w x h plane that are at least `least` and above their eight neighbours, `rim` px (one at least) away from its sides. Returns how many there are: a quarter of all at most. */
export function peaks(plane: usize, w: i32, h: i32, rim: i32, least: f32, dst: usize): i32 {
  const line = <usize>w << 2, floor = f32x4.splat(least);
  let count = 0;
  for (let y = rim; y < h - rim; y++) for (let x = rim; x < w - rim; x += 4) {
    const p = plane + (<usize>(y * w + x) << 2), s = v128.load(p);
    let top = f32x4.ge(s, floor);
    if (!v128.any_true(top)) continue;
    const a = p - line, b = p + line;
    const around = f32x4.max(f32x4.max(f32x4.max(v128.load(p - 4), v128.load(p, 4)), f32x4.max(v128.load(a - 4), v128.load(a))), f32x4.max(f32x4.max(v128.load(a, 4), v128.load(b - 4)), f32x4.max(v128.load(b), v128.load(b, 4))));
    top = v128.and(top, f32x4.gt(s, around));
    for (let lanes = i32x4.bitmask(top) & ((1 << min(4, w - rim - x)) - 1); lanes; lanes &= lanes - 1, count++) store<i32>(dst + (<usize>count << 2), y * w + x + ctz(lanes));
  }
  return count;
}

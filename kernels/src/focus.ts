import { four } from "./fuse";

// What is sharpest of a focus run, and composing along its depth.

/** Where e exceeds best, dst takes src; planes of n, with room behind. */
export function takeWhere(e: usize, best: usize, src: usize, n: i32, dst: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    v128.store(
      dst + o,
      v128.bitselect(
        v128.load(src + o),
        v128.load(dst + o),
        f32x4.gt(v128.load(e + o), v128.load(best + o)),
      ),
    );
  }
}

/** best = max(best, e) over planes of n, with room behind. */
export function maxPlane(e: usize, n: i32, best: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    v128.store(best + o, f32x4.max(v128.load(best + o), v128.load(e + o)));
  }
}

/**
 * Notes sharpness on either side of the sharpest of planes that come one after another: where `e`
 * beats `best`, what was `last` lies before it and nothing after it yet; where the last one is the
 * best so far, `e` comes after it. Then `last` becomes `e`. All with room behind.
 */
export function notePeak(
  e: usize,
  best: usize,
  n: i32,
  last: usize,
  lower: usize,
  upper: usize,
): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const own = v128.load(e + o);
    const b = v128.load(best + o);
    const before = v128.load(last + o);
    const wins = f32x4.gt(own, b);
    v128.store(lower + o, v128.bitselect(before, v128.load(lower + o), wins));
    v128.store(
      upper + o,
      v128.andnot(v128.bitselect(own, v128.load(upper + o), f32x4.eq(b, before)), wins),
    );
    v128.store(last + o, own);
  }
}

/**
 * Squares of what is covered by more than a thousandth (`weights`), 0 elsewhere; with `own` zero, 1
 * and 0 in their place. All with room behind.
 */
export function coveredSquares(own: usize, weights: usize, n: i32, dst: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const v = own ? f32x4.pmax(f32x4.splat(0), v128.load(own + o)) : f32x4.splat(1);
    v128.store(
      dst + o,
      v128.and(f32x4.gt(v128.load(weights + o), f32x4.splat(1e-3)), f32x4.mul(v, v)),
    );
  }
}

/**
 * Adds a row of n RGB samples of 16 bit to sums R, G, B and weight (`planes` apart, at `dst`),
 * weighted by how near the depth there is to frame k: all to a quarter of a frame away, half at
 * half, none from three quarters. All with room behind.
 */
export function addAlongDepth(
  src: usize,
  n: i32,
  depth: usize,
  k: f32,
  dst: usize,
  planes: usize,
): void {
  const at = f32x4.splat(k);
  const one = f32x4.splat(1);
  const two = f32x4.splat(2);
  const zero = f32x4.splat(0);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const w = f32x4.pmin(
      one,
      f32x4.pmax(
        zero,
        f32x4.sub(f32x4.splat(1.5), f32x4.mul(two, f32x4.abs(f32x4.sub(v128.load(depth + o), at)))),
      ),
    );
    if (!v128.any_true(w)) continue;
    const p = src + <usize>(i * 6);
    const q = dst + o;
    v128.store(q, f32x4.add(v128.load(q), f32x4.mul(w, four(p, 0))));
    v128.store(q + planes, f32x4.add(v128.load(q + planes), f32x4.mul(w, four(p, 1))));
    v128.store(q + 2 * planes, f32x4.add(v128.load(q + 2 * planes), f32x4.mul(w, four(p, 2))));
    v128.store(q + 3 * planes, f32x4.add(v128.load(q + 3 * planes), w));
  }
}

/**
 * Where `weight` is above a hundredth, `to` (held to 0 and 1) gives way to sum / weight by the
 * trust of 0 to 1 there, or wholly if `trust` is 0; planes of n, with room behind.
 */
export function mixByTrust(to: usize, sum: usize, weight: usize, trust: usize, n: i32): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const own = f32x4.pmin(one, f32x4.pmax(zero, v128.load(to + o)));
    const w = v128.load(weight + o);
    const t = trust ? f32x4.pmin(one, f32x4.pmax(zero, v128.load(trust + o))) : one;
    const mixed = f32x4.add(
      f32x4.mul(own, f32x4.sub(one, t)),
      f32x4.mul(f32x4.div(v128.load(sum + o), w), t),
    );
    v128.store(to + o, v128.bitselect(mixed, own, f32x4.gt(w, f32x4.splat(0.01))));
  }
}

/**
 * Widens ranges by n samples of 16 bit: the highest so far at `above`, and at `below` 65535 less
 * the lowest. Both begin as zeros.
 */
export function widenRange(src: usize, n: i32, above: usize, below: usize): void {
  let i = 0;
  for (; i + 8 <= n; i += 8, src += 16, above += 16, below += 16) {
    const v = v128.load(src);
    v128.store(above, i16x8.max_u(v128.load(above), v));
    v128.store(below, i16x8.max_u(v128.load(below), v128.not(v)));
  }
  for (; i < n; i++, src += 2, above += 2, below += 2) {
    const v = load<u16>(src);
    store<u16>(above, max(load<u16>(above), v));
    store<u16>(below, max(load<u16>(below), 65535 - v));
  }
}

/**
 * Draws n floats, a channel of RGB, to the ranges that widenRange makes of RGB samples; where there
 * is none, 1 to 0, they stay. All with room behind.
 */
export function holdInRange(plane: usize, n: i32, channel: i32, above: usize, below: usize): void {
  for (let i = 0; i < n; i += 4, plane += 16, above += 24, below += 24) {
    const high = channel == 0 ? four(above, 0) : channel == 1 ? four(above, 1) : four(above, 2);
    const low = f32x4.sub(
      f32x4.splat(1),
      channel == 0 ? four(below, 0) : channel == 1 ? four(below, 1) : four(below, 2),
    );
    const v = v128.load(plane);
    v128.store(
      plane,
      v128.bitselect(
        v,
        f32x4.max(low, f32x4.min(high, v)),
        f32x4.gt(f32x4.sub(low, high), f32x4.splat(0.5)),
      ),
    );
  }
}

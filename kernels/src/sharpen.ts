// What deconvolution and detail by scale need of a tile of w x h floats.

/** Down a tile: dst = sum of taps (2 r + 1 of them) on the rows around, ends repeated. */
export function convolveDown(src: usize, w: i32, h: i32, taps: usize, r: i32, dst: usize): void {
  const stride = (<usize>w) << 2;
  for (let y = 0; y < h; y++) {
    const to = dst + <usize>y * stride;
    for (let x = 0; x < w; x += 4) {
      const o = (<usize>(x + 4 <= w ? x : max(0, w - 4))) << 2;
      let sum = f32x4.splat(0);
      for (let j = -r; j <= r; j++) {
        const from = src + <usize>max(0, min(h - 1, y + j)) * stride + o;
        const k = v128.load32_splat(taps + ((<usize>(j + r)) << 2));
        sum = f32x4.add(sum, f32x4.mul(k, v128.load(from)));
      }
      v128.store(to + o, sum);
    }
  }
}

/** Across a tile, likewise; `line` holds w + 2 r + 8 floats. */
export function convolveAcross(
  src: usize,
  w: i32,
  h: i32,
  taps: usize,
  r: i32,
  line: usize,
  dst: usize,
): void {
  const stride = (<usize>w) << 2;
  for (let y = 0; y < h; y++) {
    const from = src + <usize>y * stride;
    const to = dst + <usize>y * stride;
    memory.copy(line + ((<usize>r) << 2), from, stride);
    const first = load<f32>(from);
    const last = load<f32>(from + stride - 4);
    for (let i = 0; i < r; i++) {
      store<f32>(line + ((<usize>i) << 2), first);
      store<f32>(line + ((<usize>(w + r + i)) << 2), last);
    }
    for (let x = 0; x < w; x += 4) {
      const o = (<usize>(x + 4 <= w ? x : max(0, w - 4))) << 2;
      let sum = f32x4.splat(0);
      for (let j = 0; j <= 2 * r; j++) {
        const k = v128.load32_splat(taps + ((<usize>j) << 2));
        sum = f32x4.add(sum, f32x4.mul(k, v128.load(line + o + ((<usize>j) << 2))));
      }
      v128.store(to + o, sum);
    }
  }
}

/** dst = a / b, b at least 1e-9. */
export function quotient(a: usize, b: usize, n: i32, dst: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    v128.store(
      dst + o,
      f32x4.div(v128.load(a + o), f32x4.pmax(f32x4.splat(1e-9), v128.load(b + o))),
    );
  }
}

/** a *= b. */
export function multiplyBy(a: usize, b: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    v128.store(a + o, f32x4.mul(v128.load(a + o), v128.load(b + o)));
  }
}

/** Least and largest value of the 3 x 3 around each of a tile, ends repeated. */
export function localRange(src: usize, w: i32, h: i32, least: usize, most: usize): void {
  for (let y = 0; y < h; y++) {
    const a = src + ((<usize>(max(0, y - 1) * w)) << 2);
    const b = src + ((<usize>(y * w)) << 2);
    const c = src + ((<usize>(min(h - 1, y + 1) * w)) << 2);
    for (let x = 0; x < w; x++) {
      const l = (<usize>max(0, x - 1)) << 2;
      const m = (<usize>x) << 2;
      const r = (<usize>min(w - 1, x + 1)) << 2;
      let lo = min(min(load<f32>(a + l), load<f32>(a + m)), load<f32>(a + r));
      lo = min(lo, min(min(load<f32>(b + l), load<f32>(b + m)), load<f32>(b + r)));
      lo = min(lo, min(min(load<f32>(c + l), load<f32>(c + m)), load<f32>(c + r)));
      let hi = max(max(load<f32>(a + l), load<f32>(a + m)), load<f32>(a + r));
      hi = max(hi, max(max(load<f32>(b + l), load<f32>(b + m)), load<f32>(b + r)));
      hi = max(hi, max(max(load<f32>(c + l), load<f32>(c + m)), load<f32>(c + r)));
      const o = b - src + m;
      store<f32>(least + o, lo);
      store<f32>(most + o, hi);
    }
  }
}

/**
 * Holds sharpened light between the least and largest around it: what lies beyond is let through by
 * `over` of the range. In place.
 */
export function holdOvershoot(values: usize, least: usize, most: usize, n: i32, over: f32): void {
  const k = f32x4.splat(over);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const lo = v128.load(least + o);
    const hi = v128.load(most + o);
    const room = f32x4.mul(k, f32x4.sub(hi, lo));
    const held = f32x4.pmin(
      f32x4.add(hi, room),
      f32x4.pmax(f32x4.sub(lo, room), v128.load(values + o)),
    );
    v128.store(values + o, held);
  }
}

/**
 * Detail of a scale with what must not be lifted held back: near - far, times flat / (flat + variance
 * over `edge`), so that no strong edge glows, times signal over signal and noise. `noise` is a
 * standard deviation in EV a pixel, 0 for none.
 */
export function heldDetail(
  near: usize,
  far: usize,
  variance: usize,
  noise: usize,
  n: i32,
  edge: f32,
  dst: usize,
): void {
  const e2 = f32x4.splat(edge * edge);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const d = f32x4.sub(v128.load(near + o), v128.load(far + o));
    const v = f32x4.pmax(f32x4.splat(0), v128.load(variance + o));
    const excess = f32x4.div(f32x4.mul(v, v), f32x4.mul(e2, e2));
    let k = f32x4.div(f32x4.splat(1), f32x4.add(f32x4.splat(1), excess));
    if (noise) {
      const s = v128.load(noise + o);
      const s2 = f32x4.mul(s, s);
      const signal = f32x4.pmax(f32x4.splat(0), f32x4.sub(v, s2));
      k = f32x4.mul(k, f32x4.div(signal, f32x4.add(signal, f32x4.add(s2, f32x4.splat(1e-12)))));
    }
    v128.store(dst + o, f32x4.mul(d, k));
  }
}

/** dst = mean of squares - square of the mean, at least 0. */
export function varianceOf(mean: usize, squares: usize, n: i32, dst: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const m = v128.load(mean + o);
    v128.store(
      dst + o,
      f32x4.pmax(f32x4.splat(0), f32x4.sub(v128.load(squares + o), f32x4.mul(m, m))),
    );
  }
}

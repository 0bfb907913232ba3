// What deconvolution and detail by scale need of a tile of w x h floats.

import { exp2x4, log2x4 } from "./math";

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

/**
 * Least and largest value of the 3 x 3 around each of a tile, ends repeated; `rows` holds 2 w + 32
 * floats.
 */
export function localRange(
  src: usize,
  w: i32,
  h: i32,
  rows: usize,
  least: usize,
  most: usize,
): void {
  const line = (<usize>w) << 2;
  const lows = rows + 16;
  const highs = lows + line + 64;
  for (let y = 0; y < h; y++) {
    const a = src + ((<usize>(max(0, y - 1) * w)) << 2);
    const b = src + ((<usize>(y * w)) << 2);
    const c = src + ((<usize>(min(h - 1, y + 1) * w)) << 2);
    for (let x = 0; x < w; x += 4) {
      const o = (<usize>(x + 4 <= w ? x : max(0, w - 4))) << 2;
      const u = v128.load(a + o);
      const v = v128.load(b + o);
      const t = v128.load(c + o);
      v128.store(lows + o, f32x4.pmin(u, f32x4.pmin(v, t)));
      v128.store(highs + o, f32x4.pmax(u, f32x4.pmax(v, t)));
    }
    store<f32>(lows - 4, load<f32>(lows));
    store<f32>(highs - 4, load<f32>(highs));
    store<f32>(lows + line, load<f32>(lows + line - 4));
    store<f32>(highs + line, load<f32>(highs + line - 4));
    const to = b - src;
    for (let x = 0; x < w; x += 4) {
      const o = (<usize>(x + 4 <= w ? x : max(0, w - 4))) << 2;
      v128.store(
        least + to + o,
        f32x4.pmin(
          v128.load(lows + o - 4),
          f32x4.pmin(v128.load(lows + o), v128.load(lows + o + 4)),
        ),
      );
      v128.store(
        most + to + o,
        f32x4.pmax(
          v128.load(highs + o - 4),
          f32x4.pmax(v128.load(highs + o), v128.load(highs + o + 4)),
        ),
      );
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

/**
 * A noise in standard deviations of the model, as EV of the light it lies on, at most 4: sigma
 * sqrt(perUnit * light + read2) over the light.
 */
export function noiseEv(
  sigma: usize,
  logLight: usize,
  n: i32,
  perUnit: f32,
  read2: f32,
  dst: usize,
): void {
  const a = f32x4.splat(perUnit);
  const b = f32x4.splat(read2);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const light = exp2x4(v128.load(logLight + o));
    const size = f32x4.sqrt(f32x4.add(f32x4.mul(a, light), b));
    const ev = f32x4.div(
      f32x4.mul(f32x4.mul(v128.load(sigma + o), size), f32x4.splat(1.442695)),
      f32x4.pmax(f32x4.splat(1e-18), light),
    );
    v128.store(dst + o, f32x4.pmin(f32x4.splat(4), ev));
  }
}

/**
 * EV of sharpening: log2 of a ratio, held within 2 EV, times how much of an edge there is: signal
 * over signal, noise and what an edge must be, `wanted` EV squared. `noise` 0 for none.
 */
export function sharpeningEv(
  ratio: usize,
  variance: usize,
  noise: usize,
  n: i32,
  wanted: f32,
  dst: usize,
): void {
  const floor = f32x4.splat(wanted + 1e-7);
  const zero = f32x4.splat(0);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const held = f32x4.pmin(f32x4.splat(4), f32x4.pmax(f32x4.splat(0.25), v128.load(ratio + o)));
    const s = noise ? v128.load(noise + o) : zero;
    const own = f32x4.mul(s, s);
    const signal = f32x4.pmax(zero, f32x4.sub(v128.load(variance + o), own));
    const strength = f32x4.div(signal, f32x4.add(signal, f32x4.add(own, floor)));
    v128.store(dst + o, f32x4.mul(log2x4(held), strength));
  }
}

/** Smoothstep of most - least between two differences, to `least`. */
export function edgeShare(least: usize, most: usize, n: i32, from: f32, to: f32): void {
  const inv = f32x4.splat(1 / (to - from));
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const d = f32x4.sub(f32x4.sub(v128.load(most + o), v128.load(least + o)), f32x4.splat(from));
    const t = f32x4.pmax(zero, f32x4.pmin(one, f32x4.mul(d, inv)));
    v128.store(least + o, f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t))));
  }
}

/** values = min(most, values * factor), at least `least`. */
export function scaleWithin(values: usize, n: i32, factor: f32, least: f32, most: f32): void {
  const k = f32x4.splat(factor);
  const lo = f32x4.splat(least);
  const hi = f32x4.splat(most);
  for (let i = 0; i < n; i += 4) {
    const o = values + ((<usize>i) << 2);
    v128.store(o, f32x4.pmin(hi, f32x4.pmax(lo, f32x4.mul(v128.load(o), k))));
  }
}

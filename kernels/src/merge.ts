// Frames into the radiance accumulator. Scratch rows are interleaved R, G, B, validity (16 bytes a pixel).

/** Encoded samples (8 or 16 bit, RGB interleaved) to linear R, G, B and the smooth validity of the sample. */
export function linearise(src: usize, wide: i32, n: i32, lut: usize, dst: usize): void {
  for (let i = 0; i < n; i++) {
    let r: f32, g: f32, b: f32;
    if (wide) {
      r = load<f32>(lut + (<usize>load<u16>(src) << 2));
      g = load<f32>(lut + (<usize>load<u16>(src, 2) << 2) + 262144);
      b = load<f32>(lut + (<usize>load<u16>(src, 4) << 2) + 524288);
      src += 6;
    } else {
      r = load<f32>(lut + (<usize>load<u8>(src) << 2));
      g = load<f32>(lut + (<usize>load<u8>(src, 1) << 2) + 1024);
      b = load<f32>(lut + (<usize>load<u8>(src, 2) << 2) + 2048);
      src += 3;
    }
    let m = r > g ? r : g;
    m = m > b ? m : b;
    store<f32>(dst, r);
    store<f32>(dst, g, 4);
    store<f32>(dst, b, 8);
    // the vote fades before saturation, so that no ring shows where the next frame takes over
    const v: f32 = (0.97 - m) * 5.5;
    store<f32>(dst, v < 0 ? 0 : v > 1 ? 1 : v, 12);
    dst += 16;
  }
}

// @ts-ignore: decorator
@inline
function vote(sum: v128, mean: v128, seen: f32, still: f32, acc: usize, plane: usize, at: usize,
              time: f32, invGain: f32, read2: f32, floorVote: f32): void {
  const level = (f32x4.extract_lane(mean, 0) + f32x4.extract_lane(mean, 1) + f32x4.extract_lane(mean, 2)) * <f32>(1.0 / 3.0);
  // radiance = sample / time; the vote is the inverse variance of that quotient
  const k = seen * still * time / ((level > 0 ? level : 0) * invGain + read2) + floorVote * (still + 1e-7) / time;
  const w = k * time;
  const p = acc + at;
  store<f32>(p, load<f32>(p) + f32x4.extract_lane(sum, 0) * k);
  store<f32>(p + plane, load<f32>(p + plane) + f32x4.extract_lane(sum, 1) * k);
  store<f32>(p + 2 * plane, load<f32>(p + 2 * plane) + f32x4.extract_lane(sum, 2) * k);
  store<f32>(p + 3 * plane, load<f32>(p + 3 * plane) + w);
}

/** Adds a frame that needs no resampling. `n` pixels from `src` (scratch) at byte offset `at` of the planes. */
export function foldUntouched(src: usize, n: i32, ghosts: usize, acc: usize, plane: usize, at: usize,
                              time: f32, invGain: f32, read2: f32, floorVote: f32): void {
  for (let i = 0; i < n; i++) {
    const c = v128.load(src);
    const l = i > 0 ? v128.load(src - 16) : c;
    const r = i < n - 1 ? v128.load(src + 16) : c;
    const mean = f32x4.mul(f32x4.add(f32x4.add(l, c), r), f32x4.splat(<f32>(1.0 / 3.0)));
    vote(c, mean, f32x4.extract_lane(c, 3), ghosts ? load<f32>(ghosts + (<usize>i << 2)) : 1, acc, plane, at, time, invGain, read2, floorVote);
    src += 16;
    at += 4;
  }
}

// @ts-ignore: decorator
@inline
function line(p: usize, x0: usize, x1: usize, x2: usize, x3: usize, w0: v128, w1: v128, w2: v128, w3: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(v128.load(p + x0), w0), f32x4.mul(v128.load(p + x1), w1)),
    f32x4.add(f32x4.mul(v128.load(p + x2), w2), f32x4.mul(v128.load(p + x3), w3)));
}
// @ts-ignore: decorator
@inline
function total(p: usize, x0: usize, x1: usize, x2: usize, x3: usize): v128 {
  return f32x4.add(f32x4.add(v128.load(p + x0), v128.load(p + x1)), f32x4.add(v128.load(p + x2), v128.load(p + x3)));
}
// @ts-ignore: decorator
@inline
function lowest(p: usize, x0: usize, x1: usize, x2: usize, x3: usize): v128 {
  return f32x4.pmin(f32x4.pmin(v128.load(p + x0), v128.load(p + x1)), f32x4.pmin(v128.load(p + x2), v128.load(p + x3)));
}
// @ts-ignore: decorator
@inline
function within(v: i32, hi: i32): i32 { return v < 0 ? 0 : v > hi ? hi : v; }

/**
 * Adds one row of a frame that moved, sampled by bicubic interpolation where `h` (reference to frame, row-major)
 * says. Scratch holds the frame's rows `srcY0 .. srcY0 + srcRows`; samples outside the frame have no vote.
 */
export function foldWarped(src: usize, srcW: i32, srcH: i32, srcY0: i32, srcRows: i32, y: i32, n: i32, h: usize,
                           ghosts: usize, acc: usize, plane: usize, at: usize,
                           time: f32, invGain: f32, read2: f32, floorVote: f32): void {
  const py = <f64>y + 0.5;
  const h0 = load<f64>(h), h3 = load<f64>(h, 24), h6 = load<f64>(h, 48);
  const bx = load<f64>(h, 8) * py + load<f64>(h, 16);
  const by = load<f64>(h, 32) * py + load<f64>(h, 40);
  const bz = load<f64>(h, 56) * py + load<f64>(h, 64);
  const stride = <usize>srcW << 4;
  const flat = h6 == 0 && bz == 1;
  for (let i = 0; i < n; i++, at += 4) {
    const px = <f64>i + 0.5;
    const z = flat ? 1.0 : 1.0 / (h6 * px + bz);
    const sx = (h0 * px + bx) * z - 0.5;
    const sy = (h3 * px + by) * z - 0.5;
    if (!(sx >= -0.5 && sy >= -0.5 && sx <= <f64>srcW - 0.5 && sy <= <f64>srcH - 0.5)) continue;
    const fx = floor(sx), fy = floor(sy);
    const ix = <i32>fx, iy = <i32>fy;
    // Catmull-Rom (Keys 1981, a = -1/2)
    const t = <f32>(sx - fx), t2 = t * t, t3 = t2 * t;
    const u = <f32>(sy - fy), u2 = u * u, u3 = u2 * u;
    const w0 = f32x4.splat(-0.5 * t3 + t2 - 0.5 * t), w1 = f32x4.splat(1.5 * t3 - 2.5 * t2 + 1);
    const w2 = f32x4.splat(-1.5 * t3 + 2 * t2 + 0.5 * t), w3 = f32x4.splat(0.5 * t3 - 0.5 * t2);
    const x0 = <usize>within(ix - 1, srcW - 1) << 4, x1 = <usize>within(ix, srcW - 1) << 4;
    const x2 = <usize>within(ix + 1, srcW - 1) << 4, x3 = <usize>within(ix + 2, srcW - 1) << 4;
    const a = src + <usize>within(within(iy - 1, srcH - 1) - srcY0, srcRows - 1) * stride;
    const b = src + <usize>within(within(iy, srcH - 1) - srcY0, srcRows - 1) * stride;
    const c = src + <usize>within(within(iy + 1, srcH - 1) - srcY0, srcRows - 1) * stride;
    const d = src + <usize>within(within(iy + 2, srcH - 1) - srcY0, srcRows - 1) * stride;
    const sum = f32x4.add(
      f32x4.add(f32x4.mul(line(a, x0, x1, x2, x3, w0, w1, w2, w3), f32x4.splat(-0.5 * u3 + u2 - 0.5 * u)), f32x4.mul(line(b, x0, x1, x2, x3, w0, w1, w2, w3), f32x4.splat(1.5 * u3 - 2.5 * u2 + 1))),
      f32x4.add(f32x4.mul(line(c, x0, x1, x2, x3, w0, w1, w2, w3), f32x4.splat(-1.5 * u3 + 2 * u2 + 0.5 * u)), f32x4.mul(line(d, x0, x1, x2, x3, w0, w1, w2, w3), f32x4.splat(0.5 * u3 - 0.5 * u2))));
    const mean = f32x4.mul(f32x4.add(f32x4.add(total(a, x0, x1, x2, x3), total(b, x0, x1, x2, x3)), f32x4.add(total(c, x0, x1, x2, x3), total(d, x0, x1, x2, x3))), f32x4.splat(0.0625));
    // no tap may be clipped: a cubic kernel carries a clipped neighbour two pixels far
    const v = f32x4.extract_lane(f32x4.pmin(f32x4.pmin(lowest(a, x0, x1, x2, x3), lowest(b, x0, x1, x2, x3)), f32x4.pmin(lowest(c, x0, x1, x2, x3), lowest(d, x0, x1, x2, x3))), 3);
    vote(f32x4.pmax(sum, f32x4.splat(0)), mean, v, ghosts ? load<f32>(ghosts + (<usize>i << 2)) : 1, acc, plane, at, time, invGain, read2, floorVote);
  }
}

/** Divides the sums by the weights, applies the 3 x 3 colour matrix at `m`, in place; planes at `acc`, `plane` apart. */
export function finaliseRadiance(acc: usize, plane: usize, n: i32, m: usize): void {
  const m0 = v128.load32_splat(m), m1 = v128.load32_splat(m + 4), m2 = v128.load32_splat(m + 8);
  const m3 = v128.load32_splat(m + 12), m4 = v128.load32_splat(m + 16), m5 = v128.load32_splat(m + 20);
  const m6 = v128.load32_splat(m + 24), m7 = v128.load32_splat(m + 28), m8 = v128.load32_splat(m + 32);
  for (let i = 0; i < n; i += 4) {
    const p = acc + (<usize>i << 2);
    const w = f32x4.div(f32x4.splat(1), f32x4.max(v128.load(p + 3 * plane), f32x4.splat(1e-30)));
    const r = f32x4.mul(v128.load(p), w), g = f32x4.mul(v128.load(p + plane), w), b = f32x4.mul(v128.load(p + 2 * plane), w);
    v128.store(p, f32x4.add(f32x4.add(f32x4.mul(r, m0), f32x4.mul(g, m1)), f32x4.mul(b, m2)));
    v128.store(p + plane, f32x4.add(f32x4.add(f32x4.mul(r, m3), f32x4.mul(g, m4)), f32x4.mul(b, m5)));
    v128.store(p + 2 * plane, f32x4.add(f32x4.add(f32x4.mul(r, m6), f32x4.mul(g, m7)), f32x4.mul(b, m8)));
  }
}

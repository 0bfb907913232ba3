// Frames into the radiance accumulator. Scratch rows are interleaved R, G, B, validity (16 bytes a
// pixel).

// @ts-ignore: decorator
@inline
function brightness(p: usize): f32 {
  return load<f32>(p) + load<f32>(p, 4) + load<f32>(p, 8);
}

/**
 * Adds `n` samples (R, G, B, validity) to the planes at byte offset `at`. One sample more stands
 * before and behind the row. With `first` the sums are begun and what stands there is overwritten.
 * The noise is judged on the mean of three neighbours, since a confidence that follows its own
 * sample's noise is biased.
 */
export function foldRow(
  src: usize,
  n: i32,
  ghosts: usize,
  first: i32,
  acc: usize,
  plane: usize,
  at: usize,
  time: f32,
  invGain: f32,
  read2: f32,
  floorConfidence: f32,
): void {
  const vt = f32x4.splat(time);
  const vg = f32x4.splat(invGain);
  const vr = f32x4.splat(read2);
  const vf = f32x4.splat(floorConfidence / time);
  const zero = f32x4.splat(0);
  let left = f32x4.splat(brightness(src - 16));
  for (let i = 0; i < n; i += 4, src += 64, at += 16) {
    const p0 = v128.load(src);
    const p1 = v128.load(src + 16);
    const p2 = v128.load(src + 32);
    const p3 = v128.load(src + 48);
    const a = v128.shuffle<f32>(p0, p1, 0, 4, 1, 5);
    const b = v128.shuffle<f32>(p2, p3, 0, 4, 1, 5);
    const c = v128.shuffle<f32>(p0, p1, 2, 6, 3, 7);
    const d = v128.shuffle<f32>(p2, p3, 2, 6, 3, 7);
    const r = v128.shuffle<f32>(a, b, 0, 1, 4, 5);
    const g = v128.shuffle<f32>(a, b, 2, 3, 6, 7);
    const bl = v128.shuffle<f32>(c, d, 0, 1, 4, 5);
    const v = v128.shuffle<f32>(c, d, 2, 3, 6, 7);
    const own = f32x4.add(f32x4.add(r, g), bl);
    const next = f32x4.splat(brightness(src + 64));
    const level = f32x4.mul(
      f32x4.add(
        f32x4.add(v128.shuffle<f32>(left, own, 3, 4, 5, 6), own),
        v128.shuffle<f32>(own, next, 1, 2, 3, 4),
      ),
      f32x4.splat(<f32>(1.0 / 9.0)),
    );
    left = own;
    const still = ghosts ? v128.load(ghosts + ((<usize>i) << 2)) : f32x4.splat(1);
    // radiance = sample / time; the confidence is the inverse variance of that quotient
    const real = f32x4.div(
      f32x4.mul(f32x4.mul(f32x4.max(v, zero), still), vt),
      f32x4.add(f32x4.mul(level, vg), vr),
    );
    const k = v128.and(
      f32x4.add(real, f32x4.mul(vf, f32x4.add(still, f32x4.splat(1e-7)))),
      f32x4.ge(v, zero),
    );
    const w = f32x4.mul(k, vt);
    const p = acc + at;
    let R = f32x4.mul(r, k);
    let G = f32x4.mul(g, k);
    let B = f32x4.mul(bl, k);
    let W = w;
    if (!first) {
      R = f32x4.add(v128.load(p), R);
      G = f32x4.add(v128.load(p + plane), G);
      B = f32x4.add(v128.load(p + 2 * plane), B);
      W = f32x4.add(v128.load(p + 3 * plane), W);
    }
    if (i + 4 <= n) {
      v128.store(p, R);
      v128.store(p + plane, G);
      v128.store(p + 2 * plane, B);
      v128.store(p + 3 * plane, W);
    } else {
      // the next row may be another thread's
      for (let j = 0; j < n - i; j++) {
        const q = p + ((<usize>j) << 2);
        store<f32>(q, pick(R, j));
        store<f32>(q + plane, pick(G, j));
        store<f32>(q + 2 * plane, pick(B, j));
        store<f32>(q + 3 * plane, pick(W, j));
      }
    }
  }
}

// @ts-ignore: decorator
@inline
function pick(v: v128, j: i32): f32 {
  return j == 0
    ? f32x4.extract_lane(v, 0)
    : j == 1
      ? f32x4.extract_lane(v, 1)
      : f32x4.extract_lane(v, 2);
}

/**
 * Divides the sums by the weights, applies the 3 x 3 colour matrix at `m`, in place; planes at
 * `acc`, `plane` apart.
 */
export function finaliseRadiance(acc: usize, plane: usize, n: i32, m: usize): void {
  const m0 = v128.load32_splat(m);
  const m1 = v128.load32_splat(m + 4);
  const m2 = v128.load32_splat(m + 8);
  const m3 = v128.load32_splat(m + 12);
  const m4 = v128.load32_splat(m + 16);
  const m5 = v128.load32_splat(m + 20);
  const m6 = v128.load32_splat(m + 24);
  const m7 = v128.load32_splat(m + 28);
  const m8 = v128.load32_splat(m + 32);
  for (let i = 0; i < n; i += 4) {
    const p = acc + ((<usize>i) << 2);
    const w = f32x4.div(f32x4.splat(1), f32x4.max(v128.load(p + 3 * plane), f32x4.splat(1e-30)));
    const r = f32x4.mul(v128.load(p), w);
    const g = f32x4.mul(v128.load(p + plane), w);
    const b = f32x4.mul(v128.load(p + 2 * plane), w);
    v128.store(p, f32x4.add(f32x4.add(f32x4.mul(r, m0), f32x4.mul(g, m1)), f32x4.mul(b, m2)));
    v128.store(
      p + plane,
      f32x4.add(f32x4.add(f32x4.mul(r, m3), f32x4.mul(g, m4)), f32x4.mul(b, m5)),
    );
    v128.store(
      p + 2 * plane,
      f32x4.add(f32x4.add(f32x4.mul(r, m6), f32x4.mul(g, m7)), f32x4.mul(b, m8)),
    );
  }
}

/**
 * Confidences of px left .. left + n of a row, from bytes on a grid of `scale` px: bilinear between
 * the grid's rows `a` and `b` of gw cells, the second at share `fy`. Returns 0, with nothing
 * written, if all cells they lie between are 255.
 */
export function confidenceRow(
  a: usize,
  b: usize,
  gw: i32,
  fy: f32,
  left: i32,
  n: i32,
  scale: f64,
  dst: usize,
): i32 {
  const per = 1 / scale;
  const most = <f64>gw - 1.001;
  const first = max(0, <i32>floor((<f64>left + 0.5) * per - 0.5));
  const last = min(gw - 1, <i32>ceil(<f64>(left + n) * per));
  let moved = false;
  for (let i = first; i <= last && !moved; i++)
    moved = load<u8>(a + <usize>i) < 255 || load<u8>(b + <usize>i) < 255;
  if (!moved) return 0;
  for (let i = 0; i < n; i += 4, dst += 16) {
    // four pixels lie over no more than four of a coarser grid, nearly everywhere of full
    // confidences
    const p0 = <usize>gridAt(left + i, per, most);
    if (
      per <= 0.5 &&
      i + 4 <= n &&
      load<u32>(a + p0) == 0xffffffff &&
      load<u32>(b + p0) == 0xffffffff
    ) {
      v128.store(dst, f32x4.splat(1));
      continue;
    }
    for (let k = 0; k < min(4, n - i); k++) {
      const gx = gridAt(left + i + k, per, most);
      const x = floor(gx);
      const fx = <f32>(gx - x);
      const p = <usize>x;
      const q = <usize>min(gw - 1, <i32>x + 1);
      const a0 = <f32>load<u8>(a + p);
      const b0 = <f32>load<u8>(b + p);
      const t = a0 + (<f32>load<u8>(a + q) - a0) * fx;
      const u = b0 + (<f32>load<u8>(b + q) - b0) * fx;
      store<f32>(dst + ((<usize>k) << 2), (t + (u - t) * fy) * <f32>(1.0 / 255.0));
    }
  }
  return 1;
}

/** Where a pixel's middle lies on the grid, no further than between its last two. */
// @ts-ignore: decorator
@inline
function gridAt(x: i32, per: f64, most: f64): f64 {
  return max<f64>(0, min<f64>(most, (<f64>x + 0.5) * per - 0.5));
}

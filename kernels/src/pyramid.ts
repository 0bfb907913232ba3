// Gaussian and Laplacian pyramids with the 5-tap binomial of Burt and Adelson 1983. Beyond its
// edges a plane is mirrored about its outermost samples.

// @ts-ignore: decorator
@inline
function mirrored(i: i32, n: i32): i32 {
  const j = i < 0 ? -i : i >= n ? 2 * (n - 1) - i : i;
  return max(0, min(n - 1, j));
}

// @ts-ignore: decorator
@inline
function at(row: usize, i: i32, n: i32): f32 {
  return load<f32>(row + ((<usize>mirrored(i, n)) << 2));
}

/** Halves a plane: rows y0 to y1 of (w + 1) / 2 by (h + 1) / 2. `row` holds one row of w floats. */
export function pyrDown(
  src: usize,
  w: i32,
  h: i32,
  dst: usize,
  row: usize,
  y0: i32,
  y1: i32,
): void {
  const dw = (w + 1) >> 1;
  const stride = (<usize>w) << 2;
  const k1 = f32x4.splat(0.25);
  const k0 = f32x4.splat(0.375);
  const k2 = f32x4.splat(0.0625);
  for (let y = y0; y < y1; y++) {
    const c = y << 1;
    const a = src + <usize>mirrored(c - 2, h) * stride;
    const b = src + <usize>mirrored(c - 1, h) * stride;
    const m = src + <usize>c * stride;
    const d = src + <usize>mirrored(c + 1, h) * stride;
    const e = src + <usize>mirrored(c + 2, h) * stride;
    let x = 0;
    for (; x + 4 <= w; x += 4) {
      const o = (<usize>x) << 2;
      v128.store(
        row + o,
        f32x4.add(
          f32x4.mul(v128.load(m + o), k0),
          f32x4.add(
            f32x4.mul(f32x4.add(v128.load(b + o), v128.load(d + o)), k1),
            f32x4.mul(f32x4.add(v128.load(a + o), v128.load(e + o)), k2),
          ),
        ),
      );
    }
    for (; x < w; x++) {
      const o = (<usize>x) << 2;
      store<f32>(
        row + o,
        load<f32>(m + o) * 0.375 +
          ((load<f32>(b + o) + load<f32>(d + o)) * 0.25 +
            (load<f32>(a + o) + load<f32>(e + o)) * 0.0625),
      );
    }
    const out = dst + ((<usize>(y * dw)) << 2);
    for (let i = 0; i < dw; i++) {
      const q = i << 1;
      if (i > 0 && q + 10 <= w) {
        const p = row + ((<usize>q) << 2);
        const A = v128.load(p, 0);
        const B = v128.load(p, 16);
        const before = v128.load(p - 8);
        const between = v128.load(p, 8);
        const after = v128.load(p, 24);
        const outer = f32x4.add(
          v128.shuffle<f32>(before, between, 0, 2, 4, 6),
          v128.shuffle<f32>(between, after, 0, 2, 4, 6),
        );
        const inner = f32x4.add(
          v128.shuffle<f32>(before, between, 1, 3, 5, 7),
          v128.shuffle<f32>(A, B, 1, 3, 5, 7),
        );
        v128.store(
          out + ((<usize>i) << 2),
          f32x4.add(
            f32x4.mul(v128.shuffle<f32>(A, B, 0, 2, 4, 6), k0),
            f32x4.add(f32x4.mul(inner, k1), f32x4.mul(outer, k2)),
          ),
        );
        i += 3;
        continue;
      }
      store<f32>(
        out + ((<usize>i) << 2),
        at(row, q, w) * 0.375 +
          ((at(row, q - 1, w) + at(row, q + 1, w)) * 0.25 +
            (at(row, q - 2, w) + at(row, q + 2, w)) * 0.0625),
      );
    }
  }
}

/** A coarse sample beyond the edge, as mirroring the fine plane of n samples gives it. */
// @ts-ignore: decorator
@inline
function coarseAt(row: usize, q: i32, n: i32): f32 {
  return load<f32>(row + ((<usize>(mirrored(q << 1, n) >> 1)) << 2));
}

/**
 * Rows y0 to y1 of dst = base + sign * up(coarse): sign 1 collapses a pyramid, -1 makes its
 * Laplacian. `row` holds (w + 1) / 2 floats.
 */
export function pyrUp(
  coarse: usize,
  w: i32,
  h: i32,
  base: usize,
  dst: usize,
  sign: f32,
  row: usize,
  y0: i32,
  y1: i32,
): void {
  const cw = (w + 1) >> 1;
  const half = f32x4.splat(0.5);
  const most = f32x4.splat(0.75);
  const eighth = f32x4.splat(0.125);
  const s = f32x4.splat(sign);
  for (let y = y0; y < y1; y++) {
    const c = y >> 1;
    const m = coarse + ((<usize>(c * cw)) << 2);
    const above = coarse + ((<usize>((mirrored((c - 1) << 1, h) >> 1) * cw)) << 2);
    const below = coarse + ((<usize>((mirrored((c + 1) << 1, h) >> 1) * cw)) << 2);
    let i = 0;
    for (; i + 4 <= cw; i += 4) {
      const o = (<usize>i) << 2;
      v128.store(
        row + o,
        y & 1
          ? f32x4.mul(f32x4.add(v128.load(m + o), v128.load(below + o)), half)
          : f32x4.add(
              f32x4.mul(v128.load(m + o), most),
              f32x4.mul(f32x4.add(v128.load(above + o), v128.load(below + o)), eighth),
            ),
      );
    }
    for (; i < cw; i++) {
      const o = (<usize>i) << 2;
      store<f32>(
        row + o,
        y & 1
          ? (load<f32>(m + o) + load<f32>(below + o)) * 0.5
          : load<f32>(m + o) * 0.75 + (load<f32>(above + o) + load<f32>(below + o)) * 0.125,
      );
    }
    const off = (<usize>(y * w)) << 2;
    for (let x = 0; x < w; x++) {
      const q = x >> 1;
      const o = off + ((<usize>x) << 2);
      if (!(x & 1) && q > 0 && q + 5 <= cw && x + 8 <= w) {
        const p = row + ((<usize>q) << 2);
        const v = v128.load(p);
        const r = v128.load(p, 4);
        const l = v128.load(p - 4);
        const even = f32x4.add(f32x4.mul(v, most), f32x4.mul(f32x4.add(l, r), eighth));
        const odd = f32x4.mul(f32x4.add(v, r), half);
        v128.store(
          dst + o,
          f32x4.add(v128.load(base + o), f32x4.mul(s, v128.shuffle<f32>(even, odd, 0, 4, 1, 5))),
        );
        v128.store(
          dst + o + 16,
          f32x4.add(
            v128.load(base + o + 16),
            f32x4.mul(s, v128.shuffle<f32>(even, odd, 2, 6, 3, 7)),
          ),
        );
        x += 7;
        continue;
      }
      const v = coarseAt(row, q, w);
      const r = coarseAt(row, q + 1, w);
      const up: f32 = x & 1 ? (v + r) * 0.5 : v * 0.75 + (coarseAt(row, q - 1, w) + r) * 0.125;
      store<f32>(dst + o, load<f32>(base + o) + sign * up);
    }
  }
}

import { exp2x4, log2x4, ROUNDING } from "./math";

// Weights and sums of exposure fusion (Mertens, Kautz, Van Reeth 2007) on RGB samples of 16 bit.

/**
 * Channel c of four RGB samples of 16 bit at p, of which 8 bytes beyond may be read, as floats of 0
 * to 1.
 */
// @ts-ignore: decorator
@inline
export function four(p: usize, c: i32): v128 {
  const a = v128.load(p);
  const b = v128.load(p, 16);
  const u =
    c == 0
      ? v128.shuffle<u16>(a, b, 0, 3, 6, 9, 0, 0, 0, 0)
      : c == 1
        ? v128.shuffle<u16>(a, b, 1, 4, 7, 10, 0, 0, 0, 0)
        : v128.shuffle<u16>(a, b, 2, 5, 8, 11, 0, 0, 0, 0);
  return f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(u)), f32x4.splat(1.0 / 65535.0));
}

/** Greys of a row, with a mirrored one at either end: dst[1] is the first. */
// @ts-ignore: decorator
@inline
function greyRow(src: usize, w: i32, dst: usize): void {
  for (let x = 0; x < w; x += 4) {
    const p = src + <usize>(x * 6);
    v128.store(
      dst + ((<usize>x) << 2),
      f32x4.add(
        f32x4.add(
          f32x4.mul(four(p, 0), f32x4.splat(0.299)),
          f32x4.mul(four(p, 1), f32x4.splat(0.587)),
        ),
        f32x4.mul(four(p, 2), f32x4.splat(0.114)),
      ),
      4,
    );
  }
  store<f32>(dst, load<f32>(dst + ((<usize>min(1, w - 1)) << 2), 4));
  store<f32>(dst + ((<usize>w) << 2), load<f32>(dst + ((<usize>max(0, w - 2)) << 2), 4), 4);
}

/**
 * Contrast times saturation times well-exposedness of the rows y0 to y1, to `dst` (the first of
 * them), with equal exponents and a width of 0.2. `rows` holds three rows of w + 8 floats; up to 64
 * bytes beyond the picture are read, and the floats beyond a row are written before the next row
 * is. Beyond the edges the picture is mirrored.
 */
export function fusionWeights(
  src: usize,
  w: i32,
  h: i32,
  y0: i32,
  y1: i32,
  rows: usize,
  dst: usize,
): void {
  const stride = <usize>(w * 6);
  const line = (<usize>(w + 8)) << 2;
  const half = f32x4.splat(0.5);
  const third = f32x4.splat(1.0 / 3.0);
  // exp(-d^2 / (2 * 0.2^2)) of three channels at once
  const fall = f32x4.splat(-12.5 * 1.4426950408889634);
  let above = rows;
  let own = rows + line;
  let below = rows + 2 * line;
  greyRow(src + <usize>abs(y0 - 1 < 0 ? min(1, h - 1) : y0 - 1) * stride, w, above);
  greyRow(src + <usize>y0 * stride, w, own);
  for (let y = y0; y < y1; y++) {
    greyRow(src + <usize>(y + 1 < h ? y + 1 : max(0, h - 2)) * stride, w, below);
    const row = src + <usize>y * stride;
    const out = dst + ((<usize>((y - y0) * w)) << 2);
    for (let x = 0; x < w; x += 4) {
      const o = (<usize>x) << 2;
      const p = row + <usize>(x * 6);
      const R = four(p, 0);
      const G = four(p, 1);
      const B = four(p, 2);
      const around = f32x4.add(
        f32x4.add(v128.load(own + o), v128.load(own + o, 8)),
        f32x4.add(v128.load(above + o, 4), v128.load(below + o, 4)),
      );
      const contrast = f32x4.abs(
        f32x4.sub(around, f32x4.mul(v128.load(own + o, 4), f32x4.splat(4))),
      );
      const m = f32x4.mul(f32x4.add(f32x4.add(R, G), B), third);
      const r = f32x4.sub(R, m);
      const g = f32x4.sub(G, m);
      const b = f32x4.sub(B, m);
      const saturation = f32x4.sqrt(
        f32x4.add(f32x4.add(f32x4.mul(r, r), f32x4.mul(g, g)), f32x4.mul(b, b)),
      );
      const i = f32x4.sub(R, half);
      const j = f32x4.sub(G, half);
      const k = f32x4.sub(B, half);
      const exposed = exp2x4(
        f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(i, i), f32x4.mul(j, j)), f32x4.mul(k, k)), fall),
      );
      const weight = f32x4.add(
        f32x4.mul(f32x4.mul(contrast, saturation), exposed),
        f32x4.splat(1e-12),
      );
      if (x + 4 <= w) v128.store(out + o, weight);
      else
        for (let q = 0; q < w - x; q++)
          store<f32>(
            out + o + ((<usize>q) << 2),
            q == 0
              ? f32x4.extract_lane(weight, 0)
              : q == 1
                ? f32x4.extract_lane(weight, 1)
                : f32x4.extract_lane(weight, 2),
          );
    }
    const t = above;
    above = own;
    own = below;
    below = t;
  }
}

/** One channel of n RGB samples of 16 bit, as floats of 0 to 1; both with room behind. */
export function channelOf(src: usize, n: i32, channel: i32, dst: usize): void {
  for (let i = 0; i < n; i += 4) {
    const p = src + <usize>(i * 6);
    const o = dst + ((<usize>i) << 2);
    v128.store(o, channel == 0 ? four(p, 0) : channel == 1 ? four(p, 1) : four(p, 2));
  }
}

/**
 * Four samples of 16 bytes, R, G, B and validity, as eight of 16 bit; black where validity is under
 * 0.
 */
// @ts-ignore: decorator
@inline
function packed(p: usize, k: v128): v128 {
  const zero = f32x4.splat(0);
  const most = f32x4.splat(65535);
  const round = f32x4.splat(ROUNDING);
  const low = i32x4.splat(0x1ffff);
  const a = v128.load(p);
  const b = v128.load(p, 16);
  const x = v128.and(f32x4.add(f32x4.pmax(zero, f32x4.pmin(most, f32x4.mul(a, k))), round), low);
  const y = v128.and(f32x4.add(f32x4.pmax(zero, f32x4.pmin(most, f32x4.mul(b, k))), round), low);
  return i16x8.narrow_i32x4_u(
    v128.andnot(x, i32x4.shr_s(v128.shuffle<i32>(a, a, 3, 3, 3, 3), 31)),
    v128.andnot(y, i32x4.shr_s(v128.shuffle<i32>(b, b, 3, 3, 3, 3), 31)),
  );
}

/**
 * n samples R, G, B and validity (16 bytes) by a factor to RGB of 16 bit; what lies outside
 * (validity under 0) is black.
 */
export function packRow(src: usize, n: i32, factor: f32, dst: usize): void {
  const k = f32x4.splat(factor * 65535);
  let i = 0;
  for (; i + 4 <= n; i += 4, src += 64, dst += 24) {
    const a = packed(src, k);
    const b = packed(src + 32, k);
    v128.store(dst, v128.shuffle<u16>(a, b, 0, 1, 2, 4, 5, 6, 8, 9));
    v128.store64_lane(dst, v128.shuffle<u16>(b, b, 2, 4, 5, 6, 0, 0, 0, 0), 0, 16);
  }
  for (; i < n; i++, src += 16, dst += 6) {
    const s = packed(src, k);
    v128.store32_lane(dst, s, 0);
    v128.store16_lane(dst, s, 2, 4);
  }
}

/**
 * Lightens rows y0 to y1 of an sRGB picture of 16 bit by `ev` at the corners of the frame it was
 * warped from, squared between there and the frame's middle. `m` maps the picture's px to the frame's
 * (nine doubles); `perSquare` is one over the squared half diagonal; `slopes` (256 floats, each 256
 * codes) says how many EV of code an EV of light is.
 */
export function evenCorners(
  at: usize,
  w: i32,
  y0: i32,
  y1: i32,
  m: usize,
  cx: f64,
  cy: f64,
  perSquare: f64,
  ev: f64,
  slopes: usize,
): void {
  for (let y = y0; y < y1; y++) {
    let p = at + <usize>(y * w * 6);
    for (let x = 0; x < w; x++, p += 6) {
      const px = <f64>x + 0.5;
      const py = <f64>y + 0.5;
      const z = 1.0 / (load<f64>(m, 48) * px + load<f64>(m, 56) * py + load<f64>(m, 64));
      const u = (load<f64>(m) * px + load<f64>(m, 8) * py + load<f64>(m, 16)) * z - cx;
      const v = (load<f64>(m, 24) * px + load<f64>(m, 32) * py + load<f64>(m, 40)) * z - cy;
      const e = <f32>(ev * (u * u + v * v) * perSquare);
      const r = load<u16>(p);
      const g = load<u16>(p, 2);
      const b = load<u16>(p, 4);
      const s = f32x4(
        load<f32>(slopes + ((<usize>(r >> 8)) << 2)),
        load<f32>(slopes + ((<usize>(g >> 8)) << 2)),
        load<f32>(slopes + ((<usize>(b >> 8)) << 2)),
        0,
      );
      const out = f32x4.add(
        f32x4.mul(f32x4(<f32>r, <f32>g, <f32>b, 0), exp2x4(f32x4.mul(s, f32x4.splat(e)))),
        f32x4.splat(0.5),
      );
      const kept = i32x4.trunc_sat_f32x4_u(f32x4.min(out, f32x4.splat(65535)));
      store<u16>(p, <u16>i32x4.extract_lane(kept, 0));
      store<u16>(p, <u16>i32x4.extract_lane(kept, 1), 2);
      store<u16>(p, <u16>i32x4.extract_lane(kept, 2), 4);
    }
  }
}

/** Squares of n samples, with room behind. */
export function squares(src: usize, n: i32, dst: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const v = v128.load(src + o);
    v128.store(dst + o, f32x4.mul(v, v));
  }
}

/** The roots of n samples, in place, with room behind; of what rounding put below 0 it is 0. */
export function roots(at: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const o = at + ((<usize>i) << 2);
    v128.store(o, f32x4.sqrt(f32x4.max(v128.load(o), f32x4.splat(0))));
  }
}

/** acc += a * b over planes of n, a multiple of four or with room behind. */
export function addProduct(a: usize, b: usize, n: i32, acc: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    v128.store(
      acc + o,
      f32x4.add(v128.load(acc + o), f32x4.mul(v128.load(a + o), v128.load(b + o))),
    );
  }
}

/** a /= b over planes of n, with room behind. */
export function divideBy(a: usize, b: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    v128.store(a + o, f32x4.div(v128.load(a + o), f32x4.max(v128.load(b + o), f32x4.splat(1e-20))));
  }
}

/** acc += a over planes of n, with room behind. */
export function addPlane(a: usize, n: i32, acc: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    v128.store(acc + o, f32x4.add(v128.load(acc + o), v128.load(a + o)));
  }
}

/** The bits of 2^-58, from which weights of 16 bit count: 6 bits of exponent, 10 of fraction. */
const LEAST_WEIGHT: i32 = 69 << 23;

/** n weights as 16 bit, within 0.05 %; both with room behind. */
export function packWeights(src: usize, n: i32, dst: usize): void {
  const from = i32x4.splat(LEAST_WEIGHT - (1 << 12));
  for (let i = 0; i < n; i += 8) {
    const p = src + ((<usize>i) << 2);
    v128.store(
      dst + ((<usize>i) << 1),
      i16x8.narrow_i32x4_u(
        i32x4.shr_s(i32x4.sub(v128.load(p), from), 13),
        i32x4.shr_s(i32x4.sub(v128.load(p, 16), from), 13),
      ),
    );
  }
}

/** The same back to floats. */
export function unpackWeights(src: usize, n: i32, dst: usize): void {
  const from = i32x4.splat(LEAST_WEIGHT);
  for (let i = 0; i < n; i += 8) {
    const q = v128.load(src + ((<usize>i) << 1));
    const p = dst + ((<usize>i) << 2);
    v128.store(p, i32x4.add(i32x4.shl(i32x4.extend_low_i16x8_u(q), 13), from));
    v128.store(p, i32x4.add(i32x4.shl(i32x4.extend_high_i16x8_u(q), 13), from), 16);
  }
}

/** sRGB planes of 0 to 1 to linear light, then by the matrix m, in place; with room behind. */
export function toScene(planes: usize, plane: usize, n: i32, m: usize): void {
  const m0 = v128.load32_splat(m);
  const m1 = v128.load32_splat(m, 4);
  const m2 = v128.load32_splat(m, 8);
  const m3 = v128.load32_splat(m, 12);
  const m4 = v128.load32_splat(m, 16);
  const m5 = v128.load32_splat(m, 20);
  const m6 = v128.load32_splat(m, 24);
  const m7 = v128.load32_splat(m, 28);
  const m8 = v128.load32_splat(m, 32);
  let i = 0;
  for (; i + 4 <= n; i += 4) {
    const p = planes + ((<usize>i) << 2);
    const r = light(v128.load(p));
    const g = light(v128.load(p + plane));
    const b = light(v128.load(p + 2 * plane));
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
  // one by one, since what follows belongs to other rows
  for (; i < n; i++) {
    const p = planes + ((<usize>i) << 2);
    const r = light(v128.load32_splat(p));
    const g = light(v128.load32_splat(p + plane));
    const b = light(v128.load32_splat(p + 2 * plane));
    v128.store32_lane(
      p,
      f32x4.add(f32x4.add(f32x4.mul(r, m0), f32x4.mul(g, m1)), f32x4.mul(b, m2)),
      0,
    );
    v128.store32_lane(
      p + plane,
      f32x4.add(f32x4.add(f32x4.mul(r, m3), f32x4.mul(g, m4)), f32x4.mul(b, m5)),
      0,
    );
    v128.store32_lane(
      p + 2 * plane,
      f32x4.add(f32x4.add(f32x4.mul(r, m6), f32x4.mul(g, m7)), f32x4.mul(b, m8)),
      0,
    );
  }
}

/** The curve of IEC 61966-2-1. */
// @ts-ignore: decorator
@inline
function light(encoded: v128): v128 {
  const v = f32x4.pmax(f32x4.splat(0), f32x4.pmin(f32x4.splat(1), encoded));
  const power = exp2x4(
    f32x4.mul(
      f32x4.splat(2.4),
      log2x4(f32x4.mul(f32x4.add(v, f32x4.splat(0.055)), f32x4.splat(1.0 / 1.055))),
    ),
  );
  return v128.bitselect(
    f32x4.mul(v, f32x4.splat(1.0 / 12.92)),
    power,
    f32x4.le(v, f32x4.splat(0.04045)),
  );
}

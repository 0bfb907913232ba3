import { exp2x4, log2x4, ROUNDING } from "./math";

// @ts-ignore: decorator
@inline
function luma(r: v128, g: v128, b: v128): v128 {
  // Rec. 2020 luminance
  return f32x4.add(
    f32x4.add(f32x4.mul(r, f32x4.splat(0.2627)), f32x4.mul(g, f32x4.splat(0.678))),
    f32x4.mul(b, f32x4.splat(0.0593)),
  );
}

/** The point-wise curve of local Laplacian filtering (Paris et al. 2011) around `g`, all in EV. */
export function remapAround(
  src: usize,
  dst: usize,
  n: i32,
  g: f32,
  sigma: f32,
  detail: f32,
  edges: f32,
): void {
  const vg = f32x4.splat(g);
  const vs = f32x4.splat(sigma);
  const zero = f32x4.splat(0);
  const vd = f32x4.splat(detail);
  const ve = f32x4.splat(edges);
  const inv = f32x4.splat(1 / sigma);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const d = f32x4.sub(v128.load(src + o), vg);
    const a = f32x4.abs(d);
    const t = f32x4.min(f32x4.mul(a, inv), f32x4.splat(1));
    // inside sigma: detail gain, easing to 1 at sigma so that the curve stays smooth
    const gain = f32x4.add(vd, f32x4.mul(f32x4.sub(f32x4.splat(1), vd), f32x4.mul(t, t)));
    const m = f32x4.add(
      f32x4.mul(f32x4.min(a, vs), gain),
      f32x4.mul(f32x4.max(f32x4.sub(a, vs), zero), ve),
    );
    const sign = v128.and(d, i32x4.splat(0x80000000));
    v128.store(dst + o, f32x4.add(vg, v128.or(m, sign)));
  }
}

/**
 * Adds to `out` the share of one sampled level: hat weight of |gauss - g| / step on the remapped
 * Laplacian.
 */
export function selectLevel(
  gauss: usize,
  lap: usize,
  out: usize,
  n: i32,
  g: f32,
  step: f32,
  first: i32,
  last: i32,
): void {
  const inv: f32 = 1 / step;
  for (let i = 0; i < n; i++) {
    const o = (<usize>i) << 2;
    const d = (load<f32>(gauss + o) - g) * inv;
    let w: f32 = 1 - abs<f32>(d);
    if (first && d < 0) w = 1;
    if (last && d > 0) w = 1;
    if (w > 0) store<f32>(out + o, load<f32>(out + o) + w * load<f32>(lap + o));
  }
}

/**
 * The local gain over a row as a line in log luminance, with exposure and contrast applied to it:
 * gain in EV is slope * log2(Y) + offset, both sampled bilinearly from a grid of gw x gh. `gx` is
 * the grid position of the first pixel, `step` the way to the next, `gy` the row's. `s` as in
 * renderRow; `line` holds 2 gw + 8 floats; up to three floats beyond the row's end are written.
 */
export function gainRow(
  slopes: usize,
  offsets: usize,
  gw: i32,
  gh: i32,
  gx: f64,
  step: f64,
  gy: f64,
  n: i32,
  s: usize,
  line: usize,
  dstSlopes: usize,
  dstOffsets: usize,
): void {
  const contrast = load<f32>(s, 16);
  const pivot = load<f32>(s, 20);
  const shift = (load<f32>(s, 12) - pivot) * contrast + pivot;
  const bottom = <f64>(gh - 1);
  const right = <f64>(gw - 1);
  const cy = gy < 0 ? 0 : gy > bottom ? bottom : gy;
  const iy = <i32>cy;
  const fy = <f32>(cy - <f64>iy);
  const r0 = (<usize>(iy * gw)) << 2;
  const r1 = (<usize>(min(gh - 1, iy + 1) * gw)) << 2;
  // down first, pairs of slope and offset side by side, the last repeated
  let g = 0;
  const vy = f32x4.splat(fy);
  const vc = f32x4.splat(contrast);
  const one = f32x4.splat(1);
  const vs = f32x4.splat(shift);
  for (; g + 4 <= gw; g += 4) {
    const o = (<usize>g) << 2;
    const a = v128.load(slopes + r0 + o);
    const b = v128.load(offsets + r0 + o);
    const slope = f32x4.sub(
      f32x4.mul(
        f32x4.add(one, f32x4.add(a, f32x4.mul(f32x4.sub(v128.load(slopes + r1 + o), a), vy))),
        vc,
      ),
      one,
    );
    const offset = f32x4.add(
      f32x4.mul(f32x4.add(b, f32x4.mul(f32x4.sub(v128.load(offsets + r1 + o), b), vy)), vc),
      vs,
    );
    v128.store(line + (o << 1), v128.shuffle<f32>(slope, offset, 0, 4, 1, 5));
    v128.store(line + (o << 1), v128.shuffle<f32>(slope, offset, 2, 6, 3, 7), 16);
  }
  for (let i = g; i <= gw; i++) {
    const o = (<usize>min(i, gw - 1)) << 2;
    const at = line + ((<usize>i) << 3);
    const a = load<f32>(slopes + r0 + o);
    const b = load<f32>(offsets + r0 + o);
    store<f32>(at, (1 + a + (load<f32>(slopes + r1 + o) - a) * fy) * contrast - 1);
    store<f32>(at, (b + (load<f32>(offsets + r1 + o) - b) * fy) * contrast + shift, 4);
  }
  const lane = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(<f32>step));
  const last = f32x4.splat(<f32>right);
  const zero = f32x4.splat(0);
  for (let i = 0; i < n; i += 4) {
    const c = f32x4.pmax(
      zero,
      f32x4.pmin(last, f32x4.add(f32x4.splat(<f32>(gx + <f64>i * step)), lane)),
    );
    const whole = f32x4.floor(c);
    const ix = i32x4.trunc_sat_f32x4_s(whole);
    const f = f32x4.sub(c, whole);
    const p0 = v128.load(line + ((<usize>i32x4.extract_lane(ix, 0)) << 3));
    const p1 = v128.load(line + ((<usize>i32x4.extract_lane(ix, 1)) << 3));
    const p2 = v128.load(line + ((<usize>i32x4.extract_lane(ix, 2)) << 3));
    const p3 = v128.load(line + ((<usize>i32x4.extract_lane(ix, 3)) << 3));
    // slopes and offsets of the left and of the right, each of four pixels
    const left01 = v128.shuffle<f32>(p0, p1, 0, 4, 1, 5);
    const left23 = v128.shuffle<f32>(p2, p3, 0, 4, 1, 5);
    const right01 = v128.shuffle<f32>(p0, p1, 2, 6, 3, 7);
    const right23 = v128.shuffle<f32>(p2, p3, 2, 6, 3, 7);
    const s0 = v128.shuffle<f64>(left01, left23, 0, 2);
    const o0 = v128.shuffle<f64>(left01, left23, 1, 3);
    const s1 = v128.shuffle<f64>(right01, right23, 0, 2);
    const o1 = v128.shuffle<f64>(right01, right23, 1, 3);
    const e = (<usize>i) << 2;
    v128.store(dstSlopes + e, f32x4.add(s0, f32x4.mul(f32x4.sub(s1, s0), f)));
    v128.store(dstOffsets + e, f32x4.add(o0, f32x4.mul(f32x4.sub(o1, o0), f)));
  }
}

/** NaN to 0, and infinity to as much as can still be squared. */
// @ts-ignore: decorator
@inline
function finite(x: v128): v128 {
  return f32x4.pmax(f32x4.splat(-1e18), f32x4.pmin(f32x4.splat(1e18), v128.and(x, f32x4.eq(x, x))));
}

/** Linear to k, then an exponential approach to display white. */
// @ts-ignore: decorator
@inline
function shoulder(x: v128, k: v128, inv: v128, rise: v128): v128 {
  const above = f32x4.gt(x, k);
  if (!v128.any_true(above)) return x;
  const e = exp2x4(f32x4.mul(f32x4.sub(x, k), inv));
  return v128.bitselect(f32x4.add(k, f32x4.mul(rise, f32x4.sub(f32x4.splat(1), e))), x, above);
}

/**
 * Steps of the encoding table, over the square root of light, in which display curves are nearly
 * straight.
 */
const STEPS: f32 = 2048;

/** 0..1 to encoded, by linear interpolation in a table of value and rise to the next. */
// @ts-ignore: decorator
@inline
function encode(x: v128, table: usize): v128 {
  const t = f32x4.mul(
    f32x4.sqrt(f32x4.pmax(f32x4.splat(0), f32x4.pmin(f32x4.splat(1), x))),
    f32x4.splat(STEPS),
  );
  const whole = f32x4.add(f32x4.sub(t, f32x4.splat(0.5)), f32x4.splat(ROUNDING));
  const f = f32x4.sub(t, f32x4.sub(whole, f32x4.splat(ROUNDING)));
  const p = v128.and(i32x4.shl(whole, 3), i32x4.splat(0x7fff));
  const q = i64x2.extract_lane(p, 0);
  const r = i64x2.extract_lane(p, 1);
  const a = v128.load64_lane(
    table + <usize>(q >> 32),
    v128.load64_zero(table + <usize>(<u32>q)),
    1,
  );
  const b = v128.load64_lane(
    table + <usize>(r >> 32),
    v128.load64_zero(table + <usize>(<u32>r)),
    1,
  );
  return f32x4.add(
    v128.shuffle<f32>(a, b, 0, 2, 4, 6),
    f32x4.mul(v128.shuffle<f32>(a, b, 1, 3, 5, 7), f),
  );
}

/**
 * Constant i of a row, in all lanes. Read where it is needed: there are more of them than
 * registers.
 */
// @ts-ignore: decorator
@inline
function param(s: usize, i: i32): v128 {
  return v128.load32_splat(s + ((<usize>i) << 2));
}

/**
 * One row of the picture for a screen or a file. `slopes` and `offsets` as gainRow makes them.
 * `s`: wr wg wb, exposure EV, contrast, pivot EV, saturation, shoulder start, white,
 *      nine of the matrix to the output space, 1 for linear floats that are neither encoded nor clamped,
 *      the scene's floor in linear light, 0 for none.
 *
 * Light under the floor is noise: its logarithm is that of the floor, so that black has a gain, and
 * what brightens it is weighed as in Wiener's filter, signal power over signal and noise power;
 * chroma, of which noise has more, by that twice. `table`: STEPS + 1 pairs of the space's curve.
 * `kind`: 0 RGBA bytes, 1 RGB 16 bit, 2 RGB floats, 3 RGB bytes (interleaved); four samples beyond
 * the row's end are written too.
 */
export function renderRow(
  src: usize,
  plane: usize,
  n: i32,
  slopes: usize,
  offsets: usize,
  s: usize,
  table: usize,
  kind: i32,
  dst: usize,
): void {
  const white = load<f32>(s, 32);
  const kk = load<f32>(s, 28);
  const roll = white > kk;
  const span: f32 = 1 - kk;
  const inv = f32x4.splat(roll ? -1.442695 / span : 0);
  const rise = f32x4.splat(roll ? <f32>(<f64>span / (1.0 - Math.exp(-(white - kk) / span))) : 1);
  const linear = load<f32>(s, 72) != 0;
  const lowest = f32x4.splat(max<f32>(1e-18, load<f32>(s, 76)));
  const one = f32x4.splat(1);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    let r = v128.load(src + o);
    let g = v128.load(src + plane + o);
    let b = v128.load(src + 2 * plane + o);
    // what is no number is black, and nothing is beyond what products can hold
    r = finite(r);
    g = finite(g);
    b = finite(b);
    // the local gain goes by the light as it was, before white balance
    const light = luma(r, g, b);
    const L = log2x4(f32x4.pmax(lowest, light));
    const full = exp2x4(f32x4.add(f32x4.mul(v128.load(slopes + o), L), v128.load(offsets + o)));
    const power = f32x4.mul(light, light);
    const noise = param(s, 19);
    const signal = f32x4.div(
      power,
      f32x4.add(power, f32x4.pmax(f32x4.splat(1e-36), f32x4.mul(noise, noise))),
    );
    const lifted = f32x4.mul(f32x4.pmax(f32x4.splat(0), f32x4.sub(full, one)), signal);
    const rest = f32x4.pmin(full, one);
    const gain = f32x4.add(rest, lifted);
    const colour = f32x4.add(rest, f32x4.mul(lifted, signal));
    r = f32x4.mul(r, param(s, 0));
    g = f32x4.mul(g, param(s, 1));
    b = f32x4.mul(b, param(s, 2));
    const own = luma(r, g, b);
    const chroma = f32x4.mul(colour, param(s, 6));
    const grey = f32x4.sub(f32x4.mul(own, gain), f32x4.mul(own, chroma));
    r = f32x4.add(grey, f32x4.mul(r, chroma));
    g = f32x4.add(grey, f32x4.mul(g, chroma));
    b = f32x4.add(grey, f32x4.mul(b, chroma));
    if (roll) {
      r = shoulder(r, param(s, 7), inv, rise);
      g = shoulder(g, param(s, 7), inv, rise);
      b = shoulder(b, param(s, 7), inv, rise);
    }
    let R = f32x4.add(
      f32x4.add(f32x4.mul(r, param(s, 9)), f32x4.mul(g, param(s, 10))),
      f32x4.mul(b, param(s, 11)),
    );
    let G = f32x4.add(
      f32x4.add(f32x4.mul(r, param(s, 12)), f32x4.mul(g, param(s, 13))),
      f32x4.mul(b, param(s, 14)),
    );
    let B = f32x4.add(
      f32x4.add(f32x4.mul(r, param(s, 15)), f32x4.mul(g, param(s, 16))),
      f32x4.mul(b, param(s, 17)),
    );
    if (!linear) {
      R = encode(R, table);
      G = encode(G, table);
      B = encode(B, table);
    }
    if (kind == 2) {
      const a = v128.shuffle<f32>(R, G, 0, 4, 1, 5);
      const c = v128.shuffle<f32>(R, G, 2, 6, 3, 7);
      const p = dst + o * 3;
      v128.store(p, v128.shuffle<f32>(a, B, 0, 1, 4, 2));
      v128.store(p + 16, v128.shuffle<f32>(v128.shuffle<f32>(a, B, 3, 5, 3, 5), c, 0, 1, 4, 5));
      v128.store(p + 32, v128.shuffle<f32>(B, c, 2, 6, 7, 3));
      continue;
    }
    if (linear) {
      const zero = f32x4.splat(0);
      R = f32x4.pmax(zero, f32x4.pmin(one, R));
      G = f32x4.pmax(zero, f32x4.pmin(one, G));
      B = f32x4.pmax(zero, f32x4.pmin(one, B));
    }
    const q = f32x4.splat(kind == 1 ? 65535 : 255);
    const h = f32x4.splat(ROUNDING);
    const low = i32x4.splat(0x1fffff);
    const u = v128.and(f32x4.add(f32x4.mul(R, q), h), low);
    const v = v128.and(f32x4.add(f32x4.mul(G, q), h), low);
    const w = v128.and(f32x4.add(f32x4.mul(B, q), h), low);
    if (kind != 1) {
      const rgba = v128.or(
        v128.or(u, i32x4.shl(v, 8)),
        v128.or(i32x4.shl(w, 16), i32x4.splat(0xff000000)),
      );
      if (kind == 0) v128.store(dst + o, rgba);
      else
        v128.store(
          dst + <usize>(i * 3),
          v128.shuffle<u8>(rgba, rgba, 0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, 0, 0, 0, 0),
        );
    } else {
      // r0 g0 b0 r1 g1 b1 r2 g2 | b2 r3 g3 b3
      const rg = i16x8.narrow_i32x4_u(u, v);
      const bb = i16x8.narrow_i32x4_u(w, w);
      const p = dst + (o / 2) * 3;
      v128.store(p, v128.shuffle<u16>(rg, bb, 0, 4, 8, 1, 5, 9, 2, 6));
      v128.store64_lane(p + 16, v128.shuffle<u16>(rg, bb, 10, 3, 7, 11, 0, 0, 0, 0), 0);
    }
  }
}

/**
 * Row of the tone grid: mean luminance (linear Rec. 2020) of gw cells over the scene rows y0 to y1,
 * to log2, at least `floorEv`. `xs` holds gw + 1 column borders (i32), `sums` gw doubles.
 */
export function gridRow(
  src: usize,
  plane: usize,
  w: i32,
  y0: i32,
  y1: i32,
  xs: usize,
  gw: i32,
  sums: usize,
  floorEv: f32,
  dst: usize,
): void {
  memory.fill(sums, 0, (<usize>gw) << 3);
  for (let y = y0; y < y1; y++) {
    const row = src + ((<usize>(y * w)) << 2);
    for (let c = 0; c < gw; c++) {
      const l = load<i32>(xs + ((<usize>c) << 2));
      const r = max(l + 1, load<i32>(xs + ((<usize>c) << 2), 4));
      let s: f32 = 0;
      for (let i = l; i < r; i++) {
        const p = row + ((<usize>i) << 2);
        s +=
          load<f32>(p) * 0.2627 + load<f32>(p + plane) * 0.678 + load<f32>(p + 2 * plane) * 0.0593;
      }
      const at = sums + ((<usize>c) << 3);
      store<f64>(at, load<f64>(at) + <f64>s / <f64>(r - l));
    }
  }
  const k = 1.0 / <f64>(y1 - y0);
  for (let c = 0; c < gw; c++) {
    // pmax and pmin take the bound where the mean is no number
    const mean = f32x4.pmin(
      f32x4.splat(1e18),
      f32x4.pmax(f32x4.splat(1e-18), f32x4.splat(<f32>(load<f64>(sums + ((<usize>c) << 3)) * k))),
    );
    const ev = f32x4.extract_lane(log2x4(mean), 0);
    store<f32>(dst + ((<usize>c) << 2), max<f32>(floorEv, ev));
  }
}

/**
 * Adds n values to `bins` counters (u32) of which the first begins at `from`; what lies outside
 * goes to the outermost.
 */
export function histogram(
  src: usize,
  n: i32,
  from: f32,
  perUnit: f32,
  bins: i32,
  counts: usize,
): void {
  for (let i = 0; i < n; i++) {
    const b = <i32>floor<f32>((load<f32>(src + ((<usize>i) << 2)) - from) * perUnit);
    const at = counts + ((<usize>max(0, min(bins - 1, b))) << 2);
    store<u32>(at, load<u32>(at) + 1);
  }
}

/** dst = a * x + b * y + c * z over planes of n. */
export function sumOfThree(
  a: f32,
  x: usize,
  b: f32,
  y: usize,
  c: f32,
  z: usize,
  n: i32,
  dst: usize,
): void {
  const va = f32x4.splat(a);
  const vb = f32x4.splat(b);
  const vc = f32x4.splat(c);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    v128.store(
      dst + o,
      f32x4.add(
        f32x4.add(f32x4.mul(va, v128.load(x + o)), f32x4.mul(vb, v128.load(y + o))),
        f32x4.mul(vc, v128.load(z + o)),
      ),
    );
  }
}

/**
 * Least squares line of gain on log luminance from window means: slope to `product`'s plane, offset
 * to `gain`'s, in place. No line falls as fast as light rises, or what is darker would come out
 * brighter; the line still goes through the means.
 */
export function gainLine(
  gain: usize,
  product: usize,
  mean: usize,
  variance: usize,
  n: i32,
  eps: f32,
): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const g = v128.load(gain + o);
    const m = v128.load(mean + o);
    const best = f32x4.div(
      f32x4.sub(v128.load(product + o), f32x4.mul(m, g)),
      f32x4.add(v128.load(variance + o), f32x4.splat(eps)),
    );
    const slope = f32x4.pmax(f32x4.splat(-1), best);
    v128.store(product + o, slope);
    v128.store(gain + o, f32x4.sub(g, f32x4.mul(slope, m)));
  }
}

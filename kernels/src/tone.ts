import { log2x4 } from "./math";

// @ts-ignore: decorator
@inline
export function luma(r: v128, g: v128, b: v128): v128 {
  // Rec. 2020 luminance
  return f32x4.add(
    f32x4.add(f32x4.mul(r, f32x4.splat(0.2627)), f32x4.mul(g, f32x4.splat(0.678))),
    f32x4.mul(b, f32x4.splat(0.0593)),
  );
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

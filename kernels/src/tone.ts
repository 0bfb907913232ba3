import { exp2x4, log2x4 } from "./math";

// @ts-ignore: decorator
@inline
function luma(r: v128, g: v128, b: v128): v128 {
  // Rec. 2020 luminance
  return f32x4.add(f32x4.add(f32x4.mul(r, f32x4.splat(0.2627)), f32x4.mul(g, f32x4.splat(0.678))), f32x4.mul(b, f32x4.splat(0.0593)));
}

/** log2 luminance of planar RGB after the white balance multipliers; never below `floorEv`. */
export function logLuminance(src: usize, plane: usize, n: i32, wr: f32, wg: f32, wb: f32, floorEv: f32, dst: usize): void {
  const kr = f32x4.splat(wr), kg = f32x4.splat(wg), kb = f32x4.splat(wb);
  for (let i = 0; i < n; i += 4) {
    const o = <usize>i << 2;
    const y = luma(f32x4.mul(v128.load(src + o), kr), f32x4.mul(v128.load(src + plane + o), kg), f32x4.mul(v128.load(src + 2 * plane + o), kb));
    v128.store(dst + o, f32x4.max(log2x4(f32x4.max(y, f32x4.splat(1e-12))), f32x4.splat(floorEv)));
  }
}

/** The point-wise curve of local Laplacian filtering (Paris et al. 2011) around `g`, all in EV. */
export function remapAround(src: usize, dst: usize, n: i32, g: f32, sigma: f32, detail: f32, edges: f32): void {
  const vg = f32x4.splat(g), vs = f32x4.splat(sigma), zero = f32x4.splat(0);
  const vd = f32x4.splat(detail), ve = f32x4.splat(edges), inv = f32x4.splat(1 / sigma);
  for (let i = 0; i < n; i += 4) {
    const o = <usize>i << 2;
    const d = f32x4.sub(v128.load(src + o), vg);
    const a = f32x4.abs(d);
    const t = f32x4.min(f32x4.mul(a, inv), f32x4.splat(1));
    // inside sigma: detail gain, easing to 1 at sigma so that the curve stays smooth
    const gain = f32x4.add(vd, f32x4.mul(f32x4.sub(f32x4.splat(1), vd), f32x4.mul(t, t)));
    const m = f32x4.add(f32x4.mul(f32x4.min(a, vs), gain), f32x4.mul(f32x4.max(f32x4.sub(a, vs), zero), ve));
    const sign = v128.and(d, i32x4.splat(0x80000000));
    v128.store(dst + o, f32x4.add(vg, v128.or(m, sign)));
  }
}

/** Adds to `out` the share of one sampled level: hat weight of |gauss - g| / step on the remapped Laplacian. */
export function selectLevel(gauss: usize, lap: usize, out: usize, n: i32, g: f32, step: f32, first: i32, last: i32): void {
  const inv: f32 = 1 / step;
  for (let i = 0; i < n; i++) {
    const o = <usize>i << 2;
    const d = (load<f32>(gauss + o) - g) * inv;
    let w: f32 = 1 - abs<f32>(d);
    if (first && d < 0) w = 1;
    if (last && d > 0) w = 1;
    if (w > 0) store<f32>(out + o, load<f32>(out + o) + w * load<f32>(lap + o));
  }
}

// @ts-ignore: decorator
@inline
function shoulder(x: v128, k: v128, inv: v128, span: v128, norm: v128): v128 {
  // linear to k, then an exponential approach to display white
  const over = f32x4.max(f32x4.sub(x, k), f32x4.splat(0));
  const e = exp2x4(f32x4.mul(over, inv));
  const roll = f32x4.add(k, f32x4.mul(f32x4.mul(span, norm), f32x4.sub(f32x4.splat(1), e)));
  return v128.bitselect(roll, x, f32x4.gt(x, k));
}

// @ts-ignore: decorator
@inline
function encode(x: v128, thr: v128, slope: v128, a: v128, b: v128, invGamma: v128): v128 {
  const c = f32x4.max(f32x4.min(x, f32x4.splat(1)), f32x4.splat(0));
  const p = f32x4.sub(f32x4.mul(a, exp2x4(f32x4.mul(invGamma, log2x4(f32x4.max(c, f32x4.splat(1e-10)))))), b);
  return v128.bitselect(p, f32x4.mul(c, slope), f32x4.gt(c, thr));
}

/**
 * One row of the picture for a screen or a file. `gain` rows hold slope and offset of the local gain in EV,
 * already at this row's pixels (gain = slope * log2(Y) + offset).
 * `s`: wr wg wb, exposure EV, contrast, pivot EV, saturation, shoulder start, white,
 *      nine of the matrix to the output space, threshold, slope, a, b, 1 / gamma, clampless flag (floats out).
 * `kind`: 0 RGBA bytes, 1 RGB 16 bit, 2 RGB floats (interleaved, linear or encoded, not clamped when linear).
 */
export function renderRow(src: usize, plane: usize, n: i32, slopes: usize, offsets: usize, s: usize, kind: i32, dst: usize): void {
  const kr = v128.load32_splat(s), kg = v128.load32_splat(s + 4), kb = v128.load32_splat(s + 8);
  const exposure = v128.load32_splat(s + 12), contrast = v128.load32_splat(s + 16), pivot = v128.load32_splat(s + 20);
  const sat = v128.load32_splat(s + 24);
  const k = v128.load32_splat(s + 28), white = load<f32>(s, 32);
  const m0 = v128.load32_splat(s + 36), m1 = v128.load32_splat(s + 40), m2 = v128.load32_splat(s + 44);
  const m3 = v128.load32_splat(s + 48), m4 = v128.load32_splat(s + 52), m5 = v128.load32_splat(s + 56);
  const m6 = v128.load32_splat(s + 60), m7 = v128.load32_splat(s + 64), m8 = v128.load32_splat(s + 68);
  const thr = v128.load32_splat(s + 72), slope = v128.load32_splat(s + 76), ea = v128.load32_splat(s + 80), eb = v128.load32_splat(s + 84), ig = v128.load32_splat(s + 88);
  const kk = load<f32>(s, 28);
  const roll = white > kk;
  const span: f32 = 1 - kk;
  const inv = f32x4.splat(roll ? -1.442695 / span : 0);
  const norm = f32x4.splat(roll ? <f32>(1.0 / (1.0 - Math.exp(-(white - kk) / span))) : 1);
  const vspan = f32x4.splat(span);
  const linear = load<f32>(s, 88) == 1 && kind == 2;
  for (let i = 0; i < n; i += 4) {
    const o = <usize>i << 2;
    let r = f32x4.mul(v128.load(src + o), kr), g = f32x4.mul(v128.load(src + plane + o), kg), b = f32x4.mul(v128.load(src + 2 * plane + o), kb);
    const y = f32x4.max(luma(r, g, b), f32x4.splat(1e-12));
    const L = log2x4(y);
    let t = f32x4.add(f32x4.add(L, exposure), f32x4.add(f32x4.mul(v128.load(slopes + o), L), v128.load(offsets + o)));
    t = f32x4.add(pivot, f32x4.mul(f32x4.sub(t, pivot), contrast));
    const gain = exp2x4(f32x4.sub(t, L));
    const Y = f32x4.mul(y, gain);
    r = f32x4.add(Y, f32x4.mul(f32x4.sub(f32x4.mul(r, gain), Y), sat));
    g = f32x4.add(Y, f32x4.mul(f32x4.sub(f32x4.mul(g, gain), Y), sat));
    b = f32x4.add(Y, f32x4.mul(f32x4.sub(f32x4.mul(b, gain), Y), sat));
    if (roll) { r = shoulder(r, k, inv, vspan, norm); g = shoulder(g, k, inv, vspan, norm); b = shoulder(b, k, inv, vspan, norm); }
    let R = f32x4.add(f32x4.add(f32x4.mul(r, m0), f32x4.mul(g, m1)), f32x4.mul(b, m2));
    let G = f32x4.add(f32x4.add(f32x4.mul(r, m3), f32x4.mul(g, m4)), f32x4.mul(b, m5));
    let B = f32x4.add(f32x4.add(f32x4.mul(r, m6), f32x4.mul(g, m7)), f32x4.mul(b, m8));
    if (!linear) { R = encode(R, thr, slope, ea, eb, ig); G = encode(G, thr, slope, ea, eb, ig); B = encode(B, thr, slope, ea, eb, ig); }
    if (kind == 0) {
      const q = f32x4.splat(255), h = f32x4.splat(0.5);
      const u = i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(R, q), h));
      const v = i32x4.shl(i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(G, q), h)), 8);
      const w = i32x4.shl(i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(B, q), h)), 16);
      v128.store(dst + o, v128.or(v128.or(u, v), v128.or(w, i32x4.splat(0xff000000))));
    } else {
      for (let j = 0; j < min(4, n - i); j++) {
        const rr = j == 0 ? f32x4.extract_lane(R, 0) : j == 1 ? f32x4.extract_lane(R, 1) : j == 2 ? f32x4.extract_lane(R, 2) : f32x4.extract_lane(R, 3);
        const gg = j == 0 ? f32x4.extract_lane(G, 0) : j == 1 ? f32x4.extract_lane(G, 1) : j == 2 ? f32x4.extract_lane(G, 2) : f32x4.extract_lane(G, 3);
        const bb = j == 0 ? f32x4.extract_lane(B, 0) : j == 1 ? f32x4.extract_lane(B, 1) : j == 2 ? f32x4.extract_lane(B, 2) : f32x4.extract_lane(B, 3);
        const e = <usize>((i + j) * 3);
        if (kind == 1) {
          const p = dst + (e << 1);
          store<u16>(p, <u16>(rr * 65535 + 0.5)); store<u16>(p, <u16>(gg * 65535 + 0.5), 2); store<u16>(p, <u16>(bb * 65535 + 0.5), 4);
        } else {
          const p = dst + (e << 2);
          store<f32>(p, rr); store<f32>(p, gg, 4); store<f32>(p, bb, 8);
        }
      }
    }
  }
}

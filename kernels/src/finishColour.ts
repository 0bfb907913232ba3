// The colour of a part, row by row, in Oklab (Ottosson, "A perceptual color space for image
// processing", 2020), where equal hue looks equal while lightness and chroma change.

import { exp2x4, log2x4 } from "./math";
import { encode } from "./render";
import { luma } from "./tone";

/** Places of the hue table, evenly over the angle's stand-in of 0 to 4. */
const HUES: f32 = 256;
/** Floats of a place: cos and sin of the turn, chroma factor, lightness, skin, rim, black and white. */
const HUE_BYTES: usize = 32;

// @ts-ignore: decorator
@inline
function param(s: usize, i: i32): v128 {
  return v128.load32_splat(s + ((<usize>i) << 2));
}

// @ts-ignore: decorator
@inline
function cubeRoot(x: v128): v128 {
  const low = f32x4.splat(1e-9);
  const root = exp2x4(f32x4.mul(log2x4(f32x4.pmax(low, x)), f32x4.splat(1.0 / 3.0)));
  // one step of Newton's
  const square = f32x4.mul(root, root);
  const better = f32x4.mul(
    f32x4.add(f32x4.add(root, root), f32x4.div(f32x4.pmax(low, x), square)),
    f32x4.splat(1.0 / 3.0),
  );
  return v128.bitselect(better, f32x4.splat(0), f32x4.gt(x, low));
}

// @ts-ignore: decorator
@inline
function dot(m: usize, i: i32, x: v128, y: v128, z: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(x, param(m, i)), f32x4.mul(y, param(m, i + 1))),
    f32x4.mul(z, param(m, i + 2)),
  );
}

/** A curve's ratio of output to input at x; above display white that of white. */
// @ts-ignore: decorator
@inline
function curveRatio(x: v128, table: usize): v128 {
  const at = f32x4.pmax(f32x4.splat(1e-6), f32x4.pmin(f32x4.splat(1), x));
  return f32x4.div(encode(at, table), at);
}

/**
 * Curves of luminance and of the channels on a row in place; a table of 0 is none. Tables as
 * renderRow's: pairs over the square root of light.
 */
export function curveRow(
  row: usize,
  plane: usize,
  mask: usize,
  n: i32,
  all: usize,
  red: usize,
  green: usize,
  blue: usize,
): void {
  const one = f32x4.splat(1);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const p = row + o;
    const m = mask ? v128.load(mask + o) : one;
    let r = v128.load(p);
    let g = v128.load(p + plane);
    let b = v128.load(p + 2 * plane);
    if (all) {
      const ratio = curveRatio(luma(r, g, b), all);
      const by = f32x4.add(one, f32x4.mul(m, f32x4.sub(ratio, one)));
      r = f32x4.mul(r, by);
      g = f32x4.mul(g, by);
      b = f32x4.mul(b, by);
    }
    if (red) r = f32x4.mul(r, f32x4.add(one, f32x4.mul(m, f32x4.sub(curveRatio(r, red), one))));
    if (green) g = f32x4.mul(g, f32x4.add(one, f32x4.mul(m, f32x4.sub(curveRatio(g, green), one))));
    if (blue) b = f32x4.mul(b, f32x4.add(one, f32x4.mul(m, f32x4.sub(curveRatio(b, blue), one))));
    v128.store(p, r);
    v128.store(p + plane, g);
    v128.store(p + 2 * plane, b);
  }
}

/**
 * Colour of a row in place. `s`: nine of working RGB to LMS, nine of LMS to working RGB, factor on
 * chroma, strength of dull colours, black and white, a and b of the tints of darks, middle and
 * lights. `hues`: HUES + 1 places of the hue table. `rims`: how near a strong edge a pixel is, 0 for
 * none.
 */
export function colourRow(
  row: usize,
  plane: usize,
  mask: usize,
  rims: usize,
  n: i32,
  s: usize,
  hues: usize,
): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const inverse = s + 36;
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const p = row + o;
    const r = v128.load(p);
    const g = v128.load(p + plane);
    const b = v128.load(p + 2 * plane);
    const l = cubeRoot(dot(s, 0, r, g, b));
    const m = cubeRoot(dot(s, 3, r, g, b));
    const t = cubeRoot(dot(s, 6, r, g, b));
    let L = f32x4.add(
      f32x4.add(f32x4.mul(l, f32x4.splat(0.2104542553)), f32x4.mul(m, f32x4.splat(0.793617785))),
      f32x4.mul(t, f32x4.splat(-0.0040720468)),
    );
    let A = f32x4.add(
      f32x4.add(f32x4.mul(l, f32x4.splat(1.9779984951)), f32x4.mul(m, f32x4.splat(-2.428592205))),
      f32x4.mul(t, f32x4.splat(0.4505937099)),
    );
    let B = f32x4.add(
      f32x4.add(f32x4.mul(l, f32x4.splat(0.0259040371)), f32x4.mul(m, f32x4.splat(0.7827717662))),
      f32x4.mul(t, f32x4.splat(-0.808675766)),
    );
    const chroma = f32x4.sqrt(f32x4.add(f32x4.mul(A, A), f32x4.mul(B, B)));
    // the angle's stand-in: 0 at +a, 1 at +b, 2 at -a, 3 at -b
    const sum = f32x4.pmax(f32x4.splat(1e-12), f32x4.add(f32x4.abs(A), f32x4.abs(B)));
    const q = f32x4.div(B, sum);
    const right = v128.bitselect(f32x4.add(q, f32x4.splat(4)), q, f32x4.lt(q, zero));
    const angle = v128.bitselect(f32x4.sub(f32x4.splat(2), q), right, f32x4.lt(A, zero));
    const place = f32x4.pmin(f32x4.splat(HUES - 0.001), f32x4.mul(angle, f32x4.splat(HUES * 0.25)));
    const whole = f32x4.floor(place);
    const f = f32x4.sub(place, whole);
    const index = i32x4.trunc_sat_f32x4_s(whole);
    const h0 = hues + <usize>i32x4.extract_lane(index, 0) * HUE_BYTES;
    const h1 = hues + <usize>i32x4.extract_lane(index, 1) * HUE_BYTES;
    const h2 = hues + <usize>i32x4.extract_lane(index, 2) * HUE_BYTES;
    const h3 = hues + <usize>i32x4.extract_lane(index, 3) * HUE_BYTES;
    const cos = hueValue(h0, h1, h2, h3, f, 0);
    const sin = hueValue(h0, h1, h2, h3, f, 4);
    const strength = hueValue(h0, h1, h2, h3, f, 8);
    const lighter = hueValue(h0, h1, h2, h3, f, 12);
    const skin = hueValue(h0, h1, h2, h3, f, 16);
    const rim = hueValue(h0, h1, h2, h3, f, 20);
    const weight = hueValue(h0, h1, h2, h3, f, 24);
    // what is dull first: nothing is added to a chroma of 0.25 and more
    const dull = f32x4.pmax(zero, f32x4.sub(one, f32x4.mul(chroma, f32x4.splat(4))));
    let by = f32x4.mul(strength, param(s, 18));
    by = f32x4.mul(
      by,
      f32x4.add(
        one,
        f32x4.mul(param(s, 19), f32x4.mul(f32x4.mul(dull, dull), f32x4.sub(one, skin))),
      ),
    );
    if (rims) by = f32x4.mul(by, f32x4.sub(one, f32x4.mul(rim, v128.load(rims + o))));
    const grey = param(s, 20);
    L = f32x4.add(L, f32x4.mul(chroma, f32x4.add(lighter, f32x4.mul(grey, weight))));
    L = f32x4.pmax(zero, L);
    by = f32x4.mul(by, f32x4.sub(one, grey));
    const turnedA = f32x4.mul(by, f32x4.sub(f32x4.mul(A, cos), f32x4.mul(B, sin)));
    const turnedB = f32x4.mul(by, f32x4.add(f32x4.mul(A, sin), f32x4.mul(B, cos)));
    // tints by tone: black and white themselves stay neutral
    const light = f32x4.pmin(one, L);
    const dark = f32x4.sub(one, light);
    const inside = f32x4.mul(f32x4.splat(4), f32x4.mul(light, dark));
    const darks = f32x4.mul(inside, f32x4.mul(dark, dark));
    const lights = f32x4.mul(inside, f32x4.mul(light, light));
    const middle = f32x4.mul(inside, inside);
    A = f32x4.add(
      turnedA,
      f32x4.add(
        f32x4.add(f32x4.mul(darks, param(s, 21)), f32x4.mul(middle, param(s, 23))),
        f32x4.mul(lights, param(s, 25)),
      ),
    );
    B = f32x4.add(
      turnedB,
      f32x4.add(
        f32x4.add(f32x4.mul(darks, param(s, 22)), f32x4.mul(middle, param(s, 24))),
        f32x4.mul(lights, param(s, 26)),
      ),
    );
    const l1 = f32x4.add(
      L,
      f32x4.add(f32x4.mul(A, f32x4.splat(0.3963377774)), f32x4.mul(B, f32x4.splat(0.2158037573))),
    );
    const m1 = f32x4.add(
      L,
      f32x4.add(f32x4.mul(A, f32x4.splat(-0.1055613458)), f32x4.mul(B, f32x4.splat(-0.0638541728))),
    );
    const t1 = f32x4.add(
      L,
      f32x4.add(f32x4.mul(A, f32x4.splat(-0.0894841775)), f32x4.mul(B, f32x4.splat(-1.291485548))),
    );
    const l3 = f32x4.mul(l1, f32x4.mul(l1, l1));
    const m3 = f32x4.mul(m1, f32x4.mul(m1, m1));
    const t3 = f32x4.mul(t1, f32x4.mul(t1, t1));
    const k = mask ? v128.load(mask + o) : one;
    v128.store(p, f32x4.add(r, f32x4.mul(k, f32x4.sub(dot(inverse, 0, l3, m3, t3), r))));
    v128.store(p + plane, f32x4.add(g, f32x4.mul(k, f32x4.sub(dot(inverse, 3, l3, m3, t3), g))));
    v128.store(
      p + 2 * plane,
      f32x4.add(b, f32x4.mul(k, f32x4.sub(dot(inverse, 6, l3, m3, t3), b))),
    );
  }
}

/** One value of the hue table for four pixels, between a place and the next. */
// @ts-ignore: decorator
@inline
function hueValue(h0: usize, h1: usize, h2: usize, h3: usize, f: v128, at: usize): v128 {
  let a = v128.load32_zero(h0 + at);
  a = v128.load32_lane(h1 + at, a, 1);
  a = v128.load32_lane(h2 + at, a, 2);
  a = v128.load32_lane(h3 + at, a, 3);
  let b = v128.load32_zero(h0 + HUE_BYTES + at);
  b = v128.load32_lane(h1 + HUE_BYTES + at, b, 1);
  b = v128.load32_lane(h2 + HUE_BYTES + at, b, 2);
  b = v128.load32_lane(h3 + HUE_BYTES + at, b, 3);
  return f32x4.add(a, f32x4.mul(f, f32x4.sub(b, a)));
}

import { exp2x4, log2x4, ROUNDING } from "./math";
import { luma } from "./tone";

/** NaN to 0, and infinity to as much as can still be squared. */
// @ts-ignore: decorator
@inline
export function finite(x: v128): v128 {
  return f32x4.pmax(f32x4.splat(-1e18), f32x4.pmin(f32x4.splat(1e18), v128.and(x, f32x4.eq(x, x))));
}

/** Linear to k, then an exponential approach to display white. */
// @ts-ignore: decorator
@inline
function shoulder(x: v128, k: v128, inv: v128, rise: v128): v128 {
  const above = f32x4.gt(x, k);
  const e = exp2x4(f32x4.mul(f32x4.sub(x, k), inv));
  return v128.bitselect(f32x4.add(k, f32x4.mul(rise, f32x4.sub(f32x4.splat(1), e))), x, above);
}

/**
 * Rolls the lightest channel `most` of colours off to white: the factor on all three, so that hue and
 * saturation stay.
 */
// @ts-ignore: decorator
@inline
export function rollOffGain(most: v128, k: v128, inv: v128, rise: v128): v128 {
  const some = f32x4.pmax(f32x4.splat(1e-9), most);
  return f32x4.div(shoulder(some, k, inv, rise), some);
}

/** How far a colour is drawn to white: not at all up to display white, wholly at four times of it. */
// @ts-ignore: decorator
@inline
export function whitening(most: v128, white: f32): v128 {
  const t = f32x4.pmax(
    f32x4.splat(0),
    f32x4.pmin(
      f32x4.splat(1),
      f32x4.mul(f32x4.sub(most, f32x4.splat(white)), f32x4.splat(1 / (3 * white))),
    ),
  );
  return f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)));
}

/**
 * Steps of the encoding table, over the square root of light, in which display curves are nearly
 * straight.
 */
const STEPS: f32 = 2048;

/** 0..1 to encoded, by linear interpolation in a table of value and rise to the next. */
// @ts-ignore: decorator
@inline
export function encode(x: v128, table: usize): v128 {
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
 * Colours of a row's pixels i to i + 3 to the output space, to samples of `kind`, to their place
 * after `dst`. A colour outside the space comes back towards the grey of its own luminance as far as
 * the border: what is lost is chroma, and neither its light nor its texture.
 */
// @ts-ignore: decorator
@inline
function store(
  r: v128,
  g: v128,
  b: v128,
  i: i32,
  s: usize,
  table: usize,
  kind: i32,
  dst: usize,
): void {
  const linear = load<f32>(s, 72) != 0;
  const one = f32x4.splat(1);
  const o = (<usize>i) << 2;
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
    const zero = f32x4.splat(0);
    const least = f32x4.pmin(R, f32x4.pmin(G, B));
    const most = f32x4.pmax(R, f32x4.pmax(G, B));
    if (v128.any_true(v128.or(f32x4.lt(least, zero), f32x4.gt(most, one)))) {
      const y = luma(r, g, b);
      const tiny = f32x4.splat(1e-9);
      const down = f32x4.div(f32x4.pmax(zero, y), f32x4.pmax(tiny, f32x4.sub(y, least)));
      const up = f32x4.div(f32x4.sub(one, y), f32x4.pmax(tiny, f32x4.sub(most, y)));
      // what is as light as white or lighter is clipped as it is
      const inside = f32x4.lt(y, one);
      const reach = v128.bitselect(f32x4.pmin(one, f32x4.pmin(down, up)), one, inside);
      R = f32x4.add(y, f32x4.mul(reach, f32x4.sub(R, y)));
      G = f32x4.add(y, f32x4.mul(reach, f32x4.sub(G, y)));
      B = f32x4.add(y, f32x4.mul(reach, f32x4.sub(B, y)));
    }
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
    return;
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
      const most = f32x4.pmax(r, f32x4.pmax(g, b));
      if (v128.any_true(f32x4.gt(most, param(s, 7)))) {
        const by = rollOffGain(most, param(s, 7), inv, rise);
        const pale = whitening(most, white);
        r = f32x4.mul(by, f32x4.add(r, f32x4.mul(pale, f32x4.sub(most, r))));
        g = f32x4.mul(by, f32x4.add(g, f32x4.mul(pale, f32x4.sub(most, g))));
        b = f32x4.mul(by, f32x4.add(b, f32x4.mul(pale, f32x4.sub(most, b))));
      }
    }
    store(r, g, b, i, s, table, kind, dst);
  }
}

/** One row that is toned and finished, `plane` bytes between its channels, as samples of `kind`. */
export function outRow(
  row: usize,
  plane: usize,
  n: i32,
  s: usize,
  table: usize,
  kind: i32,
  dst: usize,
): void {
  for (let i = 0; i < n; i += 4) {
    const p = row + ((<usize>i) << 2);
    store(v128.load(p), v128.load(p + plane), v128.load(p + 2 * plane), i, s, table, kind, dst);
  }
}

// Vector log2 and exp2 over four floats: exponent bits plus a minimax polynomial, about 2e-6
// absolute.

// pmin and pmax are one instruction each, min and max with their care for NaN seven; so is rounding
// by adding 1.5 * 2^23.

/**
 * 1.5 * 2^23: a float of less than 2^22 that is added to it has its nearest whole number in the
 * lowest bits.
 */
export const ROUNDING: f32 = 12582912;

// @ts-ignore: decorator
@inline
export function log2x4(x: v128): v128 {
  const bits = x;
  const e = f32x4.convert_i32x4_s(i32x4.sub(i32x4.shr_u(bits, 23), i32x4.splat(127)));
  const m = v128.or(v128.and(bits, i32x4.splat(0x007fffff)), i32x4.splat(0x3f800000));
  const t = f32x4.sub(m, f32x4.splat(1));
  // log2(1 + t) = t * P(t) on [0, 1]; pairs side by side (Estrin), since a chain would wait on
  // itself
  const t2 = f32x4.mul(t, t);
  const low = f32x4.add(
    f32x4.add(f32x4.splat(1.442694767), f32x4.mul(t, f32x4.splat(-0.721310723))),
    f32x4.mul(t2, f32x4.add(f32x4.splat(0.480073749), f32x4.mul(t, f32x4.splat(-0.353454684)))),
  );
  const high = f32x4.add(
    f32x4.add(f32x4.splat(0.256179707), f32x4.mul(t, f32x4.splat(-0.155599971))),
    f32x4.mul(t2, f32x4.add(f32x4.splat(0.063787598), f32x4.mul(t, f32x4.splat(-0.012370643)))),
  );
  const p = f32x4.add(low, f32x4.mul(f32x4.mul(t2, t2), high));
  return f32x4.add(e, f32x4.mul(t, p));
}

// @ts-ignore: decorator
@inline
export function exp2x4(v: v128): v128 {
  const x = f32x4.pmax(f32x4.splat(-126), f32x4.pmin(f32x4.splat(126), v));
  const whole = f32x4.add(f32x4.sub(x, f32x4.splat(0.5)), f32x4.splat(ROUNDING));
  const f = f32x4.sub(x, f32x4.sub(whole, f32x4.splat(ROUNDING)));
  const f2 = f32x4.mul(f, f);
  const low = f32x4.add(
    f32x4.add(f32x4.splat(1.000000003), f32x4.mul(f, f32x4.splat(0.693146929))),
    f32x4.mul(f2, f32x4.add(f32x4.splat(0.240230502), f32x4.mul(f, f32x4.splat(0.055480426)))),
  );
  const high = f32x4.add(
    f32x4.add(f32x4.splat(0.00968458), f32x4.mul(f, f32x4.splat(0.001238782))),
    f32x4.mul(f2, f32x4.splat(0.000218775)),
  );
  const p = f32x4.add(low, f32x4.mul(f32x4.mul(f2, f2), high));
  // the whole number's low bits go to the exponent's place; what was above them is shifted out
  return v128.add<i32>(p, i32x4.shl(whole, 23));
}

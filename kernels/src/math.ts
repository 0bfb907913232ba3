// Vector log2 and exp2 over four floats: exponent bits plus a minimax polynomial, about 2e-6 absolute.

// @ts-ignore: decorator
@inline
export function log2x4(x: v128): v128 {
  const bits = x;
  const e = f32x4.convert_i32x4_s(i32x4.sub(i32x4.shr_u(bits, 23), i32x4.splat(127)));
  const m = v128.or(v128.and(bits, i32x4.splat(0x007fffff)), i32x4.splat(0x3f800000));
  const t = f32x4.sub(m, f32x4.splat(1));
  // log2(1 + t) = t * P(t) on [0, 1]; pairs side by side (Estrin), since a chain would wait on itself
  const t2 = f32x4.mul(t, t);
  const low = f32x4.add(f32x4.add(f32x4.splat(1.442694767), f32x4.mul(t, f32x4.splat(-0.721310723))), f32x4.mul(t2, f32x4.add(f32x4.splat(0.480073749), f32x4.mul(t, f32x4.splat(-0.353454684)))));
  const high = f32x4.add(f32x4.add(f32x4.splat(0.256179707), f32x4.mul(t, f32x4.splat(-0.155599971))), f32x4.mul(t2, f32x4.add(f32x4.splat(0.063787598), f32x4.mul(t, f32x4.splat(-0.012370643)))));
  const p = f32x4.add(low, f32x4.mul(f32x4.mul(t2, t2), high));
  return f32x4.add(e, f32x4.mul(t, p));
}

// @ts-ignore: decorator
@inline
export function exp2x4(v: v128): v128 {
  const x = f32x4.max(f32x4.min(v, f32x4.splat(126)), f32x4.splat(-126));
  const fl = f32x4.floor(x);
  const f = f32x4.sub(x, fl);
  const f2 = f32x4.mul(f, f);
  const low = f32x4.add(f32x4.add(f32x4.splat(1.000000003), f32x4.mul(f, f32x4.splat(0.693146929))), f32x4.mul(f2, f32x4.add(f32x4.splat(0.240230502), f32x4.mul(f, f32x4.splat(0.055480426)))));
  const high = f32x4.add(f32x4.add(f32x4.splat(0.009684580), f32x4.mul(f, f32x4.splat(0.001238782))), f32x4.mul(f2, f32x4.splat(0.000218775)));
  const p = f32x4.add(low, f32x4.mul(f32x4.mul(f2, f2), high));
  const e = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(fl), i32x4.splat(127)), 23);
  return f32x4.mul(p, e);
}

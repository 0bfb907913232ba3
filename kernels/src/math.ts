// Vector log2 and exp2 over four floats: exponent bits plus a minimax polynomial, about 2e-6 absolute.

// @ts-ignore: decorator
@inline
export function log2x4(x: v128): v128 {
  const bits = x;
  const e = f32x4.convert_i32x4_s(i32x4.sub(i32x4.shr_u(bits, 23), i32x4.splat(127)));
  const m = v128.or(v128.and(bits, i32x4.splat(0x007fffff)), i32x4.splat(0x3f800000));
  const t = f32x4.sub(m, f32x4.splat(1));
  // log2(1 + t) = t * P(t) on [0, 1]
  let p = f32x4.splat(-0.012370643);
  p = f32x4.add(f32x4.mul(p, t), f32x4.splat(0.063787598));
  p = f32x4.add(f32x4.mul(p, t), f32x4.splat(-0.155599971));
  p = f32x4.add(f32x4.mul(p, t), f32x4.splat(0.256179707));
  p = f32x4.add(f32x4.mul(p, t), f32x4.splat(-0.353454684));
  p = f32x4.add(f32x4.mul(p, t), f32x4.splat(0.480073749));
  p = f32x4.add(f32x4.mul(p, t), f32x4.splat(-0.721310723));
  p = f32x4.add(f32x4.mul(p, t), f32x4.splat(1.442694767));
  return f32x4.add(e, f32x4.mul(t, p));
}

// @ts-ignore: decorator
@inline
export function exp2x4(v: v128): v128 {
  const x = f32x4.max(f32x4.min(v, f32x4.splat(126)), f32x4.splat(-126));
  const fl = f32x4.floor(x);
  const f = f32x4.sub(x, fl);
  let p = f32x4.splat(0.000218775);
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.001238782));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.009684580));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.055480426));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.240230502));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(0.693146929));
  p = f32x4.add(f32x4.mul(p, f), f32x4.splat(1.000000003));
  const e = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(fl), i32x4.splat(127)), 23);
  return f32x4.mul(p, e);
}

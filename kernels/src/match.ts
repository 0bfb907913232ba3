/**
 * Of `count` vectors of `size` floats, a multiple of eight, that follow one another at `all`, the
 * one most alike a vector by their scalar product: that and the second highest product as floats to
 * `out`, and behind them its place (-1 for none). Each of them that was never more alike one before
 * has `place` written to `bests` (32 bit) and the product to `likenesses`.
 */
export function nearestTwo(
  vector: usize,
  all: usize,
  size: i32,
  count: i32,
  place: i32,
  bests: usize,
  likenesses: usize,
  out: usize,
): void {
  const bytes = (<usize>size) << 2;
  let first: f32 = -2;
  let second: f32 = -2;
  let nearest = -1;
  for (let j = 0; j < count; j++, all += bytes, bests += 4, likenesses += 4) {
    let s = f32x4.splat(0);
    let t = s;
    for (let k: usize = 0; k < bytes; k += 32) {
      s = f32x4.add(s, f32x4.mul(v128.load(vector + k), v128.load(all + k)));
      t = f32x4.add(t, f32x4.mul(v128.load(vector + k, 16), v128.load(all + k, 16)));
    }
    s = f32x4.add(s, t);
    s = f32x4.add(s, v128.shuffle<f32>(s, s, 2, 3, 0, 1));
    const likeness = f32x4.extract_lane(s, 0) + f32x4.extract_lane(s, 1);
    if (likeness > load<f32>(likenesses)) {
      store<f32>(likenesses, likeness);
      store<i32>(bests, place);
    }
    if (likeness > first) {
      second = first;
      first = likeness;
      nearest = j;
    } else if (likeness > second) second = likeness;
  }
  store<f32>(out, first);
  store<f32>(out, second, 4);
  store<i32>(out, nearest, 8);
}

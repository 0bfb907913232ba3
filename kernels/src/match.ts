/** Scalar products of one vector of `size` floats, a multiple of eight, with each of `count` vectors that follow one another. */
export function likenesses(a: usize, all: usize, size: i32, count: i32, dst: usize): void {
  const bytes = <usize>size << 2;
  for (let j = 0; j < count; j++, all += bytes) {
    let s = f32x4.splat(0), t = s;
    for (let k: usize = 0; k < bytes; k += 32) {
      s = f32x4.add(s, f32x4.mul(v128.load(a + k), v128.load(all + k)));
      t = f32x4.add(t, f32x4.mul(v128.load(a + k, 16), v128.load(all + k, 16)));
    }
    s = f32x4.add(s, t);
    s = f32x4.add(s, v128.shuffle<f32>(s, s, 2, 3, 0, 1));
    store<f32>(dst + (<usize>j << 2), f32x4.extract_lane(s, 0) + f32x4.extract_lane(s, 1));
  }
}

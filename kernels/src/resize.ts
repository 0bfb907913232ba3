/** Sum of `count` rows of `stride` bytes from `rows` on, each by its weight. */
export function weightedRows(
  rows: usize,
  stride: usize,
  n: i32,
  weights: usize,
  count: i32,
  dst: usize,
): void {
  let x = 0;
  for (; x + 4 <= n; x += 4) {
    let s = f32x4.splat(0);
    let at = rows + ((<usize>x) << 2);
    for (let j = 0; j < count; j++, at += stride)
      s = f32x4.add(s, f32x4.mul(v128.load(at), v128.load32_splat(weights + ((<usize>j) << 2))));
    v128.store(dst + ((<usize>x) << 2), s);
  }
  for (; x < n; x++) {
    let s: f32 = 0;
    let at = rows + ((<usize>x) << 2);
    for (let j = 0; j < count; j++, at += stride)
      s += load<f32>(at) * load<f32>(weights + ((<usize>j) << 2));
    store<f32>(dst + ((<usize>x) << 2), s);
  }
}

/**
 * A row at other places: output i is the sum of `taps` samples from starts[i] (i32) on, by its own
 * weights.
 */
export function resizeAcross(
  row: usize,
  starts: usize,
  weights: usize,
  taps: i32,
  n: i32,
  dst: usize,
): void {
  let w = weights;
  for (let i = 0; i < n; i++) {
    let at = row + ((<usize>load<i32>(starts + ((<usize>i) << 2))) << 2);
    let s: f32 = 0;
    for (let j = 0; j < taps; j++, at += 4, w += 4) s += load<f32>(at) * load<f32>(w);
    store<f32>(dst + ((<usize>i) << 2), s);
  }
}

/**
 * Adds up n groups of `by` samples (16 bytes) that follow one another in a row, each to a sample of
 * `dst`.
 */
export function addGroups(row: usize, by: i32, n: i32, dst: usize): void {
  for (let i = 0; i < n; i++, dst += 16) {
    let s = v128.load(dst);
    for (let j = 0; j < by; j++, row += 16) s = f32x4.add(s, v128.load(row));
    v128.store(dst, s);
  }
}

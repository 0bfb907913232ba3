/** Mean over a square of 2 r + 1, edges repeated; not in place. `row` holds a row of floats. */
export function boxMean(src: usize, w: i32, h: i32, r: i32, row: usize, dst: usize): void {
  const stride = <usize>w << 2;
  const k: f64 = 1.0 / (<f64>(2 * r + 1) * <f64>(2 * r + 1));
  for (let y = 0; y < h; y++) {
    // down: the sum of the rows around, afresh for each row, so that no error is carried along
    let x = 0;
    for (; x + 4 <= w; x += 4) {
      let s = f32x4.splat(0);
      for (let j = -r; j <= r; j++) s = f32x4.add(s, v128.load(src + <usize>max(0, min(h - 1, y + j)) * stride + (<usize>x << 2)));
      v128.store(row + (<usize>x << 2), s);
    }
    for (; x < w; x++) {
      let s: f32 = 0;
      for (let j = -r; j <= r; j++) s += load<f32>(src + <usize>max(0, min(h - 1, y + j)) * stride + (<usize>x << 2));
      store<f32>(row + (<usize>x << 2), s);
    }
    // across: a running sum in doubles
    let sum: f64 = 0;
    for (let i = -r; i <= r; i++) sum += <f64>load<f32>(row + (<usize>max(0, min(w - 1, i)) << 2));
    const out = dst + <usize>y * stride;
    for (let i = 0; i < w; i++) {
      store<f32>(out + (<usize>i << 2), <f32>(sum * k));
      sum += <f64>load<f32>(row + (<usize>min(w - 1, i + r + 1) << 2)) - <f64>load<f32>(row + (<usize>max(0, i - r) << 2));
    }
  }
}

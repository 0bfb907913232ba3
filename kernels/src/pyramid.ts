// Gaussian and Laplacian pyramids with the 5-tap binomial of Burt and Adelson 1983. Edges repeat.

/** Halves a plane: (w + 1) / 2 by (h + 1) / 2. `row` holds one row of w floats. */
export function pyrDown(src: usize, w: i32, h: i32, dst: usize, row: usize): void {
  const dw = (w + 1) >> 1, dh = (h + 1) >> 1;
  const stride = <usize>w << 2;
  const k1 = f32x4.splat(0.25), k0 = f32x4.splat(0.375), k2 = f32x4.splat(0.0625);
  for (let y = 0; y < dh; y++) {
    const c = y << 1;
    const a = src + <usize>max(0, c - 2) * stride, b = src + <usize>max(0, c - 1) * stride, m = src + <usize>c * stride;
    const d = src + <usize>min(h - 1, c + 1) * stride, e = src + <usize>min(h - 1, c + 2) * stride;
    let x = 0;
    for (; x + 4 <= w; x += 4) {
      const o = <usize>x << 2;
      v128.store(row + o, f32x4.add(f32x4.mul(v128.load(m + o), k0), f32x4.add(
        f32x4.mul(f32x4.add(v128.load(b + o), v128.load(d + o)), k1), f32x4.mul(f32x4.add(v128.load(a + o), v128.load(e + o)), k2))));
    }
    for (; x < w; x++) {
      const o = <usize>x << 2;
      store<f32>(row + o, load<f32>(m + o) * 0.375 + ((load<f32>(b + o) + load<f32>(d + o)) * 0.25 + (load<f32>(a + o) + load<f32>(e + o)) * 0.0625));
    }
    const out = dst + (<usize>(y * dw) << 2);
    for (let i = 0; i < dw; i++) {
      const q = i << 1;
      store<f32>(out + (<usize>i << 2),
        load<f32>(row + (<usize>q << 2)) * 0.375 +
        ((load<f32>(row + (<usize>max(0, q - 1) << 2)) + load<f32>(row + (<usize>min(w - 1, q + 1) << 2))) * 0.25 +
        (load<f32>(row + (<usize>max(0, q - 2) << 2)) + load<f32>(row + (<usize>min(w - 1, q + 2) << 2))) * 0.0625));
    }
  }
}

/** dst = base + sign * up(coarse): sign 1 collapses a pyramid, -1 makes its Laplacian. `row` holds (w + 1) / 2 floats. */
export function pyrUp(coarse: usize, w: i32, h: i32, base: usize, dst: usize, sign: f32, row: usize): void {
  const cw = (w + 1) >> 1, ch = (h + 1) >> 1;
  for (let y = 0; y < h; y++) {
    const c = y >> 1;
    const m = coarse + (<usize>(c * cw) << 2);
    const above = coarse + (<usize>(max(0, c - 1) * cw) << 2), below = coarse + (<usize>(min(ch - 1, c + 1) * cw) << 2);
    for (let i = 0; i < cw; i++) {
      const o = <usize>i << 2;
      store<f32>(row + o, y & 1 ? (load<f32>(m + o) + load<f32>(below + o)) * 0.5
        : load<f32>(m + o) * 0.75 + (load<f32>(above + o) + load<f32>(below + o)) * 0.125);
    }
    const off = <usize>(y * w) << 2;
    for (let x = 0; x < w; x++) {
      const q = x >> 1;
      const v = load<f32>(row + (<usize>q << 2));
      const r = load<f32>(row + (<usize>min(cw - 1, q + 1) << 2));
      const up: f32 = x & 1 ? (v + r) * 0.5 : v * 0.75 + (load<f32>(row + (<usize>max(0, q - 1) << 2)) + r) * 0.125;
      store<f32>(dst + off + (<usize>x << 2), load<f32>(base + off + (<usize>x << 2)) + sign * up);
    }
  }
}

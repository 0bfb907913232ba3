// Weights and sums of exposure fusion (Mertens, Kautz, Van Reeth 2007) on RGB samples of 16 bit.

// @ts-ignore: decorator
@inline
function greyRow(src: usize, w: i32, dst: usize): void {
  for (let x = 0; x < w; x++) {
    const p = src + <usize>(x * 6);
    store<f32>(dst + (<usize>x << 2), (<f32>load<u16>(p) * 0.299 + <f32>load<u16>(p, 2) * 0.587 + <f32>load<u16>(p, 4) * 0.114) * (1.0 / 65535.0));
  }
}

/**
 * Contrast times saturation times well-exposedness of the rows y0 to y1, to `dst` (the first of them). `well` holds the
 * well-exposedness of 4096 steps of a sample; `rows` three rows of w floats. Beyond the edges the picture is mirrored.
 */
export function fusionWeights(src: usize, w: i32, h: i32, y0: i32, y1: i32, well: usize, rows: usize, dst: usize): void {
  const stride = <usize>(w * 6), line = <usize>w << 2;
  let above = rows, own = rows + line, below = rows + 2 * line;
  greyRow(src + <usize>abs(y0 - 1 < 0 ? min(1, h - 1) : y0 - 1) * stride, w, above);
  greyRow(src + <usize>y0 * stride, w, own);
  for (let y = y0; y < y1; y++) {
    greyRow(src + <usize>(y + 1 < h ? y + 1 : max(0, h - 2)) * stride, w, below);
    const row = src + <usize>y * stride, out = dst + <usize>(y - y0) * line;
    for (let x = 0; x < w; x++) {
      const o = <usize>x << 2, l = <usize>(x > 0 ? x - 1 : min(1, w - 1)) << 2, r = <usize>(x + 1 < w ? x + 1 : max(0, w - 2)) << 2, p = row + <usize>(x * 6);
      const contrast = abs<f32>(load<f32>(own + l) + load<f32>(own + r) + load<f32>(above + o) + load<f32>(below + o) - 4 * load<f32>(own + o));
      const R = <f32>load<u16>(p) * (1.0 / 65535.0), G = <f32>load<u16>(p, 2) * (1.0 / 65535.0), B = <f32>load<u16>(p, 4) * (1.0 / 65535.0), m = (R + G + B) * (1.0 / 3.0);
      const saturation = sqrt<f32>((R - m) * (R - m) + (G - m) * (G - m) + (B - m) * (B - m));
      const exposed = load<f32>(well + (<usize>(load<u16>(p) >> 4) << 2)) * load<f32>(well + (<usize>(load<u16>(p, 2) >> 4) << 2)) * load<f32>(well + (<usize>(load<u16>(p, 4) >> 4) << 2));
      store<f32>(out + o, contrast * saturation * exposed + 1e-12);
    }
    const t = above;
    above = own; own = below; below = t;
  }
}

/** One channel of n RGB samples of 16 bit, as floats of 0 to 1. */
export function channelOf(src: usize, n: i32, channel: i32, dst: usize): void {
  for (let i = 0; i < n; i++) store<f32>(dst + (<usize>i << 2), <f32>load<u16>(src + <usize>i * 6 + (<usize>channel << 1)) * (1.0 / 65535.0));
}

/** acc += a * b over planes of n, a multiple of four or with room behind. */
export function addProduct(a: usize, b: usize, n: i32, acc: usize): void {
  for (let i = 0; i < n; i += 4) { const o = <usize>i << 2; v128.store(acc + o, f32x4.add(v128.load(acc + o), f32x4.mul(v128.load(a + o), v128.load(b + o)))); }
}

/** a /= b over planes of n, with room behind. */
export function divideBy(a: usize, b: usize, n: i32): void {
  for (let i = 0; i < n; i += 4) { const o = <usize>i << 2; v128.store(a + o, f32x4.div(v128.load(a + o), f32x4.max(v128.load(b + o), f32x4.splat(1e-20)))); }
}

/** acc += a over planes of n, with room behind. */
export function addPlane(a: usize, n: i32, acc: usize): void {
  for (let i = 0; i < n; i += 4) { const o = <usize>i << 2; v128.store(acc + o, f32x4.add(v128.load(acc + o), v128.load(a + o))); }
}

/** Encoded RGB planes of 0 to 1 to linear light by a table of 4097 steps, then by the matrix m, in place. */
export function toScene(planes: usize, plane: usize, n: i32, table: usize, m: usize): void {
  for (let i = 0; i < n; i++) {
    const p = planes + (<usize>i << 2);
    const r = decode(load<f32>(p), table), g = decode(load<f32>(p + plane), table), b = decode(load<f32>(p + 2 * plane), table);
    store<f32>(p, r * load<f32>(m) + g * load<f32>(m, 4) + b * load<f32>(m, 8));
    store<f32>(p + plane, r * load<f32>(m, 12) + g * load<f32>(m, 16) + b * load<f32>(m, 20));
    store<f32>(p + 2 * plane, r * load<f32>(m, 24) + g * load<f32>(m, 28) + b * load<f32>(m, 32));
  }
}

// @ts-ignore: decorator
@inline
function decode(v: f32, table: usize): f32 {
  const t = max<f32>(0, min<f32>(1, v)) * 4096, i = min<i32>(4095, <i32>t), f = t - <f32>i, p = table + (<usize>i << 2);
  return load<f32>(p) + (load<f32>(p, 4) - load<f32>(p)) * f;
}

/** Where e exceeds best, dst takes src; planes of n, with room behind. */
export function takeWhere(e: usize, best: usize, src: usize, n: i32, dst: usize): void {
  for (let i = 0; i < n; i += 4) {
    const o = <usize>i << 2;
    v128.store(dst + o, v128.bitselect(v128.load(src + o), v128.load(dst + o), f32x4.gt(v128.load(e + o), v128.load(best + o))));
  }
}

/** best = max(best, e) over planes of n, with room behind. */
export function maxPlane(e: usize, n: i32, best: usize): void {
  for (let i = 0; i < n; i += 4) { const o = <usize>i << 2; v128.store(best + o, f32x4.max(v128.load(best + o), v128.load(e + o))); }
}

/** Squares of what is covered by more than a thousandth (`weights`), 0 elsewhere; with `own` zero, 1 and 0 in their place. */
export function coveredSquares(own: usize, weights: usize, n: i32, dst: usize): void {
  for (let i = 0; i < n; i++) {
    const o = <usize>i << 2, on = load<f32>(weights + o) > 1e-3, v: f32 = own ? max<f32>(0, load<f32>(own + o)) : 1;
    store<f32>(dst + o, on ? v * v : 0);
  }
}

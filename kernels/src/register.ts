/**
 * Normal equations of one Gauss-Newton step of image registration (inverse compositional, Baker and Matthews 2004),
 * for the eight parameters of a homography about the picture's centre and a brightness offset.
 * Template `c` with weights `cw`, image `l` with weights `lw`, all w x h; `h` maps template to image pixels.
 * `out`: 45 upper-triangle sums, 9 right-hand sums, then sum of weights, weighted |r|, weighted r * r, votes (doubles);
 * nine more doubles behind them are its scratch.
 */
export function normalEquations(c: usize, cw: usize, l: usize, lw: usize, w: i32, h: i32, m: usize,
                                offset: f32, scale: f32, step: i32, out: usize): void {
  memory.fill(out, 0, 464);
  const m0 = load<f64>(m), m1 = load<f64>(m, 8), m2 = load<f64>(m, 16), m3 = load<f64>(m, 24), m4 = load<f64>(m, 32), m5 = load<f64>(m, 40), m6 = load<f64>(m, 48), m7 = load<f64>(m, 56), m8 = load<f64>(m, 64);
  const cx: f64 = 0.5 * <f64>w, cy: f64 = 0.5 * <f64>h, k: f64 = 2.0 / <f64>w;
  const inv: f32 = 1 / scale;
  const j = out + 464;
  for (let y = 1; y < h - 1; y += step) {
    for (let x = 1; x < w - 1; x++) {
      const at = <usize>(y * w + x) << 2;
      const tw = load<f32>(cw + at);
      if (tw < 0.01) continue;
      const gx = (load<f32>(c + at + 4) - load<f32>(c + at - 4)) * 0.5;
      const gy = (load<f32>(c + at + (<usize>w << 2)) - load<f32>(c + at - (<usize>w << 2))) * 0.5;
      // flat places say nothing of motion
      if (abs<f32>(gx) + abs<f32>(gy) < 0.012) continue;
      const px = <f64>x + 0.5, py = <f64>y + 0.5;
      const z = 1.0 / (m6 * px + m7 * py + m8);
      const sx = (m0 * px + m1 * py + m2) * z - 0.5, sy = (m3 * px + m4 * py + m5) * z - 0.5;
      const fx = floor(sx), fy = floor(sy);
      const ix = <i32>fx, iy = <i32>fy;
      if (ix < 0 || iy < 0 || ix >= w - 1 || iy >= h - 1) continue;
      const ax = <f32>(sx - fx), ay = <f32>(sy - fy);
      const q = <usize>(iy * w + ix) << 2, q2 = q + (<usize>w << 2);
      const iw = min(min(load<f32>(lw + q), load<f32>(lw + q + 4)), min(load<f32>(lw + q2), load<f32>(lw + q2 + 4)));
      if (iw < 0.01) continue;
      const top = load<f32>(l + q) + (load<f32>(l + q + 4) - load<f32>(l + q)) * ax;
      const bot = load<f32>(l + q2) + (load<f32>(l + q2 + 4) - load<f32>(l + q2)) * ax;
      const r = top + (bot - top) * ay + offset - load<f32>(c + at);
      const e = r * inv;
      // Geman-McClure: what moved in the scene loses its vote
      const rob: f32 = 1 / (1 + e * e);
      const wt = <f64>(tw * iw / (tw + iw) * rob * rob);
      const X = (px - cx) * k, Y = (py - cy) * k;
      const a = <f64>gx, b = <f64>gy, d = a * X + b * Y;
      store<f64>(j, a * X); store<f64>(j, a * Y, 8); store<f64>(j, a, 16); store<f64>(j, b * X, 24); store<f64>(j, b * Y, 32); store<f64>(j, b, 40);
      store<f64>(j, -d * X, 48); store<f64>(j, -d * Y, 56); store<f64>(j, 1, 64);
      let o = out;
      for (let i = 0; i < 9; i++) {
        const ji = load<f64>(j + (<usize>i << 3)) * wt;
        for (let n = i; n < 9; n++) { store<f64>(o, load<f64>(o) + ji * load<f64>(j + (<usize>n << 3))); o += 8; }
        const rp = out + 360 + (<usize>i << 3);
        store<f64>(rp, load<f64>(rp) + ji * <f64>r);
      }
      store<f64>(out + 432, load<f64>(out + 432) + wt);
      store<f64>(out + 440, load<f64>(out + 440) + wt * <f64>abs<f32>(r));
      store<f64>(out + 448, load<f64>(out + 448) + wt * <f64>(r * r));
      store<f64>(out + 456, load<f64>(out + 456) + 1);
    }
  }
}

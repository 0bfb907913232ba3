/**
 * Plain TypeScript twins of the compiled kernels: what each must compute, written to be read, for
 * the tests.
 */

type Plane = Float32Array;
const clamp = (v: number, hi: number): number => Math.max(0, Math.min(hi, v));

/** Mirrored about the outermost samples. */
function mirrored(i: number, n: number): number {
  const inside = i >= n ? 2 * (n - 1) - i : Math.abs(i);
  return clamp(inside, n - 1);
}

/** Halves a plane with the kernel 1, 4, 6, 4, 1 each way (Burt and Adelson 1983). */
export function pyrDown(src: Plane, w: number, h: number): Plane {
  const k = [1 / 16, 4 / 16, 6 / 16, 4 / 16, 1 / 16];
  const W = (w + 1) >> 1;
  const H = (h + 1) >> 1;
  const out = new Float32Array(W * H);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      let s = 0;
      for (let j = -2; j <= 2; j++)
        for (let i = -2; i <= 2; i++)
          s += k[i + 2]! * k[j + 2]! * src[mirrored(2 * y + j, h) * w + mirrored(2 * x + i, w)]!;
      out[y * W + x] = s;
    }
  return out;
}

/** The coarse plane with zeros between its samples, mirrored, under the same five taps doubled. */
export function pyrUp(coarse: Plane, w: number, h: number, base: Plane, sign: number): Plane {
  const W = (w + 1) >> 1;
  const k = [1 / 8, 4 / 8, 6 / 8, 4 / 8, 1 / 8];
  const taps = (p: number, n: number): [number, number][] =>
    [-2, -1, 0, 1, 2].flatMap((d): [number, number][] =>
      (p + d) & 1 ? [] : [[mirrored(p + d, n) >> 1, k[d + 2]!]],
    );
  return base.map((b, i) => {
    let s = 0;
    for (const [y, wy] of taps(Math.floor(i / w), h))
      for (const [x, wx] of taps(i % w, w)) s += wx * wy * coarse[y * W + x]!;
    return b + sign * s;
  });
}

/** Weights of exposure fusion over RGB samples of 16 bit. */
export function fusionWeights(rgb: Uint16Array, w: number, h: number): Plane {
  const grey = Float32Array.from(
    { length: w * h },
    (_, i) => (rgb[i * 3]! * 0.299 + rgb[i * 3 + 1]! * 0.587 + rgb[i * 3 + 2]! * 0.114) / 65535,
  );
  return grey.map((g, i) => {
    const x = i % w;
    const y = Math.floor(i / w);
    const c = [0, 1, 2].map((k) => rgb[i * 3 + k]! / 65535);
    const m = (c[0]! + c[1]! + c[2]!) / 3;
    const contrast = Math.abs(
      grey[y * w + mirrored(x - 1, w)]! +
        grey[y * w + mirrored(x + 1, w)]! +
        grey[mirrored(y - 1, h) * w + x]! +
        grey[mirrored(y + 1, h) * w + x]! -
        4 * g,
    );
    return (
      contrast *
        Math.sqrt(c.reduce((s, v) => s + (v - m) ** 2, 0)) *
        c.reduce((p, v) => p * Math.exp(-((v - 0.5) ** 2) / 0.08), 1) +
      1e-12
    );
  });
}

/** Means over windows of 2r + 1, of as many samples as lie within the plane. */
export function boxMean(src: Plane, w: number, h: number, r: number): Plane {
  return src.map((_, i) => {
    let s = 0;
    for (let j = -r; j <= r; j++)
      for (let k = -r; k <= r; k++)
        s += src[clamp(Math.floor(i / w) + j, h - 1) * w + clamp((i % w) + k, w - 1)]!;
    return s / (2 * r + 1) ** 2;
  });
}

/** What the slope at a sample is trusted by: the least confidence of what it is taken from. */
export const slopeConfidence = (confidences: Plane, w: number, i: number): number =>
  Math.min(
    confidences[i]!,
    confidences[i + 1]!,
    confidences[i - 1]!,
    confidences[i + w]!,
    confidences[i - w]!,
  );

/**
 * Sums of J J^T, J r and the four totals of a registration step, for `rows(a, b, X, Y)` the row of
 * the Jacobian.
 */
export function equations(
  c: Plane,
  cw: Plane,
  l: Plane,
  lw: Plane,
  w: number,
  h: number,
  m: readonly number[],
  offset: number,
  scale: number,
  row: (a: number, b: number, X: number, Y: number) => number[],
): number[] {
  const size = row(0, 0, 0, 0).length;
  const A: number[] = new Array<number>((size * (size + 1)) / 2).fill(0);
  const rhs = new Array<number>(size).fill(0);
  const totals = [0, 0, 0, 0];
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      const a = (c[i + 1]! - c[i - 1]!) / 2;
      const b = (c[i + w]! - c[i - w]!) / 2;
      if (slopeConfidence(cw, w, i) < 0.01 || Math.abs(a) + Math.abs(b) < 0.012) continue;
      const px = x + 0.5;
      const py = y + 0.5;
      const z = m[6]! * px + m[7]! * py + m[8]!;
      const sx = (m[0]! * px + m[1]! * py + m[2]!) / z - 0.5;
      const sy = (m[3]! * px + m[4]! * py + m[5]!) / z - 0.5;
      const ix = Math.floor(sx);
      const iy = Math.floor(sy);
      if (ix < 0 || iy < 0 || ix >= w - 1 || iy >= h - 1) continue;
      const q = iy * w + ix;
      const fx = sx - ix;
      const fy = sy - iy;
      const iw = Math.min(lw[q]!, lw[q + 1]!, lw[q + w]!, lw[q + w + 1]!);
      if (iw < 0.01) continue;
      const r =
        (l[q]! * (1 - fx) + l[q + 1]! * fx) * (1 - fy) +
        (l[q + w]! * (1 - fx) + l[q + w + 1]! * fx) * fy +
        offset -
        c[i]!;
      const confidence = (cw[i]! * iw) / (cw[i]! + iw) / (1 + (r / scale) ** 2) ** 2;
      const J = row(a, b, ((px - w / 2) * 2) / w, ((py - h / 2) * 2) / w);
      let k = 0;
      for (let n = 0; n < size; n++) {
        for (let p = n; p < size; p++) A[k++]! += J[n]! * J[p]! * confidence;
        rhs[n]! += J[n]! * r * confidence;
      }
      [confidence, confidence * Math.abs(r), confidence * r * r, 1].forEach((v, n) => {
        totals[n]! += v;
      });
    }
  return [...A, ...rhs, ...totals];
}

/**
 * One pixel through the renderer: linear Rec. 2020 to encoded R, G, B; `s` as the kernel's
 * settings.
 */
export function renderPixel(
  rgb: readonly number[],
  slope: number,
  offset: number,
  s: readonly number[],
  curve: (linear: number) => number,
): number[] {
  const luma = (v: readonly number[]): number => 0.2627 * v[0]! + 0.678 * v[1]! + 0.0593 * v[2]!;
  const v = rgb.map((x, i) => x * s[i]!);
  const Y = luma(v);
  const light = luma(rgb);
  const floor = s[19]!;
  const L = Math.log2(Math.max(1e-18, floor, light));
  let t = L + s[3]! + slope * L + offset;
  t = s[5]! + (t - s[5]!) * s[4]!;
  const full = 2 ** (t - L);
  const signal = light ** 2 / (light ** 2 + floor ** 2);
  const lifted = Math.max(0, full - 1) * signal;
  const gain = Math.min(1, full) + lifted;
  const colour = Math.min(1, full) + lifted * signal;
  const y = Y * gain;
  const k = s[7]!;
  const white = s[8]!;
  const rolled = rolledOff(
    v.map((x) => y + (x - Y) * colour * s[6]!),
    k,
    white,
  );
  const out = [0, 3, 6].map(
    (i) => s[9 + i]! * rolled[0]! + s[10 + i]! * rolled[1]! + s[11 + i]! * rolled[2]!,
  );
  return intoGamut(out, luma(rolled)).map((x) => curve(Math.min(1, Math.max(0, x))));
}

/** A colour rolled off to white from k on by its lightest channel, paler above display white. */
export function rolledOff(rgb: readonly number[], k: number, white: number): number[] {
  const most = Math.max(...rgb);
  if (!(white > k && most > k)) return [...rgb];
  const span = 1 - k;
  const full =
    k + (span * (1 - Math.exp(-(most - k) / span))) / (1 - Math.exp(-(white - k) / span));
  const t = Math.min(1, Math.max(0, (most - white) / (3 * white)));
  const pale = t * t * (3 - 2 * t);
  return rgb.map((x) => (full / most) * (x + pale * (most - x)));
}

/** A colour that lies outside 0 to 1, brought back towards the grey of its luminance y. */
export function intoGamut(rgb: readonly number[], y: number): number[] {
  const least = Math.min(...rgb);
  const most = Math.max(...rgb);
  if (y >= 1 || (least >= 0 && most <= 1)) return [...rgb];
  const down = least < y ? Math.max(0, y) / (y - least) : Infinity;
  const up = most > y ? (1 - y) / (most - y) : Infinity;
  const reach = Math.min(1, down, up);
  return rgb.map((v) => y + reach * (v - y));
}

/**
 * A row or column of taps under a filter, no darker than 0.85 of the darker of the two inner ones.
 */
function underFilter(taps: readonly number[], weights: readonly number[]): number {
  const inner = taps.length / 2;
  return Math.max(
    taps.reduce((s, v, i) => s + weights[i]! * v, 0),
    0.85 * Math.min(taps[inner - 1]!, taps[inner]!),
  );
}

/**
 * A picture sampled by a filter of `reach` px to each side, across and then along, fractions
 * rounded to 1024ths; edges repeated.
 */
export function sampled(
  rgb: Float32Array,
  w: number,
  h: number,
  x: number,
  y: number,
  reach: number,
  filter: (t: number) => number,
): number[] {
  const ix = Math.floor(x - 0.5);
  const iy = Math.floor(y - 0.5);
  const fine = (v: number): number => Math.floor(v * 1024 + 0.5) / 1024;
  const offsets = Array.from({ length: 2 * reach }, (_, i) => i - reach + 1);
  const weights = (f: number): number[] => {
    const all = offsets.map((i) => filter(f - i));
    const sum = all.reduce((s, v) => s + v, 0);
    return all.map((v) => v / sum);
  };
  const across = weights(fine(x - 0.5 - ix));
  const along = weights(fine(y - 0.5 - iy));
  return [0, 1, 2].map((c) =>
    underFilter(
      offsets.map((j) =>
        underFilter(
          offsets.map((i) => rgb[(clamp(iy + j, h - 1) * w + clamp(ix + i, w - 1)) * 3 + c]!),
          across,
        ),
      ),
      along,
    ),
  );
}

/** The same by the cubic of Keys (1981), a = -1/2. */
export function bicubic(rgb: Float32Array, w: number, h: number, x: number, y: number): number[] {
  return sampled(rgb, w, h, x, y, 2, (t) => {
    const a = Math.abs(t);
    if (a < 1) return 1.5 * a ** 3 - 2.5 * a ** 2 + 1;
    if (a < 2) return -0.5 * a ** 3 + 2.5 * a ** 2 - 4 * a + 2;
    return 0;
  });
}

/**
 * What one sample adds to the sums R, G, B and weight; `level` is the mean of R, G, B over it and
 * its two neighbours.
 */
export function foldSample(
  rgb: readonly number[],
  validity: number,
  level: number,
  still: number,
  time: number,
  invGain: number,
  read2: number,
  floorConfidence: number,
): number[] {
  if (validity < 0) return [0, 0, 0, 0];
  const k =
    (validity * still * time) / (level * invGain + read2) +
    (floorConfidence / time) * (still + 1e-7);
  return [...rgb.map((v) => v * k), k * time];
}

/** Bilinear sample of a plane at px x, y, or undefined outside. */
export function bilinear(
  p: Plane,
  w: number,
  h: number,
  x: number,
  y: number,
  mix: (a: number, b: number, t: number) => number,
): number | undefined {
  const fx = x - 0.5;
  const fy = y - 0.5;
  const ix = Math.floor(fx);
  const iy = Math.floor(fy);
  if (ix < 0 || iy < 0 || ix > w - 1 || iy > h - 1) return undefined;
  const r = Math.min(w - 1, ix + 1);
  const b = Math.min(h - 1, iy + 1);
  return mix(
    mix(p[iy * w + ix]!, p[iy * w + r]!, fx - ix),
    mix(p[b * w + ix]!, p[b * w + r]!, fx - ix),
    fy - iy,
  );
}

/** The merge of log radiance and its confidences after an image was added. */
export function foldLog(
  c: Plane,
  cv: Plane,
  l: Plane,
  lv: Plane,
  w: number,
  h: number,
  m: readonly number[],
  offset: number,
): { c: Plane; cv: Plane } {
  const out = { c: c.slice(), cv: cv.slice() };
  for (let i = 0; i < w * h; i++) {
    const x = (i % w) + 0.5;
    const y = Math.floor(i / w) + 0.5;
    const z = m[6]! * x + m[7]! * y + m[8]!;
    const u = (m[0]! * x + m[1]! * y + m[2]!) / z;
    const v = (m[3]! * x + m[4]! * y + m[5]!) / z;
    const confidence = bilinear(lv, w, h, u, v, (a, b) => Math.min(a, b)) ?? 0;
    const log = bilinear(l, w, h, u, v, (a, b, t) => a + (b - a) * t);
    if (!(confidence > 0)) continue;
    out.c[i] = (c[i]! * cv[i]! + (log! + offset) * confidence) / (cv[i]! + confidence);
    out.cv[i] = Math.min(1, cv[i]! + confidence);
  }
  return out;
}

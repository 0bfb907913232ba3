// Which samples of a frame are to be believed: clipped ones and what lies round them are not.

/**
 * Samples to linear R, G, B and the smooth validity of the sample. `kind`: RGB interleaved in 0
 * bytes, 1 16 bit, 2 linear floats. `lut` for 16 bit holds three tables of floats; for bytes three
 * of vectors, of which the least in every lane is the sample and its validity.
 */
export function linearise(src: usize, kind: i32, n: i32, lut: usize, dst: usize): void {
  if (kind == 0) {
    for (let i = 0; i < n; i++, src += 3, dst += 16) {
      const r = v128.load(lut + ((<usize>load<u8>(src)) << 4));
      const g = v128.load(lut + ((<usize>load<u8>(src, 1)) << 4), 4096);
      const b = v128.load(lut + ((<usize>load<u8>(src, 2)) << 4), 8192);
      v128.store(dst, f32x4.pmin(r, f32x4.pmin(g, b)));
    }
    return;
  }
  for (let i = 0; i < n; i++) {
    let r: f32;
    let g: f32;
    let b: f32;
    if (kind == 2) {
      r = load<f32>(src);
      g = load<f32>(src, 4);
      b = load<f32>(src, 8);
      src += 12;
    } else {
      r = load<f32>(lut + ((<usize>load<u16>(src)) << 2));
      g = load<f32>(lut + ((<usize>load<u16>(src, 2)) << 2) + 262144);
      b = load<f32>(lut + ((<usize>load<u16>(src, 4)) << 2) + 524288);
      src += 6;
    }
    let m = r > g ? r : g;
    m = m > b ? m : b;
    store<f32>(dst, r);
    store<f32>(dst, g, 4);
    store<f32>(dst, b, 8);
    // the confidence fades before saturation, so that no ring shows where the next frame takes over
    const v: f32 = (0.97 - m) * 5.5;
    store<f32>(dst, v < 0 ? 0 : v > 1 ? 1 : v, 12);
    dst += 16;
  }
}

/**
 * Which blocks of `size` px of `rows` rows of RGB bytes, `stride` bytes apart, hold a sample of at
 * least `top`: a byte a block, the last block may be narrower. What is packed block by block rings
 * round what is clipped in the same block.
 */
export function clippedBlocks(
  src: usize,
  stride: usize,
  w: i32,
  rows: i32,
  size: i32,
  top: i32,
  dst: usize,
): void {
  const least = i8x16.splat(<i8>top);
  for (let x = 0, b: usize = 0; x < w; x += size, b++) {
    const bytes = min(size, w - x) * 3;
    let found = false;
    for (let y = 0; y < rows && !found; y++) {
      const p = src + <usize>y * stride + <usize>(x * 3);
      if (bytes == 24)
        found =
          v128.any_true(i8x16.ge_u(v128.load(p), least)) ||
          v128.any_true(i8x16.ge_u(v128.load(p, 8), least));
      else for (let i = 0; i < bytes && !found; i++) found = <i32>load<u8>(p + <usize>i) >= top;
    }
    store<u8>(dst + b, found ? 1 : 0);
  }
}

/**
 * Takes the confidence from samples brighter than half in blocks that hold clipped ones: they may
 * be clipped themselves, and be drawn below that by the packing alone. n samples from px `first` of
 * a row on; `blocks` as clippedBlocks makes them.
 */
export function doubtBlocks(row: usize, n: i32, first: i32, size: i32, blocks: usize): void {
  for (let i = 0; i < n;) {
    const x = first + i;
    const b = x / size;
    const end = min(n, i + (b + 1) * size - x);
    if (load<u8>(blocks + <usize>b))
      for (let k = i; k < end; k++) {
        const p = row + ((<usize>k) << 4);
        const v = v128.load(p);
        if (v128.any_true(f32x4.gt(f32x4.replace_lane(v, 3, 0), f32x4.splat(0.5))))
          store<f32>(p, 0, 12);
      }
    i = end;
  }
}

/** Share of the step between the samples beside one by which an interpolated sample may err. */
const BETWEEN: f32 = 0.05;

/** Bytes before and behind a row of floats that repeat its ends. */
const PAD: usize = 16;
// @ts-ignore: decorator
@inline
function repeatEnds(row: usize, w: i32): void {
  const end = row + ((<usize>w) << 2);
  const last = load<f32>(end - 4);
  store<f32>(row - 4, load<f32>(row));
  store<f32>(end, last);
  store<f32>(end, last, 4);
}

/** The sums of R, G and B of a row of w samples to `sums`, their validity to `validity`. */
function brightnessRow(line: usize, w: i32, sums: usize, validity: usize): void {
  for (let x = 0; x < w; x += 4, line += 64) {
    const p0 = v128.load(line);
    const p1 = v128.load(line, 16);
    const p2 = v128.load(line, 32);
    const p3 = v128.load(line, 48);
    const o = (<usize>x) << 2;
    const a = v128.shuffle<f32>(p0, p1, 0, 4, 1, 5);
    const b = v128.shuffle<f32>(p2, p3, 0, 4, 1, 5);
    const c = v128.shuffle<f32>(p0, p1, 2, 6, 3, 7);
    const d = v128.shuffle<f32>(p2, p3, 2, 6, 3, 7);
    v128.store(
      sums + o,
      f32x4.add(
        f32x4.add(v128.shuffle<f32>(a, b, 0, 1, 4, 5), v128.shuffle<f32>(a, b, 2, 3, 6, 7)),
        v128.shuffle<f32>(c, d, 0, 1, 4, 5),
      ),
    );
    v128.store(validity + o, v128.shuffle<f32>(c, d, 2, 3, 6, 7));
  }
  repeatEnds(sums, w);
}

/**
 * What a frame that is sampled between its pixels may say, from its linear samples: the validity of
 * each, lane 3, is lowered where the picture is steep, as interpolation errs there and photons are
 * not all of its noise (variance `invGain` x sample + `read2`); and it becomes the lowest of i - 1
 * .. i + 2 of its row, which a four-tap kernel between samples i and i + 1 may touch: a cubic
 * carries a clipped neighbour two pixels far. `room` holds seven rows of w + 8 floats.
 */
export function erodeValidity(
  tile: usize,
  w: i32,
  rows: i32,
  invGain: f32,
  read2: f32,
  room: usize,
): void {
  const stride = (<usize>w) << 4;
  const row = ((<usize>w) << 2) + 2 * PAD;
  const sums = room + PAD;
  const valid = sums + 3 * row;
  const told = valid + 3 * row;
  const gain = f32x4.splat(invGain * <f32>(1.0 / 3.0));
  const read = f32x4.splat(read2);
  const errs = f32x4.splat(BETWEEN * <f32>(1.0 / 3.0));
  brightnessRow(tile, w, sums, valid);
  for (let y = 0; y < rows; y++) {
    const next = <usize>((y + 1) % 3) * row;
    if (y + 1 < rows) brightnessRow(tile + <usize>(y + 1) * stride, w, sums + next, valid + next);
    const own = <usize>(y % 3) * row;
    const s = sums + own;
    const up = y > 0 ? sums + <usize>((y - 1) % 3) * row : s;
    const down = y + 1 < rows ? sums + next : s;
    for (let x = 0; x < w; x += 4) {
      const o = (<usize>x) << 2;
      const step = f32x4.mul(
        errs,
        f32x4.pmax(
          f32x4.abs(f32x4.sub(v128.load(s + o, 4), v128.load(s + o - 4))),
          f32x4.abs(f32x4.sub(v128.load(down + o), v128.load(up + o))),
        ),
      );
      const noise = f32x4.add(f32x4.mul(v128.load(s + o), gain), read);
      v128.store(
        told + o,
        f32x4.div(
          f32x4.mul(v128.load(valid + own + o), noise),
          f32x4.add(noise, f32x4.mul(step, step)),
        ),
      );
    }
    repeatEnds(told, w);
    const line = tile + <usize>y * stride + 12;
    for (let x = 0; x < w; x += 4) {
      const t = told + ((<usize>x) << 2);
      const lowest = f32x4.pmin(
        f32x4.pmin(v128.load(t - 4), v128.load(t)),
        f32x4.pmin(v128.load(t, 4), v128.load(t, 8)),
      );
      const p = line + ((<usize>x) << 4);
      const n = w - x;
      v128.store32_lane(p, lowest, 0);
      if (n > 1) v128.store32_lane(p + 16, lowest, 1);
      if (n > 2) v128.store32_lane(p + 32, lowest, 2);
      if (n > 3) v128.store32_lane(p + 48, lowest, 3);
    }
  }
}

/**
 * Where in a row of n a further frame is worth its resampling: not where its confidence would be
 * under 1/64 of what the sums hold already, which changes the noise by less than 0.07 dB. Judged
 * for blocks of 16; neighbours are joined. Writes pairs of first and end to `runs` (room for n / 16
 * + 1 pairs) and returns their number.
 */
export function worthwhileRuns(
  acc: usize,
  plane: usize,
  at: usize,
  n: i32,
  time: f32,
  invGain: f32,
  read2: f32,
  runs: usize,
): i32 {
  const own = time * time * 64;
  const light = time * invGain * <f32>(1.0 / 3.0);
  let count = 0;
  let last = -1;
  for (let x = 0; x < n; x += 16) {
    const end = min(n, x + 16);
    let worth = false;
    for (let i = x; i < end && !worth; i++) {
      const p = acc + at + ((<usize>i) << 2);
      worth =
        own >
        (load<f32>(p) + load<f32>(p + plane) + load<f32>(p + 2 * plane)) * light +
          load<f32>(p + 3 * plane) * read2;
    }
    if (!worth) continue;
    if (last != x) {
      store<i32>(runs + ((<usize>count) << 3), x);
      count++;
    }
    last = end;
    store<i32>(runs + ((<usize>count) << 3) - 4, end);
  }
  return count;
}

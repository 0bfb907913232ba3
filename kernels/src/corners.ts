// Corners of a picture: how strongly its surroundings tell where a place is, which places stand
// out, and what they look like.

// @ts-ignore: decorator
@inline
function slope(after: v128, before: v128): v128 {
  return f32x4.pmax(
    f32x4.splat(-1),
    f32x4.pmin(f32x4.splat(1), f32x4.mul(f32x4.sub(after, before), f32x4.splat(0.5))),
  );
}

// @ts-ignore: decorator
@inline
function seven(a: v128, b: v128, c: v128, d: v128, e: v128, f: v128, g: v128): v128 {
  const two = f32x4.splat(2);
  const three = f32x4.splat(3);
  return f32x4.add(
    f32x4.add(f32x4.add(a, g), f32x4.mul(two, f32x4.add(b, f))),
    f32x4.mul(three, f32x4.add(f32x4.add(c, e), d)),
  );
}
// @ts-ignore: decorator
@inline
function sevenAlong(p: usize): v128 {
  return seven(
    v128.load(p),
    v128.load(p, 4),
    v128.load(p, 8),
    v128.load(p, 12),
    v128.load(p, 16),
    v128.load(p, 20),
    v128.load(p, 24),
  );
}

/** Floats that a row of products takes, with room for what is repeated beyond its ends. */
// @ts-ignore: decorator
@inline
function padded(w: i32): usize {
  return <usize>((w + 15) & ~3);
}

/**
 * Products of the slopes across and down in row y, weighed by the least of the five confidences
 * they are made of, to three rows; nothing in the outermost px.
 */
function slopeProducts(log: usize, confidence: usize, w: i32, h: i32, y: i32, dst: usize): void {
  const line = (<usize>w) << 2;
  const row = padded(w) << 2;
  memory.fill(dst, 0, row * 3);
  if (y < 1 || y > h - 2) return;
  for (let x = 1; x < w - 1; x += 4) {
    // the last four begin as far before the border as they are
    const here = <usize>max(1, min(x, w - 5));
    const o = (<usize>(y * w) + here) << 2;
    const L = log + o;
    const V = confidence + o;
    const to = dst + (here << 2);
    const a = slope(v128.load(L + 4), v128.load(L - 4));
    const b = slope(v128.load(L + line), v128.load(L - line));
    const v = f32x4.pmin(
      f32x4.pmin(
        f32x4.pmin(v128.load(V), v128.load(V - 4)),
        f32x4.pmin(v128.load(V + 4), v128.load(V - line)),
      ),
      v128.load(V + line),
    );
    const av = f32x4.mul(a, v);
    v128.store(to, f32x4.mul(a, av));
    v128.store(to + row, f32x4.mul(av, b));
    v128.store(to + row * 2, f32x4.mul(f32x4.mul(b, b), v));
  }
}

/** Bytes of room that cornerStrength takes. */
export function cornerRoom(w: i32): i32 {
  return <i32>(padded(w) << 2) * 27;
}

/**
 * How much of a corner each px of a w x h plane (six at least each way) of log luminance is:
 * determinant over trace of the structure tensor, half the harmonic mean of its eigenvalues, over a
 * window of seven px each way with weights 1, 2, 3, 3, 3, 2, 1. A slope of two stops a px is a hard
 * edge, and more would let one lamp outshine all texture. Nothing where there is no confidence. All with
 * room behind.
 *
 * See Harris and Stephens, "A combined corner and edge detector", 1988.
 */
export function cornerStrength(
  log: usize,
  confidence: usize,
  w: i32,
  h: i32,
  room: usize,
  dst: usize,
): void {
  const row = padded(w) << 2;
  const three = row * 3;
  const sums = room + three * 8;
  const last = (<usize>(w - 1)) << 2;
  for (let y = 0; y < 3; y++) slopeProducts(log, confidence, w, h, y, room + <usize>y * three);
  for (let y = 0; y < h; y++) {
    if (y + 3 < h) slopeProducts(log, confidence, w, h, y + 3, room + <usize>((y + 3) & 7) * three);
    // down, then across: the sums begin three px in
    const a = room + <usize>(max(0, y - 3) & 7) * three;
    const b = room + <usize>(max(0, y - 2) & 7) * three;
    const c = room + <usize>(max(0, y - 1) & 7) * three;
    const d = room + <usize>(y & 7) * three;
    const e = room + <usize>(min(h - 1, y + 1) & 7) * three;
    const f = room + <usize>(min(h - 1, y + 2) & 7) * three;
    const g = room + <usize>(min(h - 1, y + 3) & 7) * three;
    for (let k: usize = 0; k < 3; k++) {
      const to = sums + k * row;
      for (let x = k * row; x < k * row + ((<usize>w) << 2); x += 16)
        v128.store(
          sums + x,
          seven(
            v128.load(a + x),
            v128.load(b + x),
            v128.load(c + x),
            v128.load(d + x),
            v128.load(e + x),
            v128.load(f + x),
            v128.load(g + x),
          ),
          12,
        );
      v128.store32_lane(to, v128.load32_splat(to + 12), 0);
      v128.store32_lane(to + 4, v128.load32_splat(to + 12), 0);
      v128.store32_lane(to + 8, v128.load32_splat(to + 12), 0);
      for (let x: usize = 16; x < 28; x += 4) store<f32>(to + last + x, load<f32>(to + last + 12));
    }
    for (
      let x: usize = 0, out = dst + ((<usize>(y * w)) << 2);
      x < (<usize>w) << 2;
      x += 16, out += 16
    ) {
      const k = f32x4.splat(1.0 / 225.0);
      const xx = f32x4.mul(k, sevenAlong(sums + x));
      const xy = f32x4.mul(k, sevenAlong(sums + row + x));
      const yy = f32x4.mul(k, sevenAlong(sums + row * 2 + x));
      v128.store(
        out,
        f32x4.div(
          f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.mul(xx, yy), f32x4.mul(xy, xy))),
          f32x4.add(f32x4.add(xx, yy), f32x4.splat(1e-6)),
        ),
      );
    }
  }
}

/**
 * Places, one after the other to `dst`, of the px of a w x h plane that are at least `least` and
 * above their eight neighbours, `rim` px (one at least) away from its sides. Returns how many there
 * are: a quarter of all at most.
 */
export function peaks(plane: usize, w: i32, h: i32, rim: i32, least: f32, dst: usize): i32 {
  const line = (<usize>w) << 2;
  const floor = f32x4.splat(least);
  let count = 0;
  for (let y = rim; y < h - rim; y++)
    for (let x = rim; x < w - rim; x += 4) {
      const p = plane + ((<usize>(y * w + x)) << 2);
      const s = v128.load(p);
      let top = f32x4.ge(s, floor);
      if (!v128.any_true(top)) continue;
      const a = p - line;
      const b = p + line;
      const around = f32x4.max(
        f32x4.max(
          f32x4.max(v128.load(p - 4), v128.load(p, 4)),
          f32x4.max(v128.load(a - 4), v128.load(a)),
        ),
        f32x4.max(
          f32x4.max(v128.load(a, 4), v128.load(b - 4)),
          f32x4.max(v128.load(b), v128.load(b, 4)),
        ),
      );
      top = v128.and(top, f32x4.gt(s, around));
      for (
        let lanes = i32x4.bitmask(top) & ((1 << min(4, w - rim - x)) - 1);
        lanes;
        lanes &= lanes - 1, count++
      )
        store<i32>(dst + ((<usize>count) << 2), y * w + x + ctz(lanes));
    }
  return count;
}

/**
 * For each of n places, strongest first, the squared distance to the nearest that is clearly
 * stronger, to `dst`; infinite where none lies within three buckets of `size` px, or little more.
 * `places` holds x, y and strength of each, within w x h px. `room` holds a number for each bucket
 * and each place.
 *
 * See Brown, Szeliski and Winder, "Multi-image matching using multi-scale oriented patches", CVPR
 * 2005 (adaptive non-maximal suppression).
 */
export function distancesToStronger(
  places: usize,
  n: i32,
  w: i32,
  h: i32,
  size: f32,
  room: usize,
  dst: usize,
): void {
  const across = <i32>(<f32>w / size) + 1;
  const down = <i32>(<f32>h / size) + 1;
  const next = room + ((<usize>(across * down)) << 2);
  memory.fill(room, 0xff, (<usize>(across * down)) << 2);
  for (let i = 0; i < n; i++) {
    const p = places + <usize>i * 12;
    const x = load<f32>(p);
    const y = load<f32>(p, 4);
    const strength = load<f32>(p, 8);
    const gx = min(across - 1, <i32>(x / size));
    const gy = min(down - 1, <i32>(y / size));
    let nearest: f32 = Infinity;
    for (let ring = 0; ring < 4; ring++) {
      const sure = <f32>(ring - 1) * size;
      if (nearest <= sure * sure) break;
      for (let v = max(0, gy - ring); v <= min(down - 1, gy + ring); v++) {
        const whole = abs(v - gy) == ring;
        for (let u = gx - ring; u <= gx + ring; u += whole || ring == 0 ? 1 : 2 * ring) {
          if (u < 0 || u >= across) continue;
          for (
            let o = load<i32>(room + ((<usize>(v * across + u)) << 2));
            o >= 0;
            o = load<i32>(next + ((<usize>o) << 2))
          ) {
            const q = places + <usize>o * 12;
            if (load<f32>(q, 8) * 0.9 <= strength) continue;
            const dx = load<f32>(q) - x;
            const dy = load<f32>(q, 4) - y;
            nearest = min(nearest, dx * dx + dy * dy);
          }
        }
      }
    }
    store<f32>(dst + ((<usize>i) << 2), nearest);
    const bucket = room + ((<usize>(gy * across + gx)) << 2);
    store<i32>(next + ((<usize>i) << 2), load<i32>(bucket));
    store<i32>(bucket, i);
  }
}

/** The plane of w x h at a place, beyond its sides the border; between px a line. */
function at(L: usize, w: i32, h: i32, x: f32, y: f32): f32 {
  const cx = max<f32>(0, min<f32>(<f32>w - 1.001, x));
  const cy = max<f32>(0, min<f32>(<f32>h - 1.001, y));
  const ix = <i32>cx;
  const iy = <i32>cy;
  const fx = cx - <f32>ix;
  const fy = cy - <f32>iy;
  const p = L + ((<usize>(iy * w + ix)) << 2);
  const q = p + ((<usize>w) << 2);
  const top = load<f32>(p) + (load<f32>(p, 4) - load<f32>(p)) * fx;
  const low = load<f32>(q) + (load<f32>(q, 4) - load<f32>(q)) * fx;
  return top + (low - top) * fy;
}

/**
 * Half the side of the square by whose slopes a corner's direction is measured, and the variance (px
 * squared, twice) of their weights.
 */
const AROUND = 4;
const SPREAD: f32 = 14;
/**
 * Values of its patch, side by side, and px between them; contrast below which there is nothing to
 * tell.
 */
const SIDE = 8;
const SPACING: f32 = 2.5;
const FLAT: f32 = 0.08;

/** Bytes of room that describeCorner takes. */
export function descriptionRoom(): i32 {
  const line = 2 * (AROUND + 1) + 1;
  return (line * line) << 2;
}

/**
 * What a corner at x, y (px of a smoothed plane of log luminance) looks like: 64 values along its
 * own direction, their mean 0, their length 1; to `dst`. A way of a, b px on the sphere is xx a +
 * xy b across and xy a + yy b down the plane. Returns 0 where there is no contrast.
 *
 * See Brown, Szeliski and Winder, "Multi-image matching using multi-scale oriented patches", CVPR
 * 2005.
 */
export function describeCorner(
  L: usize,
  w: i32,
  h: i32,
  x: f32,
  y: f32,
  xx: f32,
  xy: f32,
  yy: f32,
  room: usize,
  dst: usize,
): i32 {
  const reach = AROUND + 1;
  const line = 2 * reach + 1;
  for (let j = -reach, o = room; j <= reach; j++)
    for (let i = -reach; i <= reach; i++, o += 4)
      store<f32>(o, at(L, w, h, x + xx * <f32>i + xy * <f32>j, y + xy * <f32>i + yy * <f32>j));
  let gx: f32 = 0;
  let gy: f32 = 0;
  for (let j = -AROUND; j <= AROUND; j++)
    for (let i = -AROUND; i <= AROUND; i++) {
      const k = Mathf.exp(-(<f32>(i * i + j * j)) / SPREAD);
      const o = room + ((<usize>((j + reach) * line + i + reach)) << 2);
      const below = (<usize>line) << 2;
      gx += k * (load<f32>(o, 4) - load<f32>(o - 4));
      gy += k * (load<f32>(o + below) - load<f32>(o - below));
    }
  const size = sqrt<f32>(gx * gx + gy * gy);
  const c: f32 = size > 0 ? gx / size : 0;
  const s: f32 = size > 0 ? gy / size : 0;
  const d = SPACING / 3;
  let sum: f32 = 0;
  let square: f32 = 0;
  for (let j = 0, o = dst; j < SIDE; j++)
    for (let i = 0; i < SIDE; i++, o += 4) {
      const a = (<f32>i - <f32>(SIDE - 1) / 2) * SPACING;
      const b = (<f32>j - <f32>(SIDE - 1) / 2) * SPACING;
      const u = c * a - s * b;
      const v = s * a + c * b;
      // averaged over the spacing
      let value: f32 = 0;
      for (let k = 0; k < 5; k++) {
        const p = k == 0 ? u : k & 1 ? u - d : u + d;
        const q = k == 0 ? v : k < 3 ? v - d : v + d;
        value += (k == 0 ? <f32>2 : <f32>1) * at(L, w, h, x + xx * p + xy * q, y + xy * p + yy * q);
      }
      value /= 6;
      store<f32>(o, value);
      sum += value;
    }
  const mean = sum / <f32>(SIDE * SIDE);
  for (let o = dst; o < dst + SIDE * SIDE * 4; o += 4) {
    const value = load<f32>(o) - mean;
    store<f32>(o, value);
    square += value * value;
  }
  const length = sqrt<f32>(square);
  if (length < FLAT) return 0;
  for (let o = dst; o < dst + SIDE * SIDE * 4; o += 4) store<f32>(o, load<f32>(o) / length);
  return 1;
}

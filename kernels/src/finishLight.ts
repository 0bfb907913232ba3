// The light of a part, row by row: what its adjustments add in EV, and the gain that comes of it.
// `mask` is how far each pixel is in the part, 0 to 1, and at address 0 all are in it wholly.

import { exp2x4, log2x4 } from "./math";
import { finite, rollOffGain, whitening } from "./render";
import { luma } from "./tone";

// @ts-ignore: decorator
@inline
function maskAt(mask: usize, o: usize): v128 {
  return mask ? v128.load(mask + o) : f32x4.splat(1);
}

/** Log2 luminance of a row, no lower than that of `lowest`. */
export function logLight(src: usize, plane: usize, n: i32, lowest: f32, dst: usize): void {
  const least = f32x4.splat(max<f32>(1e-18, lowest));
  for (let i = 0; i < n; i += 4) {
    const p = src + ((<usize>i) << 2);
    const light = luma(
      finite(v128.load(p)),
      finite(v128.load(p + plane)),
      finite(v128.load(p + 2 * plane)),
    );
    v128.store(dst + ((<usize>i) << 2), log2x4(f32x4.pmax(least, light)));
  }
}

/** The mask as a line in log luminance, held between 0 and 1, times `amount`. */
export function partMask(
  light: usize,
  slopes: usize,
  offsets: usize,
  n: i32,
  amount: f32,
  dst: usize,
): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const k = f32x4.splat(amount);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const line = f32x4.add(
      f32x4.mul(v128.load(slopes + o), v128.load(light + o)),
      v128.load(offsets + o),
    );
    v128.store(dst + o, f32x4.mul(k, f32x4.pmax(zero, f32x4.pmin(one, line))));
  }
}

/** ev += mask * (slopes * light + offsets). */
export function addLines(
  light: usize,
  slopes: usize,
  offsets: usize,
  mask: usize,
  n: i32,
  ev: usize,
): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const line = f32x4.add(
      f32x4.mul(v128.load(slopes + o), v128.load(light + o)),
      v128.load(offsets + o),
    );
    v128.store(ev + o, f32x4.add(v128.load(ev + o), f32x4.mul(maskAt(mask, o), line)));
  }
}

/** values += mask * factor * plane. */
export function addMasked(plane: usize, mask: usize, n: i32, factor: f32, values: usize): void {
  const k = f32x4.splat(factor);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const more = f32x4.mul(f32x4.mul(k, maskAt(mask, o)), v128.load(plane + o));
    v128.store(values + o, f32x4.add(v128.load(values + o), more));
  }
}

/** ev += mask * (start + i * step). */
export function addRamp(mask: usize, n: i32, start: f32, step: f32, ev: usize): void {
  const lane = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(step));
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const value = f32x4.add(f32x4.splat(start + <f32>i * step), lane);
    v128.store(ev + o, f32x4.add(v128.load(ev + o), f32x4.mul(maskAt(mask, o), value)));
  }
}

/**
 * ev += mask * value * smoothstep of how far out a pixel lies: its distance from the centre, where
 * `x` and `step` go across in units of the radius there, and `y` down, less `inner`, per `width`.
 */
export function addRadial(
  mask: usize,
  n: i32,
  value: f32,
  x: f32,
  step: f32,
  y: f32,
  inner: f32,
  width: f32,
  ev: usize,
): void {
  const lane = f32x4.mul(f32x4(0, 1, 2, 3), f32x4.splat(step));
  const y2 = f32x4.splat(y * y);
  const inv = f32x4.splat(1 / width);
  const from = f32x4.splat(inner);
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const across = f32x4.add(f32x4.splat(x + <f32>i * step), lane);
    const d = f32x4.sqrt(f32x4.add(f32x4.mul(across, across), y2));
    const t = f32x4.pmax(zero, f32x4.pmin(one, f32x4.mul(f32x4.sub(d, from), inv)));
    const smooth = f32x4.mul(
      f32x4.mul(t, t),
      f32x4.sub(f32x4.splat(3), f32x4.mul(f32x4.splat(2), t)),
    );
    const more = f32x4.mul(maskAt(mask, o), f32x4.mul(f32x4.splat(value), smooth));
    v128.store(ev + o, f32x4.add(v128.load(ev + o), more));
  }
}

/** Contrast about a pivot in EV: ev += mask * (factor - 1) * (light + ev - pivot). */
export function steepen(
  light: usize,
  mask: usize,
  n: i32,
  factor: f32,
  pivot: f32,
  ev: usize,
): void {
  const k = f32x4.splat(factor - 1);
  const p = f32x4.splat(pivot);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const now = v128.load(ev + o);
    const from = f32x4.sub(f32x4.add(v128.load(light + o), now), p);
    v128.store(ev + o, f32x4.add(now, f32x4.mul(maskAt(mask, o), f32x4.mul(k, from))));
  }
}

/** values *= 1 + mask * (factor - 1): light of another colour mixes with the rest at its border. */
export function scaleMasked(mask: usize, n: i32, factor: f32, values: usize): void {
  const k = f32x4.splat(factor - 1);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const by = f32x4.add(f32x4.splat(1), f32x4.mul(maskAt(mask, o), k));
    v128.store(values + o, f32x4.mul(v128.load(values + o), by));
  }
}

/**
 * Puts what noise reduction found in the place of a row's light: its luminance by `luminance`, its
 * colour by `chroma`, rows of 0 to 1.
 */
export function mixDenoised(
  row: usize,
  rowPlane: usize,
  clean: usize,
  cleanPlane: usize,
  luminance: usize,
  chroma: usize,
  n: i32,
): void {
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const p = row + o;
    const q = clean + o;
    const r = finite(v128.load(p));
    const g = finite(v128.load(p + rowPlane));
    const b = finite(v128.load(p + 2 * rowPlane));
    const dr = f32x4.sub(v128.load(q), r);
    const dg = f32x4.sub(v128.load(q + cleanPlane), g);
    const db = f32x4.sub(v128.load(q + 2 * cleanPlane), b);
    const dy = luma(dr, dg, db);
    const colour = v128.load(chroma + o);
    const grey = f32x4.mul(f32x4.sub(v128.load(luminance + o), colour), dy);
    v128.store(p, f32x4.add(r, f32x4.add(grey, f32x4.mul(colour, dr))));
    v128.store(p + rowPlane, f32x4.add(g, f32x4.add(grey, f32x4.mul(colour, dg))));
    v128.store(p + 2 * rowPlane, f32x4.add(b, f32x4.add(grey, f32x4.mul(colour, db))));
  }
}

/**
 * Haze over a row: light of the airlight's colour mixed in by the transmission t, or taken out,
 * I = J t + A (1 - t). `depth` is -log2 t where the air is as found, `strength` how much of it is
 * taken off (above 0) or laid on once more (below 0).
 * @see Koschmieder's law, as in He, Sun, Tang, "Single image haze removal using dark channel prior",
 *   TPAMI 2011
 */
export function clearAir(
  row: usize,
  plane: usize,
  depth: usize,
  strength: usize,
  n: i32,
  red: f32,
  green: f32,
  blue: f32,
): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const k = v128.load(strength + o);
    const off = f32x4.pmax(zero, k);
    const on = f32x4.pmax(zero, f32x4.sub(zero, k));
    const d = f32x4.pmax(zero, v128.load(depth + o));
    // air cannot be more than what is seen: no channel is left below nothing
    const share = f32x4.pmin(
      f32x4.mul(v128.load(row + o), f32x4.splat(1 / red)),
      f32x4.pmin(
        f32x4.mul(v128.load(row + plane + o), f32x4.splat(1 / green)),
        f32x4.mul(v128.load(row + 2 * plane + o), f32x4.splat(1 / blue)),
      ),
    );
    const least = f32x4.sub(one, f32x4.mul(f32x4.splat(0.95), f32x4.pmax(zero, share)));
    const seen = f32x4.pmax(least, exp2x4(f32x4.sub(zero, f32x4.mul(d, off))));
    const gain = f32x4.div(one, f32x4.pmax(f32x4.splat(0.05), seen));
    const through = exp2x4(f32x4.mul(f32x4.add(d, f32x4.splat(0.35)), f32x4.sub(zero, on)));
    for (let c = 0; c < 3; c++) {
      const air = f32x4.splat(c == 0 ? red : c == 1 ? green : blue);
      const p = row + <usize>c * plane + o;
      const hazy = f32x4.add(
        f32x4.mul(v128.load(p), through),
        f32x4.mul(air, f32x4.sub(one, through)),
      );
      const clear = f32x4.add(f32x4.mul(f32x4.sub(hazy, air), gain), air);
      v128.store(p, f32x4.pmax(zero, clear));
    }
  }
}

/**
 * Brings a row to its place on the display: white balance, then the gain of `ev`; noise under the
 * floor is weighed as in renderRow, whose `s` this is.
 */
export function applyGain(
  src: usize,
  srcPlane: usize,
  ev: usize,
  n: i32,
  s: usize,
  dst: usize,
  dstPlane: usize,
): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const floor = load<f32>(s, 76);
  const noise = f32x4.splat(max<f32>(1e-36, floor * floor));
  for (let i = 0; i < n; i += 4) {
    const o = (<usize>i) << 2;
    const p = src + o;
    let r = finite(v128.load(p));
    let g = finite(v128.load(p + srcPlane));
    let b = finite(v128.load(p + 2 * srcPlane));
    const light = luma(r, g, b);
    const power = f32x4.mul(light, light);
    const signal = f32x4.div(power, f32x4.add(power, noise));
    const full = exp2x4(v128.load(ev + o));
    const lifted = f32x4.mul(f32x4.pmax(zero, f32x4.sub(full, one)), signal);
    const rest = f32x4.pmin(full, one);
    const gain = f32x4.add(rest, lifted);
    const colour = f32x4.add(rest, f32x4.mul(lifted, signal));
    r = f32x4.mul(r, v128.load32_splat(s));
    g = f32x4.mul(g, v128.load32_splat(s, 4));
    b = f32x4.mul(b, v128.load32_splat(s, 8));
    const grey = f32x4.mul(luma(r, g, b), f32x4.sub(gain, colour));
    const q = dst + o;
    v128.store(q, f32x4.add(grey, f32x4.mul(r, colour)));
    v128.store(q + dstPlane, f32x4.add(grey, f32x4.mul(g, colour)));
    v128.store(q + 2 * dstPlane, f32x4.add(grey, f32x4.mul(b, colour)));
  }
}

/**
 * Rolls a row off to white from `start` on, by its lightest channel, in place: hue and saturation
 * stay up to display white, and fade to white above it.
 */
export function rollOff(row: usize, plane: usize, n: i32, start: f32, white: f32): void {
  if (!(white > start)) return;
  const span: f32 = 1 - start;
  const inv = f32x4.splat(-1.442695 / span);
  const rise = f32x4.splat(<f32>(<f64>span / (1.0 - Math.exp(-(white - start) / span))));
  for (let i = 0; i < n; i += 4) {
    const p = row + ((<usize>i) << 2);
    const r = v128.load(p);
    const g = v128.load(p + plane);
    const b = v128.load(p + 2 * plane);
    const most = f32x4.pmax(r, f32x4.pmax(g, b));
    const by = rollOffGain(most, f32x4.splat(start), inv, rise);
    const pale = whitening(most, white);
    v128.store(p, f32x4.mul(by, f32x4.add(r, f32x4.mul(pale, f32x4.sub(most, r)))));
    v128.store(p + plane, f32x4.mul(by, f32x4.add(g, f32x4.mul(pale, f32x4.sub(most, g)))));
    v128.store(p + 2 * plane, f32x4.mul(by, f32x4.add(b, f32x4.mul(pale, f32x4.sub(most, b)))));
  }
}

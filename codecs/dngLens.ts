import type { FileLens } from "../core/frame/frame";

/**
 * Tags of TIFF 6.0 and of DNG 1.6: further directories of a file, and what is to be done to a
 * picture after its colours are made.
 */
const SUB_DIRECTORIES = 0x014a;
const OPCODES = 0xc74e;
/** Opcodes of DNG 1.6, chapter 7: a warp by radial terms, and a gain that rises outwards. */
const WARP = 1;
const GAIN_OUTWARDS = 3;
/** Directories and opcodes beyond which a file is not believed. */
const MAX_OPCODES = 64;

/**
 * What a DNG file says of the lens, in the terms in which frames are prepared: its radial
 * polynomials are met as nearly as one term can, over the whole frame.
 *
 * @returns undefined where the file says nothing, is no TIFF, or is damaged
 */
export function readDngLens(bytes: Uint8Array): FileLens | undefined {
  try {
    const d = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const little = d.getUint16(0) === 0x4949;
    if ((!little && d.getUint16(0) !== 0x4d4d) || d.getUint16(2, little) !== 42) return undefined;
    const waiting = [d.getUint32(4, little)];
    const lens: FileLens = {};
    for (let k = 0; k < waiting.length && k < MAX_OPCODES; k++) {
      const at = waiting[k]!;
      const n = d.getUint16(at, little);
      for (let i = 0; i < n; i++) {
        const e = at + 2 + i * 12;
        const tag = d.getUint16(e, little);
        const count = d.getUint32(e + 4, little);
        if (tag === SUB_DIRECTORIES)
          for (let s = 0; s < Math.min(count, MAX_OPCODES); s++)
            waiting.push(
              d.getUint32(count === 1 ? e + 8 : d.getUint32(e + 8, little) + 4 * s, little),
            );
        if (tag === OPCODES && count > 4)
          Object.assign(
            lens,
            fromOpcodes(
              new DataView(bytes.buffer, bytes.byteOffset + d.getUint32(e + 8, little), count),
            ),
          );
      }
    }
    return Object.keys(lens).length ? lens : undefined;
  } catch (e) {
    // a place outside the file
    if (e instanceof RangeError) return undefined;
    throw e;
  }
}

/** Opcodes are big-endian in any file. */
function fromOpcodes(d: DataView): FileLens {
  let lens: FileLens = {};
  for (let i = 0, at = 4, n = Math.min(MAX_OPCODES, d.getUint32(0)); i < n; i++) {
    const id = d.getUint32(at);
    const size = d.getUint32(at + 12);
    const from = at + 16;
    const number = (k: number): number => d.getFloat64(from + k);
    if (id === WARP) {
      const planes = Array.from({ length: Math.min(3, d.getUint32(from)) }, (_, p) =>
        [0, 1, 2, 3].map((k) => number(4 + p * 48 + k * 8)),
      );
      const green = planes[1] ?? planes[0]!;
      lens = {
        ...lens,
        distortion: bend(green),
        ...(planes.length === 3
          ? { fringeRed: larger(planes[0]!, green), fringeBlue: larger(planes[2]!, green) }
          : {}),
      };
    }
    if (id === GAIN_OUTWARDS)
      lens = { ...lens, vignetting: falloff([0, 1, 2, 3, 4].map((k) => number(k * 8))) };
    at = from + size;
  }
  return lens;
}

const RADII = Array.from({ length: 64 }, (_, i) => (i + 0.5) / 64);
const warped = (k: readonly number[], r: number): number =>
  r * (k[0]! + k[1]! * r ** 2 + k[2]! * r ** 4 + k[3]! * r ** 6);

/**
 * k of ideal = s r (1 + k r^2) that comes nearest to the warp, which goes from the ideal place to
 * the one in the frame; in least squares over the area.
 */
function bend(warp: readonly number[]): number {
  let aa = 0;
  let ab = 0;
  let bb = 0;
  let ay = 0;
  let by = 0;
  for (const ideal of RADII) {
    const r = warped(warp, ideal);
    const a = r;
    const b = r ** 3;
    const w = ideal;
    aa += w * a * a;
    ab += w * a * b;
    bb += w * b * b;
    ay += w * a * ideal;
    by += w * b * ideal;
  }
  const det = aa * bb - ab * ab;
  const s = (ay * bb - by * ab) / det;
  const sk = (by * aa - ay * ab) / det;
  return within(sk / s, -0.3, 0.3);
}
/** How much larger one colour is drawn than another, in 1/10000. */
function larger(colour: readonly number[], green: readonly number[]): number {
  let sum = 0;
  let weights = 0;
  for (const r of RADII) {
    sum += r * r * (warped(colour, r) / warped(green, r) - 1);
    weights += r * r;
  }
  return within((sum / weights) * 1e4, -30, 30);
}
/** v of light = 1 - v r^2 that a gain of 1 + k0 r^2 + k1 r^4 + ... evens. */
function falloff(k: readonly number[]): number {
  let along = 0;
  let square = 0;
  for (const r of RADII) {
    const gain = 1 + k.reduce((s, c, i) => s + c * r ** (2 * i + 2), 0);
    const x = gain * r * r;
    along += r * (gain - 1) * x;
    square += r * x * x;
  }
  return within(along / square, 0, 0.9);
}
/** As far as frames can be prepared. */
function within(v: number, least: number, most: number): number {
  if (!Number.isFinite(v)) throw new RangeError("no number");
  return Math.round(Math.min(most, Math.max(least, v)) * 1e4) / 1e4;
}

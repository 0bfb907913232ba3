import type { InputColour } from "./icc";

export const LINEAR_CURVES = [0, 1, 2].map(
  () =>
    (v: number): number =>
      v,
);

/**
 * Floats are linear unless their profile has a curve: then through it, finely tabled up to 1 and as
 * it is above.
 */
export function linearFloats(src: Float32Array, colour: InputColour): Float32Array {
  const out = new Float32Array(src.length);
  const N = 65535;
  const curved = colour.curves.map((f) => Math.abs(f(0.5) - 0.5) > 1e-4);
  const table = colour.curves.map((f, c) =>
    curved[c] ? Float32Array.from({ length: N + 2 }, (_, i) => f(Math.min(1, i / N))) : undefined,
  );
  for (let i = 0; i < src.length; i++) {
    const v = src[i]!;
    const t = table[i % 3];
    if (!t || !(v > 0)) out[i] = v;
    else if (v > 1) out[i] = colour.curves[i % 3]!(v);
    else {
      const x = v * N;
      const k = Math.floor(x);
      out[i] = t[k]! + (t[k + 1]! - t[k]!) * (x - k);
    }
  }
  return out;
}

/** Tables of `n` entries for each channel. */
export function tables(colour: InputColour, n: number): Float32Array {
  const out = new Float32Array(n * 3);
  colour.curves.forEach((f, c) => {
    if (c > 0 && f === colour.curves[0]) out.copyWithin(c * n, 0, n);
    else for (let i = 0; i < n; i++) out[c * n + i] = f(i / (n - 1));
  });
  return out;
}

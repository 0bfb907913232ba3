import { random } from "../core/math/random";
import type { RadianceImage } from "./camera";

/**
 * A made-up room for tests: octaves of texture, furniture-like shapes and a bright window with
 * bars; about 12 EV.
 *
 * @param seed  another seed, another room
 */
export function simulatedRoom(width: number, height: number, seed: number): RadianceImage {
  const rnd = random(seed);
  const n = width * height;
  const base = new Float32Array(n);
  for (let o = 2; 2 ** o <= width / 2; o++) {
    const gw = 2 ** o;
    const gh = Math.max(2, Math.ceil((gw * height) / width));
    const amp = 0.72 ** o;
    const noise = Float32Array.from({ length: (gw + 2) * (gh + 2) }, () => rnd() - 0.5);
    for (let y = 0; y < height; y++) {
      const gy = (y / height) * gh;
      const iy = Math.floor(gy);
      const ty = smooth(gy - iy);
      for (let x = 0; x < width; x++) {
        const gx = (x / width) * gw;
        const ix = Math.floor(gx);
        const tx = smooth(gx - ix);
        const k = iy * (gw + 2) + ix;
        const a = noise[k]! + (noise[k + 1]! - noise[k]!) * tx;
        const b = noise[k + gw + 2]! + (noise[k + gw + 3]! - noise[k + gw + 2]!) * tx;
        base[y * width + x]! += (a + (b - a) * ty) * amp;
      }
    }
  }
  const planes = [0, 1, 2].map(() => base.map((v) => 0.06 * 2 ** (v * 4))) as unknown as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const paint = (
    x0: number,
    y0: number,
    x1: number,
    y1: number,
    round: boolean,
    rgb: readonly number[],
    mul: boolean,
  ): void => {
    for (let y = Math.max(0, Math.floor(y0)); y < Math.min(height, y1); y++)
      for (let x = Math.max(0, Math.floor(x0)); x < Math.min(width, x1); x++) {
        if (
          round &&
          Math.hypot((x - (x0 + x1) / 2) / (x1 - x0), (y - (y0 + y1) / 2) / (y1 - y0)) > 0.5
        )
          continue;
        for (let c = 0; c < 3; c++) {
          const p = planes[c as 0 | 1 | 2];
          p[y * width + x] = mul
            ? p[y * width + x]! * rgb[c]!
            : rgb[c]! * (1 + base[y * width + x]!);
        }
      }
  };
  for (let i = 0; i < 90; i++) {
    const x = rnd() * width;
    const y = rnd() * height;
    const s = width * (0.008 + rnd() * 0.07);
    const k = 0.25 + rnd() * 2;
    paint(
      x,
      y,
      x + s,
      y + s * (0.5 + rnd()),
      rnd() < 0.5,
      [k * (0.6 + rnd() * 0.8), k, k * (0.6 + rnd() * 0.8)],
      true,
    );
  }
  const wx = width * 0.55;
  const wy = height * 0.2;
  const ww = width * 0.22;
  const wh = height * 0.3;
  paint(wx, wy, wx + ww, wy + wh, false, [9, 10, 12], false);
  for (let i = 1; i < 4; i++)
    paint(
      wx + (ww * i) / 4,
      wy,
      wx + (ww * i) / 4 + Math.max(2, width * 0.003),
      wy + wh,
      false,
      [0.05, 0.05, 0.045],
      false,
    );
  paint(
    width * 0.05,
    height * 0.7,
    width * 0.3,
    height * 0.95,
    false,
    [0.004, 0.0035, 0.003],
    false,
  );
  return { width, height, planes };
}

const smooth = (t: number): number => t * t * (3 - 2 * t);

import { encode, SPACES } from "../core/colour/spaces";
import { project, type Matrix3 } from "../core/math/matrix3";
import { normal, random } from "../core/math/random";
import { clamp } from "../core/math/clamp";

/** A scene as the camera sees it: planar linear RGB radiance. */
export interface RadianceImage {
  width: number;
  height: number;
  planes: readonly [Float32Array, Float32Array, Float32Array];
}

export interface Shot {
  width: number;
  height: number;
  /** stops against radiance 1 = saturation */
  ev: number;
  /** frame px to scene px: pose, hand shake, zoom */
  toScene: Matrix3;
  seed: number;
  /** electrons at saturation; read noise in units of saturation */
  gain?: number;
  read?: number;
  /** falling off to 1 - vignetting in the corners (cos^4-like) */
  vignetting?: number;
  /** radial distortion: r' = r (1 + k1 r^2), r = 1 at half the diagonal */
  distortion?: number;
  /** from linear 0..1 to encoded 0..1; sRGB unless given */
  response?: (linear: number) => number;
  /** bits of a sample */
  depth?: 8 | 16;
  /** changes the scene at this moment: called with scene coordinates and radiance */
  moving?: (x: number, y: number, rgb: [number, number, number]) => void;
}

/** The response that most cameras' JPEGs roughly follow. */
export const srgbResponse = (v: number): number => encode(SPACES.srgb.curve, v);

/**
 * Takes a frame of a radiance image: optics, exposure, photon and read noise, saturation, response,
 * quantisation. Same shot, same frame: all chance comes from the seed.
 *
 * @returns RGB interleaved, width x height
 */
export function takeFrame(scene: RadianceImage, shot: Shot): Uint8Array | Uint16Array {
  const { width: w, height: h } = shot;
  const gain = shot.gain ?? 20000;
  const read = shot.read ?? 8e-4;
  const response = shot.response ?? srgbResponse;
  const top = shot.depth === 16 ? 65535 : 255;
  const out = shot.depth === 16 ? new Uint16Array(w * h * 3) : new Uint8Array(w * h * 3);
  const gauss = normal(random(shot.seed));
  const time = 2 ** shot.ev;
  const half = Math.hypot(w, h) / 2;
  // the response through a fine table, in the square root of light so that the darks keep their
  // steps
  const table = Float32Array.from({ length: 16385 }, (_, i) => response((i / 16384) ** 2));
  const rgb: [number, number, number] = [0, 0, 0];
  for (let y = 0, o = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let u = x + 0.5;
      let v = y + 0.5;
      const rx = (u - w / 2) / half;
      const ry = (v - h / 2) / half;
      const r2 = rx * rx + ry * ry;
      if (shot.distortion) {
        const k = 1 + shot.distortion * r2;
        u = w / 2 + rx * k * half;
        v = h / 2 + ry * k * half;
      }
      const [sx, sy] = project(shot.toScene, u, v);
      sampleCubic(scene, sx, sy, rgb);
      shot.moving?.(sx, sy, rgb);
      const fall = shot.vignetting ? 1 - shot.vignetting * r2 : 1;
      for (let c = 0; c < 3; c++) {
        const light = Math.max(0, rgb[c]!) * time * fall;
        const noisy = light + gauss() * Math.sqrt(light / gain + read * read);
        const enc = table[Math.round(Math.sqrt(clamp(noisy, 0, 1)) * 16384)]!;
        out[o++] = Math.round(enc * top);
      }
    }
  return out;
}

/** Part by which a cubic may go beyond what lies round a place. */
const OVERSHOOT = 0.5;
/** Weights and places of the samples round a place; made once, since millions of places are asked. */
const acrossWeights = new Float64Array(4);
const downWeights = new Float64Array(4);
const columns = new Int32Array(4);
const rows = new Int32Array(4);

/**
 * Cubic, but hardly beyond what lies round the place: no lens makes a dark edge beside a window
 * black.
 */
function sampleCubic(s: RadianceImage, x: number, y: number, out: [number, number, number]): void {
  const fx = x - 0.5;
  const fy = y - 0.5;
  const ix = Math.floor(fx);
  const iy = Math.floor(fy);
  setWeights(acrossWeights, fx - ix);
  setWeights(downWeights, fy - iy);
  for (let i = 0; i < 4; i++) {
    columns[i] = Math.max(0, Math.min(s.width - 1, ix + i - 1));
    rows[i] = Math.max(0, Math.min(s.height - 1, iy + i - 1)) * s.width;
  }
  for (let c = 0; c < 3; c++) {
    const p = s.planes[c]!;
    const a = p[rows[1]! + columns[1]!]!;
    const b = p[rows[1]! + columns[2]!]!;
    const d = p[rows[2]! + columns[1]!]!;
    const e = p[rows[2]! + columns[2]!]!;
    let sum = 0;
    for (let j = 0; j < 4; j++) {
      const row = rows[j]!;
      const down = downWeights[j]!;
      for (let i = 0; i < 4; i++) sum += p[row + columns[i]!]! * acrossWeights[i]! * down;
    }
    const least = Math.min(a, b, d, e) * (1 - OVERSHOOT);
    const most = Math.max(a, b, d, e) * (1 + OVERSHOOT);
    out[c] = Math.min(most, Math.max(least, sum));
  }
}

/** The cubic's weights for a place between the second and the third of four samples. */
function setWeights(weights: Float64Array, t: number): void {
  const t2 = t * t;
  const t3 = t2 * t;
  weights[0] = -0.5 * t3 + t2 - 0.5 * t;
  weights[1] = 1.5 * t3 - 2.5 * t2 + 1;
  weights[2] = -1.5 * t3 + 2 * t2 + 0.5 * t;
  weights[3] = 0.5 * t3 - 0.5 * t2;
}

/** A pose about the picture's centre: roll in degrees, shift in px, growth as a share. */
export function pose(
  w: number,
  h: number,
  rollDeg: number,
  dx: number,
  dy: number,
  growth = 0,
): number[] {
  const c = Math.cos((rollDeg * Math.PI) / 180) * (1 + growth);
  const s = Math.sin((rollDeg * Math.PI) / 180) * (1 + growth);
  return [
    c,
    -s,
    w / 2 - c * (w / 2) + s * (h / 2) + dx,
    s,
    c,
    h / 2 - s * (w / 2) - c * (h / 2) + dy,
    0,
    0,
    1,
  ];
}

import { encode, SPACES } from "../colour/spaces";
import { project } from "../raster/matrix3";
import { pose, type RadianceImage } from "./camera";
import { normal, random } from "./random";

export interface FocusRun { frames: { samples: Uint8Array; focus: number; /** where it lies: its px to the middle frame's */ pose: number[] }[]; width: number; height: number; /** the scene with everything sharp, as the middle frame lies, RGB bytes in sRGB */ sharp: Uint8Array; depth: Float32Array }
interface Options { width: number; height: number; count: number; /** blur radius in px for a step over the whole depth */ blur: number; /** growth from end to end */ breathing?: number; /** px and degrees */ shift?: number; roll?: number; flicker?: number; /** EV by which the last frame falls off more at its corners than the first */ falloff?: number; seed: number; noise?: number }

const LAYERS = 24;

/**
 * A focus run through a scene of layers: a slope of texture from near (bottom) to far (top), and bristles that stand
 * before it, as much of a pixel dark as they cover. Each layer is blurred by how far it is out of focus, with its own outline, and laid over those behind it,
 * so the blur of the foreground spreads over the background as through a real lens.
 */
export function simulateFocusRun(world: RadianceImage, o: Options): FocusRun {
  const { width: w, height: h, count } = o, n = w * h, rnd = random(o.seed), depth = new Float32Array(n), bristle = new Float32Array(n);
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) depth[y * w + x] = 1 - y / (h - 1);
  for (let b = 0; b < 14; b++) {
    // each stands at its own depth, nearer than what lies behind it
    const x0 = rnd() * w, top = h * (0.1 + 0.3 * rnd()), bottom = h * (0.55 + 0.4 * rnd()), at = Math.max(0, 1 - bottom / h - 0.02), lean = (rnd() - 0.5) * 0.35;
    for (let y = Math.floor(top); y < bottom; y++) { const half = 1 + ((y - top) / (bottom - top)) * 2.2, mid = x0 + (bottom - y) * lean; for (let x = Math.floor(mid - half); x <= mid + half + 1; x++) { const covers = Math.min(1, half + 0.5 - Math.abs(x - mid)); if (x >= 0 && x < w && covers > 0) { depth[y * w + x] = at; bristle[y * w + x] = Math.max(bristle[y * w + x]!, covers); } } }
  }
  const behind = (x: number, y: number, c: 0 | 1 | 2): number => Math.min(0.9, 0.12 + world.planes[c][(y % world.height) * world.width + (x % world.width)]! * 1.5), dark = (c: number): number => 0.02 + 0.03 * c, colour = (x: number, y: number, c: 0 | 1 | 2): number => behind(x, y, c) + (dark(c) - behind(x, y, c)) * bristle[y * w + x]!;
  const all = [0, 1, 2].map((c) => Float32Array.from({ length: n }, (_, i) => colour(i % w, Math.floor(i / w), c as 0 | 1 | 2)));
  const hairs = [0, 1, 2].map((c) => new Float32Array(n).fill(dark(c)));
  const slope = Float32Array.from({ length: n }, (_, i) => 1 - Math.floor(i / w) / (h - 1)), slopeColour = [0, 1, 2].map((c) => Float32Array.from({ length: n }, (_, i) => behind(i % w, Math.floor(i / w), c as 0 | 1 | 2)));
  const lay = (out: Float32Array[], mask: Float32Array, colours: Float32Array[], radius: number): void => {
    const alpha = disc(mask, w, h, radius);
    for (let c = 0; c < 3; c++) { const lit = disc(colours[c]!.map((v, i) => v * mask[i]!), w, h, radius), to = out[c]!; for (let i = 0; i < n; i++) to[i] = lit[i]! + to[i]! * (1 - Math.min(1, alpha[i]!)); }
  };
  const byte = (v: number): number => Math.round(255 * encode(SPACES.srgb.curve, Math.min(1, Math.max(0, v))));
  const frames = Array.from({ length: count }, (_, k) => {
    const focus = k / (count - 1), out = [0, 1, 2].map(() => new Float32Array(n)), gauss = normal(random(o.seed * 100 + k));
    for (let l = LAYERS - 1; l >= 0; l--) {
      const lo = l / LAYERS, hi = l === LAYERS - 1 ? 2 : (l + 1) / LAYERS, radius = Math.abs((lo + Math.min(1, hi)) / 2 - focus) * o.blur;
      // the slope goes on under all that stands before it, so that no hole shows beside a blurred edge; then what stands at this depth
      lay(out, slope.map((d) => (d < hi ? 1 : 0)), slopeColour, radius);
      const standing = depth.map((d, i) => (d >= lo && d < hi ? bristle[i]! : 0));
      if (standing.some((v) => v > 0)) lay(out, standing, hairs, radius);
    }
    const middle = k === count >> 1, m = middle ? pose(w, h, 0, 0, 0) : pose(w, h, (rnd() * 2 - 1) * (o.roll ?? 0), (rnd() * 2 - 1) * (o.shift ?? 0), (rnd() * 2 - 1) * (o.shift ?? 0), (o.breathing ?? 0) * (focus - (count >> 1) / (count - 1)));
    const gain = 2 ** ((o.flicker ?? 0) * (rnd() - 0.5)), samples = new Uint8Array(n * 3);
    const falls = (o.falloff ?? 0) * (focus - (count >> 1) / (count - 1));
    for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) {
      const edge = falls ? 2 ** ((-falls * ((x + 0.5 - w / 2) ** 2 + (y + 0.5 - h / 2) ** 2)) / ((w ** 2 + h ** 2) / 4)) : 1;
      const [u, v] = project(m, x + 0.5, y + 0.5), fx = Math.min(w - 1.001, Math.max(0, u - 0.5)), fy = Math.min(h - 1.001, Math.max(0, v - 0.5)), ix = Math.floor(fx), iy = Math.floor(fy), a = fx - ix, b = fy - iy, i = iy * w + ix;
      for (let c = 0; c < 3; c++) { const p = out[c]!, value = ((p[i]! * (1 - a) + p[i + 1]! * a) * (1 - b) + (p[i + w]! * (1 - a) + p[i + w + 1]! * a) * b) * gain * edge; samples[(y * w + x) * 3 + c] = byte(value + gauss() * Math.sqrt(Math.max(0, value) / (o.noise ?? 20000) + 1e-6)); }
    }
    return { samples, focus, pose: m };
  });
  const sharp = new Uint8Array(n * 3);
  for (let i = 0; i < n; i++) for (let c = 0; c < 3; c++) sharp[i * 3 + c] = byte(all[c]![i]!);
  return { frames, width: w, height: h, sharp, depth };
}

/** Mean over a disc, near enough by three boxes. */
function disc(p: Float32Array, w: number, h: number, radius: number): Float32Array {
  const r = Math.round(radius * 0.62);
  if (r < 1) return p;
  let out = p;
  for (let k = 0; k < 2; k++) for (const [length, step, lines, stride] of [[w, 1, h, w], [h, w, w, 1]] as const) {
    const next = new Float32Array(p.length);
    const line = new Float32Array(length + 2 * r + 1);
    for (let l = 0; l < lines; l++) {
      const from = l * stride;
      for (let i = 0; i < length; i++) line[r + i] = out[from + i * step]!;
      line.fill(line[r]!, 0, r);
      line.fill(line[r + length - 1]!, r + length);
      let sum = 0;
      for (let i = 0; i <= 2 * r; i++) sum += line[i]!;
      for (let i = 0; i < length; i++) { next[from + i * step] = sum / (2 * r + 1); sum += line[i + 2 * r + 1]! - line[i]!; }
    }
    out = next;
  }
  return out;
}

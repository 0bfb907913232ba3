import { encode, SPACES } from "../colour/spaces";
import { project } from "../raster/matrix3";
import { pose, sampleCubic, type RadianceImage } from "./camera";
import { focusScene } from "./focusScene";
import { normal, random } from "./random";

export interface FocusRun { frames: { samples: Uint8Array; focus: number; /** where it lies: its px to the middle frame's */ pose: number[] }[]; width: number; height: number; /** the scene with everything sharp, as the middle frame lies, RGB bytes in sRGB */ sharp: Uint8Array; depth: Float32Array; /** at each frame's focus the green light of what is behind the bristles, as if there were none; lies as the middle frame does */ ground(): Float32Array[] }
interface Options { width: number; height: number; count: number; /** blur radius in px for a step over the whole depth */ blur: number; /** growth from end to end */ breathing?: number; /** px and degrees */ shift?: number; roll?: number; flicker?: number; /** EV by which the last frame falls off more at its corners than the first */ falloff?: number; seed: number; noise?: number }

/** A focus run through a scene from its nearest to its farthest, taken from a tripod or by hand. */
export function simulateFocusRun(world: RadianceImage, o: Options): FocusRun {
  const { width: w, height: h, count } = o, n = w * h, rnd = random(o.seed), { depth, sharp: lit, seenAt } = focusScene(world, { ...o, rnd });
  const byte = (v: number): number => Math.round(255 * encode(SPACES.srgb.curve, Math.min(1, Math.max(0, v))));
  const frames = Array.from({ length: count }, (_, k) => {
    const focus = k / (count - 1), seen: RadianceImage = { width: w, height: h, planes: [seenAt(focus, 0, true), seenAt(focus, 1, true), seenAt(focus, 2, true)] }, rgb: [number, number, number] = [0, 0, 0], gauss = normal(random(o.seed * 100 + k));
    const middle = k === count >> 1, m = middle ? pose(w, h, 0, 0, 0) : pose(w, h, (rnd() * 2 - 1) * (o.roll ?? 0), (rnd() * 2 - 1) * (o.shift ?? 0), (rnd() * 2 - 1) * (o.shift ?? 0), (o.breathing ?? 0) * (focus - (count >> 1) / (count - 1)));
    const gain = 2 ** ((o.flicker ?? 0) * (rnd() - 0.5)), samples = new Uint8Array(n * 3);
    const falls = (o.falloff ?? 0) * (focus - (count >> 1) / (count - 1));
    for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) {
      const edge = falls ? 2 ** ((-falls * ((x + 0.5 - w / 2) ** 2 + (y + 0.5 - h / 2) ** 2)) / ((w ** 2 + h ** 2) / 4)) : 1;
      sampleCubic(seen, ...project(m, x + 0.5, y + 0.5), rgb);
      for (let c = 0; c < 3; c++) { const light = Math.max(0, rgb[c]!) * gain * edge; samples[(y * w + x) * 3 + c] = byte(light + gauss() * Math.sqrt(light / (o.noise ?? 20000) + 1e-6)); }
    }
    return { samples, focus, pose: m };
  });
  const sharp = new Uint8Array(n * 3);
  for (let i = 0; i < n; i++) for (let c = 0; c < 3; c++) sharp[i * 3 + c] = byte(lit[c]![i]!);
  return { frames, width: w, height: h, sharp, depth, ground: () => frames.map(({ focus }) => seenAt(focus, 1, false)) };
}

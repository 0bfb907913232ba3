import { pose, srgbResponse, takeFrame, type RadianceImage } from "./camera";
import { focusScene } from "./focusScene";
import { random } from "../core/math/random";
import { clamp } from "../core/math/clamp";

export interface FocusRun {
  frames: {
    samples: Uint8Array;
    focus: number;
    /** where it lies: its px to the middle frame's */
    pose: number[];
  }[];
  width: number;
  height: number;
  /** the scene with everything sharp, as the middle frame lies, RGB bytes in sRGB */
  sharp: Uint8Array;
  depth: Float32Array;
  /**
   * at each frame's focus the green light of what is behind the bristles, as if there were none;
   * lies as the middle frame does
   */
  ground(): Float32Array[];
}
interface Options {
  width: number;
  height: number;
  count: number;
  /** blur radius in px for a step over the whole depth */
  blur: number;
  /** growth from end to end */
  breathing?: number;
  /** px and degrees */
  shift?: number;
  roll?: number;
  flicker?: number;
  /** EV by which the last frame falls off more at its corners than the first */
  falloff?: number;
  seed: number;
  /** electrons at saturation */
  noise?: number;
}

/** A focus run through a scene from its nearest to its farthest, taken from a tripod or hand-held. */
export function simulateFocusRun(world: RadianceImage, o: Options): FocusRun {
  const { width: w, height: h, count } = o;
  const n = w * h;
  const rnd = random(o.seed);
  const { depth, sharp: lit, seenAt } = focusScene(world, { ...o, rnd });
  const frames = Array.from({ length: count }, (_, k) => {
    const focus = k / (count - 1);
    const fromMiddle = focus - (count >> 1) / (count - 1);
    const hand = (most = 0): number => (rnd() * 2 - 1) * most;
    const lies =
      k === count >> 1
        ? pose(w, h, 0, 0, 0)
        : pose(w, h, hand(o.roll), hand(o.shift), hand(o.shift), (o.breathing ?? 0) * fromMiddle);
    const ev = (o.flicker ?? 0) * (rnd() - 0.5);
    const samples = takeFrame(
      {
        width: w,
        height: h,
        planes: [seenAt(focus, 0, true), seenAt(focus, 1, true), seenAt(focus, 2, true)],
      },
      {
        width: w,
        height: h,
        ev,
        toScene: lies,
        seed: o.seed * 100 + k,
        gain: o.noise ?? 20000,
        read: 1e-3,
        vignetting: 1 - 2 ** (-(o.falloff ?? 0) * fromMiddle),
      },
    ) as Uint8Array;
    return { samples, focus, pose: lies };
  });
  const sharp = new Uint8Array(n * 3);
  for (let i = 0; i < n; i++)
    for (let c = 0; c < 3; c++)
      sharp[i * 3 + c] = Math.round(255 * srgbResponse(clamp(lit[c]![i]!, 0, 1)));
  return {
    frames,
    width: w,
    height: h,
    sharp,
    depth,
    ground: () => frames.map(({ focus }) => seenAt(focus, 1, false)),
  };
}

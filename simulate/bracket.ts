import type { FrameInfo } from "../core/frame/frame";
import { pose, srgbResponse, takeFrame, type RadianceImage, type Shot } from "./camera";
import { random } from "../core/math/random";

export interface SimulatedBracket {
  frames: {
    samples: Uint8Array | Uint16Array;
    width: number;
    height: number;
    ev: number;
    toScene: number[];
    info: FrameInfo;
  }[];
}

/**
 * A bracket of a scene: frames of w x h cut from its middle, the reference frame unmoved.
 *
 * @param hand  how far the hand goes: share of 40 px shift, 1.5 degrees of roll and 0.5 % of growth
 *   (0 = tripod)
 */
export function simulateBracket(
  scene: RadianceImage,
  options: {
    width: number;
    height: number;
    evs: readonly number[];
    baseEv: number;
    hand: number;
    seed: number;
    reference: number;
    shot?: Partial<Shot>;
  },
): SimulatedBracket {
  const { width: w, height: h, evs, hand, seed, reference } = options;
  const rnd = random(seed);
  const shake = (reach: number): number => (rnd() * 2 - 1) * reach * hand;
  const cx = (scene.width - w) / 2;
  const cy = (scene.height - h) / 2;
  return {
    frames: evs.map((ev, i) => {
      const p =
        i === reference
          ? pose(w, h, 0, 0, 0)
          : pose(w, h, shake(1.5), shake(40), shake(40), shake(0.005));
      const toScene = p.map((v, k) => {
        if (k === 2) return v + cx;
        if (k === 5) return v + cy;
        return v;
      });
      const samples = takeFrame(scene, {
        width: w,
        height: h,
        ev: options.baseEv + ev,
        toScene,
        seed: seed * 100 + i,
        response: srgbResponse,
        ...options.shot,
      });
      const info: FrameInfo = {
        name: `f${i}.png`,
        format: "png",
        width: w,
        height: h,
        depth: samples instanceof Uint16Array ? 16 : 8,
        profile: "sRGB",
        exif: { exposureTime: 2 ** ev / 60, aperture: 8, iso: 100 },
      };
      return { samples, width: w, height: h, ev, toScene, info };
    }),
  };
}

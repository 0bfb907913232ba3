import { encode, SPACES } from "../core/colour/spaces";
import { shownBy, type Camera } from "../core/panorama/camera";
import { type Vector } from "../core/math/vector";
import type { RadianceImage } from "./camera";
import { normal, random } from "../core/math/random";
import { lookingAt, type SweepFrame } from "./sweep";
import { clamp } from "../core/math/clamp";

export interface AlongOptions {
  /**
   * where each camera stands, in distances from the wall: right and down of its middle, and how
   * much nearer than one
   */
  places: readonly Vector[];
  width: number;
  height: number;
  focalPx: number;
  distortion?: [number, number, number];
  /**
   * degrees by which the hand leans to all sides; EV by which the exposure drifts from end to end
   */
  lean?: number;
  drift?: number;
  seed: number;
}

/**
 * Frames of a picture on a wall, `perDistance` of its px in one distance, by somebody who walks
 * along it.
 */
export function simulateAlong(
  wall: RadianceImage,
  perDistance: number,
  o: AlongOptions,
): SweepFrame[] {
  const rnd = random(o.seed);
  const lean = (): number => (rnd() * 2 - 1) * (o.lean ?? 0);
  const { width: w, height: h, planes } = wall;
  const n = o.places.length;
  return o.places.map((by, i) => {
    const camera: Camera = {
      rotation: lookingAt(lean(), lean(), lean()),
      focalPx: o.focalPx,
      distortion: o.distortion ?? [0, 0, 0],
      width: o.width,
      height: o.height,
      offset: { by, normal: [0, 0, 1], reach: 0.05 },
    };
    const ev = (o.drift ?? 0) * (n > 1 ? i / (n - 1) - 0.5 : 0);
    const noise = normal(random(o.seed * 1000 + i));
    const samples = new Uint8Array(o.width * o.height * 3);
    for (let y = 0, k = 0; y < o.height; y++)
      for (let x = 0; x < o.width; x++) {
        const d = shownBy(camera, x + 0.5, y + 0.5);
        const u = clamp((d[0] / d[2]) * perDistance + w / 2 - 0.5, 0, w - 1.001);
        const v = clamp((d[1] / d[2]) * perDistance + h / 2 - 0.5, 0, h - 1.001);
        const at = Math.floor(v) * w + Math.floor(u);
        const fx = u - Math.floor(u);
        const fy = v - Math.floor(v);
        for (let c = 0; c < 3; c++, k++) {
          const p = planes[c]!;
          const light = Math.max(
            0,
            2 ** ev *
              ((p[at]! * (1 - fx) + p[at + 1]! * fx) * (1 - fy) +
                (p[at + w]! * (1 - fx) + p[at + w + 1]! * fx) * fy),
          );
          samples[k] = Math.round(
            255 *
              encode(
                SPACES.srgb.curve,
                Math.min(1, light + noise() * Math.sqrt(light / 20000 + 6e-7)),
              ),
          );
        }
      }
    return { samples, width: o.width, height: o.height, camera, ev };
  });
}

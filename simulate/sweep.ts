import { encode, SPACES } from "../core/colour/spaces";
import { centreOf, rayOf, type Camera, type LensKind } from "../core/panorama/camera";
import { drawnBy } from "../core/panorama/layout/geometry";
import { multiply, apply } from "../core/math/matrix3";
import type { RadianceImage } from "./camera";
import { addGhosts, type LensGhost } from "./lensGhosts";
import { normal, random } from "../core/math/random";
import { clamp } from "../core/math/clamp";

export interface SweepFrame {
  samples: Uint8Array;
  width: number;
  height: number;
  camera: Camera;
  /** EV of its own drift */
  ev: number;
}
export interface SweepOptions {
  /** yaw and pitch of each frame, degrees; right and up are positive */
  directions: readonly (readonly [number, number])[];
  width: number;
  height: number;
  focalPx: number;
  distortion?: [number, number, number];
  lens?: LensKind;
  /** radius of its image circle, px: outside it is dark */
  circle?: number;
  /** where its axis meets the frame, px; in the middle if not said */
  centre?: readonly [number, number];
  /** EV at which all are taken against radiance 1 = saturation */
  ev?: number;
  /** electrons at saturation */
  gain?: number;
  /** degrees by which the hand rolls and misses; EV by which the exposure drifts from end to end */
  roll?: number;
  drift?: number;
  vignetting?: number;
  /** of the lens */
  ghosts?: readonly LensGhost[];
  seed: number;
  /**
   * where each camera stands, if not with the others, in heights above the floor: it sees the
   * world's lower half as a floor, and nothing above
   */
  standing?: readonly (readonly [number, number, number] | undefined)[];
}

const RAD = Math.PI / 180;
/**
 * The rotation of a camera that looks so many degrees right and up, rolled clockwise; camera to
 * world, row-major.
 */
export const lookingAt = (yaw: number, pitch: number, roll: number): number[] => {
  const [cy, sy, cp, sp, cr, sr] = [
    Math.cos(yaw * RAD),
    Math.sin(yaw * RAD),
    Math.cos(pitch * RAD),
    Math.sin(pitch * RAD),
    Math.cos(roll * RAD),
    Math.sin(roll * RAD),
  ];
  return multiply(multiply([cy, 0, sy, 0, 1, 0, -sy, 0, cy], [1, 0, 0, 0, cp, -sp, 0, sp, cp]), [
    cr,
    -sr,
    0,
    sr,
    cr,
    0,
    0,
    0,
    1,
  ]);
};

/** An image that wraps the camera, whole, or a piece of so many degrees. */
export type World = RadianceImage & {
  piece?: {
    across: number;
    down: number;
    /** degrees by which its middle lies beside and above what is straight ahead */
    right?: number;
    up?: number;
  };
};

/**
 * The world's colour in a direction: the image wraps the camera, longitude along x, latitude along
 * y (downwards).
 */
export function worldColour(
  world: World,
  [X, Y, Z]: readonly number[],
  out: [number, number, number],
): void {
  const { width: w, height: h } = world;
  const { across, down, right = 0, up = 0 } = world.piece ?? { across: 360, down: 180 };
  const u = ((Math.atan2(X!, Z!) / RAD - right) / across + 0.5) * w - 0.5;
  const v = ((Math.atan2(Y!, Math.hypot(X!, Z!)) / RAD + up) / down + 0.5) * h - 0.5;
  const x = Math.floor(u);
  const y = clamp(Math.floor(v), 0, h - 2);
  const fx = u - x;
  const fy = clamp(v - y, 0, 1);
  const x0 = ((x % w) + w) % w;
  const x1 = (x0 + 1) % w;
  for (const c of [0, 1, 2] as const) {
    const p = world.planes[c];
    const a = p[y * w + x0]! * (1 - fx) + p[y * w + x1]! * fx;
    const b = p[(y + 1) * w + x0]! * (1 - fx) + p[(y + 1) * w + x1]! * fx;
    out[c] = a + (b - a) * fy;
  }
}

/**
 * The direction in which the others see what a camera that stands elsewhere sees of the floor,
 * which lies one height below them.
 */
function fromThere(
  ray: readonly number[],
  place: readonly [number, number, number] | undefined,
): readonly number[] {
  if (!place || ray[1]! < 1e-3) return ray;
  const far = (1 - place[1]) / ray[1]!;
  return place.map((p, k) => p + far * ray[k]!);
}

/**
 * Frames of a world that wraps the camera, as a turning hand takes them: roll, missed directions,
 * drift, vignetting, lens, noise.
 */
export function simulateSweep(world: World, o: SweepOptions): SweepFrame[] {
  const rnd = random(o.seed);
  const shake = (): number => (rnd() * 2 - 1) * (o.roll ?? 0);
  const n = o.directions.length;
  return o.directions.map(([yaw, pitch], i) => {
    const camera: Camera = {
      rotation: lookingAt(yaw + shake(), pitch + shake(), shake()),
      focalPx: o.focalPx,
      distortion: o.distortion ?? [0, 0, 0],
      width: o.width,
      height: o.height,
      ...drawnBy(o),
    };
    const ev = (o.ev ?? 0) + (o.drift ?? 0) * (n > 1 ? i / (n - 1) - 0.5 : 0);
    const n2 = o.width * o.height;
    const planes = [0, 1, 2].map(() => new Float32Array(n2));
    const rgb: [number, number, number] = [0, 0, 0];
    const half = Math.hypot(o.width, o.height) / 2;
    const [cx, cy] = centreOf(camera);
    for (let y = 0, k = 0; y < o.height; y++)
      for (let x = 0; x < o.width; x++, k++) {
        worldColour(
          world,
          fromThere(apply(camera.rotation, rayOf(camera, x + 0.5, y + 0.5)), o.standing?.[i]),
          rgb,
        );
        const r2 = ((x + 0.5 - cx) ** 2 + (y + 0.5 - cy) ** 2) / half ** 2;
        const gain =
          o.circle !== undefined && Math.hypot(x + 0.5 - cx, y + 0.5 - cy) > o.circle
            ? 0
            : 2 ** ev * (1 - (o.vignetting ?? 0) * r2);
        for (let c = 0; c < 3; c++) planes[c]![k] = Math.max(0, rgb[c]! * gain);
      }
    if (o.ghosts) addGhosts(planes, o.width, o.height, [cx, cy], o.ghosts);
    const gauss = normal(random(o.seed * 1000 + i));
    const samples = new Uint8Array(n2 * 3);
    for (let k = 0; k < samples.length; k++) {
      const light = planes[k % 3]![Math.floor(k / 3)]!;
      samples[k] = Math.round(
        255 *
          encode(
            SPACES.srgb.curve,
            clamp(light + gauss() * Math.sqrt(light / (o.gain ?? 20000) + 6e-7), 0, 1),
          ),
      );
    }
    return { samples, width: o.width, height: o.height, camera, ev };
  });
}

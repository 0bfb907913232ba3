import type { RadianceImage } from "./camera";
import { defocus } from "./defocus";
import { clamp } from "../core/math/clamp";

type Channel = 0 | 1 | 2;
/**
 * What stands before the camera: its depth, 0 near and 1 far; its light with everything sharp, RGB
 * planes; and a channel of it as a lens focused at a depth shows it, with the bristles or the
 * ground alone.
 */
export interface FocusScene {
  depth: Float32Array;
  sharp: Float32Array[];
  seenAt(focus: number, channel: Channel, bristles: boolean): Float32Array;
}
/** One bristle: its depth, and how much it covers of each px of a box of the picture. */
interface Bristle {
  at: number;
  x0: number;
  y0: number;
  w: number;
  h: number;
  covers: Float32Array;
}

const BRISTLES = 14;
const dark = (c: Channel): number => 0.02 + 0.03 * c;

/**
 * A slope of texture from near (bottom) to far (top), and bristles that stand before it, as much of
 * a pixel dark as they cover. The slope hides nothing of itself, so each of its points is spread by
 * how far it is out of focus; each bristle is blurred with its own outline and composited over what is
 * behind it, so the blur of the foreground spreads over the background as through a real lens.
 *
 * @param blur  radius in px for a step over the whole depth
 */
export function focusScene(
  world: RadianceImage,
  {
    width: w,
    height: h,
    blur,
    rnd,
  }: { width: number; height: number; blur: number; rnd: () => number },
): FocusScene {
  const slopeAt = (y: number): number => 1 - y / (h - 1);
  const depth = Float32Array.from({ length: w * h }, (_, i) => slopeAt(Math.floor(i / w)));
  const slope = ([0, 1, 2] as const).map((c) =>
    Float32Array.from({ length: w * h }, (_, i) =>
      Math.min(
        0.9,
        0.12 +
          world.planes[c][
            (Math.floor(i / w) % world.height) * world.width + ((i % w) % world.width)
          ]! *
            1.5,
      ),
    ),
  );
  const bristles = Array.from({ length: BRISTLES }, () => standing(w, h, blur, rnd)).sort(
    (a, b) => b.at - a.at,
  );
  const sharp = slope.map((p) => p.slice());
  for (const b of bristles) {
    sharp.forEach((p, c) => cover(p, w, h, b, b.covers, dark(c as Channel)));
    for (let y = 0; y < b.h; y++)
      for (let x = 0; x < b.w; x++)
        if (b.covers[y * b.w + x]! > 0 && b.x0 + x >= 0 && b.x0 + x < w)
          depth[(b.y0 + y) * w + b.x0 + x] = b.at;
  }
  return {
    depth,
    sharp,
    seenAt(focus, channel, withBristles) {
      const out = defocus(slope[channel]!, w, h, (y) => Math.abs(slopeAt(y) - focus) * blur);
      if (withBristles)
        for (const b of bristles)
          cover(
            out,
            w,
            h,
            b,
            defocus(b.covers, b.w, b.h, () => Math.abs(b.at - focus) * blur),
            dark(channel),
          );
      return out;
    },
  };
}

/**
 * A bristle at a depth of its own, nearer than what lies behind it, in a box that its blur does not
 * leave.
 */
function standing(w: number, h: number, blur: number, rnd: () => number): Bristle {
  const foot = rnd() * w;
  const top = Math.floor(h * (0.1 + 0.3 * rnd()));
  const bottom = Math.floor(h * (0.55 + 0.4 * rnd()));
  const lean = (rnd() - 0.5) * 0.35;
  const room = Math.ceil(blur) + 6;
  const tip = foot + (bottom - top) * lean;
  const x0 = Math.floor(Math.min(foot, tip)) - room;
  const y0 = Math.max(0, top - room);
  const box = {
    x0,
    y0,
    w: Math.ceil(Math.max(foot, tip)) + room - x0,
    h: Math.min(h, bottom + room) - y0,
  };
  const covers = new Float32Array(box.w * box.h);
  for (let y = top; y < bottom; y++) {
    const half = 1 + ((y - top) / (bottom - top)) * 2.2;
    const mid = foot + (bottom - y) * lean;
    for (let x = Math.floor(mid - half); x <= mid + half + 1; x++)
      covers[(y - y0) * box.w + x - x0] = clamp(half + 0.5 - Math.abs(x - mid), 0, 1);
  }
  // a little before the slope at its foot
  return { at: Math.max(0, 1 - bottom / h - 0.02), ...box, covers };
}

/** Lays a bristle over a plane. @param covers  how much of each px of its box */
function cover(
  plane: Float32Array,
  w: number,
  h: number,
  { x0, y0, w: bw, h: bh }: Bristle,
  covers: Float32Array,
  light: number,
): void {
  for (let y = 0; y < bh && y0 + y < h; y++)
    for (let x = Math.max(0, -x0); x < bw && x0 + x < w; x++) {
      const i = (y0 + y) * w + x0 + x;
      plane[i]! += (light - plane[i]!) * Math.min(1, covers[y * bw + x]!);
    }
}

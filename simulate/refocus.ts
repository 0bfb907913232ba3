import type { RadianceImage } from "./camera";
import { clamp } from "../core/math/clamp";

/** A scene seen through one point of a lens, that far off its middle to the right and up, mm. */
export interface LensView {
  image: RadianceImage;
  right: number;
  up: number;
}

/**
 * The picture that a lens makes of a scene with one plane in focus, from pictures through points
 * all over it: each is moved by what that plane moves in it, so that the plane lies on itself and
 * all else spreads as the lens blurs it.
 *
 * @param focalPx   px of a view for a slope of 1
 * @param distance  of the plane in focus along the axis, mm
 * @see Isaksen, McMillan, Gortler, "Dynamically reparameterized light fields", SIGGRAPH 2000
 */
export function refocus(
  views: readonly LensView[],
  focalPx: number,
  distance: number,
): RadianceImage {
  const { width: w, height: h } = views[0]!.image;
  const planes = [0, 1, 2].map(() => new Float32Array(w * h)) as unknown as RadianceImage["planes"];
  for (const { image, right, up } of views) {
    const dx = (-focalPx * right) / distance;
    const dy = (focalPx * up) / distance;
    const ix = Math.floor(dx);
    const iy = Math.floor(dy);
    const fx = dx - ix;
    const fy = dy - iy;
    const column = Int32Array.from({ length: w + 1 }, (_, x) => clamp(x + ix, 0, w - 1));
    for (let y = 0; y < h; y++) {
      const a = clamp(y + iy, 0, h - 1) * w;
      const b = clamp(y + iy + 1, 0, h - 1) * w;
      for (let c = 0; c < 3; c++) {
        const p = image.planes[c as 0 | 1 | 2];
        const out = planes[c as 0 | 1 | 2];
        for (let x = 0; x < w; x++) {
          const l = column[x]!;
          const r = column[x + 1]!;
          out[y * w + x]! +=
            ((p[a + l]! * (1 - fx) + p[a + r]! * fx) * (1 - fy) +
              (p[b + l]! * (1 - fx) + p[b + r]! * fx) * fy) /
            views.length;
        }
      }
    }
  }
  return { width: w, height: h, planes };
}

/**
 * Points spread evenly over a lens of this radius (Vogel, "A better way to construct the sunflower
 * head", 1979): right and up of each.
 */
export const lensPoints = (count: number, radius: number): [number, number][] =>
  Array.from({ length: count }, (_, i) => {
    const a = i * 2.399963229728653;
    const q = radius * Math.sqrt((i + 0.5) / count);
    return [q * Math.cos(a), q * Math.sin(a)];
  });

import { decode, encode, fromWorking, SPACES } from "../core/colour/spaces";
import { apply, invert, project, type Matrix3 } from "../core/math/matrix3";
import type { FocusRun } from "./focusRun";
import { clamp } from "../core/math/clamp";

/**
 * A piece of a bristle's edge: the row it begins in, and of each of its rows the px beside the
 * edge, outwards.
 */
export interface HaloPlace {
  y: number;
  edges: number[];
  side: 1 | -1;
}

/**
 * Rows of a place; px off an edge that are looked at, as many more whose own edges would blur into
 * those, and those that belong to the edge itself; share of the contrast that is seen as a halo.
 */
const ROWS = 24;
const REACH = 9;
const BEYOND = 4;
const EDGE = 2;
const SEEN = 0.05;
/** Light between ground and bristle below which nobody sees a halo. */
const CONTRAST = 0.08;
/** Border of the picture that not all frames cover, as a share of it. */
const BORDER = 1 / 12;

/** Share by which a ground's code values may change over that, to tell of halos. */
const EVEN = 0.12;

/** The places of all bristles beside which there is nothing but even ground. */
export function haloPlaces({ width: w, height: h, depth, sharp }: FocusRun): HaloPlace[] {
  const bristle = (x: number, y: number): boolean =>
    Math.abs(depth[y * w + x]! - (1 - y / (h - 1))) > 1e-6;
  const out: HaloPlace[] = [];
  const x0 = Math.floor(w * BORDER);
  const y0 = Math.floor(h * BORDER);
  for (let top = y0; top + ROWS <= h - y0; top += ROWS)
    for (const side of [1, -1] as const)
      for (let x = x0; x < w - x0; x++) {
        if (!bristle(x, top) || bristle(x + side, top)) continue;
        const edges = [x];
        for (let y = top + 1; y < top + ROWS; y++) {
          let e = edges.at(-1)!;
          while (bristle(e + side, y) && Math.abs(e - x) < ROWS) e += side;
          while (!bristle(e, y) && Math.abs(e - x) < ROWS) e -= side;
          edges.push(e);
        }
        const alone = edges.every(
          (e, k) =>
            Math.abs(e - x) < ROWS &&
            Array.from({ length: REACH + BEYOND }, (_, d) => e + side * (d + 1)).every(
              (u) => u >= x0 && u < w - x0 && !bristle(u, top + k),
            ),
        );
        const ground = Array.from({ length: REACH + BEYOND }, (_, d) =>
          edges.reduce((s, e, k) => s + sharp[((top + k) * w + e + side * (d + 1)) * 3 + 1]!, 0),
        );
        const most = Math.max(...ground);
        if (alone && most - Math.min(...ground) < EVEN * most) out.push({ y: top, edges, side });
      }
  return out;
}

/**
 * Holds a merged run against its scene: PSNR of sRGB codes over what all frames cover, and beside
 * how many places the ground's light, in the mean over the place, is off by more than 5 % of the
 * contrast beyond the first two px. That is a halo, or ground less sharp than it might be, as
 * before a bristle that stands far off it no frame shows it sharp and clear of the bristle's blur:
 * a halo is light which the ground itself has at no focus at all. Where frames flicker, a picture
 * is as bright as the frame it is warped onto: one factor on all its light is no error.
 *
 * @param merged  planes of light in the working space
 * @param ground  the ground's green light at each frame's focus, to tell halos
 */
export function scoreFocus(
  { width: w, height: h, sharp }: FocusRun,
  [R, G, B]: readonly Float32Array[],
  places: readonly HaloPlace[],
  ground: readonly Float32Array[] = [],
): {
  db: number;
  /** places that are off; and those of them with a halo */
  wide: number;
  halos: number;
} {
  const { curve } = SPACES.srgb;
  const light = Float32Array.from({ length: 256 }, (_, code) => decode(curve, code / 255));
  const toScreen = fromWorking("srgb");
  const planes = [0, 1, 2].map(() => new Float32Array(w * h));
  for (let i = 0; i < w * h; i++)
    apply(toScreen, [R![i]!, G![i]!, B![i]!]).forEach((v, c) => {
      planes[c]![i] = clamp(v, 0, 1);
    });
  const truth = (i: number, c = 1): number => light[sharp[i * 3 + c]!]!;
  const everywhere = (see: (i: number, c: number) => void): void => {
    for (let c = 0; c < 3; c++)
      for (let y = Math.floor(h * BORDER); y < h * (1 - BORDER); y++)
        for (let x = Math.floor(w * BORDER); x < w * (1 - BORDER); x++) see(y * w + x, c);
  };
  let both = 0;
  let own = 0;
  let sum = 0;
  let n = 0;
  everywhere((i, c) => {
    const v = planes[c]![i]!;
    both += v * truth(i, c);
    own += v * v;
  });
  const found = (i: number, c = 1): number => (planes[c]![i]! * both) / own;
  everywhere((i, c) => {
    sum += (255 * encode(curve, found(i, c)) - sharp[i * 3 + c]!) ** 2;
    n++;
  });
  const seen = places.map(({ y, edges, side }) => {
    const mean = (light: (i: number) => number, d: number): number =>
      edges.reduce((s, e, k) => s + light((y + k) * w + e + side * d), 0) / ROWS;
    // a thin bristle is darkest in its middle
    const contrast = Math.abs(
      mean(truth, REACH - 1) -
        edges.reduce(
          (s, e, k) => s + Math.min(...[0, 1, 2].map((d) => truth((y + k) * w + e - side * d))),
          0,
        ) /
          ROWS,
    );
    // the px beyond the first two
    const beyond = Array.from({ length: REACH - EDGE }, (_, d) => EDGE + 1 + d);
    const over = (off: (d: number) => number): boolean =>
      contrast > CONTRAST && beyond.some((d) => off(d) > SEEN * contrast);
    // how far the light found is from all that the place may have
    const apart = (d: number, others: readonly Float32Array[]): number => {
      const light = mean(found, d);
      const own = [mean(truth, d), ...others.map((p) => mean((i) => p[i]!, d))];
      return Math.max(light - Math.max(...own), Math.min(...own) - light);
    };
    return { off: over((d) => apart(d, [])), halo: over((d) => apart(d, ground)) };
  });
  return {
    db: 10 * Math.log10((255 ** 2 * n) / sum),
    wide: seen.filter((p) => p.off).length,
    halos: seen.filter((p) => p.halo).length,
  };
}

/**
 * Px by which a frame of a run was warped beside where it lies, in the mean over the picture.
 *
 * @param fromReference  the reference's px to the frame's, as it was found
 * @param pose, reference  the simulated poses of both
 */
export function offPose(
  { width, height }: Pick<FocusRun, "width" | "height">,
  fromReference: Matrix3,
  pose: Matrix3,
  reference: Matrix3,
): number {
  const home = invert(pose);
  let sum = 0;
  let n = 0;
  for (let v = 0.5; v < PARTS; v++)
    for (let u = 0.5; u < PARTS; u++, n++) {
      const [x, y] = [(u / PARTS) * width, (v / PARTS) * height];
      const there = project(home, ...project(reference, x, y));
      const found = project(fromReference, x, y);
      sum += (there[0] - found[0]) ** 2 + (there[1] - found[1]) ** 2;
    }
  return Math.sqrt(sum / n);
}
const PARTS = 6;

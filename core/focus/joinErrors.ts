import { project, type Matrix3 } from "../math/matrix3";
import { joinLinks, type RunLink } from "./joinLinks";

/**
 * Px of the reduced frame by which all links of a run err together, since blur moves edges in each
 * of them.
 */
const COMMON_PX = 0.05;
/** Kinds of links share frames and so err alike in part: measured on simulated runs. */
const CORRELATED_LINKS_FACTOR = 2;

/**
 * How far each frame of a run may lie from the truth, by links that its way did not use: the run is
 * joined again without the links there, without those back, and without those over a frame, and
 * what the ways differ by tells the error (the jackknife over kinds of links). It grows with the
 * steps from the reference, as errors do along a chain.
 *
 * @param joined  the ways that all links agree with
 * @returns of each place, RMS over the frame in px of the reduced frame; undefined where only the
 *   chain holds the frame
 */
export function joinErrors(
  joined: readonly Matrix3[],
  ways: readonly Matrix3[],
  middle: number,
  links: readonly RunLink[],
  size: { width: number; height: number },
): (number | undefined)[] {
  const kinds = [
    (l: RunLink) => l.to - l.from === 1,
    (l: RunLink) => l.from - l.to === 1,
    (l: RunLink) => Math.abs(l.to - l.from) > 1,
  ];
  const without = kinds
    .map((kind) => links.filter((l) => !kind(l)))
    .filter((rest) => rest.length > 0 && rest.length < links.length);
  if (without.length < 2) return joined.map((_, k) => (k === middle ? 0 : undefined));
  const others = without.map((rest) => joinLinks(ways, middle, rest, size));
  const linked = new Set(links.flatMap((l) => [l.from, l.to]));
  return joined.map((way, k) => {
    if (k === middle) return 0;
    if (!linked.has(k)) return undefined;
    const variance =
      others.reduce((sum, all) => sum + meanSquare(way, all[k]!, size), 0) *
      ((others.length - 1) / others.length);
    return Math.hypot(CORRELATED_LINKS_FACTOR * Math.sqrt(variance), COMMON_PX);
  });
}

/** Mean over the frame of the square of what lies between two ways, px. */
function meanSquare(
  one: Matrix3,
  other: Matrix3,
  { width, height }: { width: number; height: number },
): number {
  let sum = 0;
  let n = 0;
  for (let v = 0; v <= 4; v++)
    for (let u = 0; u <= 4; u++, n++) {
      const [x, y] = project(one, (u * width) / 4, (v * height) / 4);
      const [p, q] = project(other, (u * width) / 4, (v * height) / 4);
      sum += (x - p) ** 2 + (y - q) ** 2;
    }
  return sum / n;
}

import { seen, shownBy, type Camera } from "../camera";
import { colourReader, type SmallFrame } from "./smallFrame";
import { median } from "../../math/median";

/** A frame that shows nothing but what another shows, too. */
export interface Duplicate {
  frame: number;
  of: number;
}

/** Frames whose places differ by less than this share of their shorter side are looked at. */
const SAME_PLACE_SHARE = 0.03;
/**
 * Side of the blocks that are compared, px of a small frame; by how much the logarithm of their light may
 * differ where nothing moved, the more the more contrast there is in them (a px of a small frame is not
 * where it is to a part of itself); and in what share of them it may differ more.
 */
const BLOCK = 6;
const MAX_DIFFERENCE = 0.06;
const CONTRAST_SLACK = 0.2;
const MAX_ODD_SHARE = 0.005;
/**
 * The most by which two exposures of one setting differ, as a logarithm: 0.15 EV. What was
 * bracketed is wanted for its light.
 */
const ONE_EXPOSURE = 0.105;
/** Lost to light, and what was so in no exposure of one setting. */
const CLIPPED_LIGHT = 0.97;
const UNCLIPPED_LIGHT = 0.7;
/** Least share of the blocks that has to tell something. */
const MIN_TELLING_SHARE = 0.2;
/**
 * A later frame takes an earlier one's place if it has so much more detail: the first was shaken.
 */
const SHARPER_FACTOR = 1.3;

/** Whether two cameras show the same part of the scene, to a hand's width. */
function together(a: Camera, b: Camera): boolean {
  // one taken from beside shows the floor from there
  if (Boolean(a.offset) !== Boolean(b.offset)) return false;
  const { width: w, height: h } = a;
  const most = SAME_PLACE_SHARE * Math.min(w, h);
  return [
    [0.5, 0.5],
    [0.1, 0.1],
    [0.9, 0.1],
    [0.1, 0.9],
    [0.9, 0.9],
  ].every(([u, v]) => {
    const p = seen(b, shownBy(a, u! * w, v! * h));
    return (
      p !== undefined && Math.hypot((p[0] / b.width - u!) * w, (p[1] / b.height - v!) * h) < most
    );
  });
}

/**
 * Whether all that two frames show of the same directions is the same: equally exposed, and nothing
 * moved.
 */
function alike(a: Camera, b: Camera, small: readonly [SmallFrame, SmallFrame]): boolean {
  const colourAt = colourReader(small);
  const { width, height, scale } = small[0];
  const differences: { by: number; may: number }[] = [];
  let blocks = 0;
  let odd = 0;
  for (let y = 0; y + BLOCK <= height; y += BLOCK)
    for (let x = 0; x + BLOCK <= width; x += BLOCK) {
      let own = 0;
      let other = 0;
      let clipped = 0;
      let covered = 0;
      let n = 0;
      let least = Infinity;
      let most = 0;
      for (let j = 0; j < BLOCK; j++)
        for (let i = 0; i < BLOCK; i++) {
          const at = [(x + i + 0.5) * scale, (y + j + 0.5) * scale] as const;
          const there = seen(b, shownBy(a, ...at));
          if (!there || there[0] < 0 || there[1] < 0 || there[0] >= b.width || there[1] >= b.height)
            continue;
          const p = colourAt(0, ...at);
          const q = colourAt(1, ...there);
          const [lighter, darker] = [Math.max(...p), Math.max(...q)].sort((s, t) => t - s) as [
            number,
            number,
          ];
          if (lighter > CLIPPED_LIGHT) {
            clipped++;
            if (darker < UNCLIPPED_LIGHT) covered++;
            continue;
          }
          own += p[1];
          other += q[1];
          n++;
          least = Math.min(least, p[1], q[1]);
          most = Math.max(most, p[1], q[1]);
        }
      if (n + clipped === 0) continue;
      blocks++;
      if (covered * 2 > n + clipped) odd++;
      // a dark block says nothing, and one that is lost to light in part as little
      if (!clipped && Math.max(own, other) > 0.004 * n)
        differences.push({
          by: Math.log(Math.max(1e-5, own) / Math.max(1e-5, other)),
          may: MAX_DIFFERENCE + (CONTRAST_SLACK * (most - least) * n) / Math.max(own, other),
        });
    }
  if (differences.length < MIN_TELLING_SHARE * blocks) return false;
  const middle = median(differences.map((d) => d.by));
  for (const { by, may } of differences) if (Math.abs(by - middle) > may) odd++;
  return Math.abs(middle) < ONE_EXPOSURE && odd <= MAX_ODD_SHARE * differences.length;
}

/**
 * Frames that were taken twice: from the same direction, equally exposed, and showing the same. The
 * sharpest of them stays. What differs anywhere, because something moved or was covered, may be
 * wanted, and is none.
 *
 * @param detail  of each frame as it was read, by `fineDetail`
 * @param kept    frames that stay whatever they show
 */
export function findDuplicates(
  cameras: readonly (Camera | undefined)[],
  small: readonly SmallFrame[],
  detail: readonly number[],
  kept: readonly boolean[],
): Duplicate[] {
  const of = new Map<number, number>();
  cameras.forEach((a, i) => {
    if (!a) return;
    for (let j = 0; j < i; j++) {
      const b = cameras[j];
      if (!b || of.has(j) || !together(a, b) || !alike(a, b, [small[i]!, small[j]!])) continue;
      const [frame, stays] =
        (detail[i]! > SHARPER_FACTOR * detail[j]! && !kept[j]) || (kept[i] && !kept[j])
          ? [j, i]
          : [i, j];
      if (kept[frame]) continue;
      of.set(frame, stays);
      for (const [f, s] of of) if (s === frame) of.set(f, stays);
      if (frame === i) return;
    }
  });
  return [...of].map(([frame, stays]) => ({ frame, of: stays })).sort((p, q) => p.frame - q.frame);
}

/**
 * How much of a frame changes from one px to the next: mean second difference of its log luminance,
 * by every fourth row and column.
 */
export function fineDetail(log: Float32Array, width: number, height: number): number {
  let sum = 0;
  let n = 0;
  for (let y = 4; y < height - 1; y += 4)
    for (let x = 4, k = y * width + 4; x < width - 1; x += 4, k += 4, n++)
      sum +=
        Math.abs(2 * log[k]! - log[k - 1]! - log[k + 1]!) +
        Math.abs(2 * log[k]! - log[k - width]! - log[k + width]!);
  return n ? sum / n : 0;
}

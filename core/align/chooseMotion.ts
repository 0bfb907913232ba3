import type { Heap } from "../../kernels/heap";
import type { Template } from "./template";
import type { LogPyramid } from "./logPyramid";
import type { AlignOptions } from "./alignedFrame";
import { registerPair, agreement, type Registration } from "./registerPair";
import { project, longestMove, IDENTITY } from "../math/matrix3";
import { clamp } from "../math/clamp";
import { matchedMotion } from "./matchedMotion";

/** Share of the picture in common from which on more than a shift is held by it. */
export const MIN_OVERLAP_FOR_ROTATION = 0.03;

/**
 * How steeply what is left has to fall, against noise, for each thousandth of the frame by which a
 * homography differs from a similarity: about what a picture of usual texture does.
 */
const BEND_COSTS = 0.12;

/**
 * The motion that explains most: as registered, or with one more degree of freedom where that gains
 * enough, or by matched corners where the search may have missed a motion beyond its reach.
 */
export function choose(
  heap: Heap,
  template: Template,
  image: LogPyramid,
  motion: AlignOptions["motion"],
  steady: boolean,
) {
  if (motion !== "auto") return registerPair(heap, template, image, motion);
  const similar = byCorners(
    heap,
    template,
    image,
    likelier(heap, template, image, registerPair(heap, template, image, "similarity"), steady),
  );
  // little in common holds a shift, but no scale
  if (similar.overlap < MIN_OVERLAP_FOR_ROTATION)
    return registerPair(heap, template, image, "shift");
  // the richer model has to earn its four parameters
  const bent = registerPair(heap, template, image, "homography", similar.transform);
  const t = template.levels[0]!;
  const apart = Math.max(
    ...[
      [0, 0],
      [t.w, 0],
      [0, t.h],
      [t.w, t.h],
    ].map(([x, y]) => {
      const [a, b] = project(similar.transform, x!, y!);
      const [c, d] = project(bent.transform, x!, y!);
      return Math.hypot(a - c, b - d);
    }),
  );
  // and it may earn them only from what agrees: what bends far without fitting far better bends
  // after what moves
  const wanted = clamp(
    1 / Math.hypot(1, (BEND_COSTS * 1000 * apart) / Math.max(t.w, t.h)),
    0.5,
    0.985,
  );
  return bent.residualEv < similar.residualEv * wanted &&
    apart > 0.15 &&
    agreement(heap, template, image, bent) > 1.01 * agreement(heap, template, image, similar)
    ? bent
    : similar;
}

/**
 * The motion found, or none or the one next to none, whichever more of the picture agrees with: a
 * large thing that moves evenly, as cloud does, may draw the search after it, and a tripod's frames
 * may not be moved for it.
 *
 * @param steady  the camera stood still in most of the frames so far: it takes more to believe that
 *   it moved in this one
 */
function likelier(
  heap: Heap,
  template: Template,
  image: LogPyramid,
  found: Registration,
  steady: boolean,
): Registration {
  const t = template.levels[0]!;
  const own = agreement(heap, template, image, found);
  const moved = longestMove(found.transform, t.w, t.h);
  // far most of the picture agrees, and it is not about a hair's breadth: nothing is left to ask
  if (own > 0.7 && moved > 3 && !steady) return found;
  const still = registerPair(heap, template, image, "none", IDENTITY);
  const unmoved = agreement(heap, template, image, still);
  const near = moved > 1 ? registerPair(heap, template, image, "similarity", IDENTITY) : found;
  const nearby = moved > 1 ? agreement(heap, template, image, near) : own;
  // nothing is moved without a gain that can be known
  if (unmoved > (steady ? TRIPOD_AGREEMENT_SHARE : 0.99) * Math.max(own, nearby)) return still;
  if (!(Math.max(nearby, unmoved) > 1.02 * own)) return found;
  return nearby > unmoved ? near : still;
}

/** Agreement below which the search may have missed a motion larger than its reach. */
const DOUBTFUL_AGREEMENT = 0.5;

/**
 * The motion found, or the one that matched corners tell of if far more of the picture agrees with
 * it.
 */
function byCorners(
  heap: Heap,
  template: Template,
  image: LogPyramid,
  found: Registration,
): Registration {
  const own = agreement(heap, template, image, found);
  const start = own < DOUBTFUL_AGREEMENT ? matchedMotion(heap, template, image) : undefined;
  if (!start) return found;
  const matched = registerPair(heap, template, image, "similarity", start);
  return agreement(heap, template, image, matched) > 1.2 * own ? matched : found;
}

/**
 * Share of the agreement of a motion that none at all needs, to be taken for a tripod's frame in
 * which something moved.
 */
const TRIPOD_AGREEMENT_SHARE = 0.4;

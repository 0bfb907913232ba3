import type { Heap } from "../../kernels/heap";
import { type ReducedFrame, logPyramid, type LogPyramid, reduceLevels } from "./logPyramid";
import type { AlignOptions, AlignedFrame, GhostMap } from "./alignedFrame";
import { relativeExposures } from "./relativeExposures";
import { type Template, templateOf } from "./template";
import { withConfidences, wholeThings, majority, evenlyLit, stillOffset } from "./standing";
import { IDENTITY, longestMove, multiply, invert, rescale } from "../math/matrix3";
import type { MotionModel } from "./motionModels";
import { type Registration, inUnevenLight, registerPair } from "./registerPair";
import { heldOutError } from "./heldOutError";
import { findGhosts } from "../bracket/findGhosts";
import { choose, MIN_OVERLAP_FOR_ROTATION } from "./chooseMotion";
import { clamp } from "../math/clamp";

/**
 * Px of the reduced frames by which a frame may still be misregistered, on a tripod and hand-held.
 */
const TRIPOD_SLACK = 0.2;
const HAND_SLACK = 0.3;

/** Share of a step in code values by which a JPEG errs beside it. */
const RINGING = 0.02;

/**
 * Share of the picture that has to disagree before another motion is looked for in it; by how many
 * of its 64 parts that has to fit better.
 */
const WORTH_ASKING = 0.01;
const CLEAR_GAIN_SIGMA = 8;

/**
 * Aligns the exposures of a bracket to its reference frame, and finds what moved between them.
 *
 * Frames are taken outwards from the reference by exposure. Each is registered to the merge of all
 * before it, in the reference's own geometry: so every pair shares the widest possible range of
 * well exposed tones and no error adds up along a chain.
 *
 * @param frames  reduced frames of one size; `evs` their exposures as far as known
 */
export function alignStack(
  heap: Heap,
  frames: readonly ReducedFrame[],
  evs: readonly (number | undefined)[],
  options: AlignOptions,
): AlignedFrame[] {
  const { reference, scale } = options;
  const outer = heap.mark();
  const ref = frames[reference]!;
  const w = ref.width;
  const h = ref.height;
  const known = relativeExposures(heap, frames, evs, reference);
  const first = logPyramid(heap, ref, 0);
  const merged = first.levels[0]!;
  const templateWithout = (
    level: LogPyramid["levels"][number],
    confidences?: Uint8Array,
  ): Template =>
    templateOf(
      heap,
      reduceLevels(heap, confidences ? withConfidences(heap, level, confidences) : level),
      ref.block,
    );
  let template = templateOf(heap, first, ref.block);
  let grown = false;
  // confidences on where the camera moved, 0 where things did
  let asked: Uint8Array | undefined;
  const out: AlignedFrame[] = frames.map(() => ({
    fromReference: [...IDENTITY],
    ev: 0,
    residualPx: 0,
    used: true,
    movedPx: 0,
  }));
  const order = frames
    .map((_, i) => i)
    .filter((i) => i !== reference)
    .sort((a, b) => Math.abs(known[a]!) - Math.abs(known[b]!) || known[b]! - known[a]! || a - b);
  const modelOf = ([, , , , , , p, q]: readonly number[]): MotionModel => {
    if (options.motion !== "auto") return options.motion;
    if (p || q) return "homography";
    return "similarity";
  };
  // how many were found not to have moved, less those that had
  let steadiness = 0;
  const errorOf = (
    standing: Uint8Array | undefined,
    {
      found,
      transform,
      still,
      moved,
    }: { found: Registration; transform: number[]; still: boolean; moved: number },
    image: LogPyramid,
  ): number | undefined => {
    const mark = heap.mark();
    const among = standing ? templateWithout(template.levels[0]!, standing) : template;
    const error = heldOutError(heap, among, image, modelOf(transform), transform, found.offset);
    heap.release(mark);
    // a frame that is taken not to have moved may have moved by what was found
    return error === undefined ? undefined : Math.hypot(error * scale, still ? moved / 2 : 0);
  };
  const base = heap.mark();
  for (const i of order) {
    heap.release(base);
    if (grown) template = templateWithout(merged, asked);
    const image = logPyramid(heap, frames[i]!, known[i]!);
    const placed = (found: Registration) => {
      const moved = longestMove(found.transform, w, h) * scale;
      const weak = found.overlap < 0.004;
      // below this, resampling costs more sharpness than it gains
      const still = moved < 0.2 || weak;
      const transform = still ? [...IDENTITY] : found.transform;
      const differing = findGhosts(
        heap,
        merged,
        image.levels[0]!,
        transform,
        found.offset,
        known[i]!,
        still ? TRIPOD_SLACK : HAND_SLACK,
        scale > 1,
        ref.block ? RINGING / scale : 0,
        options.strength,
      );
      return {
        found,
        moved,
        weak,
        still,
        transform,
        differing,
        things: differing.ghosts && wholeThings(heap, differing.ghosts),
      };
    };
    const model = options.motion;
    const find = (among: Template): Registration =>
      choose(heap, among, image, model, steadiness > 0);
    let at = placed(find(template));
    // what does not fit may be the scene, and what fits a large thing that moves evenly, as cloud
    // does
    const apart = model === "none" ? undefined : at.differing.ghosts;
    if (apart && apart.share > WORTH_ASKING) {
      const mark = heap.mark();
      const other = find(
        templateWithout(
          template.levels[0]!,
          apart.confidences.map((v) => 255 - v),
        ),
      );
      heap.release(mark);
      if (majority(heap, template, image, other, at.found) > CLEAR_GAIN_SIGMA) at = placed(other);
    }
    // soft changes of light, as of a cloud, differ by less than noise and pull all the same: what
    // they cover has no say in this frame's motion nor in the next ones'
    const even =
      at.weak || model === "none"
        ? undefined
        : evenlyLit(
            inUnevenLight(heap, template, image, modelOf(at.found.transform), at.found).light,
            w,
            h,
          );
    if (even) {
      const mark = heap.mark();
      const lit = templateWithout(template.levels[0]!, even);
      const again = find(lit);
      const transform = inUnevenLight(heap, lit, image, modelOf(again.transform), again).transform;
      heap.release(mark);
      if (again.overlap > 0.004) at = placed({ ...again, transform });
    }
    // what was seen to move has no say in the last hundredths of a pixel
    if (at.things && !at.still && at.found.overlap > MIN_OVERLAP_FOR_ROTATION) {
      const mark = heap.mark();
      const standingOnly = templateWithout(template.levels[0]!, fewest(even, at.things));
      const by = modelOf(at.found.transform);
      const last = registerPair(heap, standingOnly, image, by, at.found.transform);
      const transform = even
        ? inUnevenLight(heap, standingOnly, image, by, last).transform
        : last.transform;
      heap.release(mark);
      // so little changes nothing of what was seen to move
      const found = { ...at.found, transform };
      const little =
        longestMove(multiply(invert(at.found.transform), transform), w, h) < TRIPOD_SLACK / 2;
      if (last.overlap > 0.5 * at.found.overlap)
        at = little
          ? { ...at, found, transform, moved: longestMove(transform, w, h) * scale }
          : placed(found);
    }
    const resting = even ? fewest(at.things, even) : at.things;
    let residualPx: number | undefined;
    if (model === "none") residualPx = 0;
    else if (at.weak) residualPx = undefined;
    else residualPx = errorOf(resting, at, image);
    // a motion of which nobody can say how exact it is counts for none at all
    if (residualPx === undefined && !at.weak)
      at = placed({ ...at.found, transform: [...IDENTITY], overlap: 0 });
    const { moved, weak, still, transform, things } = at;
    const standing = even ? fewest(things, even) : things;
    const found =
      weak || !standing
        ? at.found
        : {
            ...at.found,
            offset: stillOffset(
              heap,
              merged,
              image.levels[0]!,
              { transform, offset: at.found.offset },
              standing,
            ),
          };
    // what was held in a hand that moved lies somewhere else, even if nothing tells where
    const lost = weak && model !== "none" && out.some((o) => o.movedPx > 1);
    const misfit = lost || (!weak && found.residualEv > 0.45);
    const failed = misfit && !options.forced.includes(i);
    out[i] = {
      fromReference: rescale(transform, scale),
      ev: known[i]! - (weak ? 0 : clamp(found.offset, -0.35, 0.35)),
      ...(residualPx === undefined ? {} : { residualPx }),
      used: !failed,
      movedPx: still ? 0 : moved,
      ...warningOf({ lost, misfit, weak, failed }),
    };
    if (failed) continue;
    if (!weak) steadiness += still ? 1 : -1;
    const { ghosts, differs } = at.differing;
    const confidences = options.deghost ? ghosts : undefined;
    const mapped = ({ step, ...m }: typeof differs, share: number): GhostMap => ({
      ...m,
      share,
      scale: scale * step,
    });
    if (confidences) out[i]!.ghosts = mapped(confidences, confidences.share);
    out[i]!.differs = mapped(differs, 0);
    if (standing) asked = fewest(asked, standing);
    const own = image.levels[0]!;
    const mark = heap.mark();
    heap.k.foldLog(
      merged.log,
      merged.confidence,
      own.log,
      own.confidence,
      w,
      h,
      heap.put(transform, "f64"),
      weak ? 0 : found.offset,
      confidences ? heap.putBytes(confidences.confidences) : 0,
      confidences?.width ?? 1,
      confidences?.height ?? 1,
      confidences?.step ?? 1,
    );
    heap.release(mark);
    grown = true;
  }
  heap.release(outer);
  return out;
}

function fewest(confidences: Uint8Array | undefined, others: Uint8Array): Uint8Array {
  return confidences ? confidences.map((v, k) => Math.min(v, others[k]!)) : others;
}

/** What is said of a frame whose motion is in doubt. */
function warningOf(doubt: { lost: boolean; misfit: boolean; weak: boolean; failed: boolean }): {
  warning?: string;
} {
  const { lost, misfit, weak, failed } = doubt;
  const little = "too little in common with the other exposures to measure its motion";
  if (lost && failed) return { warning: `has ${little}, and they moved; it was left out` };
  if (lost) return { warning: `has ${little}; it was used as it lies because you asked for it` };
  if (misfit && failed) return { warning: "does not fit the other frames; it was left out" };
  if (misfit)
    return { warning: "does not fit the other frames; it was used because you asked for it" };
  return weak ? { warning: `${little}; taken as it lies` } : {};
}

import type { AlignedFrame } from "../../../../core/align/alignedFrame";
import { project } from "../../../../core/math/matrix3";
import { plainNumber } from "../../../ui/format";

/** Px by which a tripod's frames may seem shifted or turned at the corners. */
const TRIPOD_PX = 1;

/**
 * How a stack's frames moved, in a few words: not at all, in a hand, or only grown, as a lens that
 * breathes draws a focus travel on a tripod.
 */
export function motionSaid(
  frames: readonly Pick<AlignedFrame, "fromReference" | "movedPx">[],
  { width, height }: { width: number; height: number },
): { by: "Tripod" | "Hand-held"; how: string } {
  const moved = Math.max(0, ...frames.map((f) => f.movedPx));
  if (moved === 0) return { by: "Tripod", how: "nothing moved" };
  const seen = frames.map(({ fromReference: m }) => {
    const [x, y] = project(m, width / 2, height / 2);
    return {
      shift: Math.hypot(x - width / 2, y - height / 2),
      roll: (Math.abs(Math.atan2(m[3]!, m[0]!)) * Math.hypot(width, height)) / 2,
      growth: Math.abs(Math.hypot(m[0]!, m[3]!) - 1),
    };
  });
  if (seen.every(({ shift, roll }) => shift + roll < TRIPOD_PX))
    return {
      by: "Tripod",
      how: `grown by up to ${plainNumber(100 * Math.max(...seen.map((s) => s.growth)), 1)} %`,
    };
  return { by: "Hand-held", how: `moved up to ${plainNumber(moved)} px` };
}

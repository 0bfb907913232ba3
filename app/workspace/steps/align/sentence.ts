import { shownAgain, type Aligned } from "../../../../pipeline/align/step";
import type { OneViewRecipe } from "../../../../pipeline/recipe/recipe";
import { plainNumber } from "../../../ui/format";
import { motionSaid } from "./motionSaid";

interface Said {
  recipe: OneViewRecipe;
  aligned: Aligned | undefined;
  /** the merge is there */
  ready: boolean;
}

/** What the stem says of the alignment; `used` frames take part, `size` is theirs. */
export function alignSentence(
  { recipe, aligned, ready }: Said,
  {
    used,
    failed,
    size,
  }: { used: number; failed: string[]; size: { width: number; height: number } },
): string {
  if (!ready) return "Waits for the frames";
  if (failed.length) return failed.join("; ");
  if (recipe.align.motion === "none") return "Taken as they lie";
  const frames = aligned?.frames.filter((f) => f.used) ?? [];
  const motion = motionSaid(frames, size);
  const moved = frames.some((f) => f.movedPx > 0);
  const worst = Math.max(0, ...frames.map((f) => f.residualPx ?? 0));
  const unknown = frames.filter((f) => f.residualPx === undefined).length;
  const again = shownAgain(aligned).size;
  return [
    `${motion.by}, ${frames.length} of ${used}, ${motion.how}`,
    moved ? `, ${plainNumber(worst, 2)} px` : "",
    unknown ? `, of ${unknown} not known how exactly` : "",
    again ? `; ${again} that show the same focus again left out` : "",
  ].join("");
}

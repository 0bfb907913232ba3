import { shownAgain } from "../../pipeline/align/step";
import type { Aligned } from "../../pipeline/align/step";
import type { Recipe } from "../../pipeline/recipe/recipe";
import { counted, plainNumber } from "../ui/format";
import { motionSaid } from "./motionSaid";

interface Said {
  recipe: Recipe;
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

/** What the stem says of what moved, and of the areas that are assigned to a frame. */
export function ghostSentence({ recipe, aligned, ready }: Said): string {
  const patches = recipe.ghosts.patches.filter((p) => p.on).length;
  if (recipe.kind === "focus")
    return patches
      ? `${counted(patches, "part")} assigned to a frame manually`
      : "Nothing assigned manually";
  const frames = aligned?.frames.filter((f) => f.used) ?? [];
  const ghosts = frames.filter((f) => f.ghosts).length;
  if (patches) {
    const moved = ghosts ? `Moved in ${ghosts} of ${frames.length} frames, ` : "";
    return `${moved}${patches} ghost ${patches === 1 ? "patch" : "patches"}`;
  }
  if (recipe.merge.deghost === "off") return "Not looked for";
  if (!ready) return "Waits for the merge";
  if (!ghosts) return "Nothing moved";
  const share = Math.max(0, ...frames.map((f) => f.ghosts?.share ?? 0));
  return `Something moved in ${ghosts} of ${frames.length} frames, ${plainNumber(share * 100)} % of the picture`;
}

import type { Aligned } from "../../../../pipeline/align/step";
import type { OneViewRecipe } from "../../../../pipeline/recipe/recipe";
import { counted, plainNumber } from "../../../ui/format";

interface Said {
  recipe: OneViewRecipe;
  aligned: Aligned | undefined;
  /** the merge is there */
  ready: boolean;
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
